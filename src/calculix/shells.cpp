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
        cases_(options.laminate_only ? std::vector<std::size_t>() : deck::wanted_cases(model, options)),
        heated_(deck::heat_in_materials(model, cases_)),
        uses_(deck::turned(deck::uses(model, cases_, heated_), placement.upside_down)),
        grouping_(group(model, options.orientation_tolerance, uses_.of)),
        boxes_(boxes(model, options)),
        path_(path) {}

  deck::Written write() {
    cores_ = fit_cores(model_, boxes_, findings_);
    if (!options_.laminate_only) survey_.emplace(model_, boxes_, cases_);
    if (options_.laminate_only) check_ids();
    write_head();
    file_.begin_fingerprint();  // what is said above changes with the version
    if (!options_.laminate_only) {
      carrier_.emplace(model_, cases_, *survey_, requests(), heated_, deck::common_stress_free(model_, cases_));
      write_mesh();
      write_overlay();
      carrier_->write_beds(file_, names_);
      write_named_sets();
    }
    write_materials();
    write_orientations();
    write_sections();
    read_back();
    if (carrier_) marks_ = StepWriter(model_, cases_, *carrier_, *carrier_, file_, names_).write();
    if (const double lost = lost_within_layers(model_, uses_, boxes_); lost > 0.01)
      findings_.warning(
          "deck.heat-layers",
          fmt::format("temperatures change through the thickness, and each ply that stands as a layer has the "
                      "mean of its own: up to {:.2g} % of what bends the laminate is lost",
                      100.0 * lost),
          Place::in(part_.file), "leave out --real-plies: three layers for all bend as they should");
    if (uses_.within > 0.15 * uses_.varies && uses_.varies > 0.0)
      findings_.warning(
          "deck.heat-coarse",
          fmt::format("temperatures differ by up to {:.2g} K of {:.2g} K within single elements, each of which "
                      "has its mean: what they bend and push comes out some per cent off",
                      uses_.within, uses_.varies),
          Place::in(part_.file), "mesh finer where the temperature changes");
    if (uses_.rounded > 0.0)
      findings_.note(
          "deck.heat-rounded",
          fmt::format("temperatures that vary stand in {} sets of materials, each within {:.2g} K of its own",
                      uses_.heats.size(), uses_.rounded),
          Place::in(part_.file));
    report_calculix({model_, options_, boxes_, survey_ ? &*survey_ : nullptr, grouping_.largest_error, orientations_},
                    findings_);
    deck::Written out = deck::summary(model_, options_, file_, path_);
    out.names = std::move(names_);
    out.marks = std::move(marks_);
    out.equivalent_sections = equivalents(boxes_);
    if (cores_.fitted > 0) out.shear_fit = deck::ShearFits{cores_.fitted, cores_.worst, cores_.leftover};
    out.orientations = orientations_;
    out.largest_orientation_error = Angle::radians(grouping_.largest_error);
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
    std::size_t orientations = 0;
    wanted_.resize(grouping_.axes.size());
    for (const ElementGroup& group : grouping_.groups)
      for (const double angle : angles_of(uses_.all[group.use].section)) wanted_[group.axes].insert(angle);
    for (const auto& angles : wanted_) orientations += angles.size();
    orientations_ = orientations;
    comment(fmt::format(
        "{} element groups by section and axes; {} orientations, shared within {:g} deg (largest error {:.3g} deg)",
        grouping_.groups.size(), orientations, options_.orientation_tolerance.degrees(),
        Angle::radians(grouping_.largest_error).degrees()));
    if (cores_.fitted > 0) {
      comment(fmt::format(
          "{} with a core: this solver adds up G*t over the layers and would be up to {:.3g} times too stiff "
          "in transverse shear; "
          "materials named ..._SHEARn carry equivalent G13, G23 so that section n has its true shear stiffness",
          counted(cores_.fitted, "section"), cores_.worst));
    }
    if (options_.laminate_only) {
      comment(
          "to be included in a deck whose layered shells are S8R or S6 with the element ids and node order of the mesh "
          "file turned to the declared side; "
          "materials, orientations, element sets and sections are here, mesh, supports and loads are not");
    }
  }

  /// Of the section's layers as they stand in the deck, in degrees.
  std::vector<double> angles_of(SectionId s) const {
    if (boxes_[s].equivalents) return {0.0, 0.0, 0.0};
    std::vector<double> out;
    for (const section::LaidLayer& layer : sections_.layers_of(s))
      out.push_back(section::axes_of(part_, sections_, layer).degrees());
    return out;
  }

  void write_mesh() {
    line("*NODE, NSET=NALL");
    file_.write_lines(surface_.points.size(), [&](std::size_t i, std::string& text) {
      append_integer(text, surface_.node_ids[i]);
      for (const double x : survey_ ? survey_->place(static_cast<mesh::NodeIndex>(i)) : surface_.points[i]) {
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
        append_integer(text, surface_.element_ids[elements[i]]);
        for (const NodeIndex n : surface_.nodes_of(elements[i])) {
          text += ',';
          append_integer(text, surface_.node_ids[n]);
        }
        text += '\n';
      });
    }
  }

  /// Elements at loaded nodes once more [35].
  void write_overlay() {
    const auto overlay = survey_->overlay();
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
      const Box& box = boxes_[sections_.section_of[e]];
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

  /// The runs of ids that a set is made of, as places in its members, with the end behind them.
  static std::vector<std::size_t> runs_of(std::span<const std::uint32_t> members, std::span<const std::int64_t> ids) {
    std::vector<std::size_t> first;
    for (std::size_t i = 0; i < members.size(); ++i)
      if (i == 0 || ids[members[i]] != ids[members[i - 1]] + 1) first.push_back(i);
    first.push_back(members.size());
    return first;
  }

  /// A set of nodes or elements as lines: as runs of ids, first and last, where that is shorter, else all, twelve to a
  /// line. Calls with(head, number of lines, what appends a line).
  template <class With>
  static void set_lines(std::string_view kind, std::string_view name, std::span<const std::uint32_t> members,
                        std::span<const std::int64_t> ids, With with) {
    const std::size_t count = members.size();
    const std::vector<std::size_t> first = runs_of(members, ids);
    const bool runs = 3 * (first.size() - 1) < count;
    const std::string head = fmt::format("*{}, {}={}{}\n", kind, kind, name, runs ? ", GENERATE" : "");
    if (runs)
      with(head, first.size() - 1, [&](std::size_t run, std::string& text) {
        append_integer(text, ids[members[first[run]]]);
        text += ',';
        append_integer(text, ids[members[first[run + 1] - 1]]);
        text += ",1\n";
      });
    else
      with(head, (count + 11) / 12, [&](std::size_t row, std::string& text) {
        const std::size_t end = std::min(count, 12 * row + 12);
        for (std::size_t i = 12 * row; i < end; ++i) {
          append_integer(text, ids[members[i]]);
          text += i + 1 == end ? '\n' : ',';
        }
      });
  }

  void write_set(std::string_view kind, std::string_view name, std::span<const std::uint32_t> members,
                 std::span<const std::int64_t> ids) {
    set_lines(kind, name, members, ids, [&](const std::string& head, std::size_t lines, const auto& append) {
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
    for (const deck::Uses::Use& use : uses_.all) {
      const SectionId s = use.section;
      if (has_own(use) || boxes_[s].equivalents || section::density_factor(sections_, s) != 1.0) continue;
      for (const section::LaidLayer& layer : sections_.layers_of(s))
        if (!cores_.fits[s] || material::is_core(material_of(layer.material).kind)) plain.insert(layer.material);
    }
    for (const part::MaterialId m : plain) {
      comment(fmt::format("material {}: {}", plain_text(material_of(m).name), material::name_of(material_of(m).kind)));
      put(material_text(material_name(m), material_of(m), MaterialUse::shell));
      names_.push_back({material_name(m), "material", material_of(m).name});
    }
    for (std::size_t u = 0; u < uses_.all.size(); ++u) {
      if (const auto& same = uses_.all[u].upside_down) {
        layer_materials_.push_back(layer_materials_[*same]);
        continue;
      }
      layer_materials_.emplace_back();
      if (boxes_[uses_.all[u].section].equivalents)
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
    std::vector<std::uint8_t> seen(uses_.all.size(), 0);
    for (std::size_t g = 0; g < grouping_.groups.size(); ++g) {
      const ElementGroup& group = grouping_.groups[g];
      const deck::Uses::Use& use = uses_.all[group.use];
      if (std::exchange(seen[group.use], std::uint8_t{1})) continue;
      std::string orientations, card;
      append_orientations(group.axes, orientations);
      read_.take(orientations);
      append_card(g, 1, card);
      const Box& box = boxes_[use.section];
      // Where materials carry what they are warmed to, their expansion is that of cases.
      const deck::Held held{box.equivalents.has_value(), !use.heat, use.added};
      // Thicknesses within a millionth are made equal, which counts three times in D.
      const auto& axes = grouping_.axes[group.axes];
      const deck::SectionRead read =
          use.upside_down ? turned_over(read_.section(card, axes.r, -axes.n)) : read_.section(card, axes.r, axes.n);
      compare_read(model_, use.section, read, held, 1e-5);
    }
  }

  void write_plies(std::size_t u) {
    const deck::Uses::Use& use = uses_.all[u];
    const SectionId s = use.section;
    const auto layers = sections_.layers_of(s);
    std::unordered_map<std::string, std::string> made;  // equal constants share a material
    const double factor = section::density_factor(sections_, s);
    const std::string_view word = has_own(use) ? "USE" : cores_.fits[s] ? "SHEAR" : "MASS";
    for (std::size_t i = 0; i < layers.size(); ++i) {
      const material::Material& base = material_of(layers[i].material);
      std::string name = material_name(layers[i].material);
      const bool softer = cores_.fits[s] && !material::is_core(base.kind);
      if (softer || has_own(use) || factor != 1.0) {
        material::Material own = base;
        if (own.density) *own.density *= factor;
        if (softer) {
          own.elastic = deck::with_transverse_shear(own.elastic, cores_.fits[s]->G13[i], cores_.fits[s]->G23[i]);
        }
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

  /// The free strain of a material at a share of the thickness, in its own axes.
  static Vec3 free_strain(const material::Material& material, const model::Warmth& heat, double share) {
    const Vec3 a = material.thermal.all();
    const double above = heat.above(material, share);
    return {above * a[0], above * a[1], above * material.thermal.shear.value_or(0.0)};
  }

  /// What a layer expands by in each case, in its material's axes: of a temperature that varies through it the mean.
  std::vector<Vec3> heat_strains(const deck::Uses::Use& use, std::size_t layer) const {
    const section::LaidLayer& laid = sections_.layers_of(use.section)[layer];
    const double share =
        (laid.bottom + 0.5 * laid.thickness - sections_.bottom[use.section]) / sections_.thickness[use.section];
    std::vector<Vec3> out;
    for (const std::optional<model::Warmth>& heat : uses_.heats[*use.heat])
      out.push_back(heat ? free_strain(material_of(laid.material), *heat, share) : Vec3::Zero());
    return out;
  }

  /// The same of three layers that stand for the section: exactly what the laminate would push and bend.
  std::vector<std::array<laminate::Vector3, 3>> equivalent_strains(const deck::Uses::Use& use) const {
    const SectionId s = use.section;
    const std::vector<laminate::Layer> layers = section::laminate_of(part_, sections_, s);
    std::vector<std::array<laminate::Vector3, 3>> out;
    for (const std::optional<model::Warmth>& heat : uses_.heats[*use.heat]) {
      out.push_back({laminate::Vector3::Zero(), laminate::Vector3::Zero(), laminate::Vector3::Zero()});
      if (!heat) continue;
      const auto strain = [&](std::size_t k, double z) -> laminate::Vector3 {
        const double share = (z - sections_.bottom[s]) / sections_.thickness[s];
        return heat->above(material_of(sections_.layers_of(s)[k].material), share) *
               laminate::free_strain(layers[k], laminate::Expands::by_temperature);
      };
      out.back() = expansions(*boxes_[s].equivalents, layers, sections_.bottom[s], strain);
    }
    return out;
  }

  /// Three materials of no material: their plane stiffnesses are the ones that make A, B and D [22].
  void write_equivalents(std::size_t u) {
    const deck::Uses::Use& use = uses_.all[u];
    const SectionId s = use.section;
    const ThreeLayers& three = *boxes_[s].equivalents;
    comment(fmt::format("section {} as three layers with its A, B, D, H, mass and expansion{}", index(s) + 1,
                        has_own(use) ? fmt::format(", use {}", u + 1) : ""));
    std::vector<std::array<laminate::Vector3, 3>> heated;
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
        for (const auto& one : heated) strains.push_back(one[i]);
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
    for (std::size_t a = 0; a < wanted_.size(); ++a)
      first_orientation_.push_back(first_orientation_.back() + wanted_[a].size());
    file_.write_lines(wanted_.size(), [&](std::size_t a, std::string& text) { append_orientations(a, text); });
  }

  void append_orientations(std::size_t a, std::string& text) const {
    std::size_t number = first_orientation_[a];
    for (const double degrees : wanted_[a]) {
      const Vec3 fibre = frame::turned(grouping_.axes[a].r, grouping_.axes[a].n, Angle::degrees(degrees));
      const Vec3 across = grouping_.axes[a].n.cross(fibre);
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
    const auto& angles = wanted_[axes];
    return first_orientation_[axes] +
           static_cast<std::size_t>(std::distance(angles.begin(), angles.find(angle.degrees())));
  }

  void write_sections() {
    const std::size_t copies = survey_ ? survey_->card_copies() : 1;
    if (copies > 1)
      comment(fmt::format(
          "each section card stands {} times: its copies change nothing but the size of the solver's arrays", copies));
    const auto& groups = grouping_.groups;
    constexpr std::size_t large = 20000;  // elements: its lines are worth all cores; small groups are made side by side
    for (std::size_t g = 0; g < groups.size();) {
      std::size_t end = g;
      while (end < groups.size() && groups[end].elements.size() < large) ++end;
      file_.write_lines(end - g, [&](std::size_t i, std::string& text) {
        text += section_head(g + i);
        set_lines("ELSET", fmt::format("{}G{}", prefix_, g + i + 1), groups[g + i].elements, surface_.element_ids,
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

  SectionId section_of(std::size_t g) const { return uses_.all[grouping_.groups[g].use].section; }

  void append_card(std::size_t g, std::size_t copies, std::string& text) const {
    const ElementGroup& group = grouping_.groups[g];
    const SectionId s = section_of(g);
    // The solver's offset: mid-surface = node - OFFSET t n.
    const Box& box = boxes_[s];
    const bool upside_down = uses_.all[group.use].upside_down.has_value();
    const double offset = (upside_down ? 1.0 : -1.0) * (box.bottom / box.thickness + 0.5);
    const double settling = box.thickness / sections_.thickness[s];  // 1, or off by a millionth at most
    std::string card = fmt::format("*SHELL SECTION, COMPOSITE, ELSET={}G{}, OFFSET={}\n", prefix_, g + 1,
                                   real(std::abs(offset) < 1e-12 ? 0.0 : offset));
    const auto layers = sections_.layers_of(s);
    const std::vector<double> angles = angles_of(s);
    for (std::size_t k = 0; k < box.layers; ++k) {
      const std::size_t i = upside_down ? box.layers - 1 - k : k;
      card += fmt::format(
          "{},,{},{}O{}\n",
          real(box.equivalents ? box.equivalents->shares[i] * box.thickness : layers[i].thickness * settling),
          layer_materials_[group.use][i], prefix_, orientation(group.axes, Angle::degrees(angles[i])));
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
  std::vector<std::size_t> cases_;
  bool heated_;
  deck::Uses uses_;
  Grouping grouping_;
  List<SectionId, Box> boxes_;
  std::optional<ShellCarrier> carrier_;
  std::vector<deck::Stands> names_;
  std::vector<deck::Mark> marks_;
  std::optional<NodeSurvey> survey_;
  CoreFits cores_;
  std::vector<std::vector<std::string>> layer_materials_;  ///< per use and layer
  std::vector<std::set<double>> wanted_;                   ///< per axes: angles in degrees
  std::vector<std::size_t> first_orientation_;             ///< per axes: number of its first orientation
  DeckNames element_set_names_{"EALL"}, node_set_names_{"NALL"};
  std::size_t orientations_ = 0;
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
