// Sections of a deck, read back from its text and held against the layup: what no reader of it would notice is noticed
// here, at every run.
#pragma once

#include "writers.hpp"

#include <map>

namespace bordado::deck {

/// What a section of a deck says it is, about the mesh, in the axes of its elements.
struct SectionRead {
  laminate::Stiffness stiffness;   ///< H: the sum of G t, as a solver takes it; nought where the text says none
  double areal_mass = 0.0;         ///< with what is added
  laminate::Resultants expansion;  ///< N and M that hold it, per kelvin
};

/// The same seen from its other side, about the same line x: y and the normal run the other way.
SectionRead turned_over(const SectionRead& read);

/// What a material of a deck says it is, in its own axes: order 11, 22, 33, 23, 13, 12, engineering shear.
struct MaterialRead {
  material::Matrix6 stiffness = material::Matrix6::Zero();
  material::Vector6 expansion = material::Vector6::Zero();  ///< per kelvin
  double density = 0.0;
};
/// A card of 21 constants of a solid (MAT9). That its fields stand as the format has them is from memory, here and in the
/// tests' own reader.
MaterialRead bulk_solid_read(std::string_view card);
/// Compares a material of solids with what it stands for. \throws Failure "deck.read-back".
void compare_read(const Model& model, const material::Material& wanted, const MaterialRead& read, double digits);

/// CalculiX materials and sections as text, one after the other.
class CalculixRead {
 public:
  /// Cards of materials and orientations.
  void take(std::string_view text);
  /// A material that was taken.
  MaterialRead material(std::string_view name) const;
  /// A section card with its layers. \param reference, normal of its elements
  SectionRead section(std::string_view card, const Vec3& reference, const Vec3& normal) const;

 private:
  struct Read {
    material::Elastic elastic;
    std::array<double, 6> expansion{};  ///< 11 22 33 12 13 23, tensorial
    double density = 0.0;
  };
  std::map<std::string, Read, std::less<>> materials_;
  std::map<std::string, std::array<Vec3, 2>, std::less<>> orientations_;
};

/// Bulk data: cards of materials, then a property.
class BulkRead {
 public:
  void take(std::string_view text);
  SectionRead section(std::string_view property) const;

 private:
  struct Read {
    std::optional<laminate::Matrix3> Q;  ///< of a card of plane constants
    material::Elastic elastic;
    laminate::Vector3 expansion = laminate::Vector3::Zero();
    double density = 0.0;
  };
  std::map<std::int64_t, Read> materials_;
};

/// What is held against the layup.
struct Held {
  bool shear = false;      ///< H is to be that of the laminate
  bool expansion = false;  ///< the text says how it expands
  double added = 0.0;      ///< mass per area that carries nothing
};
/// Compares a section of the deck with the layup's: to `digits`, of A, of B over half the thickness and D over its square
/// a tenth, of the mass and of what expands.
/// \throws Failure "deck.read-back" with what differs and by how much.
void compare_read(const Model& model, section::SectionId section, const SectionRead& read, const Held& held,
                  double digits);

}  // namespace bordado::deck
