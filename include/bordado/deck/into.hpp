/// \file into.hpp
/// A deck that exists as those read it who put a laminate into it.
#ifndef BORDADO_DECK_INTO_HPP
#define BORDADO_DECK_INTO_HPP

#include <bordado/deck.hpp>

#include <optional>
#include <unordered_map>

namespace bordado::deck {

/// A deck of somebody else's, line by line.
class ExistingDeck {
 public:
  /// \throws Failure "file.*".
  explicit ExistingDeck(std::string path);
  const std::string& path() const { return path_; }
  std::size_t line_count() const { return lines_.size(); }
  /// A line with its end. \param i from 0
  std::string_view line(std::size_t i) const { return lines(i, i + 1); }
  /// Lines from first on, before last.
  std::string_view lines(std::size_t first, std::size_t last) const;

 private:
  struct Line {
    std::size_t begin, end;  ///< with its end of line
  };
  std::string path_, text_;
  std::vector<Line> lines_;
};

/// Without blanks, in capitals: how solvers read.
std::string folded(std::string_view text);
/// What stands between commas.
std::vector<std::string> parted(const std::string& text);
/// A whole number, where it is one.
std::optional<std::int64_t> whole(std::string_view text);

/// An element of a deck, and where it stands.
struct FoundElement {
  std::string type;
  std::vector<std::int64_t> nodes;
  std::size_t line;
};
/// The elements of the model as the deck has them: per element whether its nodes run the other way round there.
/// \param has_includes whether the deck names files of its own, which are not looked into
/// \throws Failure "into.element-missing", "into.include", "into.nodes-differ".
std::vector<std::uint8_t> matched(const Model& model, const std::unordered_map<std::int64_t, FoundElement>& elements,
                                  const std::string& path, bool has_includes);

}  // namespace bordado::deck

#endif
