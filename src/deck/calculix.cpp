// CalculiX decks. What the solver does with them was measured with ccx 2.20 and stands, numbered, in docs/calculix.md;
// a number in brackets below names the row.
#include "axes.hpp"
#include "calculix_findings.hpp"
#include "writers.hpp"

#include <fmt/format.h>
#include <Eigen/Geometry>
#include <Eigen/LU>

#include <algorithm>
#include <array>
#include <cmath>
#include <set>
#include <unordered_map>

namespace bordado::deck {

namespace {

using mesh::ElementIndex;
using mesh::NodeIndex;
using section::SectionId;

std::string real(double value) {
  std::string out;
  append_real(out, value);
  return out;
}

class Writer {
 public:
  Writer(const Model& model, const std::string& path, const WriteOptions& options, Findings& findings)
      : model_(model),
        part_(*model.part),
        sections_(*model.sections),
        surface_(model.surface),
        options_(options),
        findings_(findings),
        file_(path, options.may_replace),
        grouping_(group(model, options.orientation_tolerance)),
        boxes_(boxes(model, options)),
        path_(path) {}

  Written write() {
    cores_ = fit_cores(model_, boxes_, findings_);
    if (!options_.laminate_only) survey_.emplace(model_, boxes_);
    if (options_.laminate_only) check_ids();
    write_head();
    if (!options_.laminate_only) write_mesh();
    if (!options_.laminate_only) write_named_sets();
    write_materials();
    write_orientations();
    write_sections();
    if (!options_.laminate_only) write_step();
    report_calculix({model_, options_, boxes_, survey_ ? &*survey_ : nullptr, grouping_.largest_error, orientations_},
                    findings_);
    file_.commit();
    Written out = summary(model_, file_, path_);
    out.equivalent_sections = equivalents(boxes_);
    if (cores_.fitted > 0) out.shear_fit = ShearFits{cores_.fitted, cores_.worst, cores_.leftover};
    out.orientations = orientations_;
    out.largest_orientation_error = Angle::radians(grouping_.largest_error);
    return out;
  }

 private:
  void line(std::string_view text) {
    file_.write(text);
    file_.write("\n");
  }
  static std::string comment_text(std::string_view text) {
    std::string out;
    for (const std::string& part : wrapped(text)) out += "** " + part + "\n";
    return out;
  }
  void comment(std::string_view text) { file_.write(comment_text(text)); }

  /// The ids are those of the deck that this one is included in.
  void check_ids() const {
    for (ElementIndex e = 0; e < surface_.element_count(); ++e)
      if (surface_.element_ids[e] < 1 || surface_.element_ids[e] > 2147483647)
        throw Failure({Severity::error, "deck.id-too-long",
                       fmt::format("element id {} is none that this solver can hold", surface_.element_ids[e]),
                       surface_.place_of(e), "number the elements from 1 to 2147483647"});
  }

  void write_head() {
    for (const std::string& text : head_lines(model_, "CalculiX deck", options_)) comment(text);
    std::size_t orientations = 0;
    wanted_.resize(grouping_.axes.size());
    for (const ElementGroup& group : grouping_.groups)
      for (const double angle : angles_of(group.section)) wanted_[group.axes].insert(angle);
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

  /// The zones and groups of the part under their own names, for whoever adds to the deck.
  void write_named_sets() {
    const zone::ZoneSets& zones = model_.layup->zones;
    for (const zone::ZoneId z : zones.declared()) {
      const std::vector<ElementIndex> elements = zones.elements(z);
      if (elements.empty()) continue;
      comment(fmt::format("zone {}", plain_text(zones.names[z])));
      write_set("ELSET", element_set_names_.fit(zones.names[z], "ZONE"), elements, surface_.element_ids);
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
      write_set("NSET", node_set_names_.fit(group.name, "GROUP"), nodes, surface_.node_ids);
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
    return fmt::format("M{}_{}", index(material) + 1, solver_name(material_of(material).name));
  }

  void write_materials() {
    std::set<part::MaterialId> plain;
    for (const SectionId s : sections_.ids())
      for (const section::LaidLayer& layer :
           boxes_[s].equivalents ? std::span<const section::LaidLayer>() : sections_.layers_of(s))
        if (!cores_.fits[s] || material::is_core(material_of(layer.material).kind)) plain.insert(layer.material);
    for (const part::MaterialId m : plain) {
      comment(fmt::format("material {}: {}", plain_text(material_of(m).name), material::name_of(material_of(m).kind)));
      file_.write(calculix_material(material_name(m), material_of(m), MaterialUse::shell));
    }
    for (const SectionId s : sections_.ids()) {
      layer_materials_.emplace_back();
      if (boxes_[s].equivalents) {
        write_equivalents(s);
        continue;
      }
      const auto layers = sections_.layers_of(s);
      std::unordered_map<std::string, std::string> made;  // equal constants share a material
      for (std::size_t i = 0; i < layers.size(); ++i) {
        const material::Material& base = material_of(layers[i].material);
        std::string name = material_name(layers[i].material);
        if (cores_.fits[s] && !material::is_core(base.kind)) {
          material::Material softer = base;
          material::Elastic& fitted = softer.elastic;
          fitted.full.reset();
          fitted.G13 = cores_.fits[s]->G13[i];
          fitted.G23 = cores_.fits[s]->G23[i];
          auto& known = made[fmt::format("{} {} {}", index(layers[i].material), real(fitted.G13), real(fitted.G23))];
          if (known.empty()) {
            known =
                fmt::format("{}_SHEAR{}{}", name, index(s) + 1, made.size() > 1 ? fmt::format("_{}", made.size()) : "");
            file_.write(calculix_material(known, softer, MaterialUse::shell));
          }
          name = known;
        }
        layer_materials_.back().push_back(std::move(name));
      }
    }
  }

  /// Three materials of no material: their plane stiffnesses are the ones that make A, B and D [22].
  void write_equivalents(SectionId s) {
    const ThreeLayers& three = *boxes_[s].equivalents;
    comment(fmt::format("section {} as three layers with its A, B, D, H, mass and expansion", index(s) + 1));
    const double through = sections_.layers_of(s).empty() ? 0.0 : three.Q[1].trace() / 4.0;  // no say: no stress 33
    for (std::size_t i = 0; i < 3; ++i) {
      const laminate::Matrix3& Q = three.Q[i];
      const laminate::Matrix2& G = three.G;
      const std::string name = fmt::format("E{}_{}", index(s) + 1, i + 1);
      layer_materials_.back().push_back(name);
      line(fmt::format("*MATERIAL, NAME={}", name));
      line("*ELASTIC, TYPE=ANISO");
      line(fmt::format("{},{},{},0.,0.,{},{},{}", real(Q(0, 0)), real(Q(0, 1)), real(Q(1, 1)), real(through),
                       real(Q(0, 2)), real(Q(1, 2))));
      line(fmt::format("0.,{},0.,0.,0.,0.,{},0.", real(Q(2, 2)), real(G(0, 0))));
      line(fmt::format("0.,0.,0.,{},{}", real(G(0, 1)), real(G(1, 1))));
      if (const laminate::Vector3& a = three.expansion[i]; a.norm() > 0.0) {
        line("*EXPANSION, TYPE=ANISO");
        line(fmt::format("{},{},0.,{},0.,0.", real(a[0]), real(a[1]), real(0.5 * a[2])));
      }
      if (three.density[i] > 0.0) {
        line("*DENSITY");
        line(real(three.density[i]));
      }
    }
  }

  /// Directions are written out: the solver projects the first on the element's plane and takes n from the element
  /// [3].
  void write_orientations() {
    first_orientation_.assign(1, 1);
    for (std::size_t a = 0; a < wanted_.size(); ++a)
      first_orientation_.push_back(first_orientation_.back() + wanted_[a].size());
    file_.write_lines(wanted_.size(), [&](std::size_t a, std::string& text) {
      std::size_t number = first_orientation_[a];
      for (const double degrees : wanted_[a]) {
        const Vec3 fibre = frame::turned(grouping_.axes[a].r, grouping_.axes[a].n, Angle::degrees(degrees));
        const Vec3 across = grouping_.axes[a].n.cross(fibre);
        text += "*ORIENTATION, NAME=O";
        append_integer(text, static_cast<std::int64_t>(number++));
        text += '\n';
        for (int i = 0; i < 6; ++i) {
          append_real(text, i < 3 ? fibre[i] : across[i - 3]);
          text += i == 5 ? '\n' : ',';
        }
      }
    });
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
        set_lines("ELSET", fmt::format("G{}", g + i + 1), groups[g + i].elements, surface_.element_ids,
                  [&](const std::string& head, std::size_t lines, const auto& append) {
                    text += head;
                    for (std::size_t k = 0; k < lines; ++k) append(k, text);
                  });
        append_card(g + i, copies, text);
      });
      g = end;
      if (g == groups.size()) break;
      file_.write(section_head(g));
      write_set("ELSET", fmt::format("G{}", g + 1), groups[g].elements, surface_.element_ids);
      std::string text;
      append_card(g++, copies, text);
      file_.write(text);
    }
  }

  std::string section_head(std::size_t g) const {
    return comment_text(fmt::format("G{}: {}", g + 1, plies_text(model_, grouping_.groups[g].section)));
  }

  void append_card(std::size_t g, std::size_t copies, std::string& text) const {
    const ElementGroup& group = grouping_.groups[g];
    const SectionId s = group.section;
    // The solver's offset: mid-surface = node - OFFSET t n.
    const Box& box = boxes_[s];
    const double offset = -(box.bottom / box.thickness + 0.5);
    const double settling = box.thickness / sections_.thickness[s];  // 1, or off by a millionth at most
    std::string card = fmt::format("*SHELL SECTION, COMPOSITE, ELSET=G{}, OFFSET={}\n", g + 1,
                                   real(std::abs(offset) < 1e-12 ? 0.0 : offset));
    const auto layers = sections_.layers_of(s);
    const std::vector<double> angles = angles_of(s);
    for (std::size_t i = 0; i < box.layers; ++i)
      card += fmt::format(
          "{},,{},O{}\n",
          real(box.equivalents ? box.equivalents->shares[i] * box.thickness : layers[i].thickness * settling),
          layer_materials_[s][i], orientation(group.axes, Angle::degrees(angles[i])));
    for (std::size_t copy = 0; copy < copies; ++copy) text += card;
  }

  void write_step() {
    std::vector<std::string> support_sets;
    for (std::size_t i = 0; i < model_.supports.size(); ++i) {
      support_sets.push_back(fmt::format("S{}_{}", i + 1, solver_name(model_.supports[i].name)));
      write_set("NSET", support_sets.back(), model_.supports[i].nodes, surface_.node_ids);
    }
    if (!model_.supports.empty()) write_boundary(support_sets);
    write_force_sets();
    line("*STEP");
    line("*STATIC");
    for (const Model::Force& force : model_.forces) write_force(force);
    for (const Model::Pressure& pressure : model_.pressures) write_pressure(pressure);
    line("*NODE PRINT, NSET=NALL");
    line("U");
    for (const ForceSet& set : sets_) {
      if (!set.trusted) continue;
      line(fmt::format("*NODE PRINT, NSET={}, TOTALS=ONLY", set.name));
      line("RF");
    }
    line("*EL PRINT, ELSET=EALL, TOTALS=ONLY");
    line("ELSE");
    if (options_.ply_results) {
      // GLOBAL=YES: in ply axes this output crashes the solver from 14 layers on [8].
      comment(
          "every ply: eight points per layer (S6: six), layers first laid first; global axes, shear strains tensorial");
      line("*EL PRINT, ELSET=EALL, GLOBAL=YES");
      line(equivalents(boxes_) > 0 ? "E" : "S,E");
    }
    line("*NODE FILE");
    line("U");  // forces of layered shells come out as nought there [21]
    if (options_.ply_results && equivalents(boxes_) == 0) {
      line("*EL FILE");
      line("S");
    }
    line("*END STEP");
  }

  /// Nodes by what supports hold of them: what the elements put on those that are not held tells the reactions [13].
  void write_force_sets() {
    sets_ = force_sets(model_);
    comment("nodes by what supports hold of them, for sums of forces that can be trusted");
    for (const ForceSet& set : sets_) {
      if (!set.trusted) continue;
      write_set("NSET", set.name, set.nodes, surface_.node_ids);
    }
  }

  void write_boundary(const std::vector<std::string>& support_sets) {
    std::string lines = "*BOUNDARY\n";
    std::size_t freedoms = 0;
    for (std::size_t i = 0; i < model_.supports.size(); ++i)
      for (int freedom = 0; freedom < 6; ++freedom) {
        if ((model_.supports[i].held >> freedom & 1) == 0) continue;
        lines += fmt::format("{},{}\n", support_sets[i], freedom + 1);
        freedoms += model_.supports[i].nodes.size();
      }
    // The ties at knots take room in an array that the solver sizes by the lines of supports [19].
    const std::size_t knots = survey_->knots();
    const std::size_t copies = knots <= 1000 ? 1 : 1 + 3 * knots / std::max<std::size_t>(freedoms, 1);
    if (copies > 1)
      comment(fmt::format("supports stand {} times: the copies change nothing but the size of the solver's arrays",
                          copies));
    for (std::size_t copy = 0; copy < copies; ++copy) file_.write(lines);
  }

  void write_nodal_forces(const std::vector<NodeIndex>& nodes, const std::vector<Vec3>& forces) {
    line("*CLOAD");
    file_.write_lines(nodes.size(), [&](std::size_t i, std::string& text) {
      for (int k = 0; k < 3; ++k) {
        if (std::abs(forces[i][k]) <= 1e-14 * forces[i].norm()) continue;  // rounding
        append_integer(text, surface_.node_ids[nodes[i]]);
        text += ',';
        text += static_cast<char>('1' + k);
        text += ',';
        append_real(text, forces[i][k]);
        text += '\n';
      }
    });
  }

  /// The solver's own pressure acts at the face of the first ply whichever face is named [17], so the pressure stands
  /// as the forces that it puts on the nodes.
  void write_pressure(const Model::Pressure& pressure) {
    comment(fmt::format("load {}: pressure {} along the element normal, as forces on the nodes",
                        plain_text(pressure.name), real(pressure.along_normal)));
    write_nodal_forces(pressure.nodes, pressure.forces);
  }

  /// A moment in the plane across n as values of two rotational freedoms. The solver projects each rotation axis on
  /// that plane, so a third would depend on the two and stop it; the axis nearest to n is left out.
  static std::array<std::pair<int, double>, 2> in_two_rotations(const Vec3& moment, const Vec3& n) {
    Eigen::Index nearest = 0;
    n.cwiseAbs().maxCoeff(&nearest);
    const int i = (static_cast<int>(nearest) + 1) % 3, j = (static_cast<int>(nearest) + 2) % 3;
    // A unit load on the rotation about axis e acts as the moment p / |p|^2, p = e - (e.n) n (measured with ccx 2.20).
    const auto acting = [&](int axis) -> Vec3 { return (Vec3::Unit(axis) - n[axis] * n) / (1.0 - n[axis] * n[axis]); };
    const Vec3 u = acting(i), v = acting(j);
    Eigen::Matrix<double, 3, 2> axes;
    axes << u, v;
    const Eigen::Vector2d values = (axes.transpose() * axes).inverse() * (axes.transpose() * moment);
    return {{{i + 4, values[0]}, {j + 4, values[1]}}};
  }

  /// Forces act on the laminate's middle surface, not at the node [9]: the moment that carries them to the mesh is
  /// added. At knots the solver takes them at the node.
  void write_force(const Model::Force& force) {
    comment(fmt::format("load {}", plain_text(force.name)));
    bool moments = false;
    write_nodal_forces(force.nodes, force.forces);
    std::string lines;
    for (std::size_t i = 0; i < force.nodes.size(); ++i) {
      if (survey_->is_knot(force.nodes[i])) continue;
      const Vec3 middle = survey_->to_middle(force.nodes[i]);
      const Vec3 moment = (-middle).cross(force.forces[i]);
      if (moment.norm() <= 1e-9 * force.forces[i].norm() * middle.norm()) continue;
      for (const auto& [freedom, value] : in_two_rotations(moment, middle.normalized())) {
        if (std::abs(value) <= 1e-9 * moment.norm()) continue;
        lines += fmt::format("{},{},{}\n", surface_.node_ids[force.nodes[i]], freedom, real(value));
        moments = true;
      }
    }
    if (moments)
      comment("moments that carry these forces from the middle surface, where the solver applies them, to the mesh");
    file_.write(lines);
  }

  const Model& model_;
  const part::Part& part_;
  const section::Sections& sections_;
  const mesh::Surface& surface_;
  const WriteOptions& options_;
  Findings& findings_;
  OutputFile file_;
  Grouping grouping_;
  List<SectionId, Box> boxes_;
  std::optional<NodeSurvey> survey_;
  CoreFits cores_;
  List<SectionId, std::vector<std::string>> layer_materials_;  ///< per layer
  std::vector<std::set<double>> wanted_;                       ///< per axes: angles in degrees
  std::vector<std::size_t> first_orientation_;                 ///< per axes: number of its first orientation
  std::vector<ForceSet> sets_;
  DeckNames element_set_names_{"EALL"}, node_set_names_{"NALL"};
  std::size_t orientations_ = 0;
  std::string path_;
};

}  // namespace

Written write_calculix(const Model& model, const std::string& path, const WriteOptions& options, Findings& findings) {
  return Writer(model, path, options, findings).write();
}

}  // namespace bordado::deck
