// Bulk data cards in large fields.
#pragma once

#include <bordado/base.hpp>

#include <fmt/format.h>

#include <charconv>
#include <cmath>

namespace bordado::deck {

/// A number in a field of that width.
inline std::string field(double value, std::size_t width) {
  std::string out;
  append_real(out, value, width);
  return out;
}

/// Whether a field of eight characters holds the number to a millionth of it and better.
inline bool fits_small(double value) {
  const std::string text = field(value, 8);
  double back = 0.0;
  std::from_chars(text.data(), text.data() + text.size(), back);
  return std::abs(back - value) <= 5e-7 * std::abs(value);
}
/// Whether a field of eight characters holds the id.
constexpr bool fits_small(std::int64_t id) { return id >= -9999999 && id <= 99999999; }

/// One card in large fields: four a line, continued below.
class LargeCard {
 public:
  explicit LargeCard(std::string_view name) { text_ = fmt::format("{:<8}", fmt::format("{}*", name)); }
  LargeCard& integer(std::int64_t value) { return put(fmt::format("{}", value)); }
  LargeCard& real(double value) { return put(field(value, 16)); }
  LargeCard& word(std::string_view value) { return put(value); }
  LargeCard& blank() { return put(""); }
  /// A large-field card has an even number of lines.
  std::string text() const {
    std::string out = text_;
    out.erase(out.find_last_not_of(' ') + 1);
    if ((used_ + 3) / 4 % 2 == 1) out += "\n*";
    return out + "\n";
  }

 private:
  LargeCard& put(std::string_view value) {
    if (used_ > 0 && used_ % 4 == 0) {
      text_.erase(text_.find_last_not_of(' ') + 1);
      text_ += "\n*       ";
    }
    text_ += fmt::format("{:<16}", value);
    ++used_;
    return *this;
  }
  std::string text_;
  std::size_t used_ = 0;
};

}  // namespace bordado::deck
