// Bulk data decks: the public cards that many solvers read. Large-field format (16 characters a number) wherever a
// number matters, small fields for ids.
#include <bordado/deck/solid_carrier.hpp>
#include <bordado/deck/uses.hpp>
#include <bordado/deck/writing.hpp>
#include <bordado/design.hpp>
#include <bordado/strength.hpp>
#include "card.hpp"
#include "case_cards.hpp"
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

class ShellsWriter {
 public:
  ShellsWriter(const Model& model, OutputFile& file, const std::string& path, const deck::WriteOptions& options,
               const Taken& taken, Findings& findings)
      : model_(model),
        part_(model.design->part),
        sections_(model.design->sections),
        surface_(model.surface),
        options_(options),
        cases_(options.laminate_only ? std::vector<std::size_t>() : deck::wanted_cases(model, options)),
        stress_free_(deck::only_stress_free(model, cases_)),
        uses_(deck::uses(model, {}, false)),
        findings_(findings),
        file_(file),
        taken_(taken),
        path_(path) {
    if (!options.laminate_only)
      cases_cards_.emplace(model, cases_, file, names_, static_cast<std::int64_t>(uses_.all.size()));
  }

  deck::Written write() {
    write_head();
    write_names();
    if (!options_.laminate_only) write_nodes();
    write_elements();
    if (without_layers()) {
      write_sections_without_layers();
    } else {
      write_properties();
      write_materials();
    }
    if (!options_.laminate_only) {
      cases_cards_->write();
      line("ENDDATA");
    }
    deck::Written out = deck::summary(model_, options_, file_, path_);
    out.names = std::move(names_);
    if (without_layers()) out.equivalent_sections = sections_.count();
    return out;
  }

 private:
  static constexpr std::size_t most_runs = 200;

  bool without_layers() const { return options_.layers == deck::LayersAs::equivalents; }

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
    cases_cards_->write_control(
        {.layers = options_.ply_results && !without_layers(), .sections = without_layers(), .sets = sets_of_zones()});
  }

  std::vector<std::int64_t> ids_of(zone::ZoneId z) const {
    std::vector<std::int64_t> ids;
    for (const ElementIndex e : model_.design->layup.zones.elements(z)) ids.push_back(surface_.element_ids[e]);
    std::sort(ids.begin(), ids.end());
    return ids;
  }

  /// A set of elements for each zone, by number: these have no names. Output can be asked for by it.
  std::string sets_of_zones() {
    const zone::ZoneSets& zones = model_.design->layup.zones;
    std::string out;
    std::size_t number = 0;
    for (const zone::ZoneId z : zones.declared()) {
      const std::vector<std::int64_t> ids = ids_of(z);
      if (ids.empty()) continue;
      ++number;
      names_.push_back({fmt::format("set {}", number), "element set", fmt::format("zone {}", zones.names[z])});
      for (const std::string& part : deck::wrapped(fmt::format("set {}: zone {}", number, plain_text(zones.names[z]))))
        out += "$ " + part + "\n";
      std::string now = fmt::format("SET {} = ", number);
      bool first = true;
      for (const auto& [from, to] : deck::runs_of(ids)) {
        // Two that follow each other are no run to some readers.
        const std::string text = from == to       ? fmt::format("{}", from)
                                 : to == from + 1 ? fmt::format("{}, {}", from, to)
                                                  : fmt::format("{} THRU {}", from, to);
        if (!first) now += ",";
        if (now.size() + text.size() > 68) {
          out += now + "\n";
          now = "        ";
        } else if (!first) {
          now += " ";
        }
        now += text;
        first = false;
      }
      out += now + "\n";
    }
    return out;
  }

  /// Which zones are where, as runs of ids, where the bulk data stand alone: sets stand before them.
  void write_names() {
    if (!options_.laminate_only) return;
    const zone::ZoneSets& zones = model_.design->layup.zones;
    for (const zone::ZoneId z : zones.declared()) {
      const std::vector<std::int64_t> ids = ids_of(z);
      std::string runs;
      std::size_t count = 0;
      for (const auto& [first, last] : deck::runs_of(ids))
        if (count++ < most_runs)
          runs += first == last ? fmt::format(" {}", first) : fmt::format(" {} to {}", first, last);
      if (count > most_runs) runs += fmt::format(" and {} more runs", count - most_runs);
      if (!ids.empty()) comment(fmt::format("zone {}: elements{}", plain_text(zones.names[z]), runs));
    }
  }

  void write_nodes() {
    file_.write_lines(surface_.points.size(), [&](std::size_t i, std::string& text) {
      const Vec3& p = surface_.points[i];
      text += "GRID*   ";
      padded(text, 32, [&] { append_integer(text, surface_.node_ids[i]); });
      padded(text, 16, [&] { append_real(text, p.x(), 16); });
      append_real(text, p.y(), 16);
      text += "\n*       ";
      const auto own = cases_cards_->axes_of(static_cast<mesh::NodeIndex>(i));
      if (!own) {
        append_real(text, p.z(), 16);
      } else {
        padded(text, 16, [&] { append_real(text, p.z(), 16); });
        append_integer(text, *own);
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
      write_judge(card, s);
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

  /// Of draped cloth: its card is in axes along the diagonal of its cells, its strengths along warp and weft.
  bool is_sheared(part::MaterialId m) const { return index(m) >= part_.materials.size(); }
  /// The material of the part that a layer is of, however far it is sheared.
  part::MaterialId part_of(const section::LaidLayer& layer) const {
    return model_.design->layup.plies[layer.ply].material;
  }

  /// What layers are judged by, where every material of the section has the strengths for it.
  void write_judge(LargeCard& card, SectionId s) {
    const std::string_view theory = options_.judged_by ? word_for(*options_.judged_by) : std::string_view();
    std::optional<double> bond;
    for (const section::LaidLayer& layer : sections_.layers_of(s)) {
      if (theory.empty()) break;
      const material::Material& m = section::material_of(part_, sections_, layer.material);
      std::string_view missing = missing_for_cards(*options_.judged_by, m);
      if (is_sheared(layer.material)) missing = "along the axes of its sheared cells";
      if (!missing.empty()) {
        unjudged_.emplace(part_.materials[part_of(layer)].name, missing);
        card.blank().blank();
        return;
      }
      if (const auto own = bond_strength(m)) bond = std::min(bond.value_or(*own), *own);
    }
    if (!theory.empty() && !bond) unjudged_.emplace("the bond between layers", "S13 or S23 of one of them");
    if (theory.empty() || !bond) {
      card.blank().blank();
      return;
    }
    card.real(*bond).word(theory);
    ++judged_;
  }
  void tell_judges() const {
    if (!options_.judged_by) return;
    std::vector<std::string> lacking;
    for (const auto& [name, missing] : unjudged_) lacking.push_back(fmt::format("{} ({})", name, missing));
    const std::string text = fmt::format("properties that say their layers are judged by {}: {} of {}",
                                         laminate::name_of(*options_.judged_by), judged_, uses_.all.size());
    if (lacking.empty())
      findings_.note("deck.judged", text, Place::in(part_.file));
    else
      findings_.warning("deck.judged", fmt::format("{}: there is no strength of {}", text, listed(lacking, 6)),
                        Place::in(part_.file),
                        "a card needs the strengths of all layers; 'bordado stress' judges those that have them, cores "
                        "and faces, too");
  }

  /// A property whose stretching, bending, transverse shear and coupling are a material each. With T the thickness:
  ///   N = T G1 e + T² G4 x    M = T² G4 e + T³/12 G2 x    Q = T G3 g
  /// about the mesh, where x is the curvature of these cards: a strain is e - z x, so that G4 is -B / T². Warmed by one
  /// kelvin, what holds it is T G1 a1 and T² G4 a4; a2 is of a gradient through the thickness.
  void write_sections_without_layers() {
    comment(
        "sections without layers: materials of stretching, bending, transverse shear and coupling, about the mesh. "
        "Coupling is -B over the square of the thickness: on these cards the strain at z is that of the mesh less z "
        "times "
        "the curvature");
    std::set<SectionId> written;
    std::size_t unsaid = 0;
    double most_unsaid = 0.0;
    List<SectionId, std::string> materials(sections_.count());
    for (std::size_t u = 0; u < uses_.all.size(); ++u) {
      const deck::Uses::Use& use = uses_.all[u];
      const SectionId s = use.section;
      const std::int64_t first = taken_.materials + 4 * static_cast<std::int64_t>(index(s));
      const std::vector<laminate::Layer> layers = section::laminate_of(part_, sections_, s);
      const Homogenised made = homogenised(layers, sections_.bottom[s], stress_free_);
      const double T = sections_.thickness[s];
      comment(fmt::format("section {}: {}", index(s) + 1, deck::plies_text(model_, s)));
      names_.push_back({fmt::format("{}", u + 1), "section", fmt::format("plies {}", deck::plies_text(model_, s))});
      LargeCard card("PSHELL");
      card.integer(taken_.properties + static_cast<std::int64_t>(u) + 1).integer(first + 1).real(T).integer(first + 2);
      card.real(1.0).integer(first + 3).real(1.0);
      if (use.added != 0.0)
        card.real(use.added);
      else
        card.blank();
      card.real(sections_.bottom[s]).real(sections_.bottom[s] + T);
      if (made.couples) card.integer(first + 4);
      file_.write(card.text());
      if (written.insert(s).second) {
        for (std::int64_t k = 0; k < (made.couples ? 4 : 3); ++k) {
          static constexpr std::string_view of[] = {"stretching", "bending", "transverse shear", "coupling"};
          names_.push_back(
              {fmt::format("{}", first + k + 1), "material", fmt::format("{} of section {}", of[k], index(s) + 1)});
          materials[s] += made.card(static_cast<std::size_t>(k), first + k + 1);
        }
        file_.write(materials[s]);
        if (made.moment_unsaid > 1e-6) ++unsaid, most_unsaid = std::max(most_unsaid, made.moment_unsaid);
      }
      CardsRead read;
      read.take(materials[s]);
      compare_read(model_, s, read.section(card.text()),
                   {.shear = true, .expansion = made.moment_unsaid <= 1e-6, .added = use.added}, 1e-6);
    }
    findings_.note(
        "deck.without-layers",
        fmt::format("{} without layers: each has its laminate's stiffness about the mesh, transverse shear, mass "
                    "and expansion, and no ply's stress",
                    counted(sections_.count(), "section")),
        Place::in(part_.file));
    if (unsaid > 0)
      findings_.warning("deck.bends-when-warmed",
                        fmt::format("{} bend when they are warmed in a way that cards without layers cannot say: up to "
                                    "{:.2g} % of what their layers push is left out",
                                    counted(unsaid, "section"), 100.0 * most_unsaid),
                        Place::in(part_.file), "write layers where the part is warmed");
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
      if (is_sheared(m)) material.strength = {}, material.strain_limits = {};
      for (const std::size_t k : cases_)
        for_each_load<Model::Temperature>(model_, model_.cases[k], [&](const Model::Temperature& heat, double) {
          if (heat.from && !material.stress_free_temperature) material.stress_free_temperature = heat.from;
        });
      names_.push_back({fmt::format("{}", index(m) + 1), "material", material.name});
      comment(fmt::format("material {}: {}", plain_text(material.name), material::name_of(material.kind)));
      const std::string text = shell_material(taken_.materials + index(m) + 1, material, options_.judged_by);
      file_.write(text);
      read_.take(text);
    }
    read_back();
    tell_judges();
  }

  const Model& model_;
  const part::Part& part_;
  const section::Sections& sections_;
  const mesh::Surface& surface_;
  const deck::WriteOptions& options_;
  std::vector<std::size_t> cases_;
  std::optional<double> stress_free_;  ///< where a case is warmed
  deck::Uses uses_;
  Findings& findings_;
  OutputFile& file_;
  Taken taken_;
  std::vector<deck::Stands> names_;
  std::optional<CaseCards> cases_cards_;  ///< none where the laminate alone is written
  std::string path_;
  CardsRead read_;
  std::vector<std::string> properties_;               ///< per use
  std::map<std::string, std::string> unjudged_ = {};  ///< materials, and what they lack
  std::size_t judged_ = 0;                            ///< uses
};

}  // namespace

namespace {

void tell_shear(const Model& model, const deck::WriteOptions& options, Findings& findings) {
  if (options.layers == deck::LayersAs::equivalents) return;  // they have the laminate's
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
  tell_shear(model, options, findings);
  OutputFile file(path, options.may_replace);
  deck::Written out = ShellsWriter(model, file, path, options, {}, findings).write();
  file.commit();
  return out;
}

deck::Written put_laminate(const Model& model, OutputFile& file, const std::string& path,
                           const deck::WriteOptions& options, const Taken& taken, Findings& findings) {
  tell_shear(model, options, findings);
  deck::WriteOptions own = options;
  own.laminate_only = true;
  return ShellsWriter(model, file, path, own, taken, findings).write();
}

}  // namespace bordado::bulk_data
