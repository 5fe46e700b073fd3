#include "set_names.hpp"
#include "steps.hpp"

#include <bordado/base/text.hpp>
#include <bordado/design.hpp>

#include <fmt/format.h>
#include <Eigen/Geometry>

#include <algorithm>
#include <limits>
#include <map>

namespace bordado::calculix {

using mesh::ElementIndex;
using mesh::NodeIndex;

std::string write_bed(const Model& model, std::size_t number, BedMesh& mesh, OutputFile& file,
                      std::vector<deck::Stands>& names) {
  const Model::Bed& bed = model.beds[number++];
  // This solver has no springs beside layered shells; solids that are stiff along the normal only are exact.
  const mesh::Surface& surface = model.surface;
  double shortest = std::numeric_limits<double>::infinity();
  for (const ElementIndex e : bed.elements) {
    const auto corners = surface.corners_of(e);
    for (std::size_t i = 0; i < corners.size(); ++i)
      shortest =
          std::min(shortest, (surface.points[corners[(i + 1) % corners.size()]] - surface.points[corners[i]]).norm());
  }
  const double depth = 0.05 * shortest;
  const std::string ground = bed_ground(number), solids = bed_solids(number);
  file.write(comment_lines(fmt::format("bed {}: {} {} along the normal, as solids of depth {} whose far face is held",
                                       plain_text(bed.name), real(bed.stiffness),
                                       model.design->part.units.unit(Dimension::bed), real(depth))));
  std::map<NodeIndex, std::int64_t> far, middle;
  std::map<NodeIndex, Vec3> normal;
  for (std::size_t i = 0; i < bed.nodes.size(); ++i) normal[bed.nodes[i]] = bed.normals[i];
  std::string text = fmt::format("*NODE, NSET={}\n", ground);
  const auto node = [&](std::int64_t id, const Vec3& p) {
    append_integer(text, id);
    for (const double x : p) {
      text += ',';
      append_real(text, x);
    }
    text += '\n';
  };
  for (const NodeIndex n : bed.nodes) {
    far[n] = mesh.next_node++;
    node(far[n], mesh.point(n) - depth * normal[n]);
  }
  text += "*NODE\n";
  for (const ElementIndex e : bed.elements)
    for (const NodeIndex n : surface.corners_of(e))
      if (const auto [at, is_new] = middle.try_emplace(n, mesh.next_node); is_new) {
        ++mesh.next_node;
        node(at->second, mesh.point(n) - 0.5 * depth * normal[n]);
      }
  for (const bool four : {true, false}) {
    std::string lines;
    for (const ElementIndex e : bed.elements) {
      const auto nodes = surface.nodes_of(e);
      const std::size_t corners = nodes.size() / 2;
      if ((corners == 4) != four) continue;
      lines += fmt::format("{}", mesh.next_element++);
      std::size_t on_line = 1;
      const auto put_id = [&](std::int64_t id) {
        lines += ',';
        if (on_line++ == 10) {
          lines += '\n';
          on_line = 1;
        }
        append_integer(lines, id);
      };
      for (std::size_t i = 0; i < corners; ++i) put_id(far[nodes[i]]);
      for (std::size_t i = 0; i < corners; ++i) put_id(mesh.id(nodes[i]));
      for (std::size_t i = corners; i < nodes.size(); ++i) put_id(far[nodes[i]]);
      for (std::size_t i = corners; i < nodes.size(); ++i) put_id(mesh.id(nodes[i]));
      for (std::size_t i = 0; i < corners; ++i) put_id(middle[nodes[i]]);
      lines += '\n';
    }
    if (!lines.empty()) text += fmt::format("*ELEMENT, TYPE={}, ELSET={}\n", four ? "C3D20R" : "C3D15", solids) + lines;
  }
  // Stiff along the normal of each element, which differs: directions by element.
  const double stiff = bed.stiffness * depth, soft = 1e-6 * stiff;
  text += fmt::format("*MATERIAL, NAME={}\n*ELASTIC, TYPE=ENGINEERING CONSTANTS\n{},{},{},0.,0.,0.,{},{}\n{}\n", solids,
                      real(soft), real(soft), real(stiff), real(soft), real(soft), real(soft));
  text += fmt::format("*DISTRIBUTION, NAME={}_AXES\n,1.,0.,0.,0.,1.,0.\n", solids);
  std::int64_t id = mesh.next_element - static_cast<std::int64_t>(bed.elements.size());
  for (const bool four : {true, false})
    for (const ElementIndex e : bed.elements) {
      if ((surface.corners_of(e).size() == 4) != four) continue;
      const Vec3& x = model.design->sections.references[e];
      const Vec3 y = model.design->geometry.normals[e].cross(x);
      text += fmt::format("{},{},{},{},{},{},{}\n", id++, real(x.x()), real(x.y()), real(x.z()), real(y.x()),
                          real(y.y()), real(y.z()));
    }
  text += fmt::format(
      "*ORIENTATION, NAME={0}_AXES\n{0}_AXES\n*SOLID SECTION, ELSET={0}, MATERIAL={0}, ORIENTATION={0}_AXES\n", solids);
  file.write(text);
  names.push_back({solids, "element set", fmt::format("bed {}", bed.name)});
  names.push_back({ground, "node set", fmt::format("the far face of bed {}, held", bed.name)});
  return ground;
}

}  // namespace bordado::calculix
