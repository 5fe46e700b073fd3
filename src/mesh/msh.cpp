// Gmsh MSH 1, 2, 3, 4.0 and 4.1, ASCII and binary. Reference: Gmsh reference manual, "MSH file format" (versions 4.1
// and earlier).
#include "builder.hpp"
#include "formats.hpp"
#include "text.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cstring>
#include <map>

namespace bordado::mesh {

namespace {

/// Reads numbers written in binary; `swapped` where the file comes from a machine of the other byte order.
class BinaryCursor {
 public:
  BinaryCursor(std::string_view bytes, std::size_t at, bool swapped) : bytes_(bytes), at_(at), swapped_(swapped) {}

  std::int64_t small() { return get<std::int32_t>(); }
  std::int64_t integer() { return get<std::int64_t>(); }
  double real() { return get<double>(); }
  std::int64_t count() { return checked_count(integer()); }
  std::int64_t checked_count(std::int64_t value) const {
    if (value < 0 || static_cast<std::uint64_t>(value) > bytes_.size() - at_)
      throw Unreadable{at_, fmt::format("the file ends before {} items", value)};
    return value;
  }
  std::size_t offset() const { return at_; }
  /// Copying is fast as it is.
  template <class ReadLine>
  bool lines_in_parallel(std::int64_t, ReadLine) {
    return false;
  }

 private:
  template <class Number>
  Number get() {
    if (bytes_.size() - at_ < sizeof(Number)) throw Unreadable{at_, "the file ends in the middle of a number"};
    char raw[sizeof(Number)];
    std::memcpy(raw, bytes_.data() + at_, sizeof(Number));
    if (swapped_) std::reverse(raw, raw + sizeof(Number));
    at_ += sizeof(Number);
    Number value;
    std::memcpy(&value, raw, sizeof(Number));
    return value;
  }
  std::string_view bytes_;
  std::size_t at_;
  bool swapped_;
};

enum class MshUse { shell, edge, point, solid };

/// An element type of the format: what it is here, how many nodes it has, and how many of them are kept. Those of third
/// order and higher keep their corners.
struct MshKind {
  int type;
  MshUse use;
  Shape shape;
  int nodes, kept;
};

constexpr MshKind msh_kinds[] = {
    {1, MshUse::edge, {}, 2, 2},
    {8, MshUse::edge, {}, 3, 3},
    {15, MshUse::point, {}, 1, 1},
    {2, MshUse::shell, Shape::triangle3, 3, 3},
    {3, MshUse::shell, Shape::quadrilateral4, 4, 4},
    {9, MshUse::shell, Shape::triangle6, 6, 6},
    {16, MshUse::shell, Shape::quadrilateral8, 8, 8},
    {10, MshUse::shell, Shape::quadrilateral8, 9, 8},  // the centre node of a 9-node quadrilateral is dropped
};

/// Types of third order and higher, and solids: their numbers of nodes, as the format's own list has them.
struct Others {
  MshUse use;
  std::initializer_list<std::pair<int, int>> types;  ///< type and nodes
  Shape shape = Shape::triangle3;
};
const Others others[] = {
    {MshUse::edge, {{26, 4}, {27, 5}, {28, 6}, {62, 7}, {63, 8}, {64, 9}, {65, 10}, {66, 11}}},
    {MshUse::shell,
     {{20, 9},
      {21, 10},
      {22, 12},
      {23, 15},
      {24, 15},
      {25, 21},
      {42, 28},
      {43, 36},
      {44, 45},
      {45, 55},
      {46, 66},
      {52, 18},
      {53, 21},
      {54, 24},
      {55, 27},
      {56, 30}}},
    {MshUse::shell,
     {{36, 16},
      {37, 25},
      {38, 36},
      {39, 12},
      {40, 16},
      {41, 20},
      {47, 49},
      {48, 64},
      {49, 81},
      {50, 100},
      {51, 121},
      {57, 24},
      {58, 28},
      {59, 32},
      {60, 36},
      {61, 40}},
     Shape::quadrilateral4},
    {MshUse::solid,
     {{4, 4},     {5, 8},     {6, 6},    {7, 5},     {11, 10},   {12, 27},   {13, 18},   {14, 14},   {17, 20},
      {18, 15},   {19, 13},   {29, 20},  {30, 35},   {31, 56},   {32, 22},   {33, 28},   {71, 84},   {72, 120},
      {73, 165},  {74, 220},  {75, 286}, {79, 34},   {80, 40},   {81, 46},   {82, 52},   {83, 58},   {90, 40},
      {91, 75},   {92, 64},   {93, 125}, {94, 216},  {95, 343},  {96, 512},  {97, 729},  {98, 1000}, {99, 32},
      {100, 44},  {101, 56},  {102, 68}, {103, 80},  {104, 92},  {105, 104}, {106, 126}, {107, 196}, {108, 288},
      {109, 405}, {110, 550}, {111, 24}, {112, 33},  {113, 42},  {114, 51},  {115, 60},  {116, 69},  {117, 78},
      {118, 30},  {119, 55},  {120, 91}, {121, 140}, {122, 204}, {123, 285}, {124, 385}, {125, 21},  {126, 29},
      {127, 37},  {128, 45},  {129, 53}, {130, 61},  {131, 69}}}};

/// All of them, by type.
const std::map<int, MshKind>& all_kinds() {
  static const std::map<int, MshKind> table = [] {
    std::map<int, MshKind> out;
    for (const MshKind& kind : msh_kinds) out.emplace(kind.type, kind);
    for (const Others& more : others)
      for (const auto& [type, nodes] : more.types)
        out.emplace(type, MshKind{type, more.use, more.shape, nodes,
                                  more.use == MshUse::edge    ? 2
                                  : more.use == MshUse::solid ? 0
                                                              : static_cast<int>(corner_count(more.shape))});
    return out;
  }();
  return table;
}

const MshKind& kind_of(std::int64_t type, std::size_t offset) {
  const auto found = all_kinds().find(static_cast<int>(std::clamp<std::int64_t>(type, 0, 1000)));
  if (found != all_kinds().end()) return found->second;
  throw Unreadable{offset,
                   fmt::format("element type {} is none that the format documents with a number of nodes", type)};
}

class MshReader {
 public:
  MshReader(std::string_view bytes, const std::string& path) : bytes_(bytes), path_(path) {}

  RawMesh read(Findings& findings) {
    try {
      find_sections();
      read_format();
      if (!sections_.contains("Nodes") && !sections_.contains("NOD") && is_closed())
        return std::move(mesh_);  // an empty mesh
      if (const auto at = section("PhysicalNames", false)) read_names(*at);
      if (version_ < 2.0) {
        with_cursor(*section("NOD"), [&](auto& cursor) { read_nodes_2(cursor); });
        with_cursor(*section("ELM"), [&](auto& cursor) { read_elements_2(cursor); });
      } else if (version_ < 4.0) {
        if (const auto at = section("Entities", false)) {  // as text in binary files, too
          TextCursor cursor(bytes_, *at);
          read_entities_3(cursor);
        }
        with_cursor(*section("Nodes"), [&](auto& cursor) { read_nodes_2(cursor); });
        with_cursor(*section("Elements"), [&](auto& cursor) { read_elements_2(cursor); });
      } else {
        if (const auto at = section("Entities", false)) with_cursor(*at, [&](auto& cursor) { read_entities(cursor); });
        if (const auto at = section("PartitionedEntities", false))
          with_cursor(*at, [&](auto& cursor) { read_partitioned_entities(cursor); });
        with_cursor(*section("Nodes"), [&](auto& cursor) { read_nodes_4(cursor); });
        with_cursor(*section("Elements"), [&](auto& cursor) { read_elements_4(cursor); });
      }
      mesh_.no_shells_remedy =
          "mesh the surfaces (2D); if physical groups are defined, a surface must be in one to be saved";
    } catch (const Unreadable& trouble) {
      fail(trouble, bytes_, path_, binary_, "save the mesh again (Gmsh MSH 4.1 or 2.2)");
    }
    if (lowered_ > 0)
      findings.note(
          "mesh.order-lowered",
          fmt::format("{} of third order or higher were taken by their corners", counted(lowered_, "element")),
          Place::in(path_));
    return std::move(mesh_);
  }

 private:
  /// Offsets just behind "$Name" lines, first of each name.
  void find_sections() {
    std::size_t at = 0;
    while (at < bytes_.size()) {
      const std::size_t found = bytes_.find('$', at);
      if (found == std::string_view::npos) break;
      at = found + 1;
      if (found != 0 && bytes_[found - 1] != '\n') continue;
      const std::size_t stop = bytes_.find_first_of("\r\n", found);
      const std::string_view name = bytes_.substr(found + 1, stop == std::string_view::npos ? stop : stop - found - 1);
      if (name.size() > 40 || name.starts_with("End")) continue;
      const std::size_t line_end = bytes_.find('\n', found);
      if (line_end == std::string_view::npos) break;
      const std::string key(name);
      if (!sections_.emplace(key, line_end + 1).second) continue;
      at = line_end + 1;
      // A file can hold '$' bytes inside binary blocks: go on behind the section's own end.
      const std::size_t end = bytes_.find("\n$End" + key, at);
      if (end != std::string_view::npos) at = end + 1;
    }
  }

  /// Whether the last section has its end: the file was not cut, it just has no mesh.
  bool is_closed() const {
    const std::string_view text = trimmed(bytes_);
    const std::size_t line = text.rfind('\n');
    return line != std::string_view::npos && text.substr(line + 1).starts_with("$End");
  }

  std::optional<std::size_t> section(const std::string& name, bool needed = true) const {
    const auto found = sections_.find(name);
    if (found != sections_.end()) return found->second;
    if (!needed) return std::nullopt;
    throw Unreadable{bytes_.size(), fmt::format("the file ends without a section ${}", name)};
  }

  void read_format() {
    if (sections_.contains("NOD")) {  // the first version has no head
      version_ = 1.0;
      return;
    }
    TextCursor cursor(bytes_, *section("MeshFormat"));
    const std::size_t at = cursor.offset();
    version_ = cursor.real();
    constexpr double versions[] = {2.0, 2.1, 2.2, 3.0, 4.0, 4.1};
    if (std::find(std::begin(versions), std::end(versions), version_) == std::end(versions))
      throw Unreadable{at, fmt::format("MSH version {} is not read; versions 1, 2, 3, 4.0 and 4.1 are", version_)};
    const bool binary = cursor.integer() == 1;
    const std::int64_t size = cursor.integer();
    if (binary && size != 8)
      throw Unreadable{at, fmt::format("reals of {} bytes are not read; of 8 bytes they are", size)};
    if (!binary) return;
    cursor.to_next_line();
    BinaryCursor one(bytes_, cursor.offset(), false);
    const std::int64_t mark = one.small();
    binary_ = true;
    swapped_ = mark != 1;
    if (mark != 1 && mark != 0x01000000)
      throw Unreadable{cursor.offset(), "the byte order mark of the binary file is broken"};
  }

  template <class Body>
  void with_cursor(std::size_t at, Body body) {
    if (binary_) {
      BinaryCursor cursor(bytes_, at, swapped_);
      body(cursor);
    } else {
      TextCursor cursor(bytes_, at);
      body(cursor);
    }
  }

  void read_names(std::size_t at) {
    TextCursor cursor(bytes_, at);
    const std::int64_t count = cursor.count();
    for (std::int64_t i = 0; i < count; ++i) {
      const auto dimension = static_cast<int>(cursor.integer());
      const std::int64_t tag = cursor.integer();
      const std::size_t open = bytes_.find('"', cursor.offset());
      const std::size_t close = open == std::string_view::npos ? open : bytes_.find('"', open + 1);
      if (close == std::string_view::npos) throw Unreadable{cursor.offset(), "a physical group has no name in quotes"};
      names_[{dimension, tag}] = std::string(bytes_.substr(open + 1, close - open - 1));
      cursor = TextCursor(bytes_, close + 1);
    }
  }

  /// Position of a physical tag's group in the mesh, made when first met.
  std::size_t group(int dimension, std::int64_t tag) {
    const std::pair key{dimension, std::abs(tag)};
    const auto [found, is_new] = group_of_.emplace(key, mesh_.groups.size());
    if (is_new) {
      const auto named = names_.find(key);
      const std::string name = named != names_.end() ? named->second : fmt::format("physical {}", std::abs(tag));
      mesh_.groups.push_back({name, dimension, {}, {}, {}});
    }
    return found->second;
  }

  template <class Cursor>
  void add_element(Cursor& cursor, const MshKind& kind, std::int64_t id, std::span<const std::size_t> groups,
                   bool wide) {
    std::int64_t nodes[8];
    for (int i = 0; i < kind.nodes; ++i) {
      const std::int64_t node = wide ? cursor.integer() : cursor.small();
      if (i < kind.kept) nodes[i] = node;
    }
    if (kind.use == MshUse::solid) ++mesh_.passed_over;
    note_lowered(kind, 1);
    if (kind.use == MshUse::shell) {
      const auto position = static_cast<std::uint32_t>(mesh_.shapes.size());
      mesh_.shapes.push_back(kind.shape);
      mesh_.element_ids.push_back(id);
      mesh_.nodes.insert(mesh_.nodes.end(), nodes, nodes + kind.kept);
      for (const std::size_t g : groups) mesh_.groups[g].elements.push_back(position);
    }
    if (kind.use == MshUse::edge)
      for (const std::size_t g : groups)
        mesh_.groups[g].edges.push_back({nodes[0], nodes[1], kind.kept == 3 ? nodes[2] : 0});
    if (kind.use == MshUse::point)
      for (const std::size_t g : groups) mesh_.groups[g].points.push_back(nodes[0]);
  }

  void note_lowered(const MshKind& kind, std::size_t count) {
    if (kind.use == MshUse::shell && kind.nodes > 9) lowered_ += count;
  }

  static int dimension_of(const MshKind& kind) {
    return kind.use == MshUse::point ? 0 : kind.use == MshUse::edge ? 1 : kind.use == MshUse::shell ? 2 : 3;
  }

  // --- versions 1 to 3
  // ---------------------------------------------------------------------------------------------------

  template <class Cursor>
  void read_nodes_2(Cursor& cursor) {
    TextCursor head(bytes_, cursor.offset());
    const std::int64_t count = head.count();
    if constexpr (std::is_same_v<Cursor, BinaryCursor>) {
      head.to_next_line();
      cursor = BinaryCursor(bytes_, head.offset(), swapped_);
    } else {
      cursor = head;
    }
    reserve_nodes(count);
    for (std::int64_t i = 0; i < count; ++i) {
      mesh_.node_ids.push_back(cursor.small());
      for (int k = 0; k < 3; ++k) mesh_.coordinates.push_back(cursor.real());
      if (version_ != 3.0) continue;
      if (cursor.small() == 0) continue;  // the entity that it lies on, its dimension, so many parameters
      const std::int64_t dimension = cursor.small();
      for (std::int64_t k = 0; k < std::clamp<std::int64_t>(dimension, 0, 3); ++k) cursor.real();
    }
  }

  template <class Cursor>
  void read_elements_2(Cursor& cursor) {
    TextCursor head(bytes_, cursor.offset());
    const std::int64_t count = head.count();
    if constexpr (std::is_same_v<Cursor, BinaryCursor>) {
      head.to_next_line();
      cursor = BinaryCursor(bytes_, head.offset(), swapped_);
      for (std::int64_t done = 0; done < count;) {
        if (version_ == 3.0) {  // as text has them, one by one
          const std::int64_t id = cursor.small();
          const std::size_t at = cursor.offset();
          read_element_3(cursor, kind_of(cursor.small(), at), id);
          ++done;
          continue;
        }
        const std::size_t at = cursor.offset();
        const MshKind& kind = kind_of(cursor.small(), at);
        const std::int64_t block = cursor.small(), tags = cursor.small();
        if (block <= 0) throw Unreadable{at, "an element block is empty"};
        for (std::int64_t i = 0; i < block; ++i) read_element_2(cursor, kind, cursor.small(), tags);
        done += block;
      }
    } else {
      cursor = head;
      for (std::int64_t i = 0; i < count; ++i) {
        const std::int64_t id = cursor.integer();
        const std::size_t at = cursor.offset();
        const MshKind& kind = kind_of(cursor.integer(), at);
        if (version_ < 2.0)
          read_element_1(cursor, kind, id);
        else if (version_ == 3.0)
          read_element_3(cursor, kind, id);
        else
          read_element_2(cursor, kind, id, cursor.integer());
      }
    }
  }

  /// Version 1: physical group, elementary entity, number of nodes, nodes.
  template <class Cursor>
  void read_element_1(Cursor& cursor, const MshKind& kind, std::int64_t id) {
    const std::int64_t physical = cursor.integer();
    cursor.integer();
    const std::size_t at = cursor.offset();
    if (const std::int64_t nodes = cursor.integer(); nodes != kind.nodes)
      throw Unreadable{at, fmt::format("element {} has {} nodes; its type has {}", id, nodes, kind.nodes)};
    take_element(cursor, kind, id, physical);
  }

  /// Version 3: entity, number of what follows, nodes, then partitions.
  template <class Cursor>
  void read_element_3(Cursor& cursor, const MshKind& kind, std::int64_t id) {
    const std::int64_t entity = cursor.small(), count = cursor.checked_count(cursor.small());
    std::vector<std::size_t> groups;
    if (const auto found = physical_of_.find({dimension_of(kind), entity});
        found != physical_of_.end() && kind.use != MshUse::solid)
      for (const std::int64_t tag : found->second) groups.push_back(group(dimension_of(kind), tag));
    if (count < kind.nodes) throw Unreadable{cursor.offset(), fmt::format("element {} has too few nodes", id)};
    add_element(cursor, kind, id, groups, false);
    for (std::int64_t k = kind.nodes; k < count; ++k) cursor.small();
  }

  void read_entities_3(TextCursor& cursor) {
    std::int64_t counts[4];
    for (std::int64_t& count : counts) count = cursor.count();
    for (int dimension = 0; dimension < 4; ++dimension)
      for (std::int64_t i = 0; i < counts[dimension]; ++i) {
        const std::int64_t tag = cursor.integer();
        if (dimension > 0)
          for (std::int64_t k = cursor.count(); k > 0; --k) cursor.integer();
        auto& physical = physical_of_[{dimension, tag}];
        for (std::int64_t k = cursor.count(); k > 0; --k) physical.push_back(cursor.integer());
      }
  }

  template <class Cursor>
  void read_element_2(Cursor& cursor, const MshKind& kind, std::int64_t id, std::int64_t tag_count) {
    cursor.checked_count(tag_count);
    std::int64_t physical = 0;
    for (std::int64_t t = 0; t < tag_count; ++t) {
      const std::int64_t tag = cursor.small();
      if (t == 0) physical = tag;
    }
    take_element(cursor, kind, id, physical);
  }

  template <class Cursor>
  void take_element(Cursor& cursor, const MshKind& kind, std::int64_t id, std::int64_t physical) {
    // The format writes an element once per physical group it is in, with the same nodes: keep one element. Another one
    // in the same group, or in none, is a twin: it stays, and the checks tell of it.
    const std::size_t elements = mesh_.shapes.size(), stored = mesh_.nodes.size();
    const std::size_t own_group = physical != 0 && kind.use != MshUse::solid ? group(dimension_of(kind), physical) : 0;
    add_element(cursor, kind, id, std::span(&own_group, physical != 0 && kind.use != MshUse::solid ? 1 : 0), false);
    if (kind.use != MshUse::shell) return;
    const auto first_node =
        *std::min_element(mesh_.nodes.begin() + static_cast<std::ptrdiff_t>(stored), mesh_.nodes.end());
    auto& same_first_node = holders_[first_node];
    for (auto& [element, offset, latest_group] : same_first_node) {
      if (mesh_.shapes[element] != kind.shape ||
          !std::equal(mesh_.nodes.begin() + static_cast<std::ptrdiff_t>(stored), mesh_.nodes.end(),
                      mesh_.nodes.begin() + static_cast<std::ptrdiff_t>(offset)))
        continue;
      if (mesh_.element_ids[element] == id) break;  // the same id twice is an error, told later
      if (physical == 0 || latest_group == 0 || physical == latest_group) continue;
      latest_group = physical;
      mesh_.shapes.pop_back();
      mesh_.element_ids.pop_back();
      mesh_.nodes.resize(stored);
      mesh_.groups[own_group].elements.back() = element;
      return;
    }
    same_first_node.push_back({static_cast<std::uint32_t>(elements), stored, physical});
  }

  // --- versions 4.0 and 4.1
  // ---------------------------------------------------------------------------------------------------

  template <class Cursor>
  void read_entities(Cursor& cursor) {
    std::int64_t counts[4];
    for (std::int64_t& count : counts) count = cursor.count();
    for (int dimension = 0; dimension < 4; ++dimension) {
      for (std::int64_t i = 0; i < counts[dimension]; ++i) {
        const std::int64_t tag = cursor.small();
        for (int k = 0; k < (dimension == 0 && version_ > 4.0 ? 3 : 6); ++k) cursor.real();
        auto& physical = physical_of_[{dimension, tag}];
        for (std::int64_t k = cursor.count(); k > 0; --k) physical.push_back(cursor.small());
        if (dimension > 0)
          for (std::int64_t k = cursor.count(); k > 0; --k) cursor.small();
      }
    }
  }

  /// Pieces of entities that lie in partitions; they keep the groups of their parents.
  template <class Cursor>
  void read_partitioned_entities(Cursor& cursor) {
    cursor.count();  // partitions
    for (std::int64_t k = 2 * cursor.count(); k > 0; --k) cursor.small();
    std::int64_t counts[4];
    for (std::int64_t& count : counts) count = cursor.count();
    for (int dimension = 0; dimension < 4; ++dimension)
      for (std::int64_t i = 0; i < counts[dimension]; ++i) {
        const std::int64_t tag = cursor.small();
        const std::int64_t parent_dimension = cursor.small(), parent = cursor.small();
        for (std::int64_t k = cursor.count(); k > 0; --k) cursor.small();
        for (int k = 0; k < (dimension == 0 && version_ > 4.0 ? 3 : 6); ++k) cursor.real();
        std::vector<std::int64_t> physical;
        for (std::int64_t k = cursor.count(); k > 0; --k) physical.push_back(cursor.small());
        if (physical.empty() && parent_dimension == dimension)
          if (const auto found = physical_of_.find({dimension, parent}); found != physical_of_.end())
            physical = found->second;
        physical_of_[{dimension, tag}] = std::move(physical);
        if (dimension > 0)
          for (std::int64_t k = cursor.count(); k > 0; --k) cursor.small();
      }
  }

  void reserve_nodes(std::int64_t count) {
    mesh_.node_ids.reserve(static_cast<std::size_t>(count));
    mesh_.coordinates.reserve(3 * static_cast<std::size_t>(count));
  }

  template <class Cursor>
  void read_nodes_4(Cursor& cursor) {
    const bool first_layout = version_ < 4.1;  // tag before dimension, each node on one line with its number
    const std::int64_t blocks = cursor.count();
    reserve_nodes(cursor.count());
    if (!first_layout) {
      cursor.integer();
      cursor.integer();
    }
    for (std::int64_t b = 0; b < blocks; ++b) {
      const std::int64_t one = cursor.small(), other = cursor.small();
      const std::int64_t dimension = first_layout ? other : one;
      const std::int64_t parametric = cursor.small();
      const std::int64_t count = cursor.count();
      const std::size_t before = mesh_.node_ids.size();
      if (first_layout) {
        for (std::int64_t i = 0; i < count; ++i) {
          mesh_.node_ids.push_back(cursor.small());
          for (int k = 0; k < 3; ++k) mesh_.coordinates.push_back(cursor.real());
          for (std::int64_t k = 0; parametric != 0 && k < dimension; ++k) cursor.real();
        }
        continue;
      }
      mesh_.node_ids.resize(before + static_cast<std::size_t>(count));
      const auto read_id = [&](auto& from, std::size_t i) { mesh_.node_ids[before + i] = from.integer(); };
      if (!cursor.lines_in_parallel(count, read_id))
        for (std::size_t i = 0; i < static_cast<std::size_t>(count); ++i) read_id(cursor, i);
      mesh_.coordinates.resize(3 * mesh_.node_ids.size());
      const auto read_point = [&](auto& from, std::size_t i) {
        for (std::size_t k = 0; k < 3; ++k) mesh_.coordinates[3 * (before + i) + k] = from.real();
        for (std::int64_t k = 0; parametric != 0 && k < dimension; ++k) from.real();
      };
      if (!cursor.lines_in_parallel(count, read_point))
        for (std::size_t i = 0; i < static_cast<std::size_t>(count); ++i) read_point(cursor, i);
    }
  }

  template <class Cursor>
  void read_elements_4(Cursor& cursor) {
    const std::int64_t blocks = cursor.count();
    const auto total = static_cast<std::size_t>(cursor.count());
    mesh_.shapes.reserve(total);
    mesh_.element_ids.reserve(total);
    mesh_.nodes.reserve(4 * total);
    const bool first_layout = version_ < 4.1;
    if (!first_layout) {
      cursor.integer();
      cursor.integer();
    }
    for (std::int64_t b = 0; b < blocks; ++b) {
      const std::int64_t one = cursor.small(), other = cursor.small();
      const auto dimension = static_cast<int>(first_layout ? other : one);
      const std::int64_t entity = first_layout ? one : other;
      const std::size_t at = cursor.offset();
      const MshKind& kind = kind_of(cursor.small(), at);
      const std::int64_t count = cursor.count();
      std::vector<std::size_t> groups;
      if (const auto found = physical_of_.find({dimension, entity});
          found != physical_of_.end() && kind.use != MshUse::solid)
        for (const std::int64_t tag : found->second) groups.push_back(group(dimension_of(kind), tag));
      if (first_layout) {
        for (std::int64_t i = 0; i < count; ++i) add_element(cursor, kind, cursor.small(), groups, false);
        continue;
      }
      if (kind.use == MshUse::shell && read_shells(cursor, kind, count, groups)) continue;
      for (std::int64_t i = 0; i < count; ++i) add_element(cursor, kind, cursor.integer(), groups, true);
    }
  }

  /// A block of shells in parallel; false where it must be read one by one.
  template <class Cursor>
  bool read_shells(Cursor& cursor, const MshKind& kind, std::int64_t count, std::span<const std::size_t> groups) {
    const std::size_t before = mesh_.shapes.size(), stored = mesh_.nodes.size(), more = static_cast<std::size_t>(count);
    const auto kept = static_cast<std::size_t>(kind.kept);
    const auto resize = [&](std::size_t elements, std::size_t nodes) {
      mesh_.shapes.resize(elements, kind.shape);
      mesh_.element_ids.resize(elements);
      mesh_.nodes.resize(nodes);
    };
    resize(before + more, stored + more * kept);
    const bool done = cursor.lines_in_parallel(count, [&](auto& from, std::size_t i) {
      mesh_.element_ids[before + i] = from.integer();
      for (std::size_t k = 0; k < static_cast<std::size_t>(kind.nodes); ++k) {
        const std::int64_t node = from.integer();
        if (k < kept) mesh_.nodes[stored + i * kept + k] = node;
      }
    });
    if (!done) resize(before, stored);
    if (done) note_lowered(kind, more);
    for (const std::size_t g : groups)
      for (std::size_t i = before; i < mesh_.shapes.size(); ++i)
        mesh_.groups[g].elements.push_back(static_cast<std::uint32_t>(i));
    return done;
  }

  struct Held {
    std::uint32_t element;
    std::size_t offset;         ///< of its nodes
    std::int64_t latest_group;  ///< physical
  };
  using Holders = std::vector<Held>;

  std::string_view bytes_;
  const std::string& path_;
  RawMesh mesh_;
  double version_ = 0.0;
  std::size_t lowered_ = 0;
  bool binary_ = false, swapped_ = false;
  std::map<std::string, std::size_t> sections_;
  std::map<std::pair<int, std::int64_t>, std::string> names_;
  std::map<std::pair<int, std::int64_t>, std::size_t> group_of_;
  std::map<std::pair<int, std::int64_t>, std::vector<std::int64_t>> physical_of_;
  std::unordered_map<std::int64_t, Holders> holders_;  ///< version 2.2: elements by smallest node id
};

}  // namespace

bool is_msh(std::string_view bytes) {
  const std::string_view head = bytes.substr(0, 4000);
  return head.find("$MeshFormat") != std::string_view::npos || trimmed(head).starts_with("$NOD");
}

Surface read_msh(std::string_view bytes, const std::string& path, const ReadOptions& options, Findings& findings) {
  return build(MshReader(bytes, path).read(findings), path, options, findings);
}

}  // namespace bordado::mesh
