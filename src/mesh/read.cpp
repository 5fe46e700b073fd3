#include "formats.hpp"

#include <fmt/format.h>

namespace bordado::mesh {

Surface read(const std::string& path, const ReadOptions& options, Findings& findings) {
  return read_bytes(read_file(path), path, options, findings);
}

Surface read_bytes(std::string_view bytes, const std::string& path, const ReadOptions& options, Findings& findings) {
  for (const Format& format : formats)
    if (format.recognises(bytes)) return format.read(bytes, path, options, findings);
  std::vector<std::string> names;
  for (const Format& format : formats) names.emplace_back(format.name);
  throw Failure({Severity::error, "mesh.format-unknown",
                 bytes.empty() ? "the mesh file is empty" : "the mesh file is of no format that is read here",
                 Place::in(path), fmt::format("save the mesh as {}", listed(names, names.size()))});
}

}  // namespace bordado::mesh
