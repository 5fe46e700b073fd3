// Gmsh MSH 2.2 and 4.1, ASCII and binary. Reference: Gmsh reference manual, "MSH file format" (versions 4.1 and 2).
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

enum class Use { shell, edge, point, solid };

/// An element type of the format: what it is here, how many nodes it has, and how many of them are kept.
struct Kind {
  int type;
  Use use;
  Shape shape;
  int nodes, kept;
};

constexpr Kind kinds[] = {
    {1, Use::edge, {}, 2, 2},
    {8, Use::edge, {}, 3, 3},
    {15, Use::point, {}, 1, 1},
    {2, Use::shell, Shape::triangle3, 3, 3},
    {3, Use::shell, Shape::quadrilateral4, 4, 4},
    {9, Use::shell, Shape::triangle6, 6, 6},
    {16, Use::shell, Shape::quadrilateral8, 8, 8},
    {10, Use::shell, Shape::quadrilateral8, 9, 8},  // the centre node of a 9-node quadrilateral is dropped
    {4, Use::solid, {}, 4, 0},
    {5, Use::solid, {}, 8, 0},
    {6, Use::solid, {}, 6, 0},
    {7, Use::solid, {}, 5, 0},
    {11, Use::solid, {}, 10, 0},
    {12, Use::solid, {}, 27, 0},
    {13, Use::solid, {}, 18, 0},
    {14, Use::solid, {}, 14, 0},
    {17, Use::solid, {}, 20, 0},
    {18, Use::solid, {}, 15, 0},
    {19, Use::solid, {}, 13, 0},
};

const Kind& kind_of(std::int64_t type, std::size_t offset) {
  for (const Kind& kind : kinds)
    if (kind.type == type) return kind;
  throw Unreadable{
      offset,
      fmt::format("element type {} is not one of points, lines, triangles and quadrilaterals of order 1 or 2", type)};
}

class Reader {
 public:
  Reader(std::string_view bytes, const std::string& path) : bytes_(bytes), path_(path) {}

  RawMesh read() {
    try {
      find_sections();
      read_format();
      if (const auto at = section("PhysicalNames", false)) read_names(*at);
      if (version_ < 4.0) {
        with_cursor(*section("Nodes"), [&](auto& cursor) { read_nodes_2(cursor); });
        with_cursor(*section("Elements"), [&](auto& cursor) { read_elements_2(cursor); });
      } else {
        if (const auto at = section("Entities", false)) with_cursor(*at, [&](auto& cursor) { read_entities(cursor); });
        with_cursor(*section("Nodes"), [&](auto& cursor) { read_nodes_4(cursor); });
        with_cursor(*section("Elements"), [&](auto& cursor) { read_elements_4(cursor); });
      }
    } catch (const Unreadable& trouble) {
      fail(trouble, bytes_, path_, binary_, "save the mesh again (Gmsh MSH 4.1 or 2.2)");
    }
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

  std::optional<std::size_t> section(const std::string& name, bool needed = true) const {
    const auto found = sections_.find(name);
    if (found != sections_.end()) return found->second;
    if (needed) throw Unreadable{bytes_.size(), fmt::format("the file ends without a section ${}", name)};
    return std::nullopt;
  }

  void read_format() {
    TextCursor cursor(bytes_, *section("MeshFormat"));
    const std::size_t at = cursor.offset();
    version_ = cursor.real();
    if (version_ != 2.2 && version_ != 4.1)
      throw Unreadable{at, fmt::format("MSH version {} is not read; versions 2.2 and 4.1 are", version_)};
    const bool binary = cursor.integer() == 1;
    cursor.integer();
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
  void add_element(Cursor& cursor, const Kind& kind, std::int64_t id, std::span<const std::size_t> groups, bool wide) {
    std::int64_t nodes[27];
    for (int i = 0; i < kind.nodes; ++i) nodes[i] = wide ? cursor.integer() : cursor.small();
    if (kind.use == Use::solid) ++mesh_.passed_over;
    if (kind.use == Use::shell) {
      const auto position = static_cast<std::uint32_t>(mesh_.shapes.size());
      mesh_.shapes.push_back(kind.shape);
      mesh_.element_ids.push_back(id);
      mesh_.nodes.insert(mesh_.nodes.end(), nodes, nodes + kind.kept);
      for (const std::size_t g : groups) mesh_.groups[g].elements.push_back(position);
    }
    if (kind.use == Use::edge)
      for (const std::size_t g : groups)
        mesh_.groups[g].edges.push_back({nodes[0], nodes[1], kind.nodes == 3 ? nodes[2] : 0});
    if (kind.use == Use::point)
      for (const std::size_t g : groups) mesh_.groups[g].points.push_back(nodes[0]);
  }

  static int dimension_of(const Kind& kind) {
    return kind.use == Use::point ? 0 : kind.use == Use::edge ? 1 : kind.use == Use::shell ? 2 : 3;
  }

  // --- version 2.2 ---------------------------------------------------------------------------------------------------

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
        const std::size_t at = cursor.offset();
        const Kind& kind = kind_of(cursor.small(), at);
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
        const Kind& kind = kind_of(cursor.integer(), at);
        read_element_2(cursor, kind, id, cursor.integer());
      }
    }
  }

  template <class Cursor>
  void read_element_2(Cursor& cursor, const Kind& kind, std::int64_t id, std::int64_t tag_count) {
    cursor.checked_count(tag_count);
    std::int64_t physical = 0;
    for (std::int64_t t = 0; t < tag_count; ++t) {
      const std::int64_t tag = cursor.small();
      if (t == 0) physical = tag;
    }
    // The format writes an element once per physical group it is in, with the same nodes: keep one element.
    const std::size_t elements = mesh_.shapes.size(), stored = mesh_.nodes.size();
    const std::size_t own_group = physical != 0 && kind.use != Use::solid ? group(dimension_of(kind), physical) : 0;
    add_element(cursor, kind, id, std::span(&own_group, physical != 0 && kind.use != Use::solid ? 1 : 0), false);
    if (kind.use != Use::shell) return;
    const auto first_node =
        *std::min_element(mesh_.nodes.begin() + static_cast<std::ptrdiff_t>(stored), mesh_.nodes.end());
    auto& same_first_node = holders_[first_node];
    for (const auto& [element, offset] : same_first_node) {
      if (mesh_.shapes[element] != kind.shape ||
          !std::equal(mesh_.nodes.begin() + static_cast<std::ptrdiff_t>(stored), mesh_.nodes.end(),
                      mesh_.nodes.begin() + static_cast<std::ptrdiff_t>(offset)))
        continue;
      if (mesh_.element_ids[element] == id) break;  // the same id twice is an error, told later
      mesh_.shapes.pop_back();
      mesh_.element_ids.pop_back();
      mesh_.nodes.resize(stored);
      if (physical != 0) mesh_.groups[own_group].elements.back() = element;
      return;
    }
    same_first_node.emplace_back(static_cast<std::uint32_t>(elements), stored);
  }

  // --- version 4.1 ---------------------------------------------------------------------------------------------------

  template <class Cursor>
  void read_entities(Cursor& cursor) {
    std::int64_t counts[4];
    for (std::int64_t& count : counts) count = cursor.count();
    for (int dimension = 0; dimension < 4; ++dimension) {
      for (std::int64_t i = 0; i < counts[dimension]; ++i) {
        const std::int64_t tag = cursor.small();
        for (int k = 0; k < (dimension == 0 ? 3 : 6); ++k) cursor.real();
        auto& physical = physical_of_[{dimension, tag}];
        for (std::int64_t k = cursor.count(); k > 0; --k) physical.push_back(cursor.small());
        if (dimension > 0)
          for (std::int64_t k = cursor.count(); k > 0; --k) cursor.small();
      }
    }
  }

  void reserve_nodes(std::int64_t count) {
    mesh_.node_ids.reserve(static_cast<std::size_t>(count));
    mesh_.coordinates.reserve(3 * static_cast<std::size_t>(count));
  }

  template <class Cursor>
  void read_nodes_4(Cursor& cursor) {
    const std::int64_t blocks = cursor.count();
    reserve_nodes(cursor.count());
    cursor.integer();
    cursor.integer();
    for (std::int64_t b = 0; b < blocks; ++b) {
      const std::int64_t dimension = cursor.small();
      cursor.small();
      const std::int64_t parametric = cursor.small();
      const std::int64_t count = cursor.count();
      const std::size_t before = mesh_.node_ids.size();
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
    cursor.integer();
    cursor.integer();
    for (std::int64_t b = 0; b < blocks; ++b) {
      const auto dimension = static_cast<int>(cursor.small());
      const std::int64_t entity = cursor.small();
      const std::size_t at = cursor.offset();
      const Kind& kind = kind_of(cursor.small(), at);
      const std::int64_t count = cursor.count();
      std::vector<std::size_t> groups;
      if (const auto found = physical_of_.find({dimension, entity});
          found != physical_of_.end() && kind.use != Use::solid)
        for (const std::int64_t tag : found->second) groups.push_back(group(dimension_of(kind), tag));
      if (kind.use == Use::shell && read_shells(cursor, kind, count, groups)) continue;
      for (std::int64_t i = 0; i < count; ++i) add_element(cursor, kind, cursor.integer(), groups, true);
    }
  }

  /// A block of shells in parallel; false where it must be read one by one.
  template <class Cursor>
  bool read_shells(Cursor& cursor, const Kind& kind, std::int64_t count, std::span<const std::size_t> groups) {
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
    for (const std::size_t g : groups)
      for (std::size_t i = before; i < mesh_.shapes.size(); ++i)
        mesh_.groups[g].elements.push_back(static_cast<std::uint32_t>(i));
    return done;
  }

  using Holders = std::vector<std::pair<std::uint32_t, std::size_t>>;  ///< element, offset of its nodes

  std::string_view bytes_;
  const std::string& path_;
  RawMesh mesh_;
  double version_ = 0.0;
  bool binary_ = false, swapped_ = false;
  std::map<std::string, std::size_t> sections_;
  std::map<std::pair<int, std::int64_t>, std::string> names_;
  std::map<std::pair<int, std::int64_t>, std::size_t> group_of_;
  std::map<std::pair<int, std::int64_t>, std::vector<std::int64_t>> physical_of_;
  std::unordered_map<std::int64_t, Holders> holders_;  ///< version 2.2: elements by smallest node id
};

}  // namespace

bool is_msh(std::string_view bytes) { return bytes.substr(0, 256).find("$MeshFormat") != std::string_view::npos; }

Surface read_msh(std::string_view bytes, const std::string& path, const ReadOptions& options, Findings& findings) {
  return build(Reader(bytes, path).read(), path, options, findings);
}

}  // namespace bordado::mesh
