// Bulk data read field by field as the format lays them out: 8 columns, or 16 behind a name with a star.
#pragma once

#include "support.hpp"

#include <map>
#include <sstream>

namespace test {

using Card = std::vector<std::string>;

inline std::string trimmed(const std::string& text) {
  const auto first = text.find_first_not_of(' ');
  return first == std::string::npos ? "" : text.substr(first, text.find_last_not_of(' ') - first + 1);
}

/// Cards by name, with the star gone and continuation lines joined.
inline std::map<std::string, std::vector<Card>> cards(const std::string& text) {
  std::map<std::string, std::vector<Card>> out;
  std::istringstream lines(text);
  bool bulk = false;
  Card* current = nullptr;
  for (std::string line; std::getline(lines, line);) {
    CHECK_MESSAGE(line.size() <= 80, line);
    if (line == "BEGIN BULK") bulk = true;
    if (!bulk || line[0] == '$' || line == "BEGIN BULK" || line == "ENDDATA") continue;
    line.resize(80, ' ');
    const std::string name = trimmed(line.substr(0, 8));
    const bool large = name.find('*') != std::string::npos;
    if (!name.empty() && name != "*" && name != "+") current = &out[name.substr(0, name.find('*'))].emplace_back();
    REQUIRE(current);
    for (std::size_t at = 8; at < 72; at += large ? 16 : 8)
      current->push_back(trimmed(line.substr(at, large ? 16 : 8)));
  }
  return out;
}

}  // namespace test
