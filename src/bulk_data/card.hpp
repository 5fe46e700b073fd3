// Bulk data cards in large fields.
#pragma once

#include <bordado/base/text.hpp>

#include <charconv>
#include <cmath>

namespace bordado::bulk_data {

/// A number in a field of that width.
inline std::string field(double value, std::size_t width) {
  std::string out;
  append_real(out, value, width);
  return out;
}

/// Whether a field of eight characters holds the number to a millionth of it and better.
inline bool fits_small(double value) {
  const double size = std::abs(value);
  if (size == 0.0) return true;
  if (size < 1e-3 || size >= 1e8) {
    // There is room for five digits at most. Most numbers have more, and are met here for little.
    const double scaled = size * std::pow(10.0, 4.0 - std::floor(std::log10(size)));
    if (std::abs(scaled - std::round(scaled)) > 1e-6 * scaled) return false;
  }
  const std::string text = field(value, 8);
  double back = 0.0;
  std::from_chars(text.data(), text.data() + text.size(), back);
  return std::abs(back - value) <= 5e-7 * size;
}
/// Whether a field of eight characters holds the id.
constexpr bool fits_small(std::int64_t id) { return id >= -9999999 && id <= 99999999; }

/// One card in large fields: four a line, continued below.
class LargeCard {
 public:
  explicit LargeCard(std::string_view name) : text_(name) { (text_ += '*').resize(8, ' '); }
  LargeCard& integer(std::int64_t value) {
    return put([&] { append_integer(text_, value); });
  }
  LargeCard& real(double value) {
    return put([&] { append_real(text_, value, 16); });
  }
  LargeCard& word(std::string_view value) {
    return put([&] { text_ += value; });
  }
  LargeCard& blank() {
    return put([] {});
  }
  /// A large-field card has an even number of lines.
  std::string text() const {
    std::string out = text_;
    out.erase(out.find_last_not_of(' ') + 1);
    if ((used_ + 3) / 4 % 2 == 1) out += "\n*";
    return out + "\n";
  }

 private:
  template <class Append>
  LargeCard& put(Append append) {
    if (used_ > 0 && used_ % 4 == 0) {
      text_.erase(text_.find_last_not_of(' ') + 1);
      text_ += "\n*       ";
    }
    const std::size_t begin = text_.size();
    append();
    if (text_.size() < begin + 16) text_.resize(begin + 16, ' ');
    ++used_;
    return *this;
  }
  std::string text_;
  std::size_t used_ = 0;
};

}  // namespace bordado::bulk_data
