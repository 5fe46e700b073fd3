#include <bordado/deck/read_back.hpp>
#include <bordado/design.hpp>

#include <bordado/deck/writing.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace bordado::deck {

double number_read(std::string_view field) {
  if (const auto value = number_in(field)) return *value;
  throw Failure({Severity::error,
                 "deck.read-back",
                 fmt::format("'{}' stands where a number should", field),
                 {},
                 "this is a mistake of Bordado's: please report it with the part"});
}

void SectionGathered::add(double t, const laminate::Matrix3& Q, const laminate::Matrix2& G,
                          const laminate::Vector3& expansion, double density) {
  const double middle = z_ + 0.5 * t;
  out.stiffness.A += t * Q;
  out.stiffness.B += t * middle * Q;
  out.stiffness.D += t * (middle * middle + t * t / 12.0) * Q;
  out.stiffness.H += t * G;
  out.areal_mass += t * density;
  out.expansion.N += t * Q * expansion;
  out.expansion.M += t * middle * Q * expansion;
  z_ += t;
}

SectionRead turned_over(const SectionRead& read) {
  const Eigen::DiagonalMatrix<double, 3> turn(1.0, 1.0, -1.0);
  const Eigen::DiagonalMatrix<double, 2> across(-1.0, 1.0);  // xz, yz
  SectionRead out = read;
  out.stiffness.A = turn * read.stiffness.A * turn;
  out.stiffness.B = -1.0 * (turn * read.stiffness.B * turn);
  out.stiffness.D = turn * read.stiffness.D * turn;
  out.stiffness.H = across * read.stiffness.H * across;
  out.expansion.N = turn * read.expansion.N;
  out.expansion.M = -1.0 * (turn * read.expansion.M);
  return out;
}

void compare_read(const Model& model, const material::Material& wanted, const MaterialRead& read, double digits) {
  const auto off = [&](std::string_view what, double by, double of) {
    if (by <= digits * of || (by == 0.0 && of == 0.0)) return;
    throw Failure(
        {Severity::error, "deck.read-back",
         fmt::format("material '{}', read back from the deck, has {} that is {:.3g} % off the part's: the deck would "
                     "be wrong and is not written",
                     wanted.name, what, of > 0.0 ? 100.0 * by / of : 100.0),
         Place::in(model.design->part.file), "this is a mistake of Bordado's: please report it with the part"});
  };
  // Each constant by the stiffnesses of its two directions: one that is a thousandth of another is not lost in it.
  const material::Matrix6 C = material::stiffness(wanted.elastic);
  for (int i = 0; i < 6; ++i)
    for (int j = 0; j < 6; ++j)
      off("a stiffness", std::abs(read.stiffness(i, j) - C(i, j)), std::sqrt(C(i, i) * C(j, j)));
  off("a density", std::abs(read.density - wanted.density.value_or(0.0)), wanted.density.value_or(0.0));
  material::Vector6 expansion = material::Vector6::Zero();
  expansion.head<3>() = wanted.thermal.all();
  expansion[5] = wanted.thermal.shear.value_or(0.0);
  off("an expansion", (read.expansion - expansion).norm(), expansion.norm());
}

void compare_read(const Model& model, section::SectionId s, const SectionRead& read, const Held& held, double digits) {
  const section::Sections& sections = model.design->sections;
  const auto layers = section::laminate_of(model.design->part, sections, s);
  const laminate::Stiffness wanted = laminate::stiffness(layers, sections.bottom[s]);
  // Where the laminate lies off the mesh B and D are larger by that: they are compared by the distance of its far face.
  const double h = sections.thickness[s],
               far = std::max(std::abs(sections.bottom[s]), std::abs(sections.bottom[s] + h));
  const auto off = [&](std::string_view what, double by, double of) {
    if (by <= digits * of || !(of > 0.0)) return;
    throw Failure({Severity::error, "deck.read-back",
                   fmt::format("section {}, read back from the deck, has {} that is {:.3g} % off the layup's: the deck "
                               "would be wrong and is not written",
                               index(s) + 1, what, 100.0 * by / of),
                   Place::in(model.design->part.file),
                   "this is a mistake of Bordado's: please report it with the part"});
  };
  const double A = wanted.A.norm();
  off("an A", (read.stiffness.A - wanted.A).norm(), A);
  off("a B", (read.stiffness.B - wanted.B).norm(), A * far);
  off("a D", (read.stiffness.D - wanted.D).norm(), A * far * far);
  // D about the laminate's own middle, where it is small beside that about the mesh.
  const laminate::Stiffness own = laminate::moved(wanted, sections.bottom[s] + 0.5 * h),
                            there = laminate::moved(read.stiffness, sections.bottom[s] + 0.5 * h);
  off("a D about its middle", (there.D - own.D).norm(), own.D.norm() * std::max(1.0, std::pow(far / h, 2)));
  if (held.shear) off("an H", (read.stiffness.H - wanted.H).norm(), wanted.H.norm());
  const double mass = laminate::areal_mass(layers) + held.added;
  off("a mass", std::abs(read.areal_mass - mass), mass);
  if (!held.expansion) return;
  const laminate::Resultants expands =
      laminate::held_expansion(layers, sections.bottom[s], laminate::Expands::by_temperature);
  // By what its layers push one by one: what is left of them may be nothing.
  double pushes = 0.0;
  for (const laminate::Layer& layer : layers)
    pushes += layer.thickness * (laminate::rotated(laminate::plane_stress_stiffness(layer.elastic), layer.angle) *
                                 laminate::free_strain(layer, laminate::Expands::by_temperature))
                                    .norm();
  off("a thermal force", (read.expansion.N - expands.N).norm(), pushes);
  off("a thermal moment", (read.expansion.M - expands.M).norm(), pushes * far);
}

}  // namespace bordado::deck
