#include "formats.hpp"
#include "text.hpp"

#include <bordado/base/files.hpp>

#include <fmt/format.h>

namespace bordado::mesh {

namespace {

/// Files that are known for what they are, but not read: how they begin, and what helps.
struct Stranger {
  std::string_view begins, name, remedy;
};
constexpr Stranger strangers[] = {
    {"ISO-10303-21", "a STEP file: a geometry, not a mesh", "mesh its surfaces and save the mesh"},
    {"\x89HDF", "an HDF5 file", "save the mesh in one of the formats that are read"},
    {"CDF\x01", "a netCDF file", "save the mesh in one of the formats that are read"},
    {"CDF\x02", "a netCDF file", "save the mesh in one of the formats that are read"},
    {"PK\x03\x04", "a ZIP archive", "unpack it and name the mesh inside"},
    {"\x1f\x8b", "packed by gzip", "unpack it: gunzip"},
    {"BZh", "packed by bzip2", "unpack it: bunzip2"},
    {"\xfd"
     "7zXZ",
     "packed by xz", "unpack it: unxz"},
    {"glTF", "a glTF file", "save the mesh in one of the formats that are read"},
    {"%PDF", "a PDF", "name the mesh file"},
    {"\x89PNG", "a picture", "name the mesh file"},
    {"<?xml", "XML of another kind than VTU and VTP", "save the mesh in one of the formats that are read"},
    {"{", "JSON", "save the mesh in one of the formats that are read"},
    {"[part]", "a part file", "name the mesh, or call bordado check with this file"},
    {"#!", "a script", "name the mesh file"},
    {"MeshVersionFormatted", "a mesh in the MEDIT format", "save it as MSH or VTU"},
};

/// The eighth column but seven of an IGES file's first line says its section.
bool is_iges(std::string_view bytes) {
  return bytes.size() > 80 && bytes[72] == 'S' && bytes.substr(73, 7).find('1') != std::string_view::npos;
}

[[noreturn]] void refuse(std::string_view bytes, const std::string& path) {
  std::vector<std::string> names;
  for (const Format& format : formats) names.emplace_back(format.name);
  std::string what = "the mesh file is of no format that is read here", remedy;
  const std::string_view start = trimmed(bytes.substr(0, 200));
  for (const Stranger& stranger : strangers)
    if (bytes.starts_with(stranger.begins) || start.starts_with(stranger.begins)) {
      what = fmt::format("the mesh file is {}", stranger.name);
      remedy = std::string(stranger.remedy) + "; ";
      break;
    }
  if (is_iges(bytes)) what = "the mesh file is an IGES file: a geometry, not a mesh", remedy = "mesh its surfaces; ";
  const std::string ending = path.size() > 4 ? upper(path.substr(path.size() - 4)) : "";
  if (ending == ".STL" && bytes.size() > 84)
    what =
        "the mesh file ends in .stl but is not one: the number of facets in its head and its size do not fit, so it "
        "was cut "
        "short, or it is another format";
  if (trimmed(bytes.substr(0, 4000)).empty() && !bytes.empty()) what = "the mesh file begins with nothing but blanks";
  if (bytes.empty()) what = "the mesh file is empty";
  throw Failure({Severity::error, "mesh.format-unknown", std::move(what), Place::in(path),
                 fmt::format("{}formats: {}", remedy, listed(names, names.size()))});
}

}  // namespace

Surface read(const std::string& path, const ReadOptions& options, Findings& findings) {
  return read_bytes(read_file(path), path, options, findings);
}

Surface read_bytes(std::string_view bytes, const std::string& path, const ReadOptions& options, Findings& findings) {
  for (const Format& format : formats)
    if (format.recognises(bytes)) return format.read(bytes, path, options, findings);
  refuse(bytes, path);
}

}  // namespace bordado::mesh
