#include "text.hpp"

#include <bordado/base/findings.hpp>

#include <cctype>

namespace bordado::mesh {

std::string_view trimmed(std::string_view text) {
  while (!text.empty() && is_blank(text.front())) text.remove_prefix(1);
  while (!text.empty() && is_blank(text.back())) text.remove_suffix(1);
  return text;
}

std::vector<std::string_view> split(std::string_view text, char separator) {
  std::vector<std::string_view> out;
  for (;;) {
    const std::size_t stop = text.find(separator);
    out.push_back(trimmed(text.substr(0, stop)));
    if (stop == std::string_view::npos) return out;
    text.remove_prefix(stop + 1);
  }
}

double beyond_range(std::string_view number) {
  const bool negative = number.starts_with('-');
  if (const std::size_t exponent = number.find_first_of("eEdD"); exponent != std::string_view::npos) {
    if (number.substr(exponent + 1).starts_with('-')) return 0.0;
  } else if (const std::size_t digit = number.find_first_of("123456789.");
             digit < number.size() && number[digit] == '.') {
    return 0.0;
  }
  return negative ? -std::numeric_limits<double>::infinity() : std::numeric_limits<double>::infinity();
}

std::optional<std::int64_t> integer_of(std::string_view field) {
  if (field.starts_with('+')) field.remove_prefix(1);
  std::int64_t value = 0;
  const auto [end, error] = std::from_chars(field.data(), field.data() + field.size(), value);
  if (error != std::errc{} || end != field.data() + field.size()) return std::nullopt;
  return value;
}

std::optional<double> real_of(std::string_view field) {
  const auto plain = [](const char* begin, const char* end) -> std::optional<double> {
    double value = 0.0;
    const auto [stop, error] = std::from_chars(begin, end, value);
    if (stop != end) return std::nullopt;
    if (error == std::errc::result_out_of_range)
      return beyond_range(std::string_view(begin, static_cast<std::size_t>(end - begin)));
    return error == std::errc{} ? std::optional(value) : std::nullopt;
  };
  if (field.starts_with('+')) field.remove_prefix(1);
  if (field.empty() || field.size() > 60) return std::nullopt;
  if (const auto value = plain(field.data(), field.data() + field.size())) return value;
  std::string text;
  for (const char c : field) {
    const bool bare_exponent = (c == '+' || c == '-') && !text.empty() &&
                               (std::isdigit(static_cast<unsigned char>(text.back())) || text.back() == '.');
    if (bare_exponent) text += 'e';
    if (c != '+') text += c == 'd' || c == 'D' || c == 'E' ? 'e' : c;
  }
  return plain(text.data(), text.data() + text.size());
}

std::string upper(std::string_view text) {
  std::string out(text);
  for (char& c : out) c = static_cast<char>(std::toupper(static_cast<unsigned char>(c)));
  return out;
}

void fail(const Unreadable& trouble, std::string_view bytes, const std::string& path, bool binary, std::string remedy) {
  const bool truncated = trouble.offset >= bytes.size() || trouble.what.starts_with("the file ends");
  Place where = Place::in(path);
  if (!binary) {
    const auto stop = static_cast<std::ptrdiff_t>(std::min(trouble.offset, bytes.size()));
    where.line = 1 + static_cast<std::size_t>(std::count(bytes.begin(), bytes.begin() + stop, '\n'));
  }
  throw Failure({Severity::error, truncated ? "mesh.truncated" : "mesh.unreadable",
                 truncated ? fmt::format("the mesh file is cut short: {}", trouble.what) : trouble.what, where,
                 std::move(remedy)});
}

}  // namespace bordado::mesh
