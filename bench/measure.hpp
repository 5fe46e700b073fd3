// Time, memory and floors, for the benchmarks.
#pragma once

#include <bordado/mesh/surface.hpp>

#include <malloc.h>
#include <charconv>
#include <chrono>
#include <cmath>
#include <cstdlib>
#include <ctime>
#include <fstream>
#include <numbers>

namespace measure {

inline double seconds(const std::function<void()>& body) {
  const auto begin = std::chrono::steady_clock::now();
  body();
  return std::chrono::duration<double>(std::chrono::steady_clock::now() - begin).count();
}

/// The fastest of some runs: the others were disturbed.
inline double best(int runs, const std::function<void()>& body) {
  double least = 1e300;
  for (int i = 0; i < runs; ++i) least = std::min(least, seconds(body));
  return least;
}

/// "VmHWM" or "VmRSS" of this process in bytes.
inline double memory(std::string_view which) {
  std::ifstream status("/proc/self/status");
  std::string line;
  while (std::getline(status, line))
    if (line.starts_with(which)) return 1024.0 * std::strtod(line.c_str() + which.size() + 1, nullptr);
  return 0.0;
}

/// Peak memory of a step above what was there before.
inline double peak(const std::function<void()>& body) {
  ::malloc_trim(0);  // give back what earlier steps left
  std::ofstream("/proc/self/clear_refs") << "5";
  const double before = memory("VmRSS");
  body();
  return memory("VmHWM") - before;
}

inline double parse_numbers(std::string_view bytes) {
  double sum = 0.0;
  const char *at = bytes.data(), *end = at + bytes.size();
  while (at != end) {
    double value = 0.0;
    const auto [next, error] = std::from_chars(at, end, value);
    if (error == std::errc{}) sum += value;
    at = next == at ? at + 1 : next;
    while (at != end && *at <= ' ') ++at;
  }
  return sum;
}

/// A gently curved panel of nx by ny quadrilaterals.
inline bordado::mesh::Surface panel(int nx, int ny) {
  using namespace bordado;
  mesh::Surface out;
  out.file = "panel";
  for (int j = 0; j <= ny; ++j)
    for (int i = 0; i <= nx; ++i) {
      const double u = double(i) / nx, v = double(j) / ny;
      out.points.push_back({4000 * u, 2000 * v, 200 * std::sin(std::numbers::pi * u) * std::sin(std::numbers::pi * v)});
      out.node_ids.push_back(static_cast<std::int64_t>(out.points.size()));
    }
  out.first.push_back(0);
  for (int j = 0; j < ny; ++j)
    for (int i = 0; i < nx; ++i) {
      const auto node = [&](int a, int b) { return static_cast<mesh::NodeIndex>(b * (nx + 1) + a); };
      for (const mesh::NodeIndex n : {node(i, j), node(i + 1, j), node(i + 1, j + 1), node(i, j + 1)})
        out.nodes.push_back(n);
      out.shapes.push_back(mesh::Shape::quadrilateral4);
      out.first.push_back(static_cast<std::uint32_t>(out.nodes.size()));
      out.element_ids.push_back(static_cast<std::int64_t>(out.shapes.size()));
    }
  return out;
}

}  // namespace measure
