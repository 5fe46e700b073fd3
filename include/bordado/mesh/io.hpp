/// \file io.hpp
/// Mesh files, and values on meshes.
#ifndef BORDADO_MESH_IO_HPP
#define BORDADO_MESH_IO_HPP

#include <bordado/mesh/surface.hpp>

#include <cstddef>
#include <functional>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace bordado::mesh {

/// How file coordinates become part coordinates: one factor, applied once on reading.
struct ReadOptions {
  double factor = 1.0;  ///< part length units in one file length unit, times the declared scale
  /// STL and OBJ: points no further apart than this, in file units, are one; 1e-6 of the mesh's diagonal where not
  /// given.
  std::optional<double> weld = std::nullopt;
  /// Decks may include files of other folders than their own; otherwise that is refused.
  bool includes_anywhere = false;
};

/// Reads a mesh file; the format is recognised by its content: Gmsh MSH 1 to 4.1 (ASCII and binary), VTU and VTP (ASCII,
/// inline and appended, zlib), legacy VTK, CalculiX keywords, bulk data (small, large and free field), STL, OBJ, PLY, OFF.
/// Nodes that no element uses are dropped; solid elements are passed over; both are noted in `findings`.
/// \throws Failure with codes "file.*" or "mesh.*": truncated, not finite, an id twice, a node that does not exist, ...
Surface read(const std::string& path, const ReadOptions& options, Findings& findings);

/// As read(), from bytes in memory; `path` is used in messages only.
Surface read_bytes(std::string_view bytes, const std::string& path, const ReadOptions& options, Findings& findings);

/// Values on the nodes or on the elements of a surface, `components` for each, one after the other.
struct Array {
  std::string name;
  bool on_nodes = false;
  std::size_t components = 1;
  std::vector<double> values;
  /// Makes the values when they are wanted, instead of `values`: many large arrays need not stand side by side.
  std::function<std::vector<double>()> make = {};

  std::vector<double> now() const { return make ? make() : values; }
};

/// A mesh with the values that its file (VTU) holds.
struct Sampled {
  Surface surface;
  std::vector<Array> arrays;
};

/// \throws Failure as read(), and "mesh.format-unknown" where the file is no VTU file.
Sampled read_sampled(const std::string& path, const ReadOptions& options, Findings& findings);

/// Writes the surface with its ids and groups; the ending says the format: .vtu (with the arrays) or .msh (without).
/// The file is written whole or not at all. \throws Failure "mesh.ending-unknown", "file.*".
void write(const Surface& surface, const std::string& path, std::span<const Array> arrays = {});

struct Curve;

/// Lines as a VTU file, each a poly-line, with the arrays, one value for each line. \throws Failure as above.
void write(std::span<const Curve> lines, const std::string& path, std::span<const Array> arrays = {});

}  // namespace bordado::mesh

#endif
