// CalculiX decks. What the solver does with them was measured with ccx 2.20 and stands, numbered, in docs/calculix.md;
// a number in brackets below names the row.
#include <bordado/deck/uses.hpp>
#include <bordado/deck/writing.hpp>
#include <bordado/design.hpp>
#include "axes.hpp"
#include "findings.hpp"
#include "materials.hpp"
#include "read_back.hpp"
#include "set_names.hpp"
#include "shell_carrier.hpp"
#include "writers.hpp"

#include <bordado/base/text.hpp>

#include <fmt/format.h>
#include <Eigen/Geometry>
#include <Eigen/LU>

#include <algorithm>
#include <array>
#include <cmath>
#include <map>
#include <set>
#include <unordered_map>
#include <utility>

namespace bordado::calculix {

namespace {

using mesh::ElementIndex;
using mesh::NodeIndex;
using section::SectionId;

class ShellsWriter {
 public:
  ShellsWriter(const Model& model, OutputFile& file, const std::string& path, const deck::WriteOptions& options,
               const Placement& placement, Findings& findings)
      : model_(model),
        part_(model.design->part),
        sections_(model.design->sections),
        surface_(model.surface),
        options_(options),
        findings_(findings),
        file_(file),
        prefix_(placement.prefix),
        plan_(model, options, placement.upside_down, findings),
        path_(path) {}

  deck::Written write() {
    if (options_.laminate_only) check_ids();
    write_head();
    file_.begin_fingerprint();  // what is said above changes with the version
    if (!options_.laminate_only) {
      carrier_.emplace(model_, plan_.cases, *plan_.survey, requests(), plan_.heated,
                       deck::common_stress_free(model_, plan_.cases));
      write_mesh();
      write_overlay();
      carrier_->write_beds(file_, names_);
      write_named_sets();
    }
    write_materials();
    write_orientations();
    write_sections();
    read_back();
    if (carrier_) marks_ = StepWriter(model_, plan_.cases, *carrier_, *carrier_, file_, names_).write();
    report(plan_, findings_);
    deck::Written out = deck::summary(model_, options_, file_, path_);
    out.names = std::move(names_);
    out.marks = std::move(marks_);
    out.equivalent_sections = plan_.standing.equivalents();
    if (plan_.standing.cores().fitted > 0)
      out.shear_fit =
          deck::ShearFits{plan_.standing.cores().fitted, plan_.standing.cores().worst, plan_.standing.cores().leftover};
    out.orientations = plan_.orientations();
    out.largest_orientation_error = Angle::radians(plan_.grouping.largest_error);
    return out;
  }

 private:
  void line(std::string_view text) {
    file_.write(text);
    file_.write("\n");
  }
  void comment(std::string_view text) { file_.write(comment_lines(text)); }

  /// The ids are those of the deck that this one is included in.
  void check_ids() const {
    for (ElementIndex e = 0; e < surface_.element_count(); ++e)
      if (surface_.element_ids[e] < 1 || surface_.element_ids[e] > 2147483647)
        throw Failure({Severity::error, "deck.id-too-long",
                       fmt::format("element id {} is none that this solver can hold", surface_.element_ids[e]),
                       surface_.place_of(e), "number the elements from 1 to 2147483647"});
  }

  void write_head() {
    for (const std::string& text : deck::head_lines(model_, "CalculiX deck", options_)) comment(text);
    comment(fmt::format(
        "{} element groups by section and axes; {} orientations, shared within {:g} deg (largest error {:.3g} deg)",
        plan_.grouping.groups.size(), plan_.orientations(), options_.orientation_tolerance.degrees(),
        Angle::radians(plan_.grouping.largest_error).degrees()));
    if (plan_.standing.cores().fitted > 0) {
      comment(fmt::format(
          "{} with a core: this solver adds up G*t over the layers and would be up to {:.3g} times too stiff "
          "in transverse shear; "
          "materials named ..._SHEARn carry equivalent G13, G23 so that section n has its true shear stiffness",
          counted(plan_.standing.cores().fitted, "section"), plan_.standing.cores().worst));
    }
    if (options_.laminate_only) {
      comment(
          "to be included in a deck whose layered shells are S8R or S6 with the element ids and node order of the mesh "
          "file turned to the declared side; "
          "materials, orientations, element sets and sections are here, mesh, supports and loads are not");
    }
  }

  void write_mesh() {
    line("*NODE, NSET=NALL");
    file_.write_lines(surface_.points.size(), [&](std::size_t i, std::string& text) {
      append_integer(text, surface_.node_ids[i]);
      for (const double x : plan_.survey ? plan_.survey->place(static_cast<mesh::NodeIndex>(i)) : surface_.points[i]) {
        text += ',';
        append_real(text, x);
      }
      text += '\n';
    });
    for (const mesh::Shape shape : {mesh::Shape::quadrilateral8, mesh::Shape::triangle6}) {
      std::vector<ElementIndex> elements;
      for (ElementIndex e = 0; e < surface_.element_count(); ++e)
        if (surface_.shapes[e] == shape) elements.push_back(e);
      if (elements.empty()) continue;
      line(fmt::format("*ELEMENT, TYPE={}, ELSET=EALL", shape == mesh::Shape::quadrilateral8 ? "S8R" : "S6"));
      file_.write_lines(elements.size(), [&](std::size_t i, std::string& text) {
        std::array<std::int64_t, 9> numbers{surface_.element_ids[elements[i]]};
        const auto nodes = surface_.nodes_of(elements[i]);
        for (std::size_t k = 0; k < nodes.size(); ++k) numbers[k + 1] = surface_.node_ids[nodes[k]];
        append_integers(text, std::span(numbers).first(nodes.size() + 1));
        text += '\n';
      });
    }
  }

  /// Elements at loaded nodes once more [35].
  void write_overlay() {
    const auto overlay = plan_.survey->overlay();
    if (overlay.empty()) return;
    comment(
        "elements at loaded nodes once more, nearly without stiffness and mass and a hair's breadth off: they tie the "
        "layers there, so that forces along the surface enter them as the laminate bears them");
    const SectionId first = sections_.section_of[overlay.front()];
    const auto layers = section::laminate_of(part_, sections_, first);
    const double h = sections_.thickness[first];
    constexpr double hardly = 1e-8;
    const std::string material = element_set_names_.fit("TIES", "TIES");
    file_.write(fmt::format("*MATERIAL, NAME={}\n*ELASTIC\n{},0.\n*DENSITY\n{}\n", material,
                            real(hardly * 0.5 * laminate::stiffness(layers, 0.0).A.trace() / h),
                            real(std::max(hardly * laminate::areal_mass(layers) / h, 1e-30))));
    // One set for each thickness and place of the laminate.
    std::map<std::pair<double, double>, std::vector<ElementIndex>> alike;
    for (const ElementIndex e : overlay) {
      const SolverBox& box = plan_.standing.box(sections_.section_of[e]);
      alike[{box.thickness, box.bottom}].push_back(e);
    }
    std::int64_t id = *std::max_element(surface_.element_ids.begin(), surface_.element_ids.end());
    for (const auto& [box, elements] : alike) {
      const std::string name = element_set_names_.fit("TIES", "TIES");
      names_.push_back({name, "element set", "elements at loaded nodes, which tie the layers there"});
      for (const mesh::Shape shape : {mesh::Shape::quadrilateral8, mesh::Shape::triangle6}) {
        std::string text;
        for (const ElementIndex e : elements) {
          if (surface_.shapes[e] != shape) continue;
          text += std::to_string(++id);
          for (const NodeIndex n : surface_.nodes_of(e)) text += fmt::format(",{}", surface_.node_ids[n]);
          text += '\n';
        }
        if (text.empty()) continue;
        line(fmt::format("*ELEMENT, TYPE={}, ELSET={}", shape == mesh::Shape::quadrilateral8 ? "S8R" : "S6", name));
        file_.write(text);
      }
      const double offset = -(box.second / box.first + 0.5) + 1e-6;
      line(fmt::format("*SHELL SECTION, MATERIAL={}, ELSET={}, OFFSET={}", material, name, real(offset)));
      line(real(box.first));
    }
  }

  /// The zones and groups of the part under their own names, for whoever adds to the deck.
  void write_named_sets() {
    const zone::ZoneSets& zones = model_.design->layup.zones;
    for (const zone::ZoneId z : zones.declared()) {
      const std::vector<ElementIndex> elements = zones.elements(z);
      if (elements.empty()) continue;
      comment(fmt::format("zone {}", plain_text(zones.names[z])));
      const std::string name = element_set_names_.fit(zones.names[z], "ZONE");
      write_set("ELSET", name, elements, surface_.element_ids);
      names_.push_back({name, "element set", fmt::format("zone {}", zones.names[z])});
    }
    for (const mesh::Group& group : surface_.groups) {
      std::vector<NodeIndex> nodes = group.points;
      for (const mesh::Edge& edge : group.edges)
        for (const NodeIndex node : {edge.first, edge.second, edge.middle})
          if (node != mesh::no_index) nodes.push_back(node);
      std::sort(nodes.begin(), nodes.end());
      nodes.erase(std::unique(nodes.begin(), nodes.end()), nodes.end());
      if (nodes.empty()) continue;
      comment(fmt::format("mesh group {}", plain_text(group.name)));
      const std::string name = node_set_names_.fit(group.name, "GROUP");
      write_set("NSET", name, nodes, surface_.node_ids);
      names_.push_back({name, "node set", fmt::format("mesh group {}", group.name)});
    }
  }

  static std::vector<std::int64_t> ids_of(std::span<const std::uint32_t> members, std::span<const std::int64_t> ids) {
    std::vector<std::int64_t> out;
    out.reserve(members.size());
    for (const std::uint32_t member : members) out.push_back(ids[member]);
    return out;
  }

  void write_set(std::string_view kind, std::string_view name, std::span<const std::uint32_t> members,
                 std::span<const std::int64_t> ids) {
    set_lines(kind, name, ids_of(members, ids), [&](const std::string& head, std::size_t lines, const auto& append) {
      file_.write(head);
      file_.write_lines(lines, append);
    });
  }

  const material::Material& material_of(part::MaterialId material) const {
    return section::material_of(part_, sections_, material);
  }

  std::string material_name(part::MaterialId material) const {
    return fmt::format("{}M{}_{}", prefix_, index(material) + 1, deck::solver_name(material_of(material).name));
  }

  /// Whether the layers of a use have materials of their own: they carry something, or know what they are warmed to.
  bool has_own(const deck::Uses::Use& use) const { return use.added > 0.0 || use.heat; }

  void write_materials() {
    std::set<part::MaterialId> plain;
    for (const deck::Uses::Use& use : plan_.uses.all) {
      const SectionId s = use.section;
      if (has_own(use) || plan_.standing.box(s).equivalents || section::density_factor(sections_, s) != 1.0) continue;
      for (const section::LaidLayer& layer : sections_.layers_of(s))
        if (!plan_.standing.cores().fits[s] || material::is_core(material_of(layer.material).kind))
          plain.insert(layer.material);
    }
    for (const part::MaterialId m : plain) {
      comment(fmt::format("material {}: {}", plain_text(material_of(m).name), material::name_of(material_of(m).kind)));
      put(material_text(material_name(m), material_of(m), MaterialUse::shell));
      names_.push_back({material_name(m), "material", material_of(m).name});
    }
    for (std::size_t u = 0; u < plan_.uses.all.size(); ++u) {
      if (const auto& same = plan_.uses.all[u].upside_down) {
        layer_materials_.push_back(layer_materials_[*same]);
        continue;
      }
      layer_materials_.emplace_back();
      if (plan_.standing.box(plan_.uses.all[u].section).equivalents)
        write_equivalents(u);
      else
        write_plies(u);
    }
  }

  /// Writes cards of materials, and keeps them to be read back.
  void put(std::string_view text) {
    file_.write(text);
    read_.take(text);
  }

  /// Every section of the deck, one group of elements of each use, from the text as it was written.
  void read_back() {
    std::vector<std::uint8_t> seen(plan_.uses.all.size(), 0);
    for (std::size_t g = 0; g < plan_.grouping.groups.size(); ++g) {
      const ElementGroup& group = plan_.grouping.groups[g];
      const deck::Uses::Use& use = plan_.uses.all[group.use];
      if (std::exchange(seen[group.use], std::uint8_t{1})) continue;
      std::string orientations, card;
      append_orientations(group.axes, orientations);
      read_.take(orientations);
      append_card(g, 1, card);
      const SolverBox& box = plan_.standing.box(use.section);
      // Where materials carry what they are warmed to, their expansion is that of cases.
      const deck::Held held{box.equivalents.has_value(), !use.heat, use.added};
      // Thicknesses within a millionth are made equal, which counts three times in D.
      const auto& axes = plan_.grouping.axes[group.axes];
      const deck::SectionRead read =
          use.upside_down ? turned_over(read_.section(card, axes.r, -axes.n)) : read_.section(card, axes.r, axes.n);
      compare_read(model_, use.section, read, held, 1e-5);
    }
  }

  void write_plies(std::size_t u) {
    const deck::Uses::Use& use = plan_.uses.all[u];
    const SectionId s = use.section;
    const auto layers = sections_.layers_of(s);
    std::unordered_map<std::string, std::string> made;  // equal constants share a material
    const double factor = section::density_factor(sections_, s);
    const std::string_view word = has_own(use) ? "USE" : plan_.standing.cores().fits[s] ? "SHEAR" : "MASS";
    for (std::size_t i = 0; i < layers.size(); ++i) {
      const material::Material& base = material_of(layers[i].material);
      std::string name = material_name(layers[i].material);
      const bool softer = plan_.standing.cores().fits[s] && !material::is_core(base.kind);
      if (softer || has_own(use) || factor != 1.0) {
        material::Material own = base;
        if (own.density) *own.density *= factor;
        own.elastic = *plan_.standing.layers_of(s)[i].elastic;
        if (use.added > 0.0) own.density = own.density.value_or(0.0) + use.added / sections_.thickness[s];
        std::vector<Vec3> strains;
        if (use.heat) strains = heat_strains(use, i);
        std::string key =
            fmt::format("{} {} {}", index(layers[i].material), real(own.elastic.G13), real(own.elastic.G23));
        for (const Vec3& strain : strains)
          key += fmt::format(" {} {} {}", real(strain[0]), real(strain[1]), real(strain[2]));
        auto& known = made[key];
        if (known.empty()) {
          const std::string number = made.size() > 1 ? fmt::format("_{}", made.size()) : "";
          known = fmt::format("{}_{}{}{}", name, word, has_own(use) ? u + 1 : index(s) + 1, number);
          put(use.heat ? heated_material(known, own, strains) : material_text(known, own, MaterialUse::shell));
          names_.push_back({known, "material", fmt::format("{} in section {}", base.name, index(s) + 1)});
        }
        name = known;
      }
      layer_materials_.back().push_back(std::move(name));
    }
  }

  /// What a layer expands by in each case, in its material's axes: of a temperature that varies through it the mean.
  std::vector<Vec3> heat_strains(const deck::Uses::Use& use, std::size_t layer) const {
    const material::Expansion& thermal = material_of(sections_.layers_of(use.section)[layer].material).thermal;
    const Vec3 a = thermal.all();
    std::vector<Vec3> out;
    for (const std::optional<model::Warmth>& heat : plan_.uses.heats[*use.heat]) {
      const double above = heat ? plan_.standing.above(use.section, layer, *heat) : 0.0;
      out.push_back({above * a[0], above * a[1], above * thermal.shear.value_or(0.0)});
    }
    return out;
  }

  /// The same of three layers that stand for the section, in its axes: exactly what the laminate would push and bend.
  std::vector<std::vector<LayerExpansion>> equivalent_strains(const deck::Uses::Use& use) const {
    std::vector<std::vector<LayerExpansion>> out;
    for (const std::optional<model::Warmth>& heat : plan_.uses.heats[*use.heat])
      out.push_back(heat ? plan_.standing.expansions(use.section, *heat, false)
                         : std::vector<LayerExpansion>(3, LayerExpansion{laminate::Vector3::Zero(), 0.0}));
    return out;
  }

  /// Three materials of no material: their plane stiffnesses are the ones that make A, B and D [22].
  void write_equivalents(std::size_t u) {
    const deck::Uses::Use& use = plan_.uses.all[u];
    const SectionId s = use.section;
    const ThreeLayers& three = *plan_.standing.box(s).equivalents;
    comment(fmt::format("section {} as three layers with its A, B, D, H, mass and expansion{}", index(s) + 1,
                        has_own(use) ? fmt::format(", use {}", u + 1) : ""));
    std::vector<std::vector<LayerExpansion>> heated;
    if (use.heat) heated = equivalent_strains(use);
    const double through = stiffness_through(three);
    for (std::size_t i = 0; i < 3; ++i) {
      const laminate::Matrix3& Q = three.Q[i];
      const laminate::Matrix2& G = three.G;
      const std::string name =
          fmt::format("{}E{}_{}{}", prefix_, index(s) + 1, i + 1, has_own(use) ? fmt::format("_USE{}", u + 1) : "");
      names_.push_back({name, "material", fmt::format("section {}, equivalent layer {} of 3", index(s) + 1, i + 1)});
      layer_materials_.back().push_back(name);
      std::string text = fmt::format("*MATERIAL, NAME={}\n*ELASTIC, TYPE=ANISO\n", name);
      text += fmt::format("{},{},{},0.,0.,{},{},{}\n", real(Q(0, 0)), real(Q(0, 1)), real(Q(1, 1)), real(through),
                          real(Q(0, 2)), real(Q(1, 2)));
      text += fmt::format("0.,{},0.,0.,0.,0.,{},0.\n", real(Q(2, 2)), real(G(0, 0)));
      text += fmt::format("0.,0.,0.,{},{}\n", real(G(0, 1)), real(G(1, 1)));
      if (use.heat) {
        std::vector<Vec3> strains;
        for (const auto& one : heated) strains.push_back(one[i].plane);
        text += expansion_by_number(strains);
      } else if (const laminate::Vector3& a = three.expansion[i]; a.norm() > 0.0) {
        text += fmt::format("*EXPANSION, TYPE=ANISO\n{},{},0.,{},0.,0.\n", real(a[0]), real(a[1]), real(0.5 * a[2]));
      }
      if (const double density = three.density[i] + use.added / three.thickness; density > 0.0)
        text += fmt::format("*DENSITY\n{}\n", real(density));
      put(text);
    }
  }

  /// Directions are written out: the solver projects the first on the element's plane and takes n from the element
  /// [3].
  void write_orientations() {
    first_orientation_.assign(1, 1);
    for (std::size_t a = 0; a < plan_.angles.size(); ++a)
      first_orientation_.push_back(first_orientation_.back() + plan_.angles[a].size());
    file_.write_lines(plan_.angles.size(), [&](std::size_t a, std::string& text) { append_orientations(a, text); });
  }

  void append_orientations(std::size_t a, std::string& text) const {
    std::size_t number = first_orientation_[a];
    for (const double degrees : plan_.angles[a]) {
      const Vec3 fibre = frame::turned(plan_.grouping.axes[a].r, plan_.grouping.axes[a].n, Angle::degrees(degrees));
      const Vec3 across = plan_.grouping.axes[a].n.cross(fibre);
      text += "*ORIENTATION, NAME=";
      text += prefix_;
      text += 'O';
      append_integer(text, static_cast<std::int64_t>(number++));
      text += '\n';
      for (int i = 0; i < 6; ++i) {
        append_real(text, i < 3 ? fibre[i] : across[i - 3]);
        text += i == 5 ? '\n' : ',';
      }
    }
  }

  std::size_t orientation(std::uint32_t axes, Angle angle) const {
    const auto& angles = plan_.angles[axes];
    return first_orientation_[axes] +
           static_cast<std::size_t>(std::distance(angles.begin(), angles.find(angle.degrees())));
  }

  void write_sections() {
    const std::size_t copies = plan_.survey ? plan_.survey->card_copies() : 1;
    if (copies > 1)
      comment(fmt::format(
          "each section card stands {} times: its copies change nothing but the size of the solver's arrays", copies));
    const auto& groups = plan_.grouping.groups;
    constexpr std::size_t large = 20000;  // elements: its lines are worth all cores; small groups are made side by side
    for (std::size_t g = 0; g < groups.size();) {
      std::size_t end = g;
      while (end < groups.size() && groups[end].elements.size() < large) ++end;
      file_.write_lines(end - g, [&](std::size_t i, std::string& text) {
        text += section_head(g + i);
        set_lines("ELSET", fmt::format("{}G{}", prefix_, g + i + 1),
                  ids_of(groups[g + i].elements, surface_.element_ids),
                  [&](const std::string& head, std::size_t lines, const auto& append) {
                    text += head;
                    for (std::size_t k = 0; k < lines; ++k) append(k, text);
                  });
        append_card(g + i, copies, text);
      });
      g = end;
      if (g == groups.size()) break;
      file_.write(section_head(g));
      write_set("ELSET", fmt::format("{}G{}", prefix_, g + 1), groups[g].elements, surface_.element_ids);
      std::string text;
      append_card(g++, copies, text);
      file_.write(text);
    }
  }

  std::string section_head(std::size_t g) const {
    return comment_lines(fmt::format("G{}: {}", g + 1, deck::plies_text(model_, section_of(g))));
  }

  SectionId section_of(std::size_t g) const { return plan_.uses.all[plan_.grouping.groups[g].use].section; }

  void append_card(std::size_t g, std::size_t copies, std::string& text) const {
    const ElementGroup& group = plan_.grouping.groups[g];
    const SectionId s = section_of(g);
    // The solver's offset: mid-surface = node - OFFSET t n.
    const SolverBox& box = plan_.standing.box(s);
    const bool upside_down = plan_.uses.all[group.use].upside_down.has_value();
    const double offset = (upside_down ? 1.0 : -1.0) * (box.bottom / box.thickness + 0.5);
    std::string card = fmt::format("*SHELL SECTION, COMPOSITE, ELSET={}G{}, OFFSET={}\n", prefix_, g + 1,
                                   real(std::abs(offset) < 1e-12 ? 0.0 : offset));
    const auto layers = plan_.standing.layers_of(s);
    for (std::size_t k = 0; k < layers.size(); ++k) {
      const std::size_t i = upside_down ? layers.size() - 1 - k : k;
      card += fmt::format("{},,{},{}O{}\n", real(layers[i].thickness), layer_materials_[group.use][i], prefix_,
                          orientation(group.axes, layers[i].angle));
    }
    for (std::size_t copy = 0; copy < copies; ++copy) text += card;
  }

  /// What is asked of elements: strains of every ply. Their stresses follow from them and need not be written.
  std::string requests() const {
    if (!options_.ply_results) return {};
    // GLOBAL=YES: in ply axes this output crashes the solver from 14 layers on [8].
    return comment_lines(
               "every ply: eight points per layer (S6: six), layers first laid first; global axes, shear strains "
               "tensorial") +
           "*EL PRINT, ELSET=EALL, GLOBAL=YES\nE\n";
  }

  const Model& model_;
  const part::Part& part_;
  const section::Sections& sections_;
  const mesh::Surface& surface_;
  const deck::WriteOptions& options_;
  Findings& findings_;
  OutputFile& file_;
  std::string prefix_;
  Plan plan_;
  std::optional<ShellCarrier> carrier_;
  std::vector<deck::Stands> names_;
  std::vector<deck::Mark> marks_;
  std::vector<std::vector<std::string>> layer_materials_;  ///< per use and layer
  std::vector<std::size_t> first_orientation_;             ///< per axes: number of its first orientation
  DeckNames element_set_names_{"EALL"}, node_set_names_{"NALL"};
  std::string path_;
  TextRead read_;
};

}  // namespace

deck::Written write_shells(const Model& model, const std::string& path, const deck::WriteOptions& options,
                           Findings& findings) {
  OutputFile file = options.nowhere ? OutputFile(OutputFile::Nowhere{}) : OutputFile(path, options.may_replace);
  deck::Written out = ShellsWriter(model, file, path, options, {}, findings).write();
  file.commit();
  return out;
}

deck::Written put_laminate(const Model& model, OutputFile& file, const std::string& path,
                           const deck::WriteOptions& options, const Placement& placement, Findings& findings) {
  deck::WriteOptions own = options;
  own.laminate_only = true;
  return ShellsWriter(model, file, path, own, placement, findings).write();
}

}  // namespace bordado::calculix
