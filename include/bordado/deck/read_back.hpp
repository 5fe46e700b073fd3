/// \file read_back.hpp
/// Sections of a deck, read back from its text and held against the layup: what no reader of it would notice is noticed
/// here, at every run.
#ifndef BORDADO_DECK_READ_BACK_HPP
#define BORDADO_DECK_READ_BACK_HPP

#include <bordado/deck.hpp>

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
/// Compares a material of solids with what it stands for. \throws Failure "deck.read-back".
void compare_read(const Model& model, const material::Material& wanted, const MaterialRead& read, double digits);

/// A section as it gathers layer on layer, from its bottom.
class SectionGathered {
 public:
  explicit SectionGathered(double bottom) : z_(bottom) {}
  /// \param Q, G, expansion in the axes of the section
  void add(double thickness, const laminate::Matrix3& Q, const laminate::Matrix2& G, const laminate::Vector3& expansion,
           double density);
  SectionRead out;

 private:
  double z_;
};

/// A number of a deck that was just written. \throws Failure "deck.read-back" where it is none.
double number_read(std::string_view field);

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

#endif
