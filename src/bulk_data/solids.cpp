// Bulk data decks of solids: bricks and wedges with their material axes.
#include <bordado/deck/solid_carrier.hpp>
#include <bordado/deck/uses.hpp>
#include <bordado/deck/writing.hpp>
#include <bordado/design.hpp>
#include "card.hpp"
#include "read_back.hpp"
#include "writers.hpp"

#include <fmt/format.h>
#include <Eigen/Geometry>

#include <algorithm>
#include <cmath>
#include <map>

namespace bordado::bulk_data {

namespace {

class SolidsWriter {
 public:
  SolidsWriter(const Model& model, OutputFile& file, const std::string& path, const deck::WriteOptions& options)
      : model_(model),
        part_(model.design->part),
        solids_(*model.solids),
        options_(options),
        cases_(deck::wanted_cases(model, options)),
        stress_free_(deck::only_stress_free(model, cases_)),
        carrier_(model, stress_free_.value_or(0.0)),
        file_(file),
        path_(path) {}

  deck::Written write() {
    check_cases();
    for (const std::size_t k : cases_) equations_.emplace(k, equations_of(model_, carrier_, std::array{k}));
    group_axes();
    write_head();
    write_nodes();
    write_solids();
    write_properties();
    write_supports();
    write_beds();
    write_loads();
    if (!options_.laminate_only) line("ENDDATA");
    deck::Written out = deck::summary(model_, options_, file_, path_);
    out.nodes = solids_.points.size();
    out.solids = solids_.count();
    out.orientations = axes_.size();
    out.names = std::move(names_);
    return out;
  }

 private:
  void line(std::string_view text) {
    file_.write(text);
    file_.write("\n");
  }
  void comment(std::string_view text) {
    for (const std::string& part : deck::wrapped(text)) line("$ " + part);
  }
  static std::int64_t number(std::size_t i) { return static_cast<std::int64_t>(i) + 1; }

  void check_cases() const {
    for (const std::size_t k : cases_) {
      const Model::Case& load_case = model_.cases[k];
      check_linked_alike(model_, model_.cases[cases_.front()], load_case);
      if (load_case.analysis != model_.cases[cases_.front()].analysis)
        throw Failure(
            {Severity::error, "deck.cases-apart",
             fmt::format("cases '{}' and '{}' want different kinds of analysis, of which a bulk data deck holds "
                         "one",
                         model_.cases[cases_.front()].name, load_case.name),
             Place::in(part_.file), "write a deck of each kind: bordado deck --case NAME"});
    }
  }

  /// Axes that solids share: within a tenth of a degree, and materials of each a property.
  void group_axes() {
    const double cell = options_.orientation_tolerance.radians() / std::sqrt(3.0);
    std::map<std::array<std::int64_t, 6>, std::size_t> known;
    std::map<std::pair<std::size_t, std::uint32_t>, std::size_t> properties;
    property_.resize(solids_.count());
    for (std::size_t s = 0; s < solids_.count(); ++s) {
      const mesh::ElementIndex e = solids_.element[s];
      const Vec3& n = model_.design->geometry.normals[e];
      const Vec3 x = frame::turned(model_.design->sections.references[e], n, solids_.turn[s]), y = n.cross(x);
      std::array<std::int64_t, 6> key{};
      for (int k = 0; k < 6; ++k) key[static_cast<std::size_t>(k)] = std::llround((k < 3 ? x[k] : y[k - 3]) / cell);
      const auto [axes, new_axes] = known.emplace(key, axes_.size());
      if (new_axes) axes_.push_back({x, y});
      const auto [property, is_new] = properties.emplace(std::pair(axes->second, solids_.material[s]), uses_.size());
      if (is_new) uses_.emplace_back(axes->second, solids_.material[s]);
      property_[s] = property->second;
    }
  }

  void write_head() {
    for (const std::string& text : deck::head_lines(model_, "bulk data of solids", options_)) comment(text);
    if (options_.laminate_only) {
      comment("to be included in the bulk data of a deck that has supports and loads");
      return;
    }
    constexpr int solutions[] = {101, 106, 103, 105};
    const part::Analysis analysis = cases_.empty() ? part::Analysis::linear : model_.cases[cases_.front()].analysis;
    line(fmt::format("SOL {}", solutions[static_cast<std::size_t>(analysis)]));
    line("CEND");
    line(fmt::format("TITLE = {}", deck::solver_name(part_.name)));
    line("DISPLACEMENT = ALL");
    if (options_.ply_results) line("STRESS = ALL");
    std::size_t subcase = 0;
    for (const std::size_t k : cases_) {
      const Model::Case& load_case = model_.cases[k];
      const bool modes = analysis == part::Analysis::frequencies || analysis == part::Analysis::buckling;
      const auto begin = [&](std::string_view what) {
        line(fmt::format("SUBCASE {}", ++subcase));
        line(fmt::format("  SUBTITLE = {}{}", deck::solver_name(load_case.name), what));
        if (has_supports(model_, load_case)) line(fmt::format("  SPC = {}", number(k)));
        if (!equations_[k].all.empty()) line(fmt::format("  MPC = {}", number(k)));
        names_.push_back({fmt::format("subcase {}", subcase), "step", fmt::format("case {}", load_case.name)});
      };
      if (load_case.any_load()) {
        begin(modes ? " LOADS" : "");
        if (has_forces(model_, load_case)) line(fmt::format("  LOAD = {}", 1000 + number(k)));
        if (heated(load_case)) line(fmt::format("  TEMPERATURE(LOAD) = {}", 1000 + number(k)));
        if (analysis == part::Analysis::large_displacements) line("  NLPARM = 1");
      }
      if (!modes) continue;
      begin("");
      if (load_case.any_load()) line(fmt::format("  STATSUB = {}", subcase - 1));
      line(fmt::format("  METHOD = {}", number(k)));
    }
    line("BEGIN BULK");
    if (analysis == part::Analysis::large_displacements) line("PARAM,LGDISP,1\nNLPARM  1       10");
  }

  bool heated(const Model::Case& load_case) const { return has_load<Model::Temperature>(model_, load_case); }

  void write_nodes() {
    // Nodes that supports hold along directions of their own stand in these.
    for (const std::size_t k : cases_)
      for (const std::size_t i : model_.cases[k].supports)
        for (const deck::HeldNodes& held : carrier_.held(model_.supports[i]))
          for (std::size_t n = 0; n < held.axes.size(); ++n) {
            if (own_.count(held.nodes[n])) continue;
            axes_.push_back({held.axes[n][0], held.axes[n][1]});
            own_.emplace(held.nodes[n], axes_.size());
          }
    for (const std::size_t k : cases_)
      for (const std::size_t i : model_.cases[k].supports)
        for (const deck::HeldSum& held : carrier_.held_sums(model_.supports[i]))
          for (const deck::NodeValue& term : held.sum.terms) {
            if (!held.axes || own_.count(term.node)) continue;
            axes_.push_back({(*held.axes)[0], (*held.axes)[1]});
            own_.emplace(term.node, axes_.size());
          }
    file_.write_lines(solids_.points.size(), [&](std::size_t i, std::string& text) {
      LargeCard card("GRID");
      card.integer(number(i)).blank();
      for (const double x : solids_.points[i]) card.real(x);
      if (const auto own = own_.find(number(i)); own != own_.end())
        card.integer(static_cast<std::int64_t>(own->second));
      text += card.text();
    });
  }

  void write_solids() {
    file_.write_lines(solids_.count(), [&](std::size_t s, std::string& text) {
      const auto nodes = solids_.nodes_of(s);
      // Corners, then the middles of the lower face, of the upright edges, and of the upper face.
      static constexpr int brick[] = {0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 16, 17, 18, 19, 12, 13, 14, 15};
      static constexpr int wedge[] = {0, 1, 2, 3, 4, 5, 6, 7, 8, 12, 13, 14, 9, 10, 11};
      const std::span<const int> order = nodes.size() == 20 ? std::span<const int>(brick) : std::span<const int>(wedge);
      text += nodes.size() == 20 ? "CHEXA   " : "CPENTA  ";
      std::size_t on_line = 0;
      const auto put = [&](std::int64_t value) {
        if (on_line == 8) {
          text += "\n+       ";
          on_line = 0;
        }
        text += fmt::format("{:<8}", value);
        ++on_line;
      };
      put(number(s));
      put(number(property_[s]));
      for (const int k : order) put(deck::id_of(nodes[static_cast<std::size_t>(k)]));
      text.erase(text.find_last_not_of(' ') + 1);
      text += '\n';
    });
  }

  void write_properties() {
    for (std::size_t p = 0; p < uses_.size(); ++p) {
      file_.write(LargeCard("PSOLID")
                      .integer(number(p))
                      .integer(number(uses_[p].second))
                      .integer(number(uses_[p].first))
                      .text());
      std::string plies;
      for (const part::PlyId ply : solids_.made_of[uses_[p].second])
        plies += (plies.empty() ? "" : " ") + part_.plies[ply].id;
      names_.push_back({fmt::format("{}", number(p)), "section", fmt::format("plies {}", plies)});
    }
    for (std::size_t m = 0; m < solids_.materials.size(); ++m) {
      comment(fmt::format("material {}", plain_text(solids_.materials[m].name)));
      material::Material material = solids_.materials[m];
      if (stress_free_) material.stress_free_temperature = stress_free_;
      const std::string text = solid_material(number(m), material);
      file_.write(text);
      compare_read(model_, material, solid_read(text), 1e-6);
      names_.push_back({fmt::format("{}", number(m)), "material", solids_.materials[m].name});
    }
    for (std::size_t a = 0; a < axes_.size(); ++a) {
      const Vec3 &x = axes_[a][0], z = x.cross(axes_[a][1]);
      file_.write(axes_card(number(a), x, z));
    }
  }

  void write_supports() {
    for (const std::size_t k : cases_) {
      const Model::Case& load_case = model_.cases[k];
      for (const std::size_t i : load_case.supports) {
        comment(fmt::format("case {}, support {}", plain_text(load_case.name), plain_text(model_.supports[i].name)));
        for (const deck::HeldNodes& held : carrier_.held(model_.supports[i])) {
          std::string freedoms;
          for (int f = 0; f < 3; ++f)
            if (held.held >> f & 1) freedoms += static_cast<char>('1' + f);
          LargeCard card("SPC1");
          card.integer(number(k)).word(freedoms);
          for (const std::int64_t node : held.nodes) card.integer(node);
          file_.write(card.text());
        }
      }
      write_equations(k);
    }
  }

  /// Where no node lies in the middle: the mean of the two beside it; of what turns the difference.
  void write_equations(std::size_t k) {
    for (const auto& [load, movers] : equations_[k].movers)
      for (const std::int64_t mover : movers)
        file_.write(
            LargeCard("GRID").integer(mover).blank().real(0.0).real(0.0).real(0.0).blank().integer(23456).text());
    for (const std::vector<deck::NodeValue>& terms : equations_[k].all) {
      LargeCard card("MPC");
      card.integer(number(k));
      for (std::size_t t = 0; t < terms.size(); ++t) {
        // Two terms to a row, between blank fields.
        if (t > 0 && t % 2 == 0) card.blank().blank();
        card.integer(terms[t].node).integer(terms[t].freedom).real(terms[t].value);
      }
      file_.write(card.text());
    }
  }

  std::size_t springs() const {
    std::size_t out = 0;
    for (const Model::Bed& bed : model_.beds) out += bed.nodes.size();
    return out;
  }

  /// Springs to the ground along the normal, at the foot of every column.
  void write_beds() {
    std::int64_t spring = 0;
    for (const Model::Bed& bed : model_.beds) {
      comment(fmt::format("bed {}: {} along the normal of every node, times its share of the area",
                          plain_text(bed.name), field(bed.stiffness, 16)));
      for (std::size_t i = 0; i < bed.nodes.size(); ++i, ++spring) {
        const Vec3& n = bed.normals[i];
        Eigen::Index least = 0;
        n.cwiseAbs().minCoeff(&least);
        const Vec3 z = n.cross(n.cross(Vec3::Unit(least)).normalized());
        const std::int64_t axes = number(axes_.size()) + spring, property = number(uses_.size()) + spring;
        file_.write(axes_card(axes, n, z));
        file_.write(spring_cards(number(solids_.count()) + spring, property, deck::id_of(carrier_.foot(bed.nodes[i])),
                                 axes, bed.stiffness * bed.areas[i]));
      }
    }
  }

  void write_loads() {
    for (const std::size_t k : cases_) {
      const Model::Case& load_case = model_.cases[k];
      const std::int64_t set = 1000 + number(k);
      // What no load warms stays free of stress.
      if (heated(load_case)) file_.write(LargeCard("TEMPD").integer(set).real(*stress_free_).text());
      for (std::size_t i = 0; i < model_.loads.size(); ++i) {
        if (!load_case.acts(i)) continue;
        comment(fmt::format("case {}, load {}", plain_text(load_case.name), plain_text(model_.loads[i].name)));
        names_.push_back({fmt::format("{}", set), "load", fmt::format("load {}", model_.loads[i].name)});
        const auto movers = equations_[k].movers.find(i);
        write_load(model_.loads[i], load_case.factors[i], set, number(k),
                   movers == equations_[k].movers.end() ? std::vector<std::int64_t>() : movers->second);
      }
      if (load_case.analysis == part::Analysis::frequencies || load_case.analysis == part::Analysis::buckling)
        file_.write(LargeCard("EIGRL").integer(number(k)).blank().blank().integer(load_case.count).text());
    }
  }

  void write_load(const Model::Load& load, double factor, std::int64_t set, std::int64_t supports,
                  const std::vector<std::int64_t>& movers) {
    const deck::LoadCards cards = carrier_.cards(load, false);
    std::map<std::int64_t, Vec3> forces;
    for (const deck::NodeValue& value : cards.forces)
      forces.try_emplace(value.node, Vec3::Zero()).first->second[value.freedom - 1] += factor * value.value;
    for (const auto& [node, force] : forces) file_.write(vector_card("FORCE", set, node, force));
    for (const deck::NodeValue& value : cards.moved)
      file_.write(LargeCard("SPC")
                      .integer(supports)
                      .integer(value.node)
                      .integer(value.freedom)
                      .real(factor * value.value)
                      .text());
    for (std::size_t m = 0; m < movers.size(); ++m)
      file_.write(LargeCard("SPC")
                      .integer(supports)
                      .integer(movers[m])
                      .integer(1)
                      .real(factor * cards.moved_sums[m].value)
                      .text());
    const double from = carrier_.first_temperature();
    for (const auto& [node, value] : cards.temperatures)
      file_.write(LargeCard("TEMP").integer(set).integer(node).real(from + factor * (value - from)).text());
    if (const auto* const inertia = std::get_if<Model::Inertia>(&load.what)) {
      file_.write(gravity_card(set, inertia->gravity, factor));
      if (const auto& r = inertia->rotation) file_.write(rotation_cards(set, carrier_.free_node(), *r, factor));
    }
    if (const auto* const link = std::get_if<Model::Link>(&load.what)) {
      const std::int64_t node = carrier_.free_node();
      file_.write(link_cards(number(solids_.count() + springs() + links_++), node, link->at, carrier_.linked(*link)));
      for (const auto& [name, v] : {std::pair("FORCE", link->force), {"MOMENT", link->moment}})
        if (v != Vec3::Zero()) file_.write(vector_card(name, set, node, v, factor));
    }
  }

  const Model& model_;
  const part::Part& part_;
  const model::Solids& solids_;
  const deck::WriteOptions& options_;
  std::vector<std::size_t> cases_;
  std::optional<double> stress_free_;  ///< where a case is warmed
  deck::SolidCarrier carrier_;
  OutputFile& file_;
  std::string path_;
  std::vector<deck::Stands> names_;
  std::map<std::size_t, deck::EquationsOf> equations_;  ///< per case
  std::vector<Model::Axes> axes_;
  std::vector<std::pair<std::size_t, std::uint32_t>> uses_;  ///< axes and material of each property
  std::vector<std::size_t> property_;                        ///< per solid, in `uses_`
  std::map<std::int64_t, std::size_t> own_;                  ///< nodes with directions of their own: their system
  std::size_t links_ = 0;
};

}  // namespace

deck::Written write_solids(const Model& model, const std::string& path, const deck::WriteOptions& options, Findings&) {
  OutputFile file(path, options.may_replace);
  deck::Written out = SolidsWriter(model, file, path, options).write();
  file.commit();
  return out;
}

}  // namespace bordado::bulk_data
