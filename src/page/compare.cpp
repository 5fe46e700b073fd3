#include "compare.hpp"

#include <bordado/mesh/locate.hpp>
#include <bordado/review/compare.hpp>

#include <fmt/format.h>

#include <cmath>

namespace bordado::page {

namespace {

/// How the same place looks in the other design.
enum Difference : std::uint8_t { same = 0, other_plies = 1, only_here = 2 };

/// A stack told by everything that its plies are, but for directions; SI.
std::string signature(const Design& design, layup::StackId stack) {
  std::string out;
  for (const part::PlyId p : design.layup.plies_of(stack)) {
    const layup::Ply& ply = design.layup.plies[p];
    out += fmt::format("{}|{:.9g}|{:.9g};", design.part.materials[ply.material].name,
                       ply.thickness * design.part.units.to_si(Dimension::length), same_fibre(ply.angle).degrees());
    const layup::Region& region = design.layup.regions[ply.region];
    if (region.edge) out += fmt::format("edge {:.9g};", *region.edge * design.part.units.to_si(Dimension::length));
    for (const layup::Moved& moved : region.moved)
      out += fmt::format("moved {:.9g};", moved.by * design.part.units.to_si(Dimension::length));
    if (const auto& chamfer = design.part.plies[p].chamfer) out += part::toml_text(*chamfer);
    if (const auto& varies = design.part.plies[p].varies)
      out += part::toml_text(*varies, design.part.file, design.part.units);
  }
  return out;
}

}  // namespace

std::vector<std::uint8_t> differences(const Design& here, const Drawn& drawn, const Design& there) {
  const mesh::Locator locator(there.surface);
  const double factor = here.part.units.to_si(Dimension::length) / there.part.units.to_si(Dimension::length);
  List<layup::StackId, std::string> mine, others;
  for (const layup::StackId s : here.layup.stacks()) mine.push_back(signature(here, s));
  for (const layup::StackId s : there.layup.stacks()) others.push_back(signature(there, s));
  const double nearly = Angle::degrees(1.0).cos();
  const auto same_directions = [&](mesh::ElementIndex e, mesh::ElementIndex o) {
    const auto plies = here.layup.plies_of(here.layup.stack_of[e]);
    const auto theirs = there.layup.plies_of(there.layup.stack_of[o]);
    for (std::size_t i = 0; i < plies.size(); ++i) {
      const Vec3 a = here.layup.fibre(plies[i], e, here.geometry.normals[e]);
      const Vec3 b = there.layup.fibre(theirs[i], o, there.geometry.normals[o]);
      if (std::abs(a.dot(b)) < nearly) return false;
    }
    return here.geometry.normals[e].dot(there.geometry.normals[o]) > 0.0;
  };
  std::vector<std::uint8_t> out(drawn.elements.size());
  parallel_blocks(out.size(), [&](std::size_t begin, std::size_t end) {
    for (std::size_t d = begin; d < end; ++d) {
      const mesh::ElementIndex e = drawn.elements[d];
      const mesh::Locator::Found found = locator.nearest(here.geometry.centres[e] * factor);
      if (found.distance > factor * std::sqrt(here.geometry.areas[e]))
        out[d] = only_here;
      else
        out[d] = mine[here.layup.stack_of[e]] == others[there.layup.stack_of[found.element]] &&
                         same_directions(e, found.element)
                     ? same
                     : other_plies;
    }
  });
  return out;
}

Json compared(const Design& before, const Design& after) {
  const review::Comparison all = review::compare(before, after);
  const UnitSystem& units = after.part.units;
  constexpr const char* whats[] = {"added", "removed", "moved", "changed"};
  Json changes = Json::array(), figures = Json::array();
  for (const review::Change& c : all.changes)
    changes.push_back(
        {{"what", whats[static_cast<int>(c.what)]}, {"kind", c.kind}, {"name", c.name}, {"detail", c.detail}});
  for (const review::Figure& f : all.figures) {
    const bool si = f.dimension == Dimension::mass || f.dimension == Dimension::area;
    const double factor = si ? units.to_si(f.dimension) : 1.0;
    figures.push_back(
        {{"name", f.name},
         {"unit", f.dimension == Dimension::mass   ? "kg"
                  : f.dimension == Dimension::area ? "m^2"
                  : f.dimension == Dimension::none ? units.unit(Dimension::force) + " " + units.unit(Dimension::length)
                                                   : units.unit(f.dimension)},
         {"before", f.before * factor},
         {"after", f.after * factor}});
  }
  return {{"changes", changes}, {"figures", figures}};
}

}  // namespace bordado::page
