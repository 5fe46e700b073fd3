// STL, text and binary: facets that share no points, so they are welded. Reference: the format has no standard; the
// layout is the one of 3D Systems' Stereolithography Interface Specification (1989).
#include <bordado/mesh/weld.hpp>
#include "builder.hpp"
#include "formats.hpp"
#include "text.hpp"

namespace bordado::mesh {

namespace {

constexpr std::size_t head_size = 84, facet_size = 50;

std::uint32_t little_endian(std::string_view bytes, std::size_t at) {
  std::uint32_t value = 0;
  for (std::size_t k = 0; k < 4; ++k)
    value |= static_cast<std::uint32_t>(static_cast<unsigned char>(bytes[at + k])) << (8 * k);
  return value;
}

bool is_binary(std::string_view bytes) {
  return bytes.size() >= head_size && bytes.size() == head_size + facet_size * std::size_t{little_endian(bytes, 80)};
}

bool is_text(std::string_view bytes) {
  const std::string_view start = trimmed(bytes.substr(0, 1000));
  return start.starts_with("solid") && (start.size() == 5 || is_blank(start[5])) &&
         (bytes.substr(0, 4000).find("facet") != std::string_view::npos ||
          bytes.substr(0, 4000).find("endsolid") != std::string_view::npos);
}

void add_corner(RawMesh& mesh, double x, double y, double z) {
  mesh.node_ids.push_back(static_cast<std::int64_t>(mesh.node_ids.size()) + 1);
  mesh.coordinates.insert(mesh.coordinates.end(), {x, y, z});
  mesh.nodes.push_back(mesh.node_ids.back());
}

void add_facet(RawMesh& mesh) {
  mesh.shapes.push_back(Shape::triangle3);
  mesh.element_ids.push_back(static_cast<std::int64_t>(mesh.shapes.size()));
}

RawMesh from_binary(std::string_view bytes) {
  RawMesh mesh;
  for (std::size_t at = head_size; at < bytes.size(); at += facet_size) {
    float corners[9];
    for (std::size_t k = 0; k < 9; ++k) {
      const std::uint32_t bits = little_endian(bytes, at + 12 + 4 * k);  // behind the facet's normal
      std::memcpy(&corners[k], &bits, 4);
    }
    for (std::size_t k = 0; k < 9; k += 3)
      add_corner(mesh, double{corners[k]}, double{corners[k + 1]}, double{corners[k + 2]});
    add_facet(mesh);
  }
  return mesh;
}

RawMesh from_text(std::string_view bytes) {
  RawMesh mesh;
  TextCursor cursor(bytes, 0);
  std::size_t corners = 0;
  bool named = false;
  for (;;) {
    const std::size_t at = cursor.offset();
    const std::string_view word = cursor.word();
    const auto expect = [&](bool good) {
      if (!good) throw Unreadable{at, fmt::format("'{}' stands where it should not", word.substr(0, 24))};
    };
    if (word.empty()) break;
    if (word == "solid") {
      expect(corners == 0);
      const std::size_t end = std::min(bytes.find('\n', cursor.offset()), bytes.size());
      const std::string_view name = trimmed(bytes.substr(cursor.offset(), end - cursor.offset()));
      named = !name.empty();
      if (named) mesh.groups.push_back({std::string(name), 2, {}, {}, {}});
      cursor.to_next_line();
    } else if (word == "endsolid") {
      expect(corners == 0);
      cursor.to_next_line();
    } else if (word == "facet") {
      expect(corners == 0);
      cursor.to_next_line();  // the normal follows from the corners
    } else if (word == "vertex") {
      expect(++corners <= 3);
      const double x = cursor.real(), y = cursor.real(), z = cursor.real();
      add_corner(mesh, x, y, z);
    } else if (word == "endfacet") {
      expect(corners == 3);
      corners = 0;
      if (named) mesh.groups.back().elements.push_back(static_cast<std::uint32_t>(mesh.shapes.size()));
      add_facet(mesh);
    } else {
      expect(word == "outer" || word == "loop" || word == "endloop");
    }
  }
  if (corners != 0) throw Unreadable{bytes.size(), "the file ends inside a facet"};
  return mesh;
}

}  // namespace

bool is_stl(std::string_view bytes) { return is_binary(bytes) || is_text(bytes); }

Surface read_stl(std::string_view bytes, const std::string& path, const ReadOptions& options, Findings& findings) {
  const bool binary = is_binary(bytes);
  try {
    RawMesh mesh = binary ? from_binary(bytes) : from_text(bytes);
    weld(mesh, options.weld, path, findings);
    return build(std::move(mesh), path, options, findings);
  } catch (const Unreadable& trouble) {
    fail(trouble, bytes, path, binary, "save the STL file again");
  }
}

}  // namespace bordado::mesh
