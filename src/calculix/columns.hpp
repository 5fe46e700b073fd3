// How columns turn, from the .frd file of CalculiX, which holds every node that it made of a shell.
#pragma once

#include <bordado/calculix/boxes.hpp>

#include <span>
#include <string>

namespace bordado::calculix {

/// How much farther the top of each column moves than its bottom, over its length: in the first block of displacements.
/// \throws Failure "result.cut" where the file has no node at an end of a column, or does not say how it moves.
std::vector<Vec3> turns(std::span<const Column> columns, const std::string& frd);

}  // namespace bordado::calculix
