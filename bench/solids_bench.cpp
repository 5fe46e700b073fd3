// ./run bench, fifth part: 200,000 quadrilaterals by eight solids each: extruded, and written as a deck, beside writing as
// many bytes. Ratios are time over that of the floor in the same run.
#include "measure.hpp"

#include <bordado/base/files.hpp>
#include <bordado/deck.hpp>
#include <bordado/design.hpp>
#include <bordado/solids.hpp>

#include <fmt/format.h>

#include <cmath>
#include <filesystem>
#include <numbers>

namespace {

using namespace bordado;
using namespace measure;

constexpr std::string_view text = R"(
[part]
name = "Panel"
units = "mm, t, s"
mesh = { file = "none.msh", length = "mm" }
side = { along = [0, 0, 1] }
surface = "bottom"
[material.carbon-ud]
from = "carbon-ud"
thickness = 0.3
[frame.x]
vector = [1, 0, 0]
[layup]
plies = [ { id = "P", material = "carbon-ud", frame = "x", code = "[0/45/-45/90]s" } ]
)";

}  // namespace

int main(int count, char** arguments) {
  const bool small = count > 1 && std::string_view(arguments[1]) == "small";
  const int nx = small ? 20 : 632, ny = small ? 10 : 317;
  Findings findings;
  const Design design = open(part::read_text(text, "panel.toml", findings), panel(nx, ny), findings);
  model::Model model = assemble(design, {.quadratic = true, .laminate_only = false, .solids = {}}, findings);
  std::shared_ptr<const model::Solids> solids;
  double extruding = 0.0;
  const double memory = peak([&] {
    extruding = seconds([&] { solids = model::extrude(model, {model::SolidOptions::Per::ply, 0}, findings); });
  });
  const double many = static_cast<double>(solids->count());
  const double kept = static_cast<double>(sizeof(Vec3) * solids->points.size() +
                                          sizeof(std::uint32_t) * (solids->nodes.size() + solids->first.size()));
  // The floor of extruding: as many coordinates and connections copied.
  const double copying = best(3, [&] {
    const std::vector<Vec3> points = solids->points;
    const std::vector<std::uint32_t> nodes = solids->nodes;
    if (points.empty() || nodes.empty()) std::abort();
  });
  fmt::print("{:<58} {:>11}  {:>8}\n", "solids", "time", "ratio");
  fmt::print("{:<58} {:9.3f} s  {:8.1f}  to a copy of what is made\n",
             fmt::format("{} quadrilaterals extruded to {:.0f} solids", design.surface.element_count(), many),
             extruding, extruding / copying);
  fmt::print("{:<58} {:9.0f} B  {:8.2f}  to nodes and connections alone\n", "  memory at its peak, per solid",
             memory / many, memory / kept);
  model.solids = solids;
  const std::string path = (std::filesystem::temp_directory_path() / "bordado-solids-bench.inp").string();
  deck::Written written;
  const double writing = seconds([&] { written = deck::find_format("calculix")->write(model, path, {}, findings); });
  const std::string bytes(written.bytes, 'x');
  const double floor = best(2, [&] {
    OutputFile file(path);
    file.write(bytes);
    file.commit();
  });
  std::filesystem::remove(path);
  fmt::print("{:<58} {:9.3f} s  {:8.2f}  to writing as many bytes (aim 10)\n",
             fmt::format("written as a deck of {:.0f} MB", static_cast<double>(written.bytes) / 1e6), writing,
             writing / floor);
  return 0;
}
