/// \file text.hpp
/// Names fit for a line, numbers as text, tables of two columns, the version.
#ifndef BORDADO_BASE_TEXT_HPP
#define BORDADO_BASE_TEXT_HPP

#include <cstddef>
#include <cstdint>
#include <span>
#include <string>
#include <string_view>
#include <utility>

namespace bordado {

/// Version of the library, as written in deck headers.
std::string_view version();

/// Whether the bytes are UTF-8 (RFC 3629).
bool is_utf8(std::string_view bytes);

/// UTF-8 as it is; anything else is taken as Latin-1 (ISO 8859-1), which a spreadsheet of half the world writes.
/// Readers pass every name through this once, at the door.
std::string to_utf8(std::string_view bytes);

/// A name for one line of a deck, a message, a table or a terminal: UTF-8, blanks for what would break the line or
/// steer the terminal, "..." behind the first `most` characters.
std::string plain_text(std::string_view text, std::size_t most = 200);

/// For the text of an HTML page.
std::string as_html(std::string_view text);

/// Whether a path ends so, in capitals or not. \param ending has none
bool ends_in(std::string_view path, std::string_view ending);

/// A number to so many digits; whole numbers below ten million without a power of ten.
std::string rounded_text(double value, int digits = 4);

/// What a table says at a place: straight between its lines, constant beyond its ends. \param lines place and value, the
/// places rising; one or more.
double in_table(std::span<const std::pair<double, double>> lines, double at);

/// Appends a number rounded to 12 significant digits, fewer where `width` characters do not hold them, always with a
/// decimal point or an exponent. Never longer than `width` (at least 8). Some solvers read no more than 20 characters
/// of a number.
void append_real(std::string& text, double value, std::size_t width = 19);

/// Appends a whole number.
void append_integer(std::string& text, std::int64_t value);
/// The same of several, with commas between.
void append_integers(std::string& text, std::span<const std::int64_t> values);

}  // namespace bordado

#endif
