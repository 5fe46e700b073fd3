// Tables of supports, loads, masses and cases. A new kind of load is a struct in loads.hpp, a line in the table of
// loads.cpp and its meaning in src/deck/.
#pragma once

#include <bordado/loads.hpp>

#include "../base/toml_table.hpp"

namespace bordado::part {

/// Nothing where an error was told.
std::optional<Support> read_support(Table& table, const std::string& name);
std::optional<Load> read_load(Table& table, const std::string& name);
std::optional<Mass> read_mass(Table& table, const std::string& name);
Case read_case(Table& table, const std::string& name);

}  // namespace bordado::part
