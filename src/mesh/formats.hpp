// The table of mesh formats: a new one is a new file and one line here.
#pragma once

#include <bordado/mesh.hpp>

namespace bordado::mesh {

struct Format {
  std::string_view name;
  bool (*recognises)(std::string_view bytes);
  Surface (*read)(std::string_view bytes, const std::string& path, const ReadOptions& options, Findings& findings);
};

bool is_msh(std::string_view bytes);
Surface read_msh(std::string_view bytes, const std::string& path, const ReadOptions& options, Findings& findings);

inline constexpr Format formats[] = {
    {"Gmsh MSH 2.2 or 4.1", is_msh, read_msh},
};

}  // namespace bordado::mesh
