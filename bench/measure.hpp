// Time, memory and floors, for the benchmarks.
#pragma once

#include <bordado/bordado.hpp>

#include <malloc.h>
#include <charconv>
#include <chrono>
#include <cstdlib>
#include <ctime>
#include <fstream>

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

}  // namespace measure
