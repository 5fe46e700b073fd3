/// \file section.hpp
/// Stacks as few laminate sections, with a known error.
#pragma once

#include <bordado/laminate.hpp>
#include <bordado/layup.hpp>

namespace bordado::section {

using SectionIndex = std::uint32_t;

struct Options {
  /// Plies whose frame is not the element's reference frame turn against it by an angle that varies over the surface.
  /// That angle is rounded so that it is off by no more than this. Smaller makes more sections. (0°, 10°].
  Angle angle_tolerance = Angle::degrees(0.5);
};

/// A layer as sections see it.
struct Layer {
  std::uint32_t material = 0;  ///< in Part::materials
  double thickness = 0.0;
  Angle angle;  ///< from the element's reference
  friend bool operator==(const Layer&, const Layer&) = default;
};

/// What condensing cost. Deviations of A, B and D are |section - element| / |element| (Frobenius); B is compared with
/// h |A| / 2 instead of itself, since it is nought for symmetric stacks.
struct Deviation {
  Angle angle_tolerance;            ///< the one used
  Angle largest_angle, mean_angle;  ///< over all elements and layers
  double largest_A = 0, largest_B = 0, largest_D = 0;
  double mean_A = 0, mean_B = 0, mean_D = 0;
};

/// Unique sections; layers bottom to top, first laid first.
struct Sections {
  std::vector<SectionIndex> section_of;  ///< per element
  std::vector<Vec3> references;          ///< per element: unit vector of 0°, the frame of the stack's first ply
  std::vector<std::uint32_t> first;      ///< section s has layers[first[s]] .. layers[first[s + 1] - 1]
  std::vector<Layer> layers;
  std::vector<double> thickness;         ///< per section
  std::vector<double> bottom;            ///< per section: z of the bottom from the mesh along n
  std::vector<layup::StackIndex> stack;  ///< per section: a stack that it came from
  std::size_t stack_count = 0;           ///< stacks it was condensed from
  Deviation deviation;

  std::size_t count() const { return thickness.size(); }
  std::span<const Layer> layers_of(SectionIndex section) const {
    return {layers.data() + first[section], layers.data() + first[section + 1]};
  }
};

/// Sections in order of their first element.
Sections condense(const part::Part& part, const mesh::Geometry& geometry, const layup::Layup& layup,
                  const Options& options = {});

/// The section's layers with their materials' constants, as lamination theory wants them.
std::vector<laminate::Layer> laminate_of(const part::Part& part, const Sections& sections, SectionIndex section);

}  // namespace bordado::section
