#include <bordado/base.hpp>

#include <tbb/parallel_for.h>

#include <algorithm>

namespace bordado {

void parallel_blocks(std::size_t count, const std::function<void(std::size_t, std::size_t)>& body, std::size_t block) {
  const std::size_t blocks = (count + block - 1) / block;
  if (blocks <= 1) {
    if (count > 0) body(0, count);
    return;
  }
  tbb::parallel_for(std::size_t{0}, blocks, [&](std::size_t i) { body(i * block, std::min(count, (i + 1) * block)); });
}

}  // namespace bordado
