// One [material.NAME] table of a part file or a library.
#include "library.hpp"

#include "../base/csv.hpp"

#include <bordado/inclusions.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <stdexcept>

namespace bordado::material {

namespace {

class TableReader {
 public:
  TableReader(Table& table, const std::string& name, const FindMaterial& find) : table_(table), find_(find) {
    out_.name = name;
    out_.where = table.place();
  }

  std::optional<Material> read() {
    const std::string name = out_.name;
    if (table_.node("from")) {
      const auto from = table_.text("from");
      const auto found = from ? find_(*from) : std::nullopt;
      if (!found) {
        table_.pass_over();
        return std::nullopt;
      }
      out_ = *found;
      if (out_.note.empty()) out_.note = fmt::format("from {} of {}", found->name, found->where.file);
      out_.name = name;
      out_.mark.clear();
      out_.where = table_.place();
      inherited_ = true;
    }
    if (!inherited_ || table_.has("kind")) read_kind();
    read_words();
    read_numbers();
    read_cost();
    read_sheared();
    read_what_it_is();
    read_yarns();
    return failed_ ? std::nullopt : std::optional(std::move(out_));
  }

 private:
  void read_kind() {
    std::vector<std::string_view> names;
    for (const Kind kind : kinds) names.push_back(name_of(kind));
    if (const auto kind = table_.choice("kind", names))
      out_.kind = kinds[*kind];
    else
      failed_ = true;
  }

  void read_words() {
    const auto word = [&](std::string_view key, std::string& into) {
      if (table_.node(key))
        if (auto text = table_.text(key)) into = std::move(text->value);
    };
    word("mark", out_.mark);
    word("weave", out_.form.weave);
    word("note", out_.note);
    word("made-of", out_.made_of);
    if (!std::all_of(out_.mark.begin(), out_.mark.end(), [](unsigned char c) { return std::isalpha(c); }))
      table_.error("part.value", fmt::format("{}: mark '{}' should be letters only", table_.name(), out_.mark),
                   table_.place("mark"));
  }

  static bool is_elastic(std::string_view key) { return key[0] == 'E' || key[0] == 'G' || key.starts_with("nu"); }

  /// Every single number but the elastic constants.
  void read_numbers() {
    for (const Quantity& q : quantities()) {
      if (is_elastic(q.key) || !table_.node(q.key)) continue;
      const bool any_sign = q.key.starts_with("alpha") || q.key.starts_with("beta") || q.key == "tsai-wu-F12" ||
                            q.dimension == Dimension::temperature;
      const auto value = any_sign ? table_.number(q.key, q.dimension) : table_.positive(q.key, q.dimension);
      if (value) q.set(out_, *value);
    }
    if (const auto F12 = out_.interaction.F12; F12 && !(std::abs(*F12) < 1.0)) {
      table_.error("part.value", fmt::format("{}: tsai-wu-F12 = {:g} should lie between -1 and 1", table_.name(), *F12),
                   table_.place("tsai-wu-F12"), "otherwise the surface is open; -0.5 is usual");
      failed_ = true;
    }
    check_puck();
    if (const auto rest = out_.form.rest_angle; rest && !(*rest >= 10.0 && *rest <= 170.0)) {
      table_.error("part.value",
                   fmt::format("{}: rest-angle = {:g} should lie between 10 and 170 degrees", table_.name(), *rest),
                   table_.place("rest-angle"), "90 is that of a woven cloth");
      failed_ = true;
    }
    for (const auto& [key, into, dimension] : {std::tuple{"alpha", &out_.thermal, Dimension::expansion},
                                               std::tuple{"beta", &out_.moisture, Dimension::none}}) {
      if (!is_isotropic(out_.kind) || !table_.node(key)) continue;
      if (const auto value = table_.number(key, dimension)) *into = {*value, *value, *value};
    }
  }

  /// Beyond these the master curve is none: across the fibres nothing would ever fail.
  void check_puck() {
    const auto below = [&](std::string_view key, double value, double most, std::string_view why) {
      if (value < most) return;
      table_.error("part.value",
                   fmt::format("{}: {} = {:g} should be below {:.4g}{}", table_.name(), key, value, most, why),
                   table_.place(key), "0.2 to 0.35 are usual");
      failed_ = true;
    };
    const auto& [p12t, p12c] = std::pair(out_.interaction.p12t, out_.interaction.p12c);
    if (p12c) below("puck-p12c", *p12c, 1.0, "");
    if (!p12t) return;
    const auto &S = out_.strength.S12, &Yt = out_.strength.Yt;
    if (S && Yt && *S < *Yt)
      below("puck-p12t", *p12t, *S / *Yt, ", which is S12 / Yt");
    else
      below("puck-p12t", *p12t, 1.0, "");
  }

  void read_cost() {
    if (!table_.node("cost")) return;
    const auto text = table_.text("cost");
    if (!text) return;
    const std::string& s = text->value;
    const auto letter = s.find_first_not_of("0123456789.+- ");
    const UnitSystem si = UnitSystem::parse("m, kg, s");
    try {
      if (letter == std::string::npos || letter + 4 >= s.size() || s[letter + 3] != '/')
        throw std::invalid_argument("it needs an amount, a currency of three letters and what it is for");
      Cost cost;
      cost.value = si.read(s.substr(0, letter), Dimension::none);
      cost.currency = s.substr(letter, 3);
      const std::string unit = "1 " + s.substr(letter + 4);
      if (!(cost.value >= 0.0) ||
          !std::all_of(cost.currency.begin(), cost.currency.end(), [](unsigned char c) { return std::isupper(c); }))
        throw std::invalid_argument("the currency is three capital letters, the amount not negative");
      try {
        cost.value /= si.read(unit, Dimension::mass);
        cost.per = Cost::Per::mass;
      } catch (const std::invalid_argument&) {
        cost.value /= si.read(unit, Dimension::area);
        cost.per = Cost::Per::area;
      }
      out_.cost = cost;
    } catch (const std::invalid_argument& trouble) {
      table_.error("part.value", fmt::format("{}: cost '{}' cannot be read: {}", table_.name(), s, trouble.what()),
                   text->where, "write it as \"38 EUR/m^2\" or \"45 EUR/kg\"");
    }
  }

  /// sheared = "measured.csv" or [[0, E1, E2, nu12, G12], [30, ...]].
  void read_sheared() {
    const toml::node* const node = table_.node("sheared");
    if (!node) return;
    constexpr Dimension columns[] = {Dimension::angle, Dimension::stress, Dimension::stress, Dimension::none,
                                     Dimension::stress};
    std::vector<Sheared> rows;
    if (const auto file = node->value_exact<std::string>()) {
      try {
        for (const std::vector<double>& row : read_csv(beside(table_.file(), *file), 5).rows)
          rows.push_back({row[0], row[1], row[2], row[3], row[4]});
      } catch (const Failure& failure) {
        for (const Finding& finding : failure.findings())
          table_.error(finding.code, finding.what, finding.where, finding.remedy);
        return;
      }
    } else if (const toml::array* const list = table_.array("sheared")) {
      for (const toml::node& item : *list) {
        const toml::array* const row = item.as_array();
        if (!row || row->size() != 5) {
          table_.error("part.value", fmt::format("{}: a line of 'sheared' has five numbers", table_.name()),
                       table_.place(item), "write [shear angle, E1, E2, nu12, G12], 1 along the longer diagonal");
          return;
        }
        double v[5] = {};
        for (std::size_t i = 0; i < 5; ++i) {
          const auto value = table_.number_in(*row->get(i), "sheared", columns[i]);
          if (!value) return;
          v[i] = *value;
        }
        rows.push_back({v[0], v[1], v[2], v[3], v[4]});
      }
    }
    const bool ascending = std::adjacent_find(rows.begin(), rows.end(), [](const Sheared& a, const Sheared& b) {
                             return a.shear >= b.shear;
                           }) == rows.end();
    if (rows.size() < 2 || !ascending || rows.front().shear < 0.0 || out_.kind != Kind::fabric)
      table_.error("part.value",
                   fmt::format("{}: 'sheared' belongs to a fabric and needs at least two lines with shear angles that "
                               "rise from 0 or more",
                               table_.name()),
                   table_.place(*node));
    else if (const auto bad = std::find_if(rows.begin(), rows.end(), [](const Sheared& r) { return !can_exist(r); });
             bad != rows.end()) {
      table_.error("part.value",
                   fmt::format("{}: 'sheared' at {:g}° says E1 = {:g}, E2 = {:g}, nu12 = {:g}, G12 = {:g}, which no "
                               "material has",
                               table_.name(), bad->shear, bad->E1, bad->E2, bad->nu12, bad->G12),
                   table_.place(*node), "E1, E2 and G12 are positive, and |nu12| is less than the root of E1 / E2");
      failed_ = true;
    } else
      out_.sheared = std::move(rows);
  }
  static bool can_exist(const Sheared& row) {
    return row.E1 > 0.0 && row.E2 > 0.0 && row.G12 > 0.0 && row.nu12 * row.nu12 < row.E1 / row.E2;
  }

  /// yarns = { warp = [E1, E2, E3, nu12, nu13, nu23, G12, G13, G23], weft = [...], warp-share = 0.5 }
  void read_yarns() {
    if (!table_.node("yarns")) return;
    auto table = table_.inner("yarns");
    if (!table) return;
    Yarns yarns;
    for (const auto& [key, into] : {std::pair{"warp", &yarns.warp}, std::pair{"weft", &yarns.weft}}) {
      const toml::array* const list = table->array(key);
      if (!list) return;
      if (list->size() != 9) {
        table->error("part.value", fmt::format("{}: '{}' should be nine constants", table->name(), key),
                     table->place(*list), "E1, E2, E3, nu12, nu13, nu23, G12, G13, G23");
        return;
      }
      for (std::size_t i = 0; i < 9; ++i) {
        const bool ratio = i >= 3 && i < 6;
        const auto value = table->number_in(*list->get(i), key, ratio ? Dimension::none : Dimension::stress);
        if (!value) return;
        *nine(*into)[i] = *value;
      }
    }
    yarns.warp_share = table->number("warp-share", Dimension::none).value_or(0.5);
    if (table->node("alpha")) yarns.thermal = table->vector("alpha", Dimension::expansion);
    if (table->node("beta")) yarns.moisture = table->vector("beta", Dimension::none);
    table->finish();
    out_.yarns = yarns;
  }

  std::optional<double> maybe(std::string_view key, Dimension dimension) {
    return table_.node(key) ? table_.number(key, dimension) : std::nullopt;
  }

  void read_what_it_is() {
    const bool from_fibre = table_.node("fibre") != nullptr, from_yarn = table_.node("yarn") != nullptr;
    if (table_.node("orientation")) {
      orient(from_fibre);
    } else if (from_fibre && from_yarn) {
      table_.error("part.value", fmt::format("{} has both a 'fibre' and a 'yarn'", table_.name()), table_.place("yarn"),
                   "a yarn is a unidirectional material that may itself be made of fibre and resin");
      failed_ = true;
    } else if (from_fibre || from_yarn) {
      compute(from_fibre);
    } else if (const auto elastic = read_elastic()) {
      if (inherited_ && !(*elastic == out_.elastic)) out_.yarns.reset(), out_.made_of.clear();
      out_.elastic = *elastic;
    } else {
      failed_ = true;
    }
  }

  void compute(bool from_fibre) {
    Weave weave;
    std::optional<Material> between;
    const bool pockets = out_.kind == Kind::fabric && table_.node(from_fibre ? "yarn-fibre-volume" : "yarn-volume");
    if (out_.kind == Kind::fabric) {
      if (table_.node("warp-share")) weave.warp_share = table_.number("warp-share", Dimension::none).value_or(0.5);
      if (table_.node("crimp")) weave.crimp = table_.number("crimp", Dimension::none).value_or(0.0);
    }
    if (pockets) {
      if (table_.node("yarn-aspect"))
        weave.yarn_aspect = table_.number("yarn-aspect", Dimension::none).value_or(weave.yarn_aspect);
      if (const auto matrix = table_.text("matrix")) between = find_(*matrix);
      if (!between) {
        failed_ = true;
        return;
      }
    }
    try {
      std::optional<Material> yarn;
      if (from_fibre) {
        yarn = mix(out_.kind == Kind::fabric, pockets ? &weave : nullptr);
      } else if (const auto name = table_.text("yarn")) {
        yarn = find_(*name);
        if (pockets) weave.yarn_volume = table_.number("yarn-volume", Dimension::none).value_or(1.0);
      }
      if (!yarn) {
        failed_ = true;
      } else if (out_.kind == Kind::fabric) {
        out_ = fabric(*yarn, weave, out_, between ? &*between : nullptr);
      } else if (out_.kind == Kind::unidirectional && from_fibre) {
        out_ = *yarn;
      } else {
        table_.error("part.value",
                     fmt::format("{}: a {} material is not made of yarns", table_.name(), name_of(out_.kind)),
                     table_.place("kind"), "fibre and matrix make a unidirectional ply or a fabric, yarns a fabric");
        failed_ = true;
      }
    } catch (const std::invalid_argument& trouble) {
      table_.error("material.cannot-mix", fmt::format("{}: {}", table_.name(), trouble.what()), table_.place(),
                   "see docs/materials.md on what plies are computed from");
      failed_ = true;
    }
  }

  /// Fibres in many directions: of a unidirectional material, or of one that is mixed here.
  void orient(bool from_fibre) {
    try {
      std::optional<Material> aligned;
      if (from_fibre) {
        aligned = mix(true);
        if (aligned) aligned->name = out_.name, aligned->strength = {}, aligned->form = {};
      } else if (const auto name = table_.text("aligned")) {
        aligned = find_(*name);
      }
      const auto orientation = read_orientation();
      if (!aligned || !orientation) {
        failed_ = true;
        return;
      }
      if (out_.kind != Kind::orthotropic && out_.kind != Kind::anisotropic) {
        table_.error("part.value",
                     fmt::format("{}: a {} material has no 'orientation'", table_.name(), name_of(out_.kind)),
                     table_.place("orientation"), "fibres in many directions make an orthotropic material");
        failed_ = true;
        return;
      }
      out_ = oriented(*aligned, *orientation, out_);
    } catch (const std::invalid_argument& trouble) {
      table_.error("material.cannot-mix", fmt::format("{}: {}", table_.name(), trouble.what()),
                   table_.place("orientation"), "see docs/materials.md on fibres that lie in many directions");
      failed_ = true;
    }
  }

  /// [a11, a22, a33], or these and a23, a13, a12.
  std::optional<Orientation> read_orientation() {
    const toml::array* const list = table_.array("orientation");
    if (!list) return std::nullopt;
    if (list->size() != 3 && list->size() != 6) {
      table_.error("part.value", fmt::format("{}: 'orientation' has three numbers or six", table_.name()),
                   table_.place(*list), "the shares along 1, 2, 3, and where axes turn those of 23, 13, 12");
      return std::nullopt;
    }
    Orientation out;
    double v[6] = {};
    for (std::size_t i = 0; i < list->size(); ++i) {
      const auto value = table_.number_in(*list->get(i), "orientation", Dimension::none);
      if (!value) return std::nullopt;
      v[i] = *value;
    }
    out.mean << v[0], v[5], v[4], v[5], v[1], v[3], v[4], v[3], v[2];
    if (table_.node("closure")) {
      std::vector<std::string_view> names;
      for (const Closure closure : closures) names.push_back(name_of(closure));
      if (const auto closure = table_.choice("closure", names)) out.closure = closures[*closure];
    }
    if (const auto why = not_an_orientation(out.mean)) {
      table_.error("material.orientation",
                   fmt::format("{}: no fibres lie like this 'orientation': {}", table_.name(), *why),
                   table_.place(*list), "all along 1: [1, 0, 0]; all ways in the plane: [0.5, 0.5, 0]");
      return std::nullopt;
    }
    return out;
  }

  /// \param weave of a cloth with resin between its yarns: then the fibre volume is the cloth's, and yarns have their own.
  std::optional<Material> mix(bool for_fabric, Weave* weave = nullptr) {
    const auto fibre = table_.text("fibre"), matrix = table_.text("matrix");
    const auto volume = table_.number("fibre-volume", Dimension::none);
    Mix mix;
    if (table_.node("voids")) mix.voids = table_.number("voids", Dimension::none).value_or(0.0);
    if (table_.node("theory")) {
      constexpr std::string_view names[] = {"halpin-tsai", "cylinder-assemblage", "mori-tanaka"};
      if (const auto theory = table_.choice("theory", names)) mix.theory = theories[*theory];
    }
    if (!fibre || !matrix || !volume) return std::nullopt;
    mix.fibre_volume = *volume;
    if (weave) {
      const auto within = table_.number("yarn-fibre-volume", Dimension::none);
      if (!within) return std::nullopt;
      mix.fibre_volume = *within;
      weave->yarn_volume = *within > 0.0 ? *volume / *within : 0.0;
    }
    if (table_.node("aspect")) {
      mix.aspect = table_.number("aspect", Dimension::none);
      if (table_.node("theory") && mix.theory != Theory::mori_tanaka)
        table_.error(
            "part.value",
            fmt::format("{}: short fibres are mixed by mori-tanaka, not by {}", table_.name(), name_of(mix.theory)),
            table_.place("theory"), "leave 'theory' out, or 'aspect' where fibres are long");
    }
    const auto f = find_(*fibre), m = find_(*matrix);
    if (!f || !m) return std::nullopt;
    Material form;
    if (for_fabric)
      form.form.areal_weight = out_.form.areal_weight;
    else
      form = out_;
    form.name = out_.name;
    return unidirectional(*f, *m, mix, form);
  }

  std::optional<Elastic> read_elastic() {
    if (is_isotropic(out_.kind)) return read_isotropic();
    if (out_.kind == Kind::anisotropic) return read_anisotropic();
    if (inherited_) return overridden();
    const auto stress = [&](std::string_view key) { return table_.number(key, Dimension::stress); };
    const auto ratio = [&](std::string_view key) { return table_.number(key, Dimension::none); };
    if (out_.kind == Kind::fibre) return read_fibre();
    if (out_.kind == Kind::honeycomb) return read_honeycomb();
    const bool all_nine = out_.kind == Kind::orthotropic;
    const auto E1 = stress("E1"), E2 = stress("E2"), nu12 = ratio("nu12"), G12 = stress("G12"), G13 = stress("G13"),
               G23 = stress("G23");
    const auto E3 = all_nine ? stress("E3") : maybe("E3", Dimension::stress);
    const auto nu13 = all_nine ? ratio("nu13") : maybe("nu13", Dimension::none);
    const auto nu23 = all_nine ? ratio("nu23") : maybe("nu23", Dimension::none);
    if (!E1 || !E2 || !nu12 || !G12 || !G13 || !G23 || (all_nine && (!E3 || !nu13 || !nu23))) return std::nullopt;
    Elastic m = {.E1 = *E1,
                 .E2 = *E2,
                 .E3 = E3.value_or(*E2),
                 .nu12 = *nu12,
                 .nu13 = nu13.value_or(0.0),
                 .nu23 = nu23.value_or(0.0),
                 .G12 = *G12,
                 .G13 = *G13,
                 .G23 = *G23};
    // What is left out does not matter for plane-stress plies, but the solver wants nine constants that can exist.
    if (out_.kind == Kind::unidirectional) {
      m.nu13 = nu13.value_or(*nu12);
      m.nu23 = nu23.value_or(std::clamp(*E2 / (2.0 * *G23) - 1.0, 0.0, 0.6));
    } else if (out_.kind == Kind::fabric) {
      m.E3 = E3.value_or(std::min({*E1, *E2, 2.6 * *G13}));
      m.nu13 = nu13.value_or(0.3);
      m.nu23 = nu23.value_or(0.3);
    }
    return m;
  }

  /// Constants of the material that this one is taken from, some of them said anew.
  std::optional<Elastic> overridden() {
    Material changed = out_;
    bool any = false;
    for (const Quantity& q : quantities())
      if (is_elastic(q.key) && table_.node(q.key)) {
        const auto value = table_.number(q.key, q.dimension);
        if (!value) return std::nullopt;
        q.set(changed, *value);
        any = true;
      }
    if (any) changed.elastic.full.reset();
    return changed.elastic;
  }

  std::optional<Elastic> read_fibre() {
    const auto E1 = table_.number("E1", Dimension::stress), E2 = table_.number("E2", Dimension::stress);
    const auto nu12 = table_.number("nu12", Dimension::none), G12 = table_.number("G12", Dimension::stress);
    const auto nu23 = maybe("nu23", Dimension::none), G23 = maybe("G23", Dimension::stress);
    if (nu23.has_value() == G23.has_value()) {
      table_.error("part.key-missing", fmt::format("{} needs one of 'nu23' and 'G23'", table_.name()), table_.place(),
                   "G23 = E2 / (2 (1 + nu23)): one follows from the other");
      return std::nullopt;
    }
    if (!E1 || !E2 || !nu12 || !G12) return std::nullopt;
    const double g = G23 ? *G23 : *E2 / (2.0 * (1.0 + *nu23));
    return transversely_isotropic(*E1, *E2, *nu12, *G12, nu23 ? *nu23 : *E2 / (2.0 * g) - 1.0, g);
  }

  /// Data sheets give shear along and across the ribbon, and crushing; in its plane a honeycomb is close to nothing.
  std::optional<Elastic> read_honeycomb() {
    const auto G13 = table_.number("G13", Dimension::stress), G23 = table_.number("G23", Dimension::stress);
    if (!G13 || !G23) return std::nullopt;
    const double soft = 1e-3 * *G13;
    const auto stress = [&](std::string_view key, double otherwise) {
      return maybe(key, Dimension::stress).value_or(otherwise);
    };
    const auto ratio = [&](std::string_view key) { return maybe(key, Dimension::none).value_or(0.0); };
    Elastic m = {.E1 = stress("E1", soft), .E2 = stress("E2", soft), .E3 = stress("E3", 3.0 * *G13)};
    m.nu12 = ratio("nu12"), m.nu13 = ratio("nu13"), m.nu23 = ratio("nu23");
    m.G12 = stress("G12", soft), m.G13 = *G13, m.G23 = *G23;
    return m;
  }

  std::optional<Elastic> read_isotropic() {
    if (inherited_ && !table_.has("E") && !table_.has("nu") && !table_.has("G")) return out_.elastic;
    const auto E = table_.number("E", Dimension::stress);
    const auto nu = maybe("nu", Dimension::none), G = maybe("G", Dimension::stress);
    if (!E) return std::nullopt;
    if (nu.has_value() == G.has_value()) {
      table_.error("part.key-missing", fmt::format("{} needs one of 'nu' and 'G' beside 'E'", table_.name()),
                   table_.place(), "G = E / (2 (1 + nu)): one follows from the other");
      return std::nullopt;
    }
    Elastic m = isotropic(*E, nu ? *nu : *E / (2.0 * *G) - 1.0);
    if (G) m.G12 = m.G13 = m.G23 = *G;
    return m;
  }

  /// C = [[C11, C12, ..., C16], [C22, ..., C26], ..., [C66]]: rows from the diagonal on.
  std::optional<Elastic> read_anisotropic() {
    if (inherited_ && !table_.has("C")) return out_.elastic;
    const toml::array* const rows = table_.array("C");
    if (!rows) return std::nullopt;
    Matrix6 C = Matrix6::Zero();
    bool good = rows->size() == 6;
    for (std::size_t i = 0; good && i < 6; ++i) {
      const toml::array* const row = rows->get(i)->as_array();
      good = row && row->size() == 6 - i;
      for (std::size_t j = i; good && j < 6; ++j) {
        const auto value = table_.number_in(*row->get(j - i), "C", Dimension::stress);
        if (!value) return std::nullopt;
        const auto a = static_cast<Eigen::Index>(i), b = static_cast<Eigen::Index>(j);
        C(a, b) = C(b, a) = *value;
      }
    }
    if (!good) {
      table_.error(
          "part.value",
          fmt::format("{}: 'C' should be six rows of 6, 5, 4, 3, 2 and 1 numbers: 21 constants", table_.name()),
          table_.place(*rows), "order 11, 22, 33, 23, 13, 12; each row from the diagonal on");
      return std::nullopt;
    }
    Elastic m = from_stiffness(C);
    m.full = C;
    return m;
  }

  Table& table_;
  const FindMaterial& find_;
  Material out_;
  bool inherited_ = false, failed_ = false;
};

}  // namespace

std::optional<Material> read_material(Table& table, const std::string& name, const FindMaterial& find) {
  return TableReader(table, name, find).read();
}

}  // namespace bordado::material
