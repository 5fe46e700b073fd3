// Readers of materials and plies under libFuzzer: any bytes give an answer or a Failure, never a crash. What is read is
// written and read again.
#include "../../src/part/plies.hpp"

#include <cstdint>

namespace {

using namespace bordado;

void matml(const std::string& text) {
  Findings findings;
  const auto all = material::read_matml(text, "fuzzed.xml", UnitSystem(), findings);
  material::read_matml(material::matml_text(all, UnitSystem()), "again.xml", UnitSystem(), findings);
}

void plies(const std::string& text) {
  Findings findings;
  part::Part part;
  part.list.lines = part::ply_lines(text, "fuzzed.csv", UnitSystem(), findings);
  part::ply_lines(part::plies_csv(part), "again.csv", UnitSystem(), findings);
}

void library(const std::string& text) {
  Findings findings;
  material::Library all{UnitSystem()};
  all.add_text(text, "fuzzed.toml", findings);
  for (const std::string& name : all.names())
    if (const auto found = all.find(name, findings)) material::toml_text(*found);
}

void part_file(const std::string& text) {
  Findings findings;
  const part::Part part = part::read_text(text, "fuzzed.toml", findings);
  part::toml_text(part, part.file);
}

}  // namespace

#include "entry.hpp"
