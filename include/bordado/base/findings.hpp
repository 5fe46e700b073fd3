/// \file findings.hpp
/// What is told: findings and failures, each with its place in a file.
#ifndef BORDADO_BASE_FINDINGS_HPP
#define BORDADO_BASE_FINDINGS_HPP

#include <cstddef>
#include <cstdint>
#include <exception>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace bordado {

/// Where something was declared or found. Parts that do not apply stay empty.
struct Place {
  std::string file;                     ///< path as the user gave it
  std::optional<std::size_t> line;      ///< from 1
  std::optional<std::size_t> column;    ///< from 1
  std::optional<std::int64_t> element;  ///< element id as the mesh file has it

  /// A whole file.
  static Place in(std::string file) { return {std::move(file), {}, {}, {}}; }

  /// "skiff.toml:12:7", "skiff.msh: element 42" or "" when nothing is known.
  std::string text() const;
};

/// A value and where it was written.
template <class Value>
struct Declared {
  Value value{};
  Place where;
};

enum class Severity {
  note,     ///< worth knowing; nothing to do
  warning,  ///< the result may not be what was meant
  error     ///< no result can be given
};

/// One thing to tell the engineer: what, where, what to do.
struct Finding {
  Severity severity = Severity::error;
  std::string code;  ///< stable name, "room.matter", listed in docs/findings.md
  std::string what;  ///< one sentence, with the values
  Place where;
  std::string remedy;  ///< what to do about it; may be empty for a note

  /// "skiff.toml:12:7: error: what [code]\n    remedy", without a newline at the end.
  std::string text() const;
};

/// Thrown when the work cannot go on. Carries every error that is known, not only the first.
class Failure : public std::exception {
 public:
  explicit Failure(Finding finding);
  explicit Failure(std::vector<Finding> findings);

  const std::vector<Finding>& findings() const { return findings_; }
  /// All findings' texts, one after the other.
  const char* what() const noexcept override { return text_.c_str(); }

 private:
  std::vector<Finding> findings_;
  std::string text_;
};

/// Collects findings in the order they are met.
class Findings {
 public:
  void note(std::string code, std::string what, Place where = {}, std::string remedy = {});
  void warning(std::string code, std::string what, Place where = {}, std::string remedy = {});
  void error(std::string code, std::string what, Place where = {}, std::string remedy = {});

  void add(Finding finding);
  /// Warnings and notes of this code are not kept from now on. Errors always are.
  void silence(std::string code) { silenced_.push_back(std::move(code)); }

  const std::vector<Finding>& all() const { return all_; }
  std::size_t count(Severity severity) const;
  bool has_errors() const { return count(Severity::error) > 0; }
  /// \throws Failure with all errors (and only these) when there is one.
  void throw_if_errors() const;

 private:
  std::vector<Finding> all_;
  std::vector<std::string> silenced_;
};

/// What a finding's code means, as docs/findings.md says it.
struct Explanation {
  std::string_view code, severity, text;
};

/// All codes there are, in the order of the document.
std::span<const Explanation> explanations();

/// "1 node", "12 nodes".
std::string counted(std::size_t count, std::string_view noun);

/// "a, b, c and 17 more": at most `most` items spelled out.
std::string listed(std::span<const std::string> items, std::size_t most = 5);

std::string listed(std::span<const std::int64_t> ids, std::size_t most = 5);

/// The name in `known` nearest to `given` by edit distance, or nothing where none is near (more than two letters or a
/// third differ).
std::optional<std::string> nearest_name(std::string_view given, std::span<const std::string> known);

}  // namespace bordado

#endif
