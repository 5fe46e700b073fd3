#include <bordado/base/text.hpp>

#include <utf8cpp/utf8.h>

namespace bordado {

bool is_utf8(std::string_view bytes) { return utf8::is_valid(bytes.begin(), bytes.end()); }

std::string to_utf8(std::string_view bytes) {
  if (is_utf8(bytes)) return std::string(bytes);
  std::string out;
  for (const char c : bytes)
    utf8::append(static_cast<char32_t>(static_cast<unsigned char>(c)), std::back_inserter(out));
  return out;
}

std::string plain_text(std::string_view text, std::size_t most) {
  const std::string good = to_utf8(text);
  std::string out;
  std::size_t characters = 0;
  for (auto at = good.begin(); at != good.end(); ++characters) {
    if (characters == most) return out + "...";
    const char32_t c = utf8::next(at, good.end());
    // What no XML may hold is none of a name's letters, either.
    const bool no_character = (c & 0xfffe) == 0xfffe || (c >= 0xfdd0 && c <= 0xfdef);
    const bool control = no_character || c < 0x20 || (c >= 0x7f && c < 0xa0) || c == 0x2028 || c == 0x2029 ||
                         (c >= 0x202a && c <= 0x202e) || (c >= 0x2066 && c <= 0x2069);
    utf8::append(control ? U' ' : c, std::back_inserter(out));
  }
  return out;
}

std::string as_html(std::string_view text) {
  std::string out;
  for (const char c : text) out += c == '&' ? "&amp;" : c == '<' ? "&lt;" : c == '>' ? "&gt;" : std::string(1, c);
  return out;
}

}  // namespace bordado
