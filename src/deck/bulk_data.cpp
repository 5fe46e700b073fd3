// Bulk data decks: the public cards that many solvers read. Large-field format (16 characters a number) wherever a
// number matters, small fields for ids.
#include "card.hpp"
#include "writers.hpp"

#include <fmt/format.h>
#include <Eigen/Geometry>

#include <algorithm>
#include <cmath>
#include <set>

namespace bordado::deck {

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

class Writer {
 public:
  Writer(const Model& model, const std::string& path, const WriteOptions& options)
      : model_(model),
        part_(*model.part),
        sections_(*model.sections),
        surface_(model.surface),
        options_(options),
        file_(path, options.may_replace),
        path_(path) {}

  Written write() {
    write_head();
    write_names();
    if (!options_.laminate_only) write_nodes();
    write_elements();
    write_properties();
    write_materials();
    if (!options_.laminate_only) {
      write_supports();
      write_loads();
      line("ENDDATA");
    }
    file_.commit();
    return summary(model_, file_, path_);
  }

 private:
  static constexpr int support_set = 1, load_set = 2;
  static constexpr std::size_t most_runs = 200;

  void line(std::string_view text) {
    file_.write(text);
    file_.write("\n");
  }
  void comment(std::string_view text) {
    for (const std::string& part : wrapped(text)) line("$ " + part);
  }

  void write_head() {
    for (const std::string& text : head_lines(model_, "bulk data", options_)) comment(text);
    comment(
        "material angle of each element: from side 1-2 of the element to 0 of the laminate, about the element normal");
    if (options_.laminate_only) {
      comment(
          "to be included in the bulk data of a deck that has nodes, supports and loads; the elements here take the "
          "place of its shell elements: "
          "same ids and nodes, turned to the declared side, with property and material angle");
      return;
    }
    line("SOL 101");
    line("CEND");
    line(fmt::format("TITLE = {}", solver_name(part_.name)));
    if (!model_.supports.empty()) line(fmt::format("SPC = {}", support_set));
    if (!model_.forces.empty() || !model_.pressures.empty()) line(fmt::format("LOAD = {}", load_set));
    line("DISPLACEMENT = ALL");
    line("SPCFORCES = ALL");
    if (options_.ply_results) {
      line("STRESS = ALL");
      line("STRAIN = ALL");
    }
    line("BEGIN BULK");
  }

  /// Which zones are where, as runs of ids: bulk data have no sets with names.
  void write_names() {
    const zone::ZoneSets& zones = model_.layup->zones;
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

  void write_nodes() {
    file_.write_lines(surface_.points.size(), [&](std::size_t i, std::string& text) {
      const Vec3& p = surface_.points[i];
      text += "GRID*   ";
      padded(text, 32, [&] { append_integer(text, surface_.node_ids[i]); });
      padded(text, 16, [&] { append_real(text, p.x(), 16); });
      append_real(text, p.y(), 16);
      text += "\n*       ";
      append_real(text, p.z(), 16);
      text += '\n';
    });
  }

  /// From side 1-2 to the reference direction about the element normal, the same fibre within (-90°, 90°].
  Angle material_angle(ElementIndex e) const {
    const auto corners = surface_.corners_of(e);
    const Vec3& n = model_.geometry.normals[e];
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
          fits_small(angle) && fits_small(surface_.element_ids[e]) &&
          std::all_of(nodes.begin(), nodes.end(), [&](mesh::NodeIndex n) { return fits_small(surface_.node_ids[n]); });
      if (!small) return write_large_element(e, name, angle, text);
      text += name;
      text += "  ";
      small_integer(text, surface_.element_ids[e]);
      small_integer(text, index(sections_.section_of[e]) + 1);
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
    card.integer(surface_.element_ids[e]).integer(index(sections_.section_of[e]) + 1);
    for (const mesh::NodeIndex n : surface_.nodes_of(e)) card.integer(surface_.node_ids[n]);
    if (surface_.shapes[e] == mesh::Shape::quadrilateral8)
      for (int corner = 0; corner < 4; ++corner) card.blank();
    text += card.real(angle).text();
  }

  void write_properties() {
    for (const SectionId s : sections_.ids()) {
      comment(fmt::format("section {}: {}", index(s) + 1, plies_text(model_, s)));
      LargeCard card("PCOMP");
      card.integer(index(s) + 1).real(sections_.bottom[s]).blank().blank().blank().blank().blank().blank();
      for (const section::LaidLayer& layer : sections_.layers_of(s))
        card.integer(index(layer.material) + 1)
            .real(layer.thickness)
            .real(section::axes_of(part_, sections_, layer).degrees())
            .word(options_.ply_results ? "YES" : "NO");
      file_.write(card.text());
    }
  }

  void write_materials() {
    std::set<part::MaterialId> used;
    for (const section::LaidLayer& layer : sections_.layers) used.insert(layer.material);
    for (const part::MaterialId m : used) {
      const material::Material& material = section::material_of(part_, sections_, m);
      comment(fmt::format("material {}: {}", plain_text(material.name), material::name_of(material.kind)));
      file_.write(bulk_data_shell_material(index(m) + 1, material));
    }
  }

  void write_supports() {
    for (const Model::Support& support : model_.supports) {
      comment(fmt::format("support {}", plain_text(support.name)));
      std::string freedoms;
      for (int i = 0; i < 6; ++i)
        if (support.held >> i & 1) freedoms += static_cast<char>('1' + i);
      const auto& nodes = support.nodes;
      if (!std::all_of(nodes.begin(), nodes.end(), [&](auto n) { return fits_small(surface_.node_ids[n]); })) {
        LargeCard card("SPC1");
        card.integer(support_set).word(freedoms);
        for (const mesh::NodeIndex n : nodes) card.integer(surface_.node_ids[n]);
        file_.write(card.text());
        continue;
      }
      file_.write_lines((nodes.size() + 5) / 6, [&](std::size_t row, std::string& text) {
        fmt::format_to(std::back_inserter(text), "{:<8}{:<8}{:<8}", "SPC1", support_set, freedoms);
        for (std::size_t i = 6 * row; i < std::min(nodes.size(), 6 * row + 6); ++i)
          fmt::format_to(std::back_inserter(text), "{:<8}", surface_.node_ids[nodes[i]]);
        text.erase(text.find_last_not_of(' ') + 1);
        text += '\n';
      });
    }
  }

  void write_loads() {
    for (const Model::Force& force : model_.forces) {
      comment(fmt::format("load {}", plain_text(force.name)));
      for (std::size_t i = 0; i < force.nodes.size(); ++i)
        file_.write(LargeCard("FORCE")
                        .integer(load_set)
                        .integer(surface_.node_ids[force.nodes[i]])
                        .integer(0)
                        .real(1.0)
                        .real(force.forces[i].x())
                        .real(force.forces[i].y())
                        .real(force.forces[i].z())
                        .text());
    }
    for (const Model::Pressure& pressure : model_.pressures) {
      comment(
          fmt::format("load {}: {} along the element normal; these cards act on the mesh, so each value is that "
                      "pressure times the area of the pressed face over that of the mesh",
                      plain_text(pressure.name), field(pressure.along_normal, 16)));
      file_.write_lines(pressure.elements.size(), [&](std::size_t i, std::string& text) {
        const std::int64_t id = surface_.element_ids[pressure.elements[i]];
        const double value = pressure.along_normal * pressure.face_ratio[i];
        if (!fits_small(value) || !fits_small(id)) {
          text += LargeCard("PLOAD4").integer(load_set).integer(id).real(value).text();
          return;
        }
        text += "PLOAD4  ";
        small_integer(text, load_set);
        small_integer(text, id);
        append_real(text, value, 8);
        text += '\n';
      });
    }
  }

  const Model& model_;
  const part::Part& part_;
  const section::Sections& sections_;
  const mesh::Surface& surface_;
  const WriteOptions& options_;
  OutputFile file_;
  std::string path_;
};

}  // namespace

Written write_bulk_data(const Model& model, const std::string& path, const WriteOptions& options, Findings&) {
  return Writer(model, path, options).write();
}

}  // namespace bordado::deck
