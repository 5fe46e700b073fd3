// Bulk data decks: the public cards that many solvers read. Large-field format (16 characters a number) wherever a
// number matters, small fields for ids.
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
#include <numbers>
#include <set>

namespace bordado::bulk_data {

namespace {

using mesh::ElementIndex;
using section::SectionId;

/// Appends what `append` writes, padded with blanks to `width` characters.
template <class Append>
void padded(std::string& text, std::size_t width, Append append) {
  const std::size_t begin = text.size();
  append();
  text.append(width - std::min(width, text.size() - begin), ' ');
}

void small_integer(std::string& text, std::int64_t value) {
  padded(text, 8, [&] { append_integer(text, value); });
}

class ShellsWriter {
 public:
  ShellsWriter(const Model& model, OutputFile& file, const std::string& path, const deck::WriteOptions& options,
               const Taken& taken)
      : model_(model),
        part_(model.design->part),
        sections_(model.design->sections),
        surface_(model.surface),
        options_(options),
        cases_(options.laminate_only ? std::vector<std::size_t>() : deck::wanted_cases(model, options)),
        uses_(deck::uses(model, {}, false)),
        file_(file),
        taken_(taken),
        path_(path) {
    if (cases_.empty()) return;
    const Model::Case& first = model.cases[cases_.front()];
    for (const std::size_t k : cases_)
      if (model.cases[k].analysis != first.analysis)
        throw Failure(
            {Severity::error, "deck.cases-apart",
             fmt::format("cases '{}' and '{}' want different kinds of analysis, of which a bulk data deck holds one",
                         first.name, model.cases[k].name),
             Place::in(part_.file), "write a deck of each kind: bordado deck --case NAME"});
    for (const std::size_t k : cases_) check_linked_alike(model, first, model.cases[k]);
    stress_free_ = deck::only_stress_free(model, cases_);
    // One plain static case needs no combinations of sets.
    plain_ = cases_.size() == 1 && first.analysis == part::Analysis::linear && model.beds.empty() &&
             std::all_of(first.factors.begin(), first.factors.end(), [](double factor) { return factor == 1.0; }) &&
             first.supports.size() == model.supports.size() &&
             std::all_of(model.loads.begin(), model.loads.end(), [](const Model::Load& load) {
               return !std::holds_alternative<Model::Displacement>(load.what) &&
                      !std::holds_alternative<Model::Temperature>(load.what);
             });
    next_node_ = 1 + *std::max_element(surface_.node_ids.begin(), surface_.node_ids.end());
    next_element_ = 1 + *std::max_element(surface_.element_ids.begin(), surface_.element_ids.end());
  }

  deck::Written write() {
    write_head();
    write_names();
    if (!options_.laminate_only) write_nodes();
    write_elements();
    write_properties();
    write_materials();
    if (!options_.laminate_only) {
      write_axes();
      write_supports();
      write_beds();
      write_loads();
      write_cases();
      line("ENDDATA");
    }
    deck::Written out = deck::summary(model_, options_, file_, path_);
    out.names = std::move(names_);
    return out;
  }

 private:
  static constexpr int support_set = 1, load_set = 2;
  // Sets of several cases: those of supports, of loads, and what a case puts together.
  static constexpr std::size_t supports_from = 1000, loads_from = 2000, moved_from = 3000, heat_from = 4000,
                               case_supports_from = 5000, case_loads_from = 6000;
  std::size_t set_of_support(std::size_t i) const { return plain_ ? support_set : supports_from + i + 1; }
  std::size_t set_of_load(std::size_t i) const { return plain_ ? load_set : loads_from + i + 1; }
  static constexpr std::size_t most_runs = 200;

  void line(std::string_view text) {
    file_.write(text);
    file_.write("\n");
  }
  void comment(std::string_view text) {
    for (const std::string& part : deck::wrapped(text)) line("$ " + part);
  }

  void write_head() {
    for (const std::string& text : deck::head_lines(model_, "bulk data", options_)) comment(text);
    comment(
        "material angle of each element: from side 1-2 of the element to 0 of the laminate, about the element normal");
    if (options_.laminate_only) {
      comment(
          "to be included in the bulk data of a deck that has nodes, supports and loads; the elements here take the "
          "place of its shell elements: "
          "same ids and nodes, turned to the declared side, with property and material angle");
      return;
    }
    constexpr int solutions[] = {101, 106, 103, 105};
    const part::Analysis analysis = cases_.empty() ? part::Analysis::linear : model_.cases[cases_.front()].analysis;
    line(fmt::format("SOL {}", solutions[static_cast<std::size_t>(analysis)]));
    line("CEND");
    line(fmt::format("TITLE = {}", deck::solver_name(part_.name)));
    if (plain_) {
      if (!model_.supports.empty()) line(fmt::format("SPC = {}", support_set));
      if (!model_.loads.empty()) line(fmt::format("LOAD = {}", load_set));
    }
    line("DISPLACEMENT = ALL");
    if (analysis == part::Analysis::linear || analysis == part::Analysis::large_displacements) {
      line("SPCFORCES = ALL");
      if (options_.ply_results) {
        line("STRESS = ALL");
        line("STRAIN = ALL");
      }
    }
    if (!plain_) write_subcases();
    line("BEGIN BULK");
    if (analysis == part::Analysis::large_displacements) line("PARAM,LGDISP,1");
  }

  void write_subcases() {
    std::size_t number = 0;
    for (const std::size_t k : cases_) {
      const Model::Case& one = model_.cases[k];
      const auto begin = [&](std::string_view what) {
        line(fmt::format("SUBCASE {}", ++number));
        line(fmt::format("  SUBTITLE = {}{}", deck::solver_name(one.name), what));
        if (has_supports(model_, one)) line(fmt::format("  SPC = {}", case_supports_from + k + 1));
        names_.push_back({fmt::format("subcase {}", number), "step", fmt::format("case {}", one.name)});
      };
      const auto load = [&] {
        if (has_forces(model_, one)) line(fmt::format("  LOAD = {}", case_loads_from + k + 1));
        if (heated(one)) line(fmt::format("  TEMPERATURE(LOAD) = {}", heat_from + k + 1));
      };
      switch (one.analysis) {
        case part::Analysis::linear:
        case part::Analysis::large_displacements:
          begin("");
          load();
          if (one.analysis == part::Analysis::large_displacements) line("  NLPARM = 1");
          break;
        case part::Analysis::frequencies:
          if (one.any_load()) {
            begin(" LOADS");
            load();
          }
          begin("");
          if (one.any_load()) line(fmt::format("  STATSUB = {}", number - 1));
          line(fmt::format("  METHOD = {}", k + 1));
          break;
        case part::Analysis::buckling:
          begin(" LOADS");
          load();
          begin("");
          line(fmt::format("  STATSUB = {}", number - 1));
          line(fmt::format("  METHOD = {}", k + 1));
          break;
      }
    }
  }

  bool heated(const Model::Case& one) const { return has_load<Model::Temperature>(model_, one); }
  /// Which zones are where, as runs of ids: bulk data have no sets with names.
  void write_names() {
    const zone::ZoneSets& zones = model_.design->layup.zones;
    for (const zone::ZoneId z : zones.declared()) {
      std::vector<std::int64_t> ids;
      for (const ElementIndex e : zones.elements(z)) ids.push_back(surface_.element_ids[e]);
      if (!std::is_sorted(ids.begin(), ids.end())) std::sort(ids.begin(), ids.end());
      std::string runs;
      std::size_t count = 0;
      for (std::size_t i = 0; i < ids.size(); ++count) {
        std::size_t end = i + 1;
        while (end < ids.size() && ids[end] == ids[end - 1] + 1) ++end;
        if (count < most_runs)
          runs += end - i == 1 ? fmt::format(" {}", ids[i]) : fmt::format(" {} to {}", ids[i], ids[end - 1]);
        i = end;
      }
      if (count > most_runs) runs += fmt::format(" and {} more runs", count - most_runs);
      if (!ids.empty()) comment(fmt::format("zone {}: elements{}", plain_text(zones.names[z]), runs));
    }
  }

  /// Directions of supports that are not the part's, numbered from 1: those of the cases' supports.
  void collect_axes() {
    std::map<std::array<std::int64_t, 6>, std::size_t> known;
    for (const std::size_t k : cases_)
      for (const std::size_t i : model_.cases[k].supports) {
        const Model::Support& support = model_.supports[i];
        for (std::size_t n = 0; n < support.axes.size(); ++n) {
          std::array<std::int64_t, 6> key{};
          for (std::size_t c = 0; c < 6; ++c)
            key[c] = std::llround(1e9 * support.axes[n][c / 3][static_cast<Eigen::Index>(c % 3)]);
          const auto [at, is_new] = known.emplace(key, axes_.size());
          if (is_new) axes_.push_back(support.axes[n]);
          axes_of_.emplace(support.nodes[n], at->second);
        }
      }
  }

  void write_axes() {
    for (std::size_t i = 0; i < axes_.size(); ++i) write_axes(i + 1, Vec3::Zero(), axes_[i][0], axes_[i][1]);
  }
  /// A rectangular system: origin, a point on its z axis, a point in its xz plane.
  void write_axes(std::size_t number, const Vec3& origin, const Vec3& x, const Vec3& y) {
    LargeCard card("CORD2R");
    card.integer(static_cast<std::int64_t>(number)).integer(0);
    const Vec3 z = origin + x.cross(y), in_plane = origin + x;
    for (const Vec3* const point : {&origin, &z, &in_plane})
      for (const double value : *point) card.real(value);
    file_.write(card.text());
  }

  void write_nodes() {
    collect_axes();
    file_.write_lines(surface_.points.size(), [&](std::size_t i, std::string& text) {
      const Vec3& p = surface_.points[i];
      text += "GRID*   ";
      padded(text, 32, [&] { append_integer(text, surface_.node_ids[i]); });
      padded(text, 16, [&] { append_real(text, p.x(), 16); });
      append_real(text, p.y(), 16);
      text += "\n*       ";
      const auto own = axes_of_.find(static_cast<mesh::NodeIndex>(i));
      if (own == axes_of_.end()) {
        append_real(text, p.z(), 16);
      } else {
        padded(text, 16, [&] { append_real(text, p.z(), 16); });
        append_integer(text, static_cast<std::int64_t>(own->second) + 1);
      }
      text += '\n';
    });
  }

  std::int64_t property_of(ElementIndex e) const { return taken_.properties + uses_.of[e] + 1; }

  /// From side 1-2 to the reference direction about the element normal, the same fibre within (-90°, 90°].
  Angle material_angle(ElementIndex e) const {
    const auto corners = surface_.corners_of(e);
    const Vec3& n = model_.design->geometry.normals[e];
    const Vec3 side = surface_.points[corners[1]] - surface_.points[corners[0]];
    return same_fibre(frame::between(side - side.dot(n) * n, sections_.references[e], n));
  }

  void write_elements() {
    file_.write_lines(surface_.element_count(), [&](std::size_t i, std::string& text) {
      const auto e = static_cast<ElementIndex>(i);
      const mesh::Shape shape = surface_.shapes[e];
      const bool quadratic = mesh::is_quadratic(shape);
      const std::string_view name =
          mesh::corner_count(shape) == 3 ? (quadratic ? "CTRIA6" : "CTRIA3") : (quadratic ? "CQUAD8" : "CQUAD4");
      double angle = material_angle(e).degrees();
      if (std::abs(angle) < 5e-7) angle = 0.0;
      if (angle < 0.0 && !fits_small(angle) && fits_small(angle + 180.0)) angle += 180.0;  // the same fibre
      const auto nodes = surface_.nodes_of(e);
      const bool small =
          fits_small(angle) && fits_small(surface_.element_ids[e]) && fits_small(property_of(e)) &&
          std::all_of(nodes.begin(), nodes.end(), [&](mesh::NodeIndex n) { return fits_small(surface_.node_ids[n]); });
      if (!small) return write_large_element(e, name, angle, text);
      text += name;
      text += "  ";
      small_integer(text, surface_.element_ids[e]);
      small_integer(text, property_of(e));
      std::size_t used = 2;
      for (const mesh::NodeIndex n : nodes) {
        if (used++ == 8) text += "\n        ";
        small_integer(text, surface_.node_ids[n]);
      }
      // Fields behind the nodes: material angle; an 8-node quadrilateral has four corner thicknesses first.
      if (used == 8) text += "\n        ";
      if (shape == mesh::Shape::quadrilateral8) text.append(32, ' ');
      append_real(text, angle, 8);
      text += '\n';
    });
  }

  /// The same card in large fields: a number or an id needs more than eight characters.
  void write_large_element(ElementIndex e, std::string_view name, double angle, std::string& text) const {
    LargeCard card(name);
    card.integer(surface_.element_ids[e]).integer(property_of(e));
    for (const mesh::NodeIndex n : surface_.nodes_of(e)) card.integer(surface_.node_ids[n]);
    if (surface_.shapes[e] == mesh::Shape::quadrilateral8)
      for (int corner = 0; corner < 4; ++corner) card.blank();
    text += card.real(angle).text();
  }

  /// Mass per area beside that of the materials, which all sections share.
  double added_mass(const deck::Uses::Use& use) const {
    const double factor = section::density_factor(sections_, use.section);
    if (factor == 1.0) return use.added;
    return use.added + (1.0 - 1.0 / factor) * laminate::areal_mass(section::laminate_of(part_, sections_, use.section));
  }

  void write_properties() {
    for (std::size_t u = 0; u < uses_.all.size(); ++u) {
      const deck::Uses::Use& use = uses_.all[u];
      const SectionId s = use.section;
      comment(fmt::format("section {}: {}", index(s) + 1, deck::plies_text(model_, s)));
      names_.push_back({fmt::format("{}", u + 1), "section", fmt::format("plies {}", deck::plies_text(model_, s))});
      LargeCard card("PCOMP");
      card.integer(taken_.properties + static_cast<std::int64_t>(u) + 1).real(sections_.bottom[s]);
      if (const double added = added_mass(use); added != 0.0)
        card.real(added);
      else
        card.blank();
      card.blank().blank();
      if (stress_free_)  // that of the section rules, not those of its materials
        card.real(*stress_free_);
      else
        card.blank();
      card.blank().blank();
      for (const section::LaidLayer& layer : sections_.layers_of(s))
        card.integer(taken_.materials + index(layer.material) + 1)
            .real(layer.thickness)
            .real(section::axes_of(part_, sections_, layer).degrees())
            .word(options_.ply_results ? "YES" : "NO");
      file_.write(card.text());
      properties_.push_back(card.text());
    }
  }

  /// Every section of the deck, from its cards as they were written.
  void read_back() const {
    for (std::size_t u = 0; u < uses_.all.size(); ++u)
      compare_read(model_, uses_.all[u].section, read_.section(properties_[u]),
                   {.shear = false, .expansion = true, .added = uses_.all[u].added}, 1e-6);
  }

  void write_materials() {
    std::set<part::MaterialId> used;
    for (const section::LaidLayer& layer : sections_.layers) used.insert(layer.material);
    for (const part::MaterialId m : used) {
      material::Material material = section::material_of(part_, sections_, m);
      for (const std::size_t k : cases_)
        for_each_load<Model::Temperature>(model_, model_.cases[k], [&](const Model::Temperature& heat, double) {
          if (heat.from && !material.stress_free_temperature) material.stress_free_temperature = heat.from;
        });
      names_.push_back({fmt::format("{}", index(m) + 1), "material", material.name});
      comment(fmt::format("material {}: {}", plain_text(material.name), material::name_of(material.kind)));
      const std::string text = shell_material(taken_.materials + index(m) + 1, material);
      file_.write(text);
      read_.take(text);
    }
    read_back();
  }

  void write_supports() {
    for (std::size_t number = 0; number < model_.supports.size(); ++number) {
      const Model::Support& support = model_.supports[number];
      const std::size_t set = set_of_support(number);
      comment(fmt::format("support {}", plain_text(support.name)));
      names_.push_back({fmt::format("{}", set), "support", fmt::format("support {}", support.name)});
      std::string freedoms;
      for (int i = 0; i < 6; ++i)
        if (support.held >> i & 1) freedoms += static_cast<char>('1' + i);
      const auto& nodes = support.nodes;
      if (!std::all_of(nodes.begin(), nodes.end(), [&](auto n) { return fits_small(surface_.node_ids[n]); })) {
        LargeCard card("SPC1");
        card.integer(static_cast<std::int64_t>(set)).word(freedoms);
        for (const mesh::NodeIndex n : nodes) card.integer(surface_.node_ids[n]);
        file_.write(card.text());
        continue;
      }
      file_.write_lines((nodes.size() + 5) / 6, [&](std::size_t row, std::string& text) {
        fmt::format_to(std::back_inserter(text), "{:<8}{:<8}{:<8}", "SPC1", set, freedoms);
        for (std::size_t i = 6 * row; i < std::min(nodes.size(), 6 * row + 6); ++i)
          fmt::format_to(std::back_inserter(text), "{:<8}", surface_.node_ids[nodes[i]]);
        text.erase(text.find_last_not_of(' ') + 1);
        text += '\n';
      });
    }
  }

  void write_loads() {
    for (std::size_t i = 0; i < model_.loads.size(); ++i) {
      // A link is there in every case of a deck.
      if (std::holds_alternative<Model::Link>(model_.loads[i].what) && !cases_.empty() &&
          !model_.cases[cases_.front()].acts(i))
        continue;
      comment(fmt::format("load {}", plain_text(model_.loads[i].name)));
      names_.push_back({fmt::format("{}", set_of_load(i)), "load", fmt::format("load {}", model_.loads[i].name)});
      set_ = static_cast<std::int64_t>(set_of_load(i));
      std::visit([&](const auto& what) { write_load(what); }, model_.loads[i].what);
    }
  }

  void write_vector(std::string_view card, std::int64_t node, const Vec3& v) {
    file_.write(
        LargeCard(card).integer(set_).integer(node).integer(0).real(1.0).real(v.x()).real(v.y()).real(v.z()).text());
  }

  void write_load(const Model::Force& force) {
    for (std::size_t i = 0; i < force.nodes.size(); ++i)
      write_vector("FORCE", surface_.node_ids[force.nodes[i]], force.forces[i]);
    for (std::size_t i = 0; i < force.moments.size(); ++i)
      write_vector("MOMENT", surface_.node_ids[force.nodes[i]], force.moments[i]);
  }

  void write_load(const Model::Pressure& pressure) {
    if (!pressure.along_normal) {
      comment("a pressure that varies, as the forces on nodes that it comes to on its face");
      for (std::size_t i = 0; i < pressure.nodes.size(); ++i)
        if (pressure.forces[i] != Vec3::Zero())
          write_vector("FORCE", surface_.node_ids[pressure.nodes[i]], pressure.forces[i]);
      return;
    }
    comment(
        fmt::format("{} along the element normal; these cards act on the mesh, so each value is that "
                    "pressure times the area of the pressed face over that of the mesh",
                    field(*pressure.along_normal, 16)));
    file_.write_lines(pressure.elements.size(), [&](std::size_t i, std::string& text) {
      const std::int64_t id = surface_.element_ids[pressure.elements[i]];
      const double value = *pressure.along_normal * pressure.face_ratio[i];
      if (!fits_small(value) || !fits_small(id)) {
        text += LargeCard("PLOAD4").integer(set_).integer(id).real(value).text();
        return;
      }
      text += "PLOAD4  ";
      small_integer(text, set_);
      small_integer(text, id);
      append_real(text, value, 8);
      text += '\n';
    });
  }

  void write_load(const Model::Inertia& inertia) {
    if (const double size = inertia.gravity.norm(); size > 0.0) {
      const Vec3 d = inertia.gravity / size;
      file_.write(LargeCard("GRAV").integer(set_).integer(0).real(size).real(d.x()).real(d.y()).real(d.z()).text());
    }
    if (!inertia.rotation) return;
    const part::Rotation& r = *inertia.rotation;
    // The axis goes through a point of the model: one that is held and that nothing hangs on.
    const std::int64_t node = next_node_++;
    file_.write(LargeCard("GRID")
                    .integer(node)
                    .blank()
                    .real(r.through.x())
                    .real(r.through.y())
                    .real(r.through.z())
                    .blank()
                    .integer(123456)
                    .text());
    file_.write(LargeCard("RFORCE")
                    .integer(set_)
                    .integer(node)
                    .integer(0)
                    .real(r.speed / (2.0 * std::numbers::pi))
                    .real(r.along.x())
                    .real(r.along.y())
                    .real(r.along.z())
                    .text());
  }

  void write_load(const Model::Link& link) {
    const std::int64_t node = next_node_++;
    file_.write(LargeCard("GRID").integer(node).blank().real(link.at.x()).real(link.at.y()).real(link.at.z()).text());
    LargeCard card("RBE2");
    card.integer(next_element_++).integer(node).word("123");
    for (const mesh::NodeIndex n : link.nodes) card.integer(surface_.node_ids[n]);
    file_.write(card.text());
    if (link.force != Vec3::Zero()) write_vector("FORCE", node, link.force);
    if (link.moment != Vec3::Zero()) write_vector("MOMENT", node, link.moment);
  }

  // These stand with the cases, whose factors they take.
  void write_load(const Model::Displacement&) { comment("stands with the cases"); }
  void write_load(const Model::Temperature&) { comment("stands with the cases"); }

  /// Springs to the ground along the normal at every node.
  void write_beds() {
    for (const Model::Bed& bed : model_.beds) {
      comment(fmt::format("bed {}: {} along the normal of every node, times its share of the area",
                          plain_text(bed.name), field(bed.stiffness, 16)));
      for (std::size_t i = 0; i < bed.nodes.size(); ++i) {
        const Vec3& n = bed.normals[i];
        Eigen::Index least = 0;
        n.cwiseAbs().minCoeff(&least);
        const Vec3 y = n.cross(Vec3::Unit(least)).normalized();
        const std::size_t axes = axes_.size() + ++beds_;
        const auto property = static_cast<std::int64_t>(uses_.all.size() + beds_);
        write_axes(axes, Vec3::Zero(), n, y);
        file_.write(LargeCard("PBUSH").integer(property).word("K").real(bed.stiffness * bed.areas[i]).text());
        file_.write(LargeCard("CBUSH")
                        .integer(next_element_++)
                        .integer(property)
                        .integer(surface_.node_ids[bed.nodes[i]])
                        .blank()
                        .blank()
                        .blank()
                        .blank()
                        .integer(static_cast<std::int64_t>(axes))
                        .text());
      }
    }
  }

  /// What every case puts together.
  void write_cases() {
    if (plain_) return;
    if (!cases_.empty() && model_.cases[cases_.front()].analysis == part::Analysis::large_displacements)
      line("NLPARM  1       10");
    for (const std::size_t k : cases_) {
      const Model::Case& one = model_.cases[k];
      comment(fmt::format("case {}", plain_text(one.name)));
      if (has_forces(model_, one)) {
        LargeCard card("LOAD");
        card.integer(static_cast<std::int64_t>(case_loads_from + k + 1)).real(1.0);
        for (std::size_t i = 0; i < model_.loads.size(); ++i)
          if (one.acts(i) && !std::holds_alternative<Model::Temperature>(model_.loads[i].what) &&
              !std::holds_alternative<Model::Displacement>(model_.loads[i].what))
            card.real(one.factors[i]).integer(static_cast<std::int64_t>(set_of_load(i)));
        file_.write(card.text());
      }
      if (has_supports(model_, one)) {
        LargeCard card("SPCADD");
        card.integer(static_cast<std::int64_t>(case_supports_from + k + 1));
        for (const std::size_t i : one.supports) card.integer(static_cast<std::int64_t>(set_of_support(i)));
        const auto moved = static_cast<std::int64_t>(moved_from + k + 1);
        if (has_load<Model::Displacement>(model_, one)) card.integer(moved);
        file_.write(card.text());
        for_each_load<Model::Displacement>(model_, one, [&](const Model::Displacement& displacement, double factor) {
          for (const mesh::NodeIndex n : displacement.nodes)
            for (int f = 0; f < 6; ++f)
              if (const auto& by = displacement.by[static_cast<std::size_t>(f)])
                file_.write(LargeCard("SPC")
                                .integer(moved)
                                .integer(surface_.node_ids[n])
                                .integer(f + 1)
                                .real(factor * *by)
                                .text());
        });
      }
      if (heated(one)) write_heat(k);
      if (one.analysis == part::Analysis::frequencies || one.analysis == part::Analysis::buckling)
        file_.write(
            LargeCard("EIGRL").integer(static_cast<std::int64_t>(k + 1)).blank().blank().integer(one.count).text());
    }
  }

  void write_heat(std::size_t k) {
    const double from = stress_free_.value_or(0.0);
    set_ = static_cast<std::int64_t>(heat_from + k + 1);
    // What no load warms stays free of stress.
    file_.write(LargeCard("TEMPD").integer(set_).real(from).text());
    for_each_load<Model::Temperature>(model_, model_.cases[k], [&](const Model::Temperature& heat, double factor) {
      const auto scaled = [&](double value) { return from + factor * (value - from); };
      std::map<mesh::NodeIndex, std::size_t> place;
      for (std::size_t i = 0; i < heat.nodes.size(); ++i) {
        place.emplace(heat.nodes[i], i);
        if (!heat.through)
          file_.write(LargeCard("TEMP")
                          .integer(set_)
                          .integer(surface_.node_ids[heat.nodes[i]])
                          .real(scaled(heat.tool[i]))
                          .text());
      }
      if (!heat.through) return;
      for (const ElementIndex e : heat.elements) {
        double tool = 0.0, bag = 0.0;
        const auto corners = surface_.corners_of(e);
        for (const mesh::NodeIndex n : corners) {
          tool += scaled(heat.tool[place.at(n)]) / static_cast<double>(corners.size());
          bag += scaled(heat.bag[place.at(n)]) / static_cast<double>(corners.size());
        }
        const double h = sections_.thickness[sections_.section_of[e]];
        file_.write(LargeCard("TEMPP1")
                        .integer(set_)
                        .integer(surface_.element_ids[e])
                        .real(0.5 * (tool + bag))
                        .real((bag - tool) / h)
                        .text());
      }
    });
  }

  const Model& model_;
  const part::Part& part_;
  const section::Sections& sections_;
  const mesh::Surface& surface_;
  const deck::WriteOptions& options_;
  std::vector<std::size_t> cases_;
  std::optional<double> stress_free_;  ///< where a case is warmed
  deck::Uses uses_;
  bool plain_ = true;
  OutputFile& file_;
  Taken taken_;
  std::vector<deck::Stands> names_;
  std::vector<Model::Axes> axes_;
  std::map<mesh::NodeIndex, std::size_t> axes_of_;  ///< nodes that supports hold along axes of their own
  std::size_t beds_ = 0;
  std::int64_t set_ = load_set, next_node_ = 0, next_element_ = 0;
  std::string path_;
  CardsRead read_;
  std::vector<std::string> properties_;  ///< per use
};

}  // namespace

namespace {

void tell_shear(const Model& model, Findings& findings) {
  std::set<std::string> names;
  for (const section::LaidLayer& layer : model.design->sections.layers) {
    const material::Material& material =
        section::material_of(model.design->part, model.design->sections, layer.material);
    if (shears_not(material)) names.insert(material.name);
  }
  if (names.empty()) return;
  std::vector<std::string> all(names.begin(), names.end());
  findings.warning(
      "deck.shear-unsaid",
      fmt::format("{}: what couples pulling and shear in them has a place on a card (MAT2) that has none for "
                  "transverse shear moduli: how far such plies shear through the thickness is left to the "
                  "solver",
                  listed(all, 6)),
      Place::in(model.design->part.file),
      "matters for thick laminates; cloth of equal yarns has axes in which a card holds all, and so have solids "
      "and the decks of CalculiX");
}

}  // namespace

deck::Written write_shells(const Model& model, const std::string& path, const deck::WriteOptions& options,
                           Findings& findings) {
  tell_shear(model, findings);
  OutputFile file(path, options.may_replace);
  deck::Written out = ShellsWriter(model, file, path, options, {}).write();
  file.commit();
  return out;
}

deck::Written put_laminate(const Model& model, OutputFile& file, const std::string& path,
                           const deck::WriteOptions& options, const Taken& taken, Findings& findings) {
  tell_shear(model, findings);
  deck::WriteOptions own = options;
  own.laminate_only = true;
  return ShellsWriter(model, file, path, own, taken).write();
}

}  // namespace bordado::bulk_data
