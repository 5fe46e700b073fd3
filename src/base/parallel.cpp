#include <bordado/base/work.hpp>

#include "arena.hpp"

#include <tbb/global_control.h>
#include <tbb/parallel_for.h>

#include <algorithm>
#include <limits>
#include <memory>

namespace bordado {

namespace {

struct Workers {
  explicit Workers(std::size_t threads)
      : limit(tbb::global_control::max_allowed_parallelism, threads), arena(static_cast<int>(threads)) {}
  tbb::global_control limit;
  tbb::task_arena arena;
};

std::unique_ptr<Workers>& workers() {
  static std::unique_ptr<Workers> all;
  return all;
}

}  // namespace

void work_with(std::size_t threads) {
  workers().reset();
  workers() = std::make_unique<Workers>(std::clamp<std::size_t>(threads, 1, 1024));
}

namespace {

std::size_t& largest_block() {
  static std::size_t largest = std::numeric_limits<std::size_t>::max();
  return largest;
}

}  // namespace

void work_in_blocks(std::size_t most) { largest_block() = std::max<std::size_t>(most, 1); }

std::size_t block_of(std::size_t usual) { return std::min(usual, largest_block()); }

void in_arena(const std::function<void()>& work) {
  if (workers())
    workers()->arena.execute(work);
  else
    work();
}

void parallel_blocks(std::size_t count, const std::function<void(std::size_t, std::size_t)>& body, std::size_t block) {
  const std::size_t blocks = (count + block - 1) / block;
  if (blocks <= 1) {
    if (count > 0) body(0, count);
    return;
  }
  in_arena([&] {
    tbb::parallel_for(std::size_t{0}, blocks,
                      [&](std::size_t i) { body(i * block, std::min(count, (i + 1) * block)); });
  });
}

}  // namespace bordado
