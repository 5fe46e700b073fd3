// Reading text: numbers, words, lines and fields, with a trouble that knows its byte.
#pragma once

#include <bordado/base/work.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <atomic>
#include <charconv>
#include <cstring>

namespace bordado::mesh {

/// Thrown by the cursors: what is wrong at which byte.
struct Unreadable {
  std::size_t offset;
  std::string what;
};

constexpr bool is_blank(char c) { return c == ' ' || c == '\n' || c == '\r' || c == '\t'; }

/// What a number that no double holds stands for: nought where it is too small, infinite where it is too large (and is
/// met with the other numbers that are not finite).
double beyond_range(std::string_view number);

/// Reads numbers written as text.
class TextCursor {
 public:
  TextCursor(std::string_view bytes, std::size_t at)
      : begin_(bytes.data()), at_(begin_ + at), end_(begin_ + bytes.size()) {}

  std::int64_t integer() {
    skip_blanks();
    std::int64_t value = 0;
    const auto [end, error] = std::from_chars(at_, end_, value);
    if (error != std::errc{} || end == at_ || (end != end_ && !is_blank(*end))) fail("a whole number");
    at_ = end;
    return value;
  }
  double real() {
    skip_blanks();
    double value = 0.0;
    const auto [end, error] = std::from_chars(at_, end_, value);
    if (error == std::errc::result_out_of_range) {
      value = beyond_range(std::string_view(at_, static_cast<std::size_t>(end - at_)));
      at_ = end;
      return value;
    }
    if (error != std::errc{} || end == at_ || (end != end_ && !is_blank(*end))) fail("a number");
    at_ = end;
    return value;
  }
  std::int64_t small() { return integer(); }
  std::int64_t count() { return checked_count(integer()); }
  /// No item takes less than two bytes: a larger count is a broken file, and must not ask for the memory.
  std::int64_t checked_count(std::int64_t value) const {
    if (value < 0 || value > end_ - at_ + 1)
      throw Unreadable{offset(), fmt::format("{} items are announced, more than the rest of the file can hold", value)};
    return value;
  }
  /// Text up to the next blank; empty at the end.
  std::string_view word() {
    skip_blanks();
    const char* const from = at_;
    while (at_ != end_ && !is_blank(*at_)) ++at_;
    return {from, static_cast<std::size_t>(at_ - from)};
  }
  void to_next_line() {
    while (at_ != end_ && *at_ != '\n') ++at_;
    if (at_ != end_) ++at_;
  }
  std::size_t offset() const { return static_cast<std::size_t>(at_ - begin_); }

  /// Reads `count` lines in parallel by read_line(cursor, index), and goes behind them.
  /// \returns false, having moved nowhere, where they are not one item a line or cannot be read: then read them one by
  /// one.
  template <class ReadLine>
  bool lines_in_parallel(std::int64_t count, ReadLine read_line) {
    const std::size_t block = block_of(4096);
    const auto lines = static_cast<std::size_t>(count);
    if (lines < 4 * block) return false;
    const char* at = at_;
    while (at != end_ && is_blank(*at)) ++at;
    std::vector<const char*> starts;  // of each block, and the end
    for (std::size_t i = 0; i < lines; ++i) {
      if (i % block == 0) starts.push_back(at);
      const void* const newline = std::memchr(at, '\n', static_cast<std::size_t>(end_ - at));
      if (!newline) return false;
      at = static_cast<const char*>(newline) + 1;
    }
    starts.push_back(at);
    std::atomic<bool> good{true};
    parallel_blocks(
        starts.size() - 1,
        [&](std::size_t first, std::size_t last) {
          for (std::size_t b = first; b < last && good; ++b) {
            TextCursor cursor(std::string_view(starts[b], static_cast<std::size_t>(starts[b + 1] - starts[b])), 0);
            try {
              for (std::size_t i = b * block; i < std::min(lines, (b + 1) * block); ++i) read_line(cursor, i);
              cursor.skip_blanks();
              if (cursor.at_ != cursor.end_) good = false;
            } catch (const Unreadable&) {
              good = false;
            }
          }
        },
        1);
    if (good) at_ = at;
    return good;
  }

 private:
  void skip_blanks() {
    while (at_ != end_ && is_blank(*at_)) ++at_;
  }
  [[noreturn]] void fail(std::string_view wanted) const {
    if (at_ == end_) throw Unreadable{offset(), fmt::format("the file ends where {} should stand", wanted)};
    const auto stop = std::find_if(at_, std::min(end_, at_ + 24), is_blank);
    throw Unreadable{offset(), fmt::format("'{}' stands where {} should",
                                           std::string_view(at_, static_cast<std::size_t>(stop - at_)), wanted)};
  }
  const char *begin_, *at_, *end_;
};

/// Lines of a text, one after the other, without their ends.
class Lines {
 public:
  explicit Lines(std::string_view text) : text_(text) {}
  std::optional<std::string_view> next() {
    if (at_ >= text_.size()) return std::nullopt;
    line_at_ = at_;
    ++number_;
    const std::size_t end = std::min(text_.find('\n', at_), text_.size());
    std::string_view line = text_.substr(at_, end - at_);
    at_ = end + 1;
    if (line.ends_with('\r')) line.remove_suffix(1);
    return line;
  }
  /// Of the line that next() gave last: its number from 1, the byte it begins at.
  std::size_t number() const { return number_; }
  std::size_t offset() const { return line_at_; }

 private:
  std::string_view text_;
  std::size_t at_ = 0, line_at_ = 0, number_ = 0;
};

/// Without blanks at both ends.
std::string_view trimmed(std::string_view text);
/// Pieces between separators, trimmed. A text without separator is one piece.
std::vector<std::string_view> split(std::string_view text, char separator);
/// The whole field as a number, or nothing. A real may have a D for its E, or none before the sign of its exponent.
std::optional<std::int64_t> integer_of(std::string_view field);
std::optional<double> real_of(std::string_view field);
/// Upper case, ASCII letters only.
std::string upper(std::string_view text);

/// A trouble as a Failure, "mesh.truncated" or "mesh.unreadable", with its line where the file is text.
[[noreturn]] void fail(const Unreadable& trouble, std::string_view bytes, const std::string& path, bool binary,
                       std::string remedy);

}  // namespace bordado::mesh
