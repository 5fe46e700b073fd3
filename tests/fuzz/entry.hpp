// What libFuzzer calls: the reader BORDADO_FUZZ_READ, which takes the bytes as text. A Failure is an answer.
#pragma once

#include <bordado/base/findings.hpp>

#include <cstdint>

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  try {
    BORDADO_FUZZ_READ({reinterpret_cast<const char*>(data), size});
  } catch (const bordado::Failure&) {
  }
  return 0;
}
