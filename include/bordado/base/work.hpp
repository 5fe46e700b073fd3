/// \file work.hpp
/// Loops on all cores, and how far they are.
#ifndef BORDADO_BASE_WORK_HPP
#define BORDADO_BASE_WORK_HPP

#include <cstddef>
#include <functional>
#include <string_view>

namespace bordado {

/// How many threads work from now on, in the whole process: 1 and more; without it as many as there are cores.
/// What comes out is the same, byte for byte.
void work_with(std::size_t threads);

/// From now on a block of a loop holds no more than that, in the whole process: a small part has many then, as tests want it.
/// Sums that are gathered block by block may differ in their last digits.
void work_in_blocks(std::size_t most);

/// How much a block of a loop holds: so much, or less where work_in_blocks() says so.
std::size_t block_of(std::size_t usual);

/// Calls body(begin, end) for consecutive blocks that cover 0..count, on all cores. Blocks do not depend on the number
/// of threads, so results gathered per block are the same on every machine. Exceptions reach the caller.
void parallel_blocks(std::size_t count, const std::function<void(std::size_t begin, std::size_t end)>& body,
                     std::size_t block = block_of(8192));

/// Told what is being done and how far it is (0..1); called from one thread at a time. May be empty.
using Progress = std::function<void(std::string_view activity, double fraction)>;

}  // namespace bordado

#endif
