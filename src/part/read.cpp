#include "kinds.hpp"
#include "loads.hpp"
#include "plies.hpp"

#include "../base/csv.hpp"
#include "../material/library.hpp"

#include <bordado/base/files.hpp>
#include <bordado/base/text.hpp>
#include <bordado/part/stacks.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <filesystem>
#include <set>

namespace bordado::part {

Part::Part() = default;
Part::Part(Part&&) noexcept = default;
Part::Part(const Part&) = default;
Part& Part::operator=(Part&&) noexcept = default;
Part& Part::operator=(const Part&) = default;
Part::~Part() = default;

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
    if (root_.node("checks"))
      if (const toml::table* const table = root_.table("checks")) read_checks(*table);
    read_materials(toml_);
    for_each_named("frame", true, [this](Table& table, const std::string& name) { read_frame(table, name); });
    for_each_named("curve", false, [this](Table& table, const std::string& name) { read_curve(table, name); });
    for_each_named("zone", false, [this](Table& table, const std::string& name) { read_zone(table, name); });
    for_each_named("laminate", false, [this](Table& table, const std::string& name) {
      part_.laminates.push_back(read_laminate(table, name));
    });
    for_each_named("ramp", false,
                   [this](Table& table, const std::string& name) { part_.ramps.push_back(read_ramp(table, name)); });
    for_each_named("drape", false,
                   [this](Table& table, const std::string& name) { part_.drapes.push_back(read_drape(table, name)); });
    for_each_named("variant", false, [this](Table& table, const std::string& name) { read_variant(table, name); });
    if (const toml::table* const table = root_.table("layup")) read_layup(*table);
    choose_variant();
    write_plies_out();
    for_each_named("support", false, [this](Table& table, const std::string& name) {
      if (auto support = read_support(table, name)) part_.supports.push_back(std::move(*support));
    });
    for_each_named("load", false, [this](Table& table, const std::string& name) {
      if (auto load = read_load(table, name)) part_.loads.push_back(std::move(*load));
    });
    for_each_named("mass", false, [this](Table& table, const std::string& name) {
      if (auto mass = read_mass(table, name)) part_.masses.push_back(std::move(*mass));
    });
    for_each_named("case", false,
                   [this](Table& table, const std::string& name) { part_.cases.push_back(read_case(table, name)); });
    root_.finish();
    check_names();
    errors_.throw_if_errors();
    for (const Finding& said : errors_.all()) findings_.add(said);
    return std::move(part_);
  }

 private:
  Table sub(const toml::table& table, std::string name) {
    return {table, std::move(name), root_.file(), part_.units, errors_};
  }

  /// What people type in other places has to be typed here.
  void check_table_name(std::string_view key, const std::string& name, const toml::node& node) {
    if (plain_text(name) != name)
      root_.error(
          "part.value",
          fmt::format("[{}.{}]: the name is too long or holds a line break or the like", key, plain_text(name, 40)),
          root_.place(node), "name it on one line, in at most 200 letters and digits");
    else if (name.find_first_not_of(' ') == std::string::npos)
      root_.error("part.value", fmt::format("[{}.\"{}\"]: the name is empty", key, name), root_.place(node),
                  fmt::format("write [{}.NAME]", key));
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
      check_table_name(key, id, node);
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
        if (const auto doubt = part_.units.doubt())
          findings_.warning("part.units-force", fmt::format("[part]: {}", *doubt), units->where,
                            "name the force for the mass: units = \"in, lbf, s\"");
      } catch (const std::invalid_argument& trouble) {
        table.error("part.units", fmt::format("[part]: units: {}", trouble.what()), units->where,
                    "name a length, a mass and a time unit, as units = \"mm, t, s\"");
      }
    }
    if (const auto name = table.text("name")) part_.name = name->value;
    if (const toml::table* const mesh = table.table("mesh")) read_mesh(*mesh);
    if (table.node("materials"))
      if (auto files = table.texts("materials")) part_.material_files = std::move(*files);
    if (table.node("variant"))
      if (const auto variant = table.text("variant")) part_.variant = variant->value;
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
    if (table.node("includes")) {
      constexpr std::string_view where[] = {"beside", "anywhere"};
      if (const auto choice = table.choice("includes", where)) part_.mesh_includes_anywhere = *choice == 1;
    }
    if (table.node("scale"))
      if (const auto scale = table.positive("scale", Dimension::none)) part_.mesh_factor *= *scale;
    table.finish();
  }

  void read_side(Table& table) {
    const toml::node* const node = table.node("side");
    constexpr std::string_view how =
        "write side = { towards = [x, y, z] }, { away-from = [x, y, z] }, { along = [x, y, z] }, of a closed body "
        "\"outwards\" or \"inwards\", or \"as-meshed\"";
    if (!node) {
      table.error("part.key-missing", "[part] has no 'side': which way the plies build up from the mesh", table.place(),
                  std::string(how));
      return;
    }
    const auto word = node->value_exact<std::string>();
    if (word == "as-meshed") return;
    if (word == "outwards" || word == "inwards") {
      part_.side = mesh::Outwards{word == "inwards"};
      return;
    }
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
    for (const auto& [name, node] : *all) check_table_name("material", std::string(name.str()), node);
    for (const auto& [name, node] : *all)
      if (!node.is_table())
        root_.error("part.value", fmt::format("[material.{}] should be a table", name.str()), root_.place(node),
                    fmt::format("write [material.{}] on a line of its own", name.str()));
    std::set<std::string> used;
    for (const auto& [name, table] : material::tables_in_order(*all)) {
      add_material(name, table);
      for (const std::string_view key : {"from", "yarn", "aligned"})
        if (const auto other = (*table)[key].value<std::string>()) used.insert(*other);
    }
    for (Material& material : part_.materials) material.of_others = used.contains(material.name);
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

  void read_layup(const toml::table& toml) {
    Table table = sub(toml, "[layup]");
    PlyList& list = part_.list;
    if (table.node("material")) list.material = table.text("material");
    if (table.node("frame")) list.frame = table.text("frame");
    if (table.node("zone")) list.zone = table.text("zone");
    if (table.node("off"))
      if (auto off = table.texts("off")) list.off = std::move(*off);
    if (table.node("listed")) {
      constexpr std::string_view ends[] = {"first-laid-first", "last-laid-first"};
      if (const auto end = table.choice("listed", ends)) list.listed = static_cast<Listed>(*end);
    }
    if (table.node("edges"))
      if (const auto way = table.choice("edges", covered_names)) list.edges = static_cast<Covered>(*way);
    const toml::node* const node = table.node("plies");
    if (node && node->is_string()) {
      if (const auto file = table.text("plies")) read_ply_file(*file);
    } else if (const toml::array* const plies = table.array("plies")) {
      read_ply_list(table, *plies);
    }
    table.finish();
    if (node && list.lines.empty() && !errors_.has_errors())
      table.error("part.no-plies", "[layup]: 'plies' is empty", table.place("plies"),
                  "add a line for each ply, first laid first");
  }

  void read_ply_file(const Declared<std::string>& file) {
    try {
      part_.list.lines = read_ply_csv(beside(part_.file, file.value), part_.units, errors_);
    } catch (const Failure& failure) {
      for (const Finding& finding : failure.findings())
        root_.error(finding.code, finding.what, finding.code == "file.missing" ? file.where : finding.where,
                    finding.remedy);
    }
  }

  void read_ply_list(Table& table, const toml::array& plies) {
    std::size_t number = 0;
    for (const toml::node& node : plies) {
      ++number;
      if (!node.is_table()) {
        table.error("part.value", fmt::format("ply {} should be a table", number), table.place(node),
                    "write { id = \"P1\", material = \"...\", angle = 45, frame = \"...\", zone = \"...\" }");
        continue;
      }
      const toml::table& line = *node.as_table();
      const auto id = line["id"].value_exact<std::string>();
      Table ply = sub(line, id ? fmt::format("ply '{}'", *id) : fmt::format("ply {}", number));
      part_.list.lines.push_back(read_ply_line(ply, number));
      ply.finish();
    }
  }

  void read_variant(Table& table, const std::string& name) {
    Variant variant{.name = name, .where = table.place()};
    if (table.node("on"))
      if (auto on = table.texts("on")) variant.on = std::move(*on);
    if (table.node("off"))
      if (auto off = table.texts("off")) variant.off = std::move(*off);
    part_.variants.push_back(std::move(variant));
  }

  void choose_variant() {
    if (options_.variant) part_.variant = *options_.variant;
    if (part_.variant.empty()) return;
    std::vector<std::string> names;
    for (const Variant& variant : part_.variants) names.push_back(variant.name);
    if (std::find(names.begin(), names.end(), part_.variant) != names.end()) return;
    root_.error("part.variant-unknown", fmt::format("there is no variant '{}'", part_.variant), Place::in(part_.file),
                names.empty() ? fmt::format("declare [variant.{}]", part_.variant)
                              : fmt::format("variants: {}", listed(names, 20)));
  }

  // --- [checks]
  // --------------------------------------------------------------------------------------------------------

  void read_checks(const toml::table& toml) {
    Table table = sub(toml, "[checks]");
    Checks& checks = part_.checks;
    if (table.node("off"))
      if (auto off = table.texts("off")) checks.off = std::move(*off);
    for (const Declared<std::string>& code : checks.off) silence(code);
    if (table.node("least-share"))
      checks.least_share = table.number("least-share", Dimension::none).value_or(checks.least_share);
    if (table.node("largest-jump"))
      if (const auto jump = table.positive("largest-jump", Dimension::angle))
        checks.largest_jump = Angle::degrees(*jump);
    const auto count = [&](std::string_view key, int& into) {
      if (!table.node(key)) return;
      const auto value = table.whole(key);
      if (value && *value >= 1 && *value <= 1000)
        into = static_cast<int>(*value);
      else if (value)
        table.error("part.value", fmt::format("{}: '{}' is {}; it can be 1 to 1000", table.name(), key, *value),
                    table.place(key));
    };
    count("most-in-a-row", checks.most_in_a_row);
    count("most-ends", checks.most_ends);
    if (table.node("most-ended")) checks.most_ended = table.positive("most-ended", Dimension::length);
    if (table.node("edge-distance")) checks.edge_distance = table.positive("edge-distance", Dimension::length);
    if (table.node("steepest")) checks.steepest = table.positive("steepest", Dimension::none).value_or(checks.steepest);
    if (!(checks.least_share >= 0.0 && checks.least_share <= 0.25))
      table.error("part.value", fmt::format("[checks]: 'least-share' is {:g}; it can be 0 to 0.25", checks.least_share),
                  table.place("least-share"), "it is a share of the thickness, in each of four directions");
    table.finish();
  }

  void silence(const Declared<std::string>& code) {
    std::vector<std::string> names;
    for (const Explanation& known : explanations()) {
      if (known.severity == "error") continue;
      names.emplace_back(known.code);
      if (known.code != code.value) continue;
      findings_.silence(code.value);
      return;
    }
    const auto near = nearest_name(code.value, names);
    root_.error(
        "part.check-unknown", fmt::format("[checks]: no warning or note has the code '{}'", code.value), code.where,
        near ? fmt::format("did you mean '{}'?", *near) : "errors cannot be switched off; see docs/findings.md");
  }

  // --- plies
  // -----------------------------------------------------------------------------------------------------------

  /// A material of the part, or one that a library has and the part has not used yet.
  /// The pointer holds until the next material is added.
  const Material* find_material(const std::string& name) {
    for (const Material& material : part_.materials)
      if (material.name == name) return &material;
    return library_->file_of(name).value_or(part_.file) != part_.file ? add_material(name, nullptr) : nullptr;
  }

  void write_plies_out() {
    const auto known = [](const Material* found) -> std::optional<KnownMaterial> {
      if (!found) return std::nullopt;
      return KnownMaterial{found->name, found->kind, found->thickness.has_value()};
    };
    const MaterialFinder find{[&](const std::string& name) { return known(find_material(name)); },
                              [&](std::string_view mark) {
                                const Material* const found = marked_by(mark);
                                return known(found ? found : find_material(std::string(mark)));
                              },
                              [&](const std::string& name) { return find_laminate(name); },
                              [&] { return known_laminates(); }};
    for (Ply& ply : write_out(part_, find, errors_)) part_.plies.push_back(std::move(ply));
  }

  /// A laminate of the part, or one that a library has and the part has not used yet.
  std::optional<Laminate> find_laminate(const std::string& name) {
    for (const Laminate& laminate : part_.laminates)
      if (laminate.name == name) return laminate;
    auto found = laminate_named(*library_, name, errors_);
    if (!found) return std::nullopt;
    part_.laminates.push_back(*found);
    return found;
  }
  std::vector<std::string> known_laminates() const {
    std::vector<std::string> out;
    for (const Laminate& laminate : part_.laminates) out.push_back(laminate.name);
    for (std::string& name : laminate_names(*library_))
      if (std::find(out.begin(), out.end(), name) == out.end()) out.push_back(std::move(name));
    return out;
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
    std::vector<std::string> drapes;
    if (const toml::table* const all = root_.has("drape") ? root_.table("drape") : nullptr)
      for (const auto& [name, node] : *all) drapes.emplace_back(name.str());
    for (const Ply& ply : part_.plies) {
      check("material", ply.material, materials, declared, ply.id);
      check("frame", ply.frame, frames, frames, ply.id);
      if (ply.drape) check("drape", *ply.drape, drapes, drapes, ply.id);
    }
    for (const Drape& drape : part_.drapes) check_pieces(drape, drapes);
  }

  /// The pieces of a drape are drapes of their own, each with a zone.
  void check_pieces(const Drape& drape, const std::vector<std::string>& known) {
    for (const Declared<std::string>& piece : drape.pieces) {
      const auto found = std::find_if(part_.drapes.begin(), part_.drapes.end(),
                                      [&](const Drape& other) { return other.name == piece.value; });
      if (found == part_.drapes.end()) {
        const auto near = nearest_name(piece.value, known);
        root_.error("part.drape-unknown",
                    fmt::format("[drape.{}]: its piece '{}' is not declared", drape.name, piece.value), piece.where,
                    near ? fmt::format("did you mean '{}'?", *near) : fmt::format("declare [drape.{}]", piece.value));
      } else if (!found->pieces.empty()) {
        root_.error("part.value", fmt::format("[drape.{}]: its piece '{}' has pieces itself", drape.name, piece.value),
                    piece.where, "name those pieces here");
      } else if (!found->zone) {
        root_.error("part.key-missing",
                    fmt::format("[drape.{}] is a piece of '{}' and has no 'zone'", piece.value, drape.name),
                    found->where, "add zone = \"...\": what of the ply this piece covers");
      }
    }
  }

  Part part_;
  Findings errors_;
  const toml::table& toml_;
  Table root_;
  const ReadOptions& options_;
  std::optional<material::Library> library_;
  Findings& findings_;
  std::set<std::string> told_;
};

}  // namespace

Part read_text(std::string_view text, const std::string& path, Findings& findings, const ReadOptions& options) {
  toml::table root;
  try {
    root = parse_toml(text, path);
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
