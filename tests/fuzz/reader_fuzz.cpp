// A reader under libFuzzer: any bytes give a surface or a Failure, never a crash. Built once per mesh format, with
// BORDADO_FUZZ_FORMAT its reader: ./run fuzz.
#include "../../src/mesh/formats.hpp"

#include <bordado/mesh/care.hpp>

#include <cstdint>

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  using namespace bordado;
  Findings findings;
  try {
    mesh::Surface surface =
        mesh::BORDADO_FUZZ_FORMAT({reinterpret_cast<const char*>(data), size}, "fuzzed", {}, findings);
    mesh::orient(surface, mesh::AsMeshed{}, findings);
    mesh::inspect(surface, mesh::geometry(surface));
  } catch (const Failure&) {
  }
  return 0;
}
