// How a library holds what it has read, and how one table becomes a material; for the readers of part files and
// libraries.
#pragma once

#include <bordado/material.hpp>

#include "../base/toml_table.hpp"

#include <deque>
#include <map>
#include <set>

namespace bordado::material {

/// Another material by name, in the same units; nothing where there is none or an error was told.
using FindMaterial = std::function<std::optional<Material>(const Declared<std::string>& name)>;

/// Reads one [material.NAME]; errors go to the table. Nothing where an error was told.
std::optional<Material> read_material(Table& table, const std::string& name, const FindMaterial& find);

struct Library::Impl {
  /// Of a TOML file, read when asked for; or of a MatML file, read at once.
  struct Entry {
    std::string name, file;
    UnitSystem units;
    std::shared_ptr<const toml::table> root;
    const toml::table* table = nullptr;
    std::optional<Material> ready;
  };

  /// [laminate.NAME] of a library; the room of parts reads it.
  struct LaminateEntry {
    std::string name, file;
    UnitSystem units;
    std::shared_ptr<const toml::table> root;
    const toml::table* table;
  };

  UnitSystem units;
  std::deque<Entry> entries;
  std::deque<LaminateEntry> laminates;
  mutable std::map<std::size_t, std::optional<Material>> made;  ///< in `units`
  mutable std::set<std::size_t> being_made;

  /// Takes every [material.NAME] of a TOML document, in order of lines.
  void add_tables(std::shared_ptr<const toml::table> root, const std::string& file, const UnitSystem& units_of_file);
  /// The first entry of a name from position `from` on.
  std::optional<std::size_t> position(std::string_view name, std::size_t from = 0) const;
  std::optional<Material> make(std::size_t entry, Findings& errors) const;
  std::optional<Material> find(const Declared<std::string>& name, std::size_t from, const std::string& who,
                               Findings& errors) const;
};

/// The nine constants in the order of tables.
inline std::array<double*, 9> nine(Elastic& m) {
  return {&m.E1, &m.E2, &m.E3, &m.nu12, &m.nu13, &m.nu23, &m.G12, &m.G13, &m.G23};
}

/// The tables below a key that are tables, by the line they stand on.
std::vector<std::pair<std::string, const toml::table*>> tables_in_order(const toml::table& all);

}  // namespace bordado::material
