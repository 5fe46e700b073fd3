#include <bordado/bordado.hpp>

#include <iostream>

int main(int argc, char** argv) {
  if (argc != 2) return 2;
  try {
    bordado::Findings findings;
    const bordado::Design design = bordado::open(argv[1], findings);
    for (const bordado::Finding& finding : findings.all()) std::cerr << finding.text() << '\n';

    const bordado::section::SectionId first{};
    const auto layers = bordado::section::laminate_of(design.part, design.sections, first);
    const auto stiffness = bordado::laminate::stiffness(layers, design.sections.bottom[first]);
    std::cout << "A11 of the first section: " << stiffness.A(0, 0) << " N/mm\n";

    bordado::write_deck(design, "calculix", "panel.inp", {}, findings);
  } catch (const bordado::Failure& failure) {
    std::cerr << failure.what() << '\n';
    return 1;
  }
}
