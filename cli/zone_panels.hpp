// Zones of a part as panels, every element under its own laminate and forces.
#pragma once

#include "answers.hpp"

#include <bordado/zone_panels.hpp>

namespace bordado::cli {

struct ZoneChoices {
  std::vector<std::string> names, cases;
  PartChoice part;
  SectionChoice sections;
  AnswerPlace answers;
  ModelChoice model;
  std::string from, write;
  std::optional<std::array<double, 2>> size;
  std::array<sizing::Edge, 4> edges{};
};
void add_zone_options(CLI::App& command, ZoneChoices& choice);
/// Reads, checks, prints and writes. \throws Failure
void check_zones(ZoneChoices& choices, bool json, const std::string& draw, Findings& findings);

}  // namespace bordado::cli
