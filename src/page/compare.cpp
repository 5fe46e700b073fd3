#include "compare.hpp"

#include <bordado/mesh/locate.hpp>
#include <bordado/review/compare.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace bordado::page {

namespace {

/// How the same place looks in the other design.
enum Difference : std::uint8_t { same = 0, other_plies = 1, only_here = 2 };

/// Whether another mesh is this one: then elements are themselves, wherever else the other is as near.
bool same_mesh(const Design& a, const Design& b) {
  const double factor = a.part.units.to_si(Dimension::length) / b.part.units.to_si(Dimension::length);
  return a.surface.first == b.surface.first && a.surface.nodes == b.surface.nodes &&
         std::equal(a.surface.points.begin(), a.surface.points.end(), b.surface.points.begin(), b.surface.points.end(),
                    [&](const Vec3& p, const Vec3& q) { return (factor * p - q).norm() <= 1e-9 * q.norm(); });
}

/// How far layers may be apart that are the same. Edges are traced more finely where other edges are near, so that one more
/// of these moves what is covered a little.
struct Apart {
  double thickness = 0.01;  ///< of its largest
  double chamfered = 0.01;  ///< the same of one that runs out
  double covered = 0.1;     ///< of the element
};
/// The elements of another mesh lie elsewhere on what varies; a layer that runs out is half of itself within one of them.
constexpr Apart on_another_mesh{0.1, 0.5, 0.5};

/// Compares what lies on elements of two designs. One for each thread.
class Compared {
 public:
  Compared(const Design& here, const Design& there, Apart apart)
      : here_(here), there_(there), ours_(here), theirs_(there), apart_(apart) {}

  /// As many layers, each of the same material, as thick and as directed.
  bool same(mesh::ElementIndex e, mesh::ElementIndex o) {
    const Vec3 &n = here_.geometry.normals[e], &m = there_.geometry.normals[o];
    const auto ours = ours_(e), theirs = theirs_(o);
    return n.dot(m) > 0.0 &&
           std::equal(ours.begin(), ours.end(), theirs.begin(), theirs.end(),
                      [&](const layup::LaidLayer& a, const layup::LaidLayer& b) {
                        return here_.part.materials[a.material].name == there_.part.materials[b.material].name &&
                               as_thick(a, b) &&
                               std::abs(here_.layup.fibre(a.ply, e, n).dot(there_.layup.fibre(b.ply, o, m))) > nearly_;
                      });
  }

 private:
  static double metres(const Design& design, double length) {
    return length * design.part.units.to_si(Dimension::length);
  }
  bool as_thick(const layup::LaidLayer& a, const layup::LaidLayer& b) const {
    const part::Ply &one = here_.part.plies[a.ply], &other = there_.part.plies[b.ply];
    if (one.varies.has_value() != other.varies.has_value() || one.chamfer.has_value() != other.chamfer.has_value())
      return false;
    // What varies by a table or a field has no thickness of its own: what is largest depends on the mesh.
    if (!one.varies) {
      const double full = metres(here_, part::full_thickness(here_.part, a.ply)),
                   others = metres(there_, part::full_thickness(there_.part, b.ply));
      if (std::abs(full - others) > 1e-6 * full) return false;
    }
    const double largest = metres(here_, here_.layup.plies[a.ply].thickness);
    const double off = metres(here_, a.thickness / a.covered) - metres(there_, b.thickness / b.covered);
    return std::abs(off) <= (one.chamfer ? apart_.chamfered : apart_.thickness) * largest &&
           std::abs(a.covered - b.covered) <= apart_.covered;
  }

  const Design &here_, &there_;
  layup::LayersOn ours_, theirs_;
  Apart apart_;
  double nearly_ = Angle::degrees(1.0).cos();
};

}  // namespace

std::vector<std::uint8_t> differences(const Design& here, const Drawn& drawn, const Design& there) {
  const mesh::Locator locator(there.surface);
  const double factor = here.part.units.to_si(Dimension::length) / there.part.units.to_si(Dimension::length);
  const bool one_mesh = same_mesh(here, there);
  std::vector<std::uint8_t> out(drawn.elements.size());
  parallel_blocks(out.size(), [&](std::size_t begin, std::size_t end) {
    Compared compared(here, there, one_mesh ? Apart{} : on_another_mesh);
    for (std::size_t d = begin; d < end; ++d) {
      const mesh::ElementIndex e = drawn.elements[d];
      mesh::ElementIndex o = e;
      if (!one_mesh) {
        const Vec3 place = here.geometry.centres[e] * factor;
        const double reach = factor * std::sqrt(here.geometry.areas[e]);
        // Of two skins that lie on each other the one that faces this way.
        mesh::Locator::Found found = locator.nearest(place, [&](mesh::ElementIndex other) {
          return here.geometry.normals[e].dot(there.geometry.normals[other]) > 0.0;
        });
        if (!(found.distance <= reach)) found = locator.nearest(place);
        if (found.distance > reach) {
          out[d] = only_here;
          continue;
        }
        o = found.element;
      }
      out[d] = compared.same(e, o) ? same : other_plies;
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
