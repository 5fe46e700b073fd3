// A TOML table that is read key by key, with every trouble kept for later and every unread key an error at the end.
#pragma once

#include <bordado/base/findings.hpp>
#include <bordado/base/units.hpp>
#include <bordado/base/vector.hpp>

#include <toml++/toml.h>

#include <map>
#include <set>

namespace bordado {

/// Text as TOML writes it, in quotes; a key, in quotes where it needs them; a number that reads back as the same bits.
std::string toml_string(std::string_view text);
std::string toml_key(std::string_view name);
std::string toml_number(double value);

/// No quantity of a part is larger, in whatever units: what is stands for a slip of the pen.
inline constexpr double largest_number = 1e30;

/// The text as TOML. \throws toml::parse_error, and Failure "part.toml" for a key of more than a thousand parts, which
/// would not fit the stack.
toml::table parse_toml(std::string_view text, const std::string& path);

/// A number, whole or not; beyond 2^53 whole ones become the nearest that a double can be.
std::optional<double> number_of(const toml::node& node);

/// "text", "a number", ...: what a value is, for messages.
std::string_view kind_of(const toml::node& node);

/// What readers ask of a key, while keys are recorded.
struct KeyUse {
  std::set<std::string> kinds;  ///< "text", "number", "whole", "vector", "texts", "array", "table"
  std::vector<std::string> choices;
  bool has_unit = false;
  bool looked_at = false;  ///< whatever it is
};
/// Per table its keys. Tables have paths: "part", "material.*", "frame.*.axis", "layup.plies[]".
using RecordedKeys = std::map<std::string, std::map<std::string, KeyUse>>;

/// While it lives, what all tables of this thread are asked for goes into the record.
class KeyRecorder {
 public:
  explicit KeyRecorder(RecordedKeys& into);
  ~KeyRecorder();
  KeyRecorder(const KeyRecorder&) = delete;
  KeyRecorder& operator=(const KeyRecorder&) = delete;
};

class Table {
 public:
  /// \param name what messages call this table: "[material.carbon]" or "ply 3".
  Table(const toml::table& table, std::string name, const std::string& file, const UnitSystem& units,
        Findings& findings)
      : table_(table), name_(std::move(name)), file_(file), units_(units), findings_(findings) {}

  /// Every place of this table is this one: it was made from a row of another file.
  void all_at(Place place) { fixed_ = std::move(place); }

  Place place() const { return place(table_); }
  Place place(const toml::node& node) const;
  /// Place of the key's value, or of the table where the key is missing.
  Place place(std::string_view key) const;
  const std::string& name() const { return name_; }

  bool has(std::string_view key) const { return table_.contains(key); }

  /// The value of a key; an error and nothing where it is missing or of the wrong kind.
  std::optional<Declared<std::string>> text(std::string_view key);
  std::optional<double> number(std::string_view key, Dimension dimension);
  std::optional<double> positive(std::string_view key, Dimension dimension);
  /// A number within the value of a key.
  std::optional<double> number_in(const toml::node& node, std::string_view key, Dimension dimension);
  std::optional<Vec3> vector(std::string_view key, Dimension dimension);
  std::optional<std::vector<Declared<std::string>>> texts(std::string_view key);
  /// A list of lists of three numbers.
  std::optional<std::vector<Vec3>> vectors(std::string_view key, Dimension dimension);
  std::optional<std::int64_t> whole(std::string_view key);
  const toml::table* table(std::string_view key);
  /// The table of a key, to be read in turn.
  std::optional<Table> inner(std::string_view key);
  const toml::array* array(std::string_view key);
  /// The key's node whatever its kind, counted as read.
  const toml::node* node(std::string_view key);

  /// One of the names; an error that lists them otherwise.
  std::optional<std::size_t> choice(std::string_view key, std::span<const std::string_view> names);

  void error(std::string code, std::string what, Place where, std::string remedy = {}) {
    findings_.error(std::move(code), std::move(what), std::move(where), std::move(remedy));
  }
  /// Counts every key as read: for a table that has failed already.
  void pass_over();
  /// Errors for all keys that nothing has asked for.
  void finish();

  const std::string& file() const { return file_; }
  const UnitSystem& units() const { return units_; }
  Findings& findings() { return findings_; }

 private:
  const toml::node* find(std::string_view key, std::string_view wanted);
  void record(std::string_view key, std::string_view kind, bool has_unit = false) const;
  std::optional<Vec3> read_vector(const toml::node& node, std::string_view key, Dimension dimension);

  const toml::table& table_;
  std::string name_;
  const std::string& file_;
  const UnitSystem& units_;
  Findings& findings_;
  std::vector<std::string> known_;
  std::optional<Place> fixed_;
};

}  // namespace bordado
