/// \file settings.hpp
/// A small TOML file of settings: keys with a value or a list of values, in the file itself and in tables of one kind.
#ifndef BORDADO_BASE_SETTINGS_HPP
#define BORDADO_BASE_SETTINGS_HPP

#include <bordado/base/findings.hpp>

#include <string>
#include <vector>

namespace bordado {

struct Setting {
  std::string key;
  std::vector<std::string> values;  ///< as text: numbers so that they read back the same, true and false as words
  bool is_list = false;
  Place where;
};
/// Those of the file itself have no name; those of [wall], and of each [[wall]], are called "wall".
struct Settings {
  std::string name;
  Place where;
  std::vector<Setting> all;
};
/// In the order of the file, its own first. Files that they name are kept from being written over, whatever their key.
/// \throws Failure as read_file(); "options.toml" where it is no TOML, or holds more than this: lists of lists, tables in
/// tables, dates.
std::vector<Settings> read_settings(const std::string& path);

}  // namespace bordado

#endif
