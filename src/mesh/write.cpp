// Meshes out: VTU (inline, zlib) and Gmsh MSH 4.1 (text).
#include "../base/base64.hpp"
#include "vtu.hpp"

#include <bordado/base/files.hpp>
#include <bordado/base/text.hpp>
#include <bordado/base/work.hpp>
#include <bordado/mesh/curves.hpp>

#include <zlib.h>

#include <fmt/format.h>

#include <algorithm>
#include <bit>
#include <cstring>
#include <map>

namespace bordado::mesh {

namespace {

// --- VTU -------------------------------------------------------------------------------------------------------------

std::string escaped(std::string_view text) {
  std::string out;
  for (const char c : text) {
    switch (c) {
      case '&':
        out += "&amp;";
        break;
      case '<':
        out += "&lt;";
        break;
      case '>':
        out += "&gt;";
        break;
      case '"':
        out += "&quot;";
        break;
      default:
        out += c;
    }
  }
  return out;
}

/// Blocks are compressed side by side; the text is the same whatever the number of threads.
template <class Number>
void write_array(OutputFile& file, std::string_view type, std::string_view name, std::size_t components,
                 const std::vector<Number>& values) {
  constexpr std::size_t block = std::size_t{1} << 20;
  const std::string_view bytes(reinterpret_cast<const char*>(values.data()), values.size() * sizeof(Number));
  const std::size_t blocks = (bytes.size() + block - 1) / block;
  std::vector<std::string> packed(blocks);
  parallel_blocks(
      blocks,
      [&](std::size_t begin, std::size_t end) {
        for (std::size_t b = begin; b < end; ++b) {
          const std::string_view part = bytes.substr(b * block, block);
          uLongf size = ::compressBound(part.size());
          packed[b].resize(size);
          ::compress2(reinterpret_cast<Bytef*>(packed[b].data()), &size, reinterpret_cast<const Bytef*>(part.data()),
                      part.size(), 1);
          packed[b].resize(size);
        }
      },
      1);
  std::vector<std::uint64_t> header{blocks, block, bytes.size() % block};
  std::string all;
  for (const std::string& part : packed) {
    header.push_back(part.size());
    all += part;
  }
  file.write(fmt::format("<DataArray type=\"{}\" Name=\"{}\" NumberOfComponents=\"{}\" format=\"binary\">", type,
                         escaped(name), components));
  file.write(to_base64({reinterpret_cast<const char*>(header.data()), header.size() * sizeof(std::uint64_t)}));
  file.write(to_base64(all));
  file.write("</DataArray>\n");
}

void write_vtu(const Surface& surface, const std::string& path, std::span<const Array> arrays) {
  std::vector<std::int64_t> connectivity, offsets, ids = surface.element_ids;
  std::vector<std::uint8_t> types;
  const auto close_cell = [&](std::uint8_t type) {
    offsets.push_back(static_cast<std::int64_t>(connectivity.size()));
    types.push_back(type);
  };
  for (ElementIndex e = 0; e < surface.element_count(); ++e) {
    constexpr std::uint8_t type_of[] = {5, 9, 22, 23};  // in the order of Shape
    const auto nodes = surface.nodes_of(e);
    connectivity.insert(connectivity.end(), nodes.begin(), nodes.end());
    close_cell(type_of[static_cast<std::size_t>(surface.shapes[e])]);
  }
  // Edges and points of groups follow as cells of their own.
  std::int64_t last_id = ids.empty() ? 0 : *std::max_element(ids.begin(), ids.end());
  std::vector<std::size_t> begins;
  for (const Group& group : surface.groups) {
    begins.push_back(types.size());
    for (const Edge& edge : group.edges) {
      connectivity.insert(connectivity.end(), {edge.first, edge.second});
      if (edge.middle != no_index) connectivity.push_back(edge.middle);
      close_cell(edge.middle == no_index ? 3 : 21);
    }
    for (const NodeIndex point : group.points) {
      connectivity.push_back(point);
      close_cell(1);
    }
  }
  while (ids.size() < types.size()) ids.push_back(++last_id);

  OutputFile file(path);
  file.write(
      fmt::format("<?xml version=\"1.0\"?>\n<!-- written by Bordado {} -->\n<VTKFile type=\"UnstructuredGrid\" "
                  "version=\"1.0\" byte_order=\"{}\" "
                  "header_type=\"UInt64\" compressor=\"vtkZLibDataCompressor\">\n<UnstructuredGrid>\n<Piece "
                  "NumberOfPoints=\"{}\" NumberOfCells=\"{}\">\n",
                  version(), std::endian::native == std::endian::little ? "LittleEndian" : "BigEndian",
                  surface.points.size(), types.size()));
  std::vector<double> coordinates;
  coordinates.reserve(3 * surface.points.size());
  for (const Vec3& p : surface.points) coordinates.insert(coordinates.end(), {p.x(), p.y(), p.z()});
  file.write("<Points>\n");
  write_array(file, "Float64", "Points", 3, coordinates);
  file.write("</Points>\n<Cells>\n");
  write_array(file, "Int64", "connectivity", 1, connectivity);
  write_array(file, "Int64", "offsets", 1, offsets);
  write_array(file, "UInt8", "types", 1, types);
  file.write(fmt::format("</Cells>\n<PointData GlobalIds=\"{}\">\n", node_id_name));
  write_array(file, "Int64", node_id_name, 1, surface.node_ids);
  for (const Array& array : arrays)
    if (array.on_nodes) write_array(file, "Float64", array.name, array.components, array.now());
  file.write(fmt::format("</PointData>\n<CellData GlobalIds=\"{}\">\n", element_id_name));
  write_array(file, "Int64", element_id_name, 1, ids);
  for (const Array& array : arrays) {
    if (array.on_nodes) continue;
    std::vector<double> values = array.now();  // the cells of edges and points have none
    values.resize(types.size() * array.components, std::numeric_limits<double>::quiet_NaN());
    write_array(file, "Float64", array.name, array.components, values);
  }
  for (std::size_t g = 0; g < surface.groups.size(); ++g) {
    const Group& group = surface.groups[g];
    std::vector<std::uint8_t> member(types.size(), 0);
    for (const ElementIndex e : group.elements) member[e] = 1;
    for (std::size_t c = begins[g]; c < (g + 1 < begins.size() ? begins[g + 1] : types.size()); ++c) member[c] = 1;
    write_array(file, "UInt8", std::string(group_prefix) + group.name, 1, member);
  }
  file.write("</CellData>\n</Piece>\n</UnstructuredGrid>\n</VTKFile>\n");
  file.commit();
}

// --- MSH 4.1 ---------------------------------------------------------------------------------------------------------

/// Elements that are in the same groups share an entity: the format gives groups to entities, not to elements.
void write_msh(const Surface& surface, const std::string& path, std::span<const Array>) {
  const std::size_t count = surface.element_count();
  std::map<std::vector<std::size_t>, int> entity_of_groups;
  std::vector<std::vector<std::size_t>> groups_of(count);
  for (std::size_t g = 0; g < surface.groups.size(); ++g)
    for (const ElementIndex e : surface.groups[g].elements) groups_of[e].push_back(g);
  std::map<std::pair<int, Shape>, std::vector<ElementIndex>> blocks;  // by entity and shape
  for (ElementIndex e = 0; e < count; ++e) {
    const int entity =
        entity_of_groups.emplace(groups_of[e], static_cast<int>(entity_of_groups.size()) + 1).first->second;
    blocks[{entity, surface.shapes[e]}].push_back(e);
  }
  std::size_t curves = 0, points = 0, lines = 0, curve_blocks = 0;
  std::string names, point_entities, curve_entities;
  const auto [low, high] = extent(surface.points);
  const std::string box = fmt::format("{} {} {} {} {} {}", low.x(), low.y(), low.z(), high.x(), high.y(), high.z());
  for (std::size_t g = 0; g < surface.groups.size(); ++g) {
    const Group& group = surface.groups[g];
    std::string name = plain_text(group.name);
    std::replace(name.begin(), name.end(), '"', '\'');  // the format has no way to write a quote
    names += fmt::format("{} {} \"{}\"\n", group.dimension, g + 1, name);
    if (!group.edges.empty()) {
      curve_entities += fmt::format("{} {} 1 {} 0\n", ++curves, box, g + 1);
      lines += group.edges.size();
      ++curve_blocks;
    }
    for (const NodeIndex n : group.points) {
      const Vec3& p = surface.points[n];
      point_entities += fmt::format("{} {} {} {} 1 {}\n", ++points, p.x(), p.y(), p.z(), g + 1);
    }
  }
  OutputFile file(path);
  file.write(
      fmt::format("$MeshFormat\n4.1 0 8\n$EndMeshFormat\n$Comments\nwritten by Bordado {}\n$EndComments\n"
                  "$PhysicalNames\n{}\n{}$EndPhysicalNames\n",
                  version(), surface.groups.size(), names));
  file.write(fmt::format("$Entities\n{} {} {} 0\n{}{}", points, curves, entity_of_groups.size(), point_entities,
                         curve_entities));
  std::vector<std::string> entities(entity_of_groups.size());
  for (const auto& [groups, entity] : entity_of_groups) {
    std::string tags;
    for (const std::size_t g : groups) tags += fmt::format(" {}", g + 1);
    entities[static_cast<std::size_t>(entity) - 1] = fmt::format("{} {} {}{} 0\n", entity, box, groups.size(), tags);
  }
  for (const std::string& entity : entities) file.write(entity);
  file.write("$EndEntities\n");

  const auto extreme = [](const std::vector<std::int64_t>& ids, bool largest) {
    return ids.empty() ? std::int64_t{1}
           : largest   ? *std::max_element(ids.begin(), ids.end())
                       : *std::min_element(ids.begin(), ids.end());
  };
  const std::size_t nodes = surface.points.size();
  file.write(fmt::format("$Nodes\n1 {} {} {}\n2 1 0 {}\n", nodes, extreme(surface.node_ids, false),
                         extreme(surface.node_ids, true), nodes));
  file.write_lines(nodes, [&](std::size_t i, std::string& text) {
    append_integer(text, surface.node_ids[i]);
    text += '\n';
  });
  file.write_lines(nodes, [&](std::size_t i, std::string& text) {
    const Vec3& p = surface.points[i];
    fmt::format_to(std::back_inserter(text), "{} {} {}\n", p.x(), p.y(), p.z());
  });
  std::int64_t next_id = extreme(surface.element_ids, true);
  file.write(fmt::format("$EndNodes\n$Elements\n{} {} {} {}\n", blocks.size() + curve_blocks + points,
                         count + lines + points, extreme(surface.element_ids, false),
                         next_id + static_cast<std::int64_t>(lines + points)));
  for (const auto& [key, elements] : blocks) {
    constexpr int type_of[] = {2, 3, 9, 16};  // in the order of Shape
    file.write(fmt::format("2 {} {} {}\n", key.first, type_of[static_cast<std::size_t>(key.second)], elements.size()));
    file.write_lines(elements.size(), [&, &list = elements](std::size_t i, std::string& text) {
      append_integer(text, surface.element_ids[list[i]]);
      for (const NodeIndex n : surface.nodes_of(list[i])) {
        text += ' ';
        append_integer(text, surface.node_ids[n]);
      }
      text += '\n';
    });
  }
  std::size_t curve = 0, point = 0;
  for (const Group& group : surface.groups) {
    if (!group.edges.empty()) {
      const bool quadratic = group.edges.front().middle != no_index;
      std::string text = fmt::format("1 {} {} {}\n", ++curve, quadratic ? 8 : 1, group.edges.size());
      for (const Edge& edge : group.edges) {
        text += fmt::format("{} {} {}", ++next_id, surface.node_ids[edge.first], surface.node_ids[edge.second]);
        if (quadratic) text += fmt::format(" {}", surface.node_ids[edge.middle == no_index ? edge.first : edge.middle]);
        text += '\n';
      }
      file.write(text);
    }
    for (const NodeIndex n : group.points)
      file.write(fmt::format("0 {} 15 1\n{} {}\n", ++point, ++next_id, surface.node_ids[n]));
  }
  file.write("$EndElements\n");
  file.commit();
}

struct WriteFormat {
  std::string_view ending, name;
  void (*write)(const Surface& surface, const std::string& path, std::span<const Array> arrays);
};
constexpr WriteFormat written_formats[] = {{".vtu", "VTU", write_vtu}, {".msh", "Gmsh MSH 4.1", write_msh}};

}  // namespace

void write(std::span<const Curve> lines, const std::string& path, std::span<const Array> arrays) {
  if (!path.ends_with(".vtu"))
    throw Failure({Severity::error, "mesh.ending-unknown", "lines are written as VTU", Place::in(path),
                   "end its name with .vtu"});
  std::vector<double> coordinates;
  std::vector<std::int64_t> connectivity, offsets;
  for (const Curve& line : lines) {
    const auto first = static_cast<std::int64_t>(coordinates.size() / 3);
    for (std::size_t k = 0; k < line.points.size(); ++k) {
      connectivity.push_back(first + static_cast<std::int64_t>(k));
      for (int i = 0; i < 3; ++i) coordinates.push_back(line.points[k][i]);
    }
    if (line.closed) connectivity.push_back(first);
    offsets.push_back(static_cast<std::int64_t>(connectivity.size()));
  }
  constexpr std::uint8_t poly_line = 4;
  OutputFile file(path);
  file.write(
      fmt::format("<?xml version=\"1.0\"?>\n<!-- written by Bordado {} -->\n<VTKFile type=\"UnstructuredGrid\" "
                  "version=\"1.0\" byte_order=\"{}\" "
                  "header_type=\"UInt64\" compressor=\"vtkZLibDataCompressor\">\n<UnstructuredGrid>\n<Piece "
                  "NumberOfPoints=\"{}\" NumberOfCells=\"{}\">\n<Points>\n",
                  version(), std::endian::native == std::endian::little ? "LittleEndian" : "BigEndian",
                  coordinates.size() / 3, lines.size()));
  write_array(file, "Float64", "Points", 3, coordinates);
  file.write("</Points>\n<Cells>\n");
  write_array(file, "Int64", "connectivity", 1, connectivity);
  write_array(file, "Int64", "offsets", 1, offsets);
  write_array(file, "UInt8", "types", 1, std::vector<std::uint8_t>(lines.size(), poly_line));
  file.write("</Cells>\n<CellData>\n");
  for (const Array& array : arrays) write_array(file, "Float64", array.name, array.components, array.now());
  file.write("</CellData>\n</Piece>\n</UnstructuredGrid>\n</VTKFile>\n");
  file.commit();
}

void write(const Surface& surface, const std::string& path, std::span<const Array> arrays) {
  for (const WriteFormat& format : written_formats)
    if (path.ends_with(format.ending)) return format.write(surface, path, arrays);
  std::vector<std::string> known;
  for (const WriteFormat& format : written_formats) known.push_back(fmt::format("{} ({})", format.ending, format.name));
  throw Failure({Severity::error, "mesh.ending-unknown", "the file's ending does not say a mesh format that is written",
                 Place::in(path), fmt::format("end its name with one of {}", listed(known))});
}

}  // namespace bordado::mesh
