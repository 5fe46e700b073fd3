/// \file locate.hpp
/// The nearest place on a surface.
#ifndef BORDADO_MESH_LOCATE_HPP
#define BORDADO_MESH_LOCATE_HPP

#include <bordado/mesh/surface.hpp>

#include <array>
#include <functional>
#include <memory>
#include <span>
#include <vector>

namespace bordado::mesh {

struct Sampled;
struct Array;

/// Finds the nearest place on a surface. Refers to the surface, which must outlive it.
class Locator {
 public:
  explicit Locator(const Surface& of);
  ~Locator();
  Locator(Locator&&) noexcept;

  struct Found {
    ElementIndex element = no_index;
    Vec3 point = Vec3::Zero();        ///< the nearest place
    double distance = 0.0;            ///< to it
    std::array<double, 8> weights{};  ///< of the element's nodes there: its shape functions
  };
  /// The nearest place of the (curved) surface; where several are as near, in the element that comes first.
  Found nearest(const Vec3& point) const;
  /// The same of some elements only; no element, infinitely far, where there is none. \param among whether one counts
  Found nearest(const Vec3& point, const std::function<bool(ElementIndex)>& among) const;

 private:
  struct Tree;
  std::unique_ptr<Tree> tree_;
};

/// One number for each point, of the nearest place of another mesh; not a number where it has none there.
/// \param array of that mesh, with one component.
std::vector<double> values_at(const Sampled& sampled, const Array& array, std::span<const Vec3> points);

}  // namespace bordado::mesh

#endif
