// The table of mesh formats: a new one is a new file and one line here.
#pragma once

#include <bordado/mesh/io.hpp>

namespace bordado::mesh {

struct Format {
  std::string_view name;
  bool (*recognises)(std::string_view bytes);
  Surface (*read)(std::string_view bytes, const std::string& path, const ReadOptions& options, Findings& findings);
};

bool is_msh(std::string_view bytes);
Surface read_msh(std::string_view bytes, const std::string& path, const ReadOptions& options, Findings& findings);

bool is_vtu(std::string_view bytes);
Surface read_vtu(std::string_view bytes, const std::string& path, const ReadOptions& options, Findings& findings);

bool is_stl(std::string_view bytes);
Surface read_stl(std::string_view bytes, const std::string& path, const ReadOptions& options, Findings& findings);

bool is_bulk_data(std::string_view bytes);
Surface read_bulk_data(std::string_view bytes, const std::string& path, const ReadOptions& options, Findings& findings);

bool is_keywords(std::string_view bytes);
Surface read_keywords(std::string_view bytes, const std::string& path, const ReadOptions& options, Findings& findings);

bool is_obj(std::string_view bytes);
Surface read_obj(std::string_view bytes, const std::string& path, const ReadOptions& options, Findings& findings);

bool is_vtk(std::string_view bytes);
Surface read_vtk(std::string_view bytes, const std::string& path, const ReadOptions& options, Findings& findings);

bool is_ply(std::string_view bytes);
Surface read_ply(std::string_view bytes, const std::string& path, const ReadOptions& options, Findings& findings);

bool is_off(std::string_view bytes);
Surface read_off(std::string_view bytes, const std::string& path, const ReadOptions& options, Findings& findings);

// The first that recognises the bytes reads them.
inline constexpr Format formats[] = {
    {"Gmsh MSH", is_msh, read_msh},
    {"VTU or VTP", is_vtu, read_vtu},
    {"legacy VTK", is_vtk, read_vtk},
    {"PLY", is_ply, read_ply},
    {"OFF", is_off, read_off},
    {"STL", is_stl, read_stl},
    {"CalculiX keywords", is_keywords, read_keywords},
    {"OBJ", is_obj, read_obj},
    {"bulk data", is_bulk_data, read_bulk_data},
};

}  // namespace bordado::mesh
