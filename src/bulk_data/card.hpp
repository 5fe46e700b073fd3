// Bulk data cards in large fields.
#pragma once

#include <bordado/base/text.hpp>
#include <bordado/base/vector.hpp>
#include <bordado/loads.hpp>

#include <charconv>
#include <cmath>
#include <span>
#include <string>
#include <string_view>

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

/// Appends what `append` writes, padded with blanks to `width` characters.
template <class Append>
void padded(std::string& text, std::size_t width, Append append) {
  const std::size_t begin = text.size();
  append();
  text.append(width - std::min(width, text.size() - begin), ' ');
}

inline void small_integer(std::string& text, std::int64_t value) {
  padded(text, 8, [&] { append_integer(text, value); });
}

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

/// A rectangular system: origin, a point on its z axis, a point in its xz plane.
std::string axes_card(std::int64_t number, const Vec3& x, const Vec3& z);
/// FORCE or MOMENT on a node, times a factor.
std::string vector_card(std::string_view card, std::int64_t set, std::int64_t node, const Vec3& vector,
                        double factor = 1.0);
/// Weight; nothing where there is none.
std::string gravity_card(std::int64_t set, const Vec3& gravity, double factor = 1.0);
/// Turning about an axis through a point of the model: a node of its own, that is held and that nothing hangs on.
std::string rotation_cards(std::int64_t set, std::int64_t node, const part::Rotation& rotation, double factor = 1.0);
/// A spring to the ground along the x of a system of its own.
std::string spring_cards(std::int64_t element, std::int64_t property, std::int64_t node, std::int64_t axes,
                         double stiffness);
/// The point of a link, and its nodes, that move as it does.
std::string link_cards(std::int64_t element, std::int64_t node, const Vec3& at, std::span<const std::int64_t> nodes);

}  // namespace bordado::bulk_data
