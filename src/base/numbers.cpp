#include <bordado/base/text.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <charconv>
#include <cmath>

namespace bordado {

double in_table(std::span<const std::pair<double, double>> lines, double at) {
  const auto after =
      std::upper_bound(lines.begin(), lines.end(), at, [](double x, const auto& line) { return x < line.first; });
  if (after == lines.begin()) return lines.front().second;
  if (after == lines.end()) return lines.back().second;
  const auto& [low, from] = *(after - 1);
  const auto& [high, to] = *after;
  return from + (at - low) / (high - low) * (to - from);
}

void append_integer(std::string& text, std::int64_t value) {
  char digits[24];
  const auto [end, error] = std::to_chars(digits, digits + sizeof digits, value);
  text.append(digits, end);
}

void append_integers(std::string& text, std::span<const std::int64_t> values) {
  constexpr std::size_t most = 16, room = 21;  // at a time; of one, with its comma
  std::array<char, most * room> line;
  for (std::size_t from = 0; from < values.size(); from += most) {
    char* at = line.data();
    for (std::size_t i = from; i < std::min(from + most, values.size()); ++i) {
      if (i > 0) *at++ = ',';
      at = std::to_chars(at, line.data() + line.size(), values[i]).ptr;
    }
    text.append(line.data(), static_cast<std::size_t>(at - line.data()));
  }
}

namespace {

constexpr int significant = 12;

constexpr std::array<double, 17> powers = [] {
  std::array<double, 17> out{};
  double power = 1.0;
  for (double& entry : out) {
    entry = power;
    power *= 10.0;
  }
  return out;
}();

constexpr std::array<std::uint64_t, 17> whole_powers = [] {
  std::array<std::uint64_t, 17> out{};
  std::uint64_t power = 1;
  for (std::uint64_t& entry : out) {
    entry = power;
    power *= 10;
  }
  return out;
}();

constexpr std::array<char, 200> pairs = [] {
  std::array<char, 200> out{};
  for (std::size_t i = 0; i < 100; ++i) {
    out[2 * i] = static_cast<char>('0' + i / 10);
    out[2 * i + 1] = static_cast<char>('0' + i % 10);
  }
  return out;
}();

/// Writes two digits before `at`.
char* put_pair(char* at, std::uint64_t value) {
  *--at = pairs[2 * value + 1];
  *--at = pairs[2 * value];
  return at;
}

/// The number by the general formatter, with as many digits as fit. Exponents are shortened to e5, e-12: every digit
/// counts.
void append_general(std::string& text, double value, std::size_t width) {
  for (int digits = significant; digits > 0; --digits) {
    std::string number = fmt::format("{:.{}g}", value, digits);
    if (number.find('n') != std::string::npos) {  // nan, inf: readers refuse them, no deck gets here with one
      text += number;
      return;
    }
    std::string tail;
    if (const std::size_t exponent = number.find('e'); exponent != std::string::npos) {
      const bool negative = number[exponent + 1] == '-';
      const std::size_t first = std::min(number.find_first_not_of('0', exponent + 2), number.size() - 1);
      tail = (negative ? "e-" : "e+") + number.substr(first);
      number.resize(exponent);
    }
    if (number.find('.') == std::string::npos) number += '.';
    if (number.size() + tail.size() <= width) {
      text += number + tail;
      return;
    }
  }
  text += "0.";
}

/// Powers of ten as large as a long double holds exactly.
constexpr std::array<long double, 28> long_powers = [] {
  std::array<long double, 28> out{};
  long double power = 1.0L;
  for (long double& entry : out) {
    entry = power;
    power *= 10.0L;
  }
  return out;
}();

/// A size within [1e-15, 1e-4) with 12 digits and an exponent, as in 1.5e-7: a nodal force, a strain, a density.
void append_little(std::string& text, bool negative, double size) {
  int exponent = 5;  // of one over ten
  while (exponent < 16 && static_cast<long double>(size) * long_powers[static_cast<std::size_t>(exponent)] < 1.0L)
    ++exponent;
  auto scaled = static_cast<std::uint64_t>(
      std::llround(size * long_powers[static_cast<std::size_t>(exponent + significant - 1)]));
  if (scaled >= whole_powers[significant]) {  // rounded up to one more digit
    scaled /= 10;
    --exponent;
  }
  char buffer[32];
  char* const end = buffer + sizeof buffer;
  char* at = end;
  if (exponent >= 10)
    at = put_pair(at, static_cast<std::uint64_t>(exponent));
  else
    *--at = static_cast<char>('0' + exponent);
  *--at = '-';
  *--at = 'e';
  int left = significant - 1;
  for (; left > 0 && scaled % 10 == 0; --left) scaled /= 10;
  for (; left > 0; --left, scaled /= 10) *--at = static_cast<char>('0' + scaled % 10);
  *--at = '.';
  *--at = static_cast<char>('0' + scaled);
  if (negative) *--at = '-';
  text.append(at, static_cast<std::size_t>(end - at));
}

}  // namespace

void append_real(std::string& text, double value, std::size_t width) {
  // Deck files are mostly numbers of this size. They are scaled to a whole number of 12 digits (or as many as fit),
  // which a double holds exactly, and its digits written: several times faster than a general formatter.
  const double size = std::abs(value);
  if (size == 0.0) {
    text += "0.";
    return;
  }
  if (size >= 1e-15 && size < 0.9999999e-4 && width >= 18) return append_little(text, value < 0.0, size);
  if (!(size >= 1e-4 && size < 1e9)) return append_general(text, value, width);
  int whole_digits = 1;
  while (whole_digits < 9 && size >= powers[static_cast<std::size_t>(whole_digits)]) ++whole_digits;
  const int leading_zeros = size >= 0.1 ? 0 : size >= 0.01 ? 1 : size >= 0.001 ? 2 : 3;
  const int room = static_cast<int>(width) - (value < 0.0 ? 1 : 0) - whole_digits - 1;
  int decimals = std::min({size < 1.0 ? significant + leading_zeros : significant - whole_digits, room, 16});
  if (size < 1.0 && decimals < 5 + leading_zeros) return append_general(text, value, width);
  decimals = std::max(decimals, 0);
  const auto scaled = static_cast<std::uint64_t>(size * powers[static_cast<std::size_t>(decimals)] + 0.5);

  char buffer[32];
  char* const end = buffer + sizeof buffer;
  char* at = end;
  const std::uint64_t unit = whole_powers[static_cast<std::size_t>(decimals)];
  auto whole = static_cast<std::uint64_t>(size);
  std::uint64_t fraction = scaled - whole * unit;
  if (fraction >= unit) {  // rounded up to the next whole number
    ++whole;
    fraction -= unit;
  }
  int left = decimals;
  if (fraction == 0) left = 0;
  while (left > 0 && fraction % 10 == 0) {  // no trailing zeros behind the point
    fraction /= 10;
    --left;
  }
  for (; left >= 2; left -= 2, fraction /= 100) at = put_pair(at, fraction % 100);
  if (left == 1) *--at = static_cast<char>('0' + fraction);
  *--at = '.';
  for (; whole >= 100; whole /= 100) at = put_pair(at, whole % 100);
  if (whole >= 10)
    at = put_pair(at, whole);
  else
    *--at = static_cast<char>('0' + whole);
  if (value < 0.0) *--at = '-';
  const auto length = static_cast<std::size_t>(end - at);
  if (length > width) return append_general(text, value, width);  // rounded up to one more digit
  text.append(at, length);
}

std::string rounded_text(double value, int digits) {
  const std::string text = fmt::format("{:.{}g}", value == 0.0 ? 0.0 : value, digits);
  return text.find('e') != std::string::npos && std::abs(value) < 1e7 && std::abs(value) >= 1.0
             ? fmt::format("{:.0f}", value)
             : text;
}

bool ends_in(std::string_view path, std::string_view ending) {
  return path.size() >= ending.size() && std::equal(ending.rbegin(), ending.rend(), path.rbegin(), [](char a, char b) {
           return a == (b >= 'A' && b <= 'Z' ? static_cast<char>(b + 32) : b);
         });
}

}  // namespace bordado
