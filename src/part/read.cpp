#include "kinds.hpp"

#include "../base/csv.hpp"
#include "../material/library.hpp"

#include <bordado/laminate.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <filesystem>
#include <set>

namespace bordado::part {

std::string Part::mesh_path() const {
  const std::filesystem::path mesh(mesh_file.value);
  if (mesh.is_absolute()) return mesh.string();
  return (std::filesystem::path(file).parent_path() / mesh).string();
}

std::string_view name_of(Flush flush) {
  switch (flush) {
    case Flush::bottom:
      return "bottom";
    case Flush::middle:
      return "middle";
    case Flush::top:
      break;
  }
  return "top";
}

namespace {

using material::Kind;
using material::Material;

class Reader {
 public:
  Reader(const toml::table& root, const std::string& file, const ReadOptions& options, Findings& findings)
      : toml_(root), root_(root, "the part file", file, part_.units, errors_), options_(options), findings_(findings) {
    part_.file = file;
  }

  Part read() {
    if (const toml::table* const table = root_.table("part")) read_head(*table);
    read_materials(toml_);
    for_each_named("frame", true, [this](Table& table, const std::string& name) { read_frame(table, name); });
    for_each_named("curve", false, [this](Table& table, const std::string& name) { read_curve(table, name); });
    for_each_named("zone", false, [this](Table& table, const std::string& name) { read_zone(table, name); });
    if (const toml::table* const table = root_.table("layup")) read_layup(*table);
    for_each_named("support", false, [this](Table& table, const std::string& name) { read_support(table, name); });
    for_each_named("load", false, [this](Table& table, const std::string& name) { read_load(table, name); });
    root_.finish();
    check_names();
    errors_.throw_if_errors();
    return std::move(part_);
  }

 private:
  Table sub(const toml::table& table, std::string name) {
    return {table, std::move(name), root_.file(), part_.units, errors_};
  }

  template <class Body>
  void for_each_named(std::string_view key, bool needed, Body body) {
    if (!root_.has(key) && !needed) {
      root_.node(key);  // known, not missing
      return;
    }
    const toml::table* const all = root_.table(key);
    if (!all) return;
    std::vector<std::pair<std::string, const toml::node*>> in_file_order;
    for (const auto& [name, node] : *all) in_file_order.emplace_back(name.str(), &node);
    std::stable_sort(in_file_order.begin(), in_file_order.end(), [](const auto& a, const auto& b) {
      return a.second->source().begin.line < b.second->source().begin.line;
    });
    for (const auto& [id, pointer] : in_file_order) {
      const toml::node& node = *pointer;
      if (!node.is_table()) {
        root_.error("part.value", fmt::format("[{}.{}] should be a table", key, id), root_.place(node),
                    fmt::format("write [{}.{}] on a line of its own", key, id));
        continue;
      }
      Table table = sub(*node.as_table(), fmt::format("[{}.{}]", key, id));
      body(table, id);
      table.finish();
    }
  }

  // --- [part]
  // ----------------------------------------------------------------------------------------------------------

  void read_head(const toml::table& toml) {
    Table table = sub(toml, "[part]");
    if (const auto units = table.text("units")) {
      try {
        part_.units = UnitSystem::parse(units->value);
      } catch (const std::invalid_argument& trouble) {
        table.error("part.units", fmt::format("[part]: units: {}", trouble.what()), units->where,
                    "name a length, a mass and a time unit, as units = \"mm, t, s\"");
      }
    }
    if (const auto name = table.text("name")) part_.name = name->value;
    if (const toml::table* const mesh = table.table("mesh")) read_mesh(*mesh);
    if (table.node("materials"))
      if (auto files = table.texts("materials")) part_.material_files = std::move(*files);
    read_side(table);
    constexpr std::string_view faces[] = {"bottom", "middle", "top"};
    if (const auto face = table.choice("surface", faces)) part_.flush = static_cast<Flush>(*face);
    if (table.node("offset"))
      if (const auto offset = table.number("offset", Dimension::length)) part_.offset = *offset;
    table.finish();
  }

  void read_mesh(const toml::table& toml) {
    Table table = sub(toml, "[part] mesh");
    if (auto file = table.text("file")) part_.mesh_file = std::move(*file);
    if (const auto unit = table.text("length")) {
      try {
        part_.mesh_factor = metres_in(unit->value) / part_.units.to_si(Dimension::length);
        if (std::abs(part_.mesh_factor - 1.0) < 1e-12) part_.mesh_factor = 1.0;
      } catch (const std::invalid_argument& trouble) {
        table.error("part.units", fmt::format("[part] mesh: length: {}", trouble.what()), unit->where,
                    "name the length unit of the mesh file, as length = \"mm\"");
      }
    }
    if (table.node("weld")) part_.mesh_weld = table.positive("weld", Dimension::none);
    if (table.node("scale"))
      if (const auto scale = table.positive("scale", Dimension::none)) part_.mesh_factor *= *scale;
    table.finish();
  }

  void read_side(Table& table) {
    const toml::node* const node = table.node("side");
    constexpr std::string_view how =
        "write side = { towards = [x, y, z] }, { away-from = [x, y, z] }, { along = [x, y, z] } or \"as-meshed\"";
    if (!node) {
      table.error("part.key-missing", "[part] has no 'side': which way the plies build up from the mesh", table.place(),
                  std::string(how));
      return;
    }
    if (node->value_exact<std::string>() == "as-meshed") return;
    if (!node->is_table() || node->as_table()->size() != 1) {
      table.error("part.value", "[part]: 'side' should say one direction", table.place(*node), std::string(how));
      return;
    }
    Table side = sub(*node->as_table(), "[part] side");
    const auto point = [&](std::string_view key, Dimension dimension) -> std::optional<Vec3> {
      return side.node(key) ? side.vector(key, dimension) : std::nullopt;
    };
    if (const auto p = point("towards", Dimension::length)) part_.side = mesh::Towards{*p};
    if (const auto p = point("away-from", Dimension::length)) part_.side = mesh::AwayFrom{*p};
    if (const auto d = point("along", Dimension::none)) {
      if (d->norm() > 0.0)
        part_.side = mesh::Along{*d};
      else
        side.error("part.value", "[part] side: 'along' has no length", side.place("along"));
    }
    side.finish();
  }

  // --- [material.*]
  // ----------------------------------------------------------------------------------------------------

  /// Materials of the part file first, then those of its files, then what the caller has, then the shipped ones.
  void open_library(const toml::table& root) {
    library_.emplace(part_.units);
    library_->impl().add_tables({std::shared_ptr<const toml::table>(), &root}, part_.file, part_.units);
    for (const Declared<std::string>& file : part_.material_files)
      add_library(beside(part_.file, file.value), file.where);
    for (const std::string& file : options_.libraries) add_library(file, {});
    library_->add_shipped();
  }

  void add_library(const std::string& path, const Place& named_at) {
    try {
      library_->add_file(path, findings_);
    } catch (const Failure& failure) {
      for (const Finding& finding : failure.findings())
        root_.error(finding.code, finding.what, finding.code == "file.missing" ? named_at : finding.where,
                    finding.remedy);
    }
  }

  void read_materials(const toml::table& root) {
    open_library(root);
    if (!root_.node("material")) return;
    const toml::table* const all = root_.table("material");
    if (!all) return;
    for (const auto& [name, node] : *all)
      if (!node.is_table())
        root_.error("part.value", fmt::format("[material.{}] should be a table", name.str()), root_.place(node),
                    fmt::format("write [material.{}] on a line of its own", name.str()));
    for (const auto& [name, table] : material::tables_in_order(*all)) add_material(name, table);
  }

  /// \param table where it is declared in this file.
  const Material* add_material(const std::string& name, const toml::table* table) {
    auto found = library_->find(name, errors_);
    if (!found) return nullptr;
    if (const Material* const other = marked_by(found->mark); other && table) {
      const toml::node* const mark = table->get("mark");
      root_.error("part.name-twice",
                  fmt::format("mark '{}' stands for material '{}' already", found->mark, other->name),
                  root_.place(mark ? *mark : *table), "choose other letters");
    } else if (other) {
      found->mark.clear();  // a library does not know of the part's marks
    }
    check_plausible(*found, part_.units, findings_);
    part_.materials.push_back(std::move(*found));
    return &part_.materials.back();
  }

  const Material* marked_by(std::string_view mark) const {
    if (mark.empty()) return nullptr;
    for (const Material& material : part_.materials)
      if (material.mark == mark) return &material;
    return nullptr;
  }

  // --- [frame.*], [zone.*]
  // ---------------------------------------------------------------------------------------------

  void read_frame(Table& table, const std::string& name) {
    const auto kind = read_kind(table, frame_kinds(), "part.frame-kind", "what 0° is");
    Frame frame{name, {}, {}, {}, table.place(), {}};
    if (table.node("fallback")) frame.fallback = table.vector("fallback", Dimension::none);
    if (frame.fallback && !(frame.fallback->norm() > 0.0))
      table.error("part.value", fmt::format("{}: 'fallback' has no length", table.name()), table.place("fallback"));
    read_turn(table, frame);
    if (!kind) return;
    frame.kind = *kind;
    part_.frames.push_back(std::move(frame));
  }

  void read_curve(Table& table, const std::string& name) {
    table.node("closed");  // goes with points and file
    std::optional<Vec3> from;
    if (table.node("from")) from = table.vector("from", Dimension::length);
    if (const auto kind = read_kind(table, curve_kinds(), "part.curve-kind", "where it runs"))
      part_.curves.push_back({name, *kind, from, table.place()});
  }

  void read_zone(Table& table, const std::string& name) {
    if (name == everything) {
      table.error("part.name-taken", "the zone 'everything' is always there and cannot be declared", table.place(),
                  "choose another name");
      return;
    }
    table.node("minus");  // goes with from
    double share = 0.5;
    if (table.node("share"))
      if (const auto given = table.positive("share", Dimension::none)) share = *given;
    if (share > 1.0)
      table.error("part.value",
                  fmt::format("{}: 'share' is {:g}; it is a part of an element's area", table.name(), share),
                  table.place("share"), "give a number above 0 and up to 1");
    if (const auto kind = read_kind(table, zone_kinds(), "part.zone-kind", "where it is"))
      part_.zones.push_back({name, *kind, table.place(), share});
  }

  // --- [layup]
  // ---------------------------------------------------------------------------------------------------------

  struct PlyDefaults {
    std::optional<Declared<std::string>> material, frame, zone;
  };

  void read_layup(const toml::table& toml) {
    Table table = sub(toml, "[layup]");
    PlyDefaults defaults;
    if (table.node("material")) defaults.material = table.text("material");
    if (table.node("frame")) defaults.frame = table.text("frame");
    if (table.node("zone")) defaults.zone = table.text("zone");
    const toml::array* const plies = table.array("plies");
    table.finish();
    if (!plies) return;
    if (plies->empty())
      table.error("part.no-plies", "[layup]: 'plies' is empty", table.place("plies"),
                  "add a line for each ply, first laid first");
    std::size_t number = 0;
    for (const toml::node& node : *plies) {
      ++number;
      if (!node.is_table()) {
        table.error("part.value", fmt::format("ply {} should be a table", number), table.place(node),
                    "write { id = \"P1\", material = \"...\", angle = 45, frame = \"...\", zone = \"...\" }");
        continue;
      }
      const toml::table& ply_table = *node.as_table();
      const auto id = ply_table["id"].value_exact<std::string>();
      Table ply = sub(ply_table, id ? fmt::format("ply '{}'", *id) : fmt::format("ply {}", number));
      read_ply(ply, number, defaults);
      ply.finish();
    }
  }

  std::optional<Declared<std::string>> or_default(Table& table, std::string_view key,
                                                  const std::optional<Declared<std::string>>& other) {
    if (!table.has(key) && other) {
      table.node(key);
      return other;
    }
    return table.text(key);
  }

  /// A material of the part, or one that a library has and the part has not used yet.
  const Material* find_material(const std::string& name) {
    for (const Material& material : part_.materials)
      if (material.name == name) return &material;
    return library_->file_of(name).value_or(part_.file) != part_.file ? add_material(name, nullptr) : nullptr;
  }

  void read_ply(Table& table, std::size_t number, const PlyDefaults& defaults) {
    Ply ply;
    ply.where = table.place();
    if (const auto id = table.text("id"))
      ply.id = id->value;
    else
      ply.id = fmt::format("{}", number);
    const auto material = or_default(table, "material", defaults.material),
               frame = or_default(table, "frame", defaults.frame);
    const auto zone = or_default(
        table, "zone",
        defaults.zone ? defaults.zone : std::optional(Declared<std::string>{std::string(everything), table.place()}));
    if (table.node("thickness")) ply.thickness = table.positive("thickness", Dimension::length);
    if (material) ply.material = *material;
    if (frame) ply.frame = *frame;
    if (zone) ply.zone = *zone;
    const Material* const found = material ? find_material(material->value) : nullptr;
    if (table.node("code")) {
      if (table.node("angle"))
        table.error("part.value", fmt::format("{} has both an 'angle' and a 'code'", table.name()),
                    table.place("angle"), "leave one out");
      if (const auto code = table.text("code")) add_coded_plies(table, ply, *code);
      return;
    }
    const bool needs_angle = !found || material::is_directional(found->kind);
    if (needs_angle || table.node("angle")) {
      const auto angle = table.number("angle", Dimension::angle);
      if (!angle) return;
      ply.angle = Angle::degrees(*angle);
    }
    add_ply(table, std::move(ply));
  }

  void add_coded_plies(Table& table, const Ply& pattern, const Declared<std::string>& code) {
    const auto marked = [&](std::string_view mark) -> const Material* {
      if (mark.empty()) return find_material(pattern.material.value);
      const Material* const found = marked_by(mark);
      return found ? found : find_material(std::string(mark));
    };
    const auto is_fabric = [&](std::string_view mark) {
      const Material* const material = marked(mark);
      return material && material->kind == Kind::fabric;
    };
    try {
      std::size_t number = 0;
      std::set<std::string> unknown;
      for (const laminate::CodePly& coded : laminate::parse_code(code.value, is_fabric, code.where)) {
        Ply ply = pattern;
        ply.id = fmt::format("{}.{}", pattern.id, ++number);
        ply.angle = coded.angle;
        if (!coded.frame.empty()) ply.frame = {coded.frame, code.where};
        if (!coded.mark.empty()) {
          const Material* const material = marked(coded.mark);
          if (material)
            ply.material.value = material->name;
          else if (unknown.insert(coded.mark).second)
            table.error("part.mark-unknown",
                        fmt::format("{}: no material has the mark or name '{}'", table.name(), coded.mark), code.where,
                        fmt::format("add mark = \"{}\" to a material", coded.mark));
        }
        add_ply(table, std::move(ply));
      }
    } catch (const Failure& failure) {
      for (const Finding& finding : failure.findings())
        table.error(finding.code, finding.what, finding.where, finding.remedy);
    }
  }

  void add_ply(Table& table, Ply&& ply) {
    if (!ids_.insert(ply.id).second)
      table.error("part.name-twice", fmt::format("there are two plies with id '{}'", ply.id), table.place(),
                  "each piece of cloth has an id of its own");
    const Material* const material = find_material(ply.material.value);
    if (material && !ply.thickness && !material->thickness && !table.has("thickness"))
      table.error(
          "part.key-missing",
          fmt::format("ply '{}' has no thickness, and its material '{}' has none either", ply.id, material->name),
          ply.where, "add a thickness to the ply or to the material");
    part_.plies.push_back(std::move(ply));
  }

  // --- [support.*], [load.*]
  // -------------------------------------------------------------------------------------------

  std::optional<On> read_on(Table& table) {
    const bool named = table.node("on") != nullptr, at_point = table.node("point") != nullptr;
    if (named == at_point) {
      table.error("part.key-missing",
                  fmt::format("{} needs one of 'on' (a mesh group or zone) and 'point'", table.name()), table.place(),
                  "add on = \"...\" or point = [x, y, z]");
      return std::nullopt;
    }
    if (named) {
      const auto name = table.text("on");
      if (!name) return std::nullopt;
      return On{name->value, name->where};
    }
    const auto point = table.vector("point", Dimension::length);
    if (!point) return std::nullopt;
    return On{*point, table.place("point")};
  }

  void read_support(Table& table, const std::string& name) {
    const auto on = read_on(table);
    const std::uint8_t held = read_held(table);
    if (on && held) part_.supports.push_back({name, *on, held, table.place()});
  }

  /// "clamped", "pinned", "symmetry-x" (mirror plane across x), or a list of "x", "y", "z", "rx", "ry", "rz".
  std::uint8_t read_held(Table& table) {
    constexpr std::string_view kinds[] = {"clamped", "pinned", "symmetry-x", "symmetry-y", "symmetry-z"};
    constexpr std::uint8_t held[] = {x | y | z | rx | ry | rz, x | y | z, x | ry | rz, y | rx | rz, z | rx | ry};
    constexpr std::string_view names[] = {"x", "y", "z", "rx", "ry", "rz"};
    const toml::node* const node = table.node("hold");
    if (!node || !node->is_array()) {
      const auto kind = table.choice("hold", kinds);
      return kind ? held[*kind] : 0;
    }
    std::uint8_t out = 0;
    if (const auto list = table.texts("hold"))
      for (const auto& item : *list) {
        const auto found = std::find(std::begin(names), std::end(names), item.value);
        if (found == std::end(names))
          table.error("part.value",
                      fmt::format("{}: '{}' is not one of {}", table.name(), item.value, fmt::join(names, ", ")),
                      item.where);
        else
          out |= static_cast<std::uint8_t>(1u << (found - std::begin(names)));
      }
    return out;
  }

  void read_load(Table& table, const std::string& name) {
    const auto on = read_on(table);
    const bool pressure = table.node("pressure") != nullptr, force = table.node("force") != nullptr;
    if (pressure == force) {
      table.error("part.key-missing", fmt::format("{} needs one of 'pressure' and 'force'", table.name()),
                  table.place(), "add pressure = \"5 kPa\" or force = [Fx, Fy, Fz]");
      table.node("face");
      return;
    }
    Load load{name, on.value_or(On{}), {}, table.place()};
    if (pressure) {
      constexpr std::string_view faces[] = {"tool", "bag"};
      const auto value = table.number("pressure", Dimension::stress);
      const auto face = table.choice("face", faces);
      if (!value || !face) return;
      load.kind = Pressure{*value, *face == 0};
    } else {
      const auto total = table.vector("force", Dimension::force);
      if (!total) return;
      load.kind = Force{*total};
    }
    if (on) part_.loads.push_back(std::move(load));
  }

  // --- names
  // -----------------------------------------------------------------------------------------------------------

  void check_names() {
    std::vector<std::string> frames, materials = library_->names();
    // A table that has errors of its own is still a declared name.
    if (const toml::table* const all = root_.has("frame") ? root_.table("frame") : nullptr)
      for (const auto& [name, node] : *all) frames.emplace_back(name.str());
    std::vector<std::string> declared;  // what the part file itself offers
    if (const toml::table* const all = toml_["material"].as_table())
      for (const auto& [name, node] : *all) declared.emplace_back(name.str());
    const auto check = [&](std::string_view what, const Declared<std::string>& name,
                           const std::vector<std::string>& known, const std::vector<std::string>& shown,
                           const std::string& ply) {
      if (name.value.empty() || std::find(known.begin(), known.end(), name.value) != known.end()) return;
      if (!told_.insert(fmt::format("{} {} {}", what, name.value, name.where.text())).second)
        return;  // once per place, not per ply of a code
      const auto near = nearest_name(name.value, known);
      root_.error(fmt::format("part.{}-unknown", what),
                  fmt::format("ply '{}': {} '{}' is not declared", ply, what, name.value), name.where,
                  near            ? fmt::format("did you mean '{}'?", *near)
                  : shown.empty() ? fmt::format("declare [{}.{}]", what, name.value)
                                  : fmt::format("declared: {}", listed(shown, 20)));
    };
    for (const Ply& ply : part_.plies) {
      check("material", ply.material, materials, declared, ply.id);
      check("frame", ply.frame, frames, frames, ply.id);
    }
  }

  Part part_;
  Findings errors_;
  const toml::table& toml_;
  Table root_;
  const ReadOptions& options_;
  std::optional<material::Library> library_;
  Findings& findings_;
  std::set<std::string> ids_, told_;
};

}  // namespace

Part read_text(std::string_view text, const std::string& path, Findings& findings, const ReadOptions& options) {
  toml::table root;
  try {
    root = toml::parse(text, path);
  } catch (const toml::parse_error& trouble) {
    throw Failure({Severity::error,
                   "part.toml",
                   fmt::format("the part file cannot be read as TOML: {}", trouble.description()),
                   {path, trouble.source().begin.line, trouble.source().begin.column, {}},
                   "see docs/part-file.md; lists may run over several lines, { } tables may not"});
  }
  return Reader(root, path, options, findings).read();
}

Part read(const std::string& path, Findings& findings, const ReadOptions& options) {
  return read_text(read_file(path), path, findings, options);
}

}  // namespace bordado::part
