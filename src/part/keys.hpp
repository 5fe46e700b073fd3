// How the values of a part file are written.
#pragma once

#include "../base/toml_table.hpp"

#include <bordado/loads.hpp>

#include <fmt/format.h>

#include <filesystem>

namespace bordado::part {

inline std::string text(double value) { return toml_number(value); }
inline std::string text(const std::string& value) { return toml_string(value); }
inline std::string text(const Declared<std::string>& value) { return toml_string(value.value); }
inline std::string text(Angle value) { return toml_number(value.degrees()); }
inline std::string text(int value) { return fmt::format("{}", value); }
inline std::string text(std::int64_t value) { return fmt::format("{}", value); }
inline std::string text(const Vec3& v) { return fmt::format("[{}, {}, {}]", text(v[0]), text(v[1]), text(v[2])); }
inline std::string text(const PointOrName& spot) {
  return std::visit([](const auto& what) { return text(what); }, spot.what);
}
template <class Item>
inline std::string text(const std::vector<Item>& list) {
  std::string out;
  for (const Item& item : list) out += (out.empty() ? "" : ", ") + text(item);
  return "[" + out + "]";
}

/// key = value, parted by commas in an inline table or by lines in a table.
class Keys {
 public:
  explicit Keys(std::string_view between) : between_(between) {}
  template <class Value>
  Keys& put(std::string_view key, const Value& value) {
    return raw(key, text(value));
  }
  template <class Value>
  Keys& maybe(std::string_view key, const std::optional<Value>& value) {
    return value ? put(key, *value) : *this;
  }
  Keys& word(std::string_view key, const std::string& value) { return value.empty() ? *this : put(key, value); }
  Keys& raw(std::string_view key, const std::string& value) {
    text_ += fmt::format("{}{} = {}", text_.empty() ? "" : between_, key, value);
    return *this;
  }
  const std::string& lines() const { return text_; }
  std::string inline_table() const { return "{ " + text_ + " }"; }

 private:
  std::string_view between_;
  std::string text_;
};

inline Keys line() { return Keys(", "); }

/// A path as it is written in the new file: from its folder, unless it is absolute and leads elsewhere.
inline std::string seen_from(const std::string& path, const std::string& file) {
  namespace fs = std::filesystem;
  const fs::path folder = fs::absolute(fs::path(path)).parent_path().lexically_normal();
  const fs::path relative = fs::absolute(fs::path(file)).lexically_normal().lexically_relative(folder);
  const bool outside = relative.empty() || *relative.begin() == "..";
  return fs::path(file).is_absolute() && outside ? file : relative.string();
}

/// A length unit that is `factor` of the part's.
inline std::string length_in(const UnitSystem& units, double factor) {
  const std::string unit = units.unit(Dimension::length);
  return factor == 1.0 ? unit : fmt::format("{} {}", toml_number(factor), unit);
}

/// Tables as they are read by loads.hpp. \param path of the file they stand in.
Keys keys_of(const Support& support);
Keys keys_of(const Load& load, const std::string& path, const UnitSystem& units);
Keys keys_of(const Mass& mass);
Keys keys_of(const Case& load_case);

}  // namespace bordado::part
