/// \file section.hpp
/// Stacks as few laminate sections, with a known error.
#ifndef BORDADO_SECTION_HPP
#define BORDADO_SECTION_HPP

#include <bordado/layup.hpp>

namespace bordado::section {

using layup::LaidLayer;
enum class SectionId : std::uint32_t {};  ///< in order of first elements

struct Options {
  /// Plies whose frame is not the element's reference frame turn against it by an angle that varies over the surface.
  /// That angle is rounded so that it is off by no more than this; so is the shear of draped cloth. Smaller makes more
  /// sections. (0°, 10°].
  Angle angle_tolerance = Angle::degrees(0.5);
  /// Where thickness varies, that of each layer is that of the elements of the section in the mean. The thicknesses of a
  /// laminate are off by no more than this share of it in all. Smaller makes more sections. (0, 0.2].
  double thickness_tolerance = 0.01;
  /// No more sections than this: where the tolerances make more, those that are most alike become one, so that the
  /// largest relative error of A, B and D is as small as can be found. 1 and more.
  std::optional<std::size_t> most_sections = {};
  friend bool operator==(const Options&, const Options&) = default;
};

/// What condensing cost. Deviations of A, B and D are |section - element| / |element| (Frobenius); B is compared with
/// h |A| / 2 instead of itself, since it is nought for symmetric stacks.
struct Deviation {
  Angle angle_tolerance;                  ///< the one used
  double thickness_tolerance = 0.0;       ///< the one used
  std::size_t sections_by_tolerance = 0;  ///< how many the tolerances alone make
  Angle largest_angle, mean_angle;        ///< over all elements and layers; by the tolerance, before a budget
  double largest_thickness = 0.0;         ///< |h of the section - h of the element| / h
  double largest_mass = 0.0;              ///< |mass per area of the section - of the element| / of the element
  double largest_A = 0, largest_B = 0, largest_D = 0;
  double mean_A = 0, mean_B = 0, mean_D = 0;
};

/// Unique sections; layers bottom to top, first laid first.
struct Sections {
  std::vector<SectionId> section_of;  ///< per element
  std::vector<Vec3> references;       ///< per element: unit vector of 0°, the frame of the stack's first ply
  std::vector<std::uint32_t> first;   ///< section s has layers[first[s]] .. layers[first[s + 1] - 1]
  std::vector<LaidLayer> layers;      ///< with the plies of the stack that the section came from
  List<SectionId, double> thickness;
  List<SectionId, double> bottom;         ///< z of the bottom from the mesh along n
  List<SectionId, layup::StackId> stack;  ///< a stack that it came from
  /// What densities of the section are multiplied by, so that its elements have together the mass they have by
  /// themselves. Empty where it is one for all: without a budget.
  List<SectionId, double> density_factor;
  std::size_t stack_count = 0;  ///< stacks it was condensed from
  /// What draped cloth becomes: materials behind those of the part, in axes along the longer diagonal of its cells.
  std::vector<material::Material> sheared;
  Deviation deviation;
  Options options;  ///< that it was condensed with
  /// Per element: the largest of its relative errors of A, B and D. Empty where there is none anywhere.
  std::vector<float> off;

  std::size_t count() const { return thickness.size(); }
  Ids<SectionId> ids() const { return thickness.ids(); }
  std::span<const LaidLayer> layers_of(SectionId section) const {
    return {layers.data() + first[index(section)], layers.data() + first[index(section) + 1]};
  }
};

/// Sections in order of their first element. \throws Failure "section.options" where an option is out of its range.
Sections condense(const layup::Laid& laid, const Options& options = {});

/// A material of the part, or of draped cloth.
inline const material::Material& material_of(const part::Part& part, const Sections& sections, part::MaterialId id) {
  return index(id) < part.materials.size() ? part.materials[id] : sections.sheared[index(id) - part.materials.size()];
}

/// What the density of each layer of a section is multiplied by.
inline double density_factor(const Sections& sections, SectionId s) {
  return sections.density_factor.empty() ? 1.0 : sections.density_factor[s];
}

/// The angle from 0° of the element's reference to axis 1 of a layer's material: that of its fibres, of sheared cloth that
/// of the longer diagonal.
Angle axes_of(const part::Part& part, const Sections& sections, const LaidLayer& layer);

/// The section's layers with their materials' constants, as lamination theory wants them.
std::vector<laminate::Layer> laminate_of(const part::Part& part, const Sections& sections, SectionId section);

}  // namespace bordado::section

#endif
