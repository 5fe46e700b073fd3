#include "base64.hpp"

#include <array>
#include <cstdint>

namespace bordado {

namespace {

constexpr std::string_view letters = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/";

}  // namespace

std::string to_base64(std::string_view bytes) {
  std::string out;
  out.reserve((bytes.size() + 2) / 3 * 4);
  for (std::size_t i = 0; i < bytes.size(); i += 3) {
    std::uint32_t three = 0;
    const std::size_t held = std::min<std::size_t>(3, bytes.size() - i);
    for (std::size_t k = 0; k < 3; ++k)
      three = three << 8 | (k < held ? static_cast<std::uint32_t>(static_cast<unsigned char>(bytes[i + k])) : 0u);
    for (std::size_t k = 0; k < 4; ++k) out += k <= held ? letters[three >> (18 - 6 * k) & 63] : '=';
  }
  return out;
}

std::optional<std::string> from_base64(std::string_view text) {
  static const auto table = [] {
    std::array<std::int8_t, 256> t;
    t.fill(-1);
    for (std::size_t i = 0; i < letters.size(); ++i)
      t[static_cast<unsigned char>(letters[i])] = static_cast<std::int8_t>(i);
    return t;
  }();
  std::string out;
  out.reserve(text.size() / 4 * 3);
  std::uint32_t bits = 0;
  int held = 0;
  for (const char c : text) {
    if (c == ' ' || c == '\t' || c == '\n' || c == '\r' || c == '\f' || c == '\v') continue;
    if (c == '=') {  // what is left of the bits is padding
      bits = 0;
      held = 0;
      continue;
    }
    const std::int8_t value = table[static_cast<unsigned char>(c)];
    if (value < 0) return std::nullopt;
    bits = bits << 6 | static_cast<std::uint32_t>(value);
    held += 6;
    if (held < 8) continue;
    held -= 8;
    out += static_cast<char>(bits >> held & 0xff);
  }
  return out;
}

}  // namespace bordado
