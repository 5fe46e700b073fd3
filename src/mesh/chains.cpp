#include <bordado/mesh/chains.hpp>

#include <algorithm>
#include <unordered_map>

namespace bordado::mesh {

std::vector<Chain> chains(std::span<const Segment> segments) {
  constexpr std::uint32_t none = 0xffffffffu;
  std::unordered_map<std::uint64_t, std::array<std::uint32_t, 3>> at;  // the segments that meet there, up to three
  for (std::uint32_t s = 0; s < segments.size(); ++s)
    for (const std::uint64_t key : segments[s].keys) {
      auto& all = at.try_emplace(key, std::array{none, none, none}).first->second;
      for (std::uint32_t& one : all)
        if (one == none) {
          one = s;
          break;
        }
    }
  std::vector<std::uint8_t> taken(segments.size(), 0);
  const auto next = [&](std::uint64_t key) {
    const auto& all = at.at(key);
    if (all[2] != none) return none;  // a fork
    for (const std::uint32_t s : all)
      if (s != none && !taken[s]) return s;
    return none;
  };
  const auto follow = [&](std::uint64_t key, std::vector<Vec3>& points, std::vector<std::uint32_t>& along) {
    for (std::uint32_t s = next(key); s != none; s = next(key)) {
      taken[s] = 1;
      const std::size_t far = segments[s].keys[0] == key ? 1 : 0;
      points.push_back(segments[s].ends[far]);
      along.push_back(s);
      key = segments[s].keys[far];
    }
    return key;
  };
  std::vector<Chain> out;
  for (std::uint32_t s = 0; s < segments.size(); ++s) {
    if (taken[s]) continue;
    taken[s] = 1;
    std::vector<Vec3> ahead{segments[s].ends[0], segments[s].ends[1]}, behind;
    std::vector<std::uint32_t> with_ahead{s}, with_behind;
    Chain chain;
    const std::uint64_t last = follow(segments[s].keys[1], ahead, with_ahead);
    if (last == segments[s].keys[0]) {
      ahead.pop_back();  // it is the first one
      chain.curve.closed = true;
    } else {
      follow(segments[s].keys[0], behind, with_behind);
    }
    chain.curve.points.assign(behind.rbegin(), behind.rend());
    chain.curve.points.insert(chain.curve.points.end(), ahead.begin(), ahead.end());
    chain.segments.assign(with_behind.rbegin(), with_behind.rend());
    chain.segments.insert(chain.segments.end(), with_ahead.begin(), with_ahead.end());
    out.push_back(std::move(chain));
  }
  std::vector<std::pair<double, std::size_t>> order;
  for (std::size_t k = 0; k < out.size(); ++k) order.emplace_back(-length(out[k].curve), k);
  std::sort(order.begin(), order.end());
  std::vector<Chain> sorted;
  for (const auto& [size, k] : order) sorted.push_back(std::move(out[k]));
  return sorted;
}

}  // namespace bordado::mesh
