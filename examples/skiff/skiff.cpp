// The skiff hull through the library: where is it heaviest, and what does the sheer of the topsides weigh against a
// lighter one? Usage: example_skiff examples/skiff/skiff.toml
#include <bordado/bordado.hpp>

#include <algorithm>
#include <iostream>

int main(int argc, char** argv) {
  if (argc != 2) {
    std::cerr << "usage: example_skiff skiff.toml\n";
    return 2;
  }
  try {
    bordado::Findings findings;
    bordado::part::Part part = bordado::part::read(argv[1], findings);
    const bordado::Design hull = bordado::open(part, findings);

    // The heaviest laminate, per area.
    bordado::layup::StackId heaviest{};
    for (const bordado::layup::StackId s : hull.layup.stacks())
      if (bordado::layup::areal_mass(hull.part, hull.layup, s) >
          bordado::layup::areal_mass(hull.part, hull.layup, heaviest))
        heaviest = s;
    std::cout << "heaviest laminate: " << bordado::layup::code(hull.part, hull.layup, heaviest) << '\n';

    // The same hull without the plies of the rim: one change in the list of plies, every zone follows.
    erase_if(part.plies, [](const bordado::part::Ply& ply) { return ply.zone.value == "rim"; });
    const bordado::Design lighter = bordado::open(part, findings);
    const auto kilograms = [](const bordado::Design& design) {
      return bordado::layup::mass(design).mass * design.part.units.to_si(bordado::Dimension::mass);
    };
    std::cout << "mass: " << kilograms(hull) << " kg, without the rim plies " << kilograms(lighter) << " kg\n";
  } catch (const bordado::Failure& failure) {
    std::cerr << failure.what() << '\n';
    return 1;
  }
}
