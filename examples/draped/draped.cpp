// What draping changes: the hull with its fabrics following their frames, draped with straight generators, and led for least
// shear; mass, stiffness, shear and the deflection that the solver finds. Usage: example_draped draped.toml FOLDER
#include <bordado/bordado.hpp>

#include <cmath>
#include <iomanip>
#include <iostream>

namespace {

/// Mean over the area of a laminate's A11 or A66, in its elements' own axes.
double mean_stiffness(const bordado::Design& design, int row) {
  std::vector<double> areas(design.sections.count(), 0.0);
  double area = 0.0, sum = 0.0;
  for (bordado::mesh::ElementIndex e = 0; e < design.surface.element_count(); ++e) {
    areas[bordado::index(design.sections.section_of[e])] += design.geometry.areas[e];
    area += design.geometry.areas[e];
  }
  for (const bordado::section::SectionId s : design.sections.ids())
    sum += areas[bordado::index(s)] *
           bordado::laminate::stiffness(bordado::section::laminate_of(design.part, design.sections, s),
                                        design.sections.bottom[s])
               .A(row, row);
  return sum / area;
}

}  // namespace

int main(int argc, char** argv) {
  if (argc != 3) {
    std::cerr << "usage: example_draped draped.toml FOLDER\n";
    return 2;
  }
  try {
    bordado::Findings findings;
    const bordado::part::Part declared = bordado::part::read(argv[1], findings);
    std::cout << std::left << std::setw(12) << "" << std::right << std::setw(9) << "mass" << std::setw(11) << "A11"
              << std::setw(11) << "A66" << std::setw(10) << "largest" << std::setw(9) << "mean" << std::setw(12)
              << "deflection" << '\n'
              << std::left << std::setw(12) << "" << std::right << std::setw(9) << "kg" << std::setw(11) << "N/mm"
              << std::setw(11) << "N/mm" << std::setw(10) << "shear" << std::setw(9) << "shear" << std::setw(12) << "mm"
              << '\n';
    for (const std::string way : {"undraped", "straight", "led"}) {
      bordado::part::Part part = declared;
      for (bordado::part::Ply& ply : part.plies)
        if (way == "undraped") ply.drape.reset();
      for (bordado::part::Drape& drape : part.drapes)
        if (way == "straight" && drape.lay == bordado::part::Lay::led) drape.lay = bordado::part::Lay::straight;
      bordado::Findings told;
      const bordado::Design hull = bordado::open(part, told);
      double largest = 0.0, mean = 0.0, area = 0.0;
      for (const bordado::review::PlyDrape& one : bordado::review::draped_plies(hull)) {
        largest = std::max({largest, std::abs(one.verdict.least_shear), std::abs(one.verdict.most_shear)});
        mean += one.verdict.mean_shear * one.verdict.reached;
        area += one.verdict.reached;
      }
      const auto solved = bordado::solve(hull, std::string(argv[2]) + "/hull-" + way + ".inp", {}, told);
      const double kilograms = bordado::layup::mass(hull).mass * hull.part.units.to_si(bordado::Dimension::mass);
      std::cout << std::left << std::setw(12) << way << std::right << std::fixed << std::setprecision(3) << std::setw(9)
                << kilograms << std::setprecision(0) << std::setw(11) << mean_stiffness(hull, 0) << std::setw(11)
                << mean_stiffness(hull, 2) << std::setprecision(1) << std::setw(10) << largest << std::setw(9)
                << (area > 0.0 ? mean / area : 0.0) << std::setprecision(3) << std::setw(12)
                << solved.largest.value.norm() << '\n';
    }
  } catch (const bordado::Failure& failure) {
    std::cerr << failure.what() << '\n';
    return 1;
  }
}
