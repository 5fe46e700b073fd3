#include <bordado/deck/writing.hpp>

#include <algorithm>

namespace bordado::deck {

material::Elastic with_transverse_shear(const material::Elastic& elastic, double G13, double G23) {
  material::Elastic out = elastic;
  out.G13 = G13, out.G23 = G23;
  if (!out.full) return out;
  // Order 11 22 33 23 13 12.
  out.full->row(3).setZero(), out.full->row(4).setZero();
  out.full->col(3).setZero(), out.full->col(4).setZero();
  (*out.full)(3, 3) = G23, (*out.full)(4, 4) = G13;
  return out;
}

std::optional<ShearFit> fit_soft_core(const part::Part& part, const section::Sections& sections,
                                      section::SectionId section) {
  using laminate::Matrix2;
  const auto layers = sections.layers_of(section);
  const auto is_core = [&](const section::LaidLayer& layer) {
    return material::is_core(section::material_of(part, sections, layer.material).kind);
  };
  if (std::none_of(layers.begin(), layers.end(), is_core) || std::all_of(layers.begin(), layers.end(), is_core))
    return std::nullopt;

  std::vector<laminate::Layer> stack = section::laminate_of(part, sections, section);
  const Matrix2 H = laminate::transverse_shear(stack), voigt = laminate::transverse_shear_voigt(stack);
  Matrix2 cores = Matrix2::Zero();
  double faces = 0.0;  // thickness of all layers that are not core
  for (std::size_t i = 0; i < stack.size(); ++i) {
    if (is_core(layers[i]))
      cores += layers[i].thickness * laminate::transverse_stiffness(stack[i].elastic, stack[i].angle);
    else
      faces += layers[i].thickness;
  }
  // What the faces have to add, spread evenly over their thickness, seen in each face layer's own axes.
  const Matrix2 wanted = (H - cores) / faces;
  ShearFit fit;
  for (std::size_t i = 0; i < stack.size(); ++i) {
    if (!is_core(layers[i])) {
      const double c = stack[i].angle.cos(), s = stack[i].angle.sin();
      Matrix2 turn;
      turn << c, s, -s, c;
      const Matrix2 own = turn * wanted * turn.transpose();
      const double least =
          1e-3 * cores.trace() / (2.0 * laminate::thickness(stack));  // stays positive whatever is asked
      stack[i].elastic =
          with_transverse_shear(stack[i].elastic, std::max(own(0, 0), least), std::max(own(1, 1), least));
    }
    fit.G13.push_back(stack[i].elastic.G13);
    fit.G23.push_back(stack[i].elastic.G23);
  }
  fit.voigt_over_H = std::max(voigt(0, 0) / H(0, 0), voigt(1, 1) / H(1, 1));
  fit.leftover = (H - laminate::transverse_shear_voigt(stack)).norm() / H.norm();
  return fit;
}

}  // namespace bordado::deck
