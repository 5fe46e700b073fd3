// How what sections carry changes from element to element, and the shear between plies that comes of it.
#pragma once

#include "section_forces.hpp"

#include <bordado/recovery.hpp>

#include <functional>
#include <span>
#include <vector>

namespace bordado::result {

/// N and M (rows) along x and y of an element's section (columns).
using Gradients = Eigen::Matrix<double, 6, 2>;

/// N and M seen from axes that are turned by an angle about the normal.
Carried seen_from(const Carried& carried, double angle);

/// How what elements carry changes from each to those beside it that have the same plies: by least squares over what they
/// carry, seen in its axes; nothing in a direction in which there are none. Refers to what it is given.
class Changing {
 public:
  Changing(const mesh::Surface& surface, const mesh::Geometry& geometry, std::span<const Vec3> references,
           const layup::Layup& layup, const mesh::NodeTable& at_nodes)
      : surface_(surface), geometry_(geometry), references_(references), layup_(layup), at_nodes_(at_nodes) {}
  Gradients operator()(mesh::ElementIndex element, const std::function<Carried(mesh::ElementIndex)>& carried_by);

 private:
  const mesh::Surface& surface_;
  const mesh::Geometry& geometry_;
  std::span<const Vec3> references_;
  const layup::Layup& layup_;
  const mesh::NodeTable& at_nodes_;
  std::vector<mesh::ElementIndex> around_;
};

/// Changes gradients so that forces balance exactly: Mx,x + Mxy,y = Qx, My,y + Mxy,x = Qy, and nothing is left of Nx,x +
/// Nxy,y and Ny,y + Nxy,x. What is left over goes to both parts of a sum as their squares: all of it to Mx,x and My,y
/// where nothing is known.
void balance(Gradients& gradients, const laminate::Vector2& Q);

/// A layer as what lies in its plane sees it, in the section's axes.
struct PlaneLayer {
  laminate::Matrix3 Q;
  double thickness, cos, sin;
  explicit PlaneLayer(const laminate::Layer& layer);
};

/// Shear stresses 13, 23 in ply axes, at bottom, middle and top of each layer, of stresses in the plane that change so: what
/// gathers of their change from the bottom up. \param z0 of that \param strains how strain and curvature about the mesh change
void shear_between(std::span<const PlaneLayer> layers, double z0, const StrainChanges& strains,
                   std::vector<laminate::Vector2>& into);

}  // namespace bordado::result
