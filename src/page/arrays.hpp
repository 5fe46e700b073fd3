// How the head and the arrays of a page are written: src/page/page.cpp says how they lie.
#pragma once

#include <bordado/base/vector.hpp>

#include <nlohmann/json.hpp>

#include <bit>
#include <string>
#include <vector>

namespace bordado::page {

using Json = nlohmann::ordered_json;
static_assert(std::endian::native == std::endian::little, "arrays are put out as they lie in memory");

/// The arrays behind the head.
class Arrays {
 public:
  /// Packs numbers and returns where they are.
  template <class Number>
  Json add(const std::vector<Number>& values) {
    const std::size_t at = bytes_.size(), count = values.size(), size = sizeof(Number);
    bytes_.resize(at + (count * size + 3) / 4 * 4);
    const char* const from = reinterpret_cast<const char*>(values.data());
    for (std::size_t b = 0; b < size; ++b)
      for (std::size_t i = 0; i < count; ++i) bytes_[at + b * count + i] = from[i * size + b];
    return {{"at", at}, {"count", count}, {"type", type_name(Number{})}};
  }
  const std::string& bytes() const { return bytes_; }

 private:
  static const char* type_name(float) { return "f32"; }
  static const char* type_name(double) { return "f64"; }
  static const char* type_name(std::int32_t) { return "i32"; }
  static const char* type_name(std::uint32_t) { return "u32"; }
  static const char* type_name(std::int16_t) { return "i16"; }
  static const char* type_name(std::uint8_t) { return "u8"; }
  std::string bytes_;
};

inline Json vector_json(const Vec3& v) { return {v.x(), v.y(), v.z()}; }

}  // namespace bordado::page
