// Values of other files as colours of the page.
#include <bordado/design.hpp>
#include <bordado/mesh/locate.hpp>
#include <bordado/page.hpp>

#include <cmath>
#include <limits>

namespace bordado::page {

std::vector<PageField> page_fields(const mesh::Sampled& file, const Design& design) {
  const mesh::Locator locator(file.surface);
  const std::size_t count = design.surface.element_count();
  std::vector<mesh::Locator::Found> found(count);
  parallel_blocks(count, [&](std::size_t begin, std::size_t end) {
    for (std::size_t e = begin; e < end; ++e) found[e] = locator.nearest(design.geometry.centres[e]);
  });
  std::vector<PageField> out;
  for (const mesh::Array& array : file.arrays) {
    PageField field{array.name, "", std::vector<double>(count, std::numeric_limits<double>::quiet_NaN())};
    const auto blank = array.name.find(' ');
    if (blank != std::string::npos && array.name.rfind(' ') == blank && array.components == 1)
      field.name = array.name.substr(0, blank), field.unit = array.name.substr(blank + 1);
    for (mesh::ElementIndex e = 0; e < count; ++e) {
      if (found[e].distance > std::sqrt(design.geometry.areas[e])) continue;
      double square = 0.0, last = 0.0;
      for (std::size_t c = 0; c < array.components; ++c) {
        last = 0.0;
        if (array.on_nodes) {
          const auto nodes = file.surface.nodes_of(found[e].element);
          for (std::size_t i = 0; i < nodes.size(); ++i)
            last += found[e].weights[i] * array.values[nodes[i] * array.components + c];
        } else {
          last = array.values[found[e].element * array.components + c];
        }
        square += last * last;
      }
      field.values[e] = array.components == 1 ? last : std::sqrt(square);
    }
    out.push_back(std::move(field));
  }
  return out;
}

}  // namespace bordado::page
