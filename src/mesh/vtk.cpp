// Legacy VTK files, ASCII and binary: unstructured grids and poly data. Reference: VTK user's guide, "VTK file
// formats", simple legacy formats (versions 1 to 5).
#include "cells.hpp"
#include "formats.hpp"
#include "text.hpp"

#include <bordado/base/files.hpp>
#include <bordado/base/text.hpp>

#include <bit>

namespace bordado::mesh {

namespace {

class VtkReader {
 public:
  VtkReader(std::string_view bytes, const std::string& path) : bytes_(bytes), path_(path) {}

  RawMesh read(Findings& findings) {
    line();  // the version
    line();  // a title
    const std::string mode = upper(trimmed(line()));
    if (mode != "ASCII" && mode != "BINARY")
      unreadable(fmt::format("'{}' stands where ASCII or BINARY should", plain_text(mode, 24)));
    binary_ = mode == "BINARY";
    while (read_section()) {
    }
    add_cells(findings);
    return std::move(mesh_);
  }
  bool binary() const { return binary_; }

 private:
  [[noreturn]] void unreadable(std::string what) const { throw Unreadable{at_, std::move(what)}; }

  std::string_view line() {
    const std::size_t end = std::min(bytes_.find('\n', at_), bytes_.size());
    const std::string_view out = bytes_.substr(at_, end - at_);
    at_ = std::min(end + 1, bytes_.size());
    return out;
  }

  /// The next line that is not empty, in words; nothing at the end.
  std::vector<std::string_view> words() {
    while (at_ < bytes_.size()) {
      std::vector<std::string_view> out;
      for (const std::string_view word : split(line(), ' '))
        if (!word.empty()) out.push_back(word);
      if (!out.empty()) return out;
    }
    return {};
  }

  std::size_t count(const std::vector<std::string_view>& words, std::size_t k) const {
    const auto value = k < words.size() ? integer_of(words[k]) : std::nullopt;
    if (!value || *value < 0 || static_cast<std::uint64_t>(*value) > bytes_.size())
      unreadable(fmt::format("'{}' needs a number of items that the file can hold", plain_text(words[0], 24)));
    return static_cast<std::size_t>(*value);
  }

  static std::size_t size_of(const std::string& type) {
    for (const auto& [name, size] : {std::pair{"FLOAT", 4u},
                                     {"DOUBLE", 8u},
                                     {"INT", 4u},
                                     {"UNSIGNED_INT", 4u},
                                     {"LONG", 8u},
                                     {"UNSIGNED_LONG", 8u},
                                     {"LONG_LONG", 8u},
                                     {"UNSIGNED_LONG_LONG", 8u},
                                     {"VTKIDTYPE", 4u},
                                     {"VTKTYPEINT32", 4u},
                                     {"VTKTYPEUINT32", 4u},
                                     {"VTKTYPEINT64", 8u},
                                     {"VTKTYPEUINT64", 8u},
                                     {"SHORT", 2u},
                                     {"UNSIGNED_SHORT", 2u},
                                     {"CHAR", 1u},
                                     {"UNSIGNED_CHAR", 1u},
                                     {"BIT", 1u}})
      if (type == name) return size;
    return 0;
  }

  /// Numbers of a type; whole ones are exact to 2^53, which no mesh reaches.
  std::vector<double> numbers(std::size_t many, const std::string& type) {
    std::vector<double> out(many);
    if (!binary_) {
      TextCursor cursor(bytes_, at_);
      for (double& value : out) value = cursor.real();
      at_ = cursor.offset();
      return out;
    }
    const std::size_t size = size_of(type);
    if (size == 0) unreadable(fmt::format("numbers of type '{}' are not read", plain_text(type, 24)));
    if (many > (bytes_.size() - at_) / size) throw Unreadable{bytes_.size(), "the file ends inside a list of numbers"};
    for (double& value : out) {
      std::uint64_t bits = 0;  // most significant byte first
      for (std::size_t k = 0; k < size; ++k) bits = bits << 8 | static_cast<unsigned char>(bytes_[at_ + k]);
      at_ += size;
      if (type == "FLOAT")
        value = std::bit_cast<float>(static_cast<std::uint32_t>(bits));
      else if (type == "DOUBLE")
        value = std::bit_cast<double>(bits);
      else if (size == 4 && type != "UNSIGNED_INT")
        value = static_cast<std::int32_t>(bits);
      else
        value = static_cast<double>(static_cast<std::int64_t>(bits));
    }
    return out;
  }

  std::vector<std::int64_t> whole(std::size_t many, const std::string& type) {
    std::vector<std::int64_t> out;
    for (const double value : numbers(many, type)) {
      if (!(std::abs(value) < 9e15)) unreadable("a whole number is none");
      out.push_back(static_cast<std::int64_t>(value));
    }
    return out;
  }

  bool read_section() {
    const std::size_t before = at_;
    const auto all = words();
    if (all.empty()) return false;
    const std::string name = upper(all[0]);
    if (name == "DATASET") {
      const std::string kind = all.size() > 1 ? upper(all[1]) : std::string();
      if (kind != "UNSTRUCTURED_GRID" && kind != "POLYDATA")
        unreadable(fmt::format("the file holds {}: UNSTRUCTURED_GRID and POLYDATA are read", plain_text(kind, 40)));
    } else if (name == "POINTS") {
      const std::size_t points = count(all, 1);
      mesh_.coordinates = numbers(3 * points, all.size() > 2 ? upper(all[2]) : "FLOAT");
      for (std::size_t i = 0; i < points; ++i) mesh_.node_ids.push_back(static_cast<std::int64_t>(i) + 1);
    } else if (name == "CELLS") {
      read_cells(all, {});
    } else if (name == "VERTICES" || name == "LINES" || name == "POLYGONS" || name == "TRIANGLE_STRIPS") {
      read_cells(all, name == "VERTICES" ? 2 : name == "LINES" ? 4 : name == "POLYGONS" ? 7 : 6);
    } else if (name == "CELL_TYPES") {
      types_ = whole(count(all, 1), "INT");
    } else if (name == "CELL_DATA" || name == "POINT_DATA") {
      on_cells_ = name == "CELL_DATA";
      items_ = count(all, 1);
    } else if (name == "SCALARS") {
      read_scalars(all);
    } else if (name == "FIELD") {
      read_field(count(all, 2));
    } else if (name == "METADATA") {
      while (at_ < bytes_.size() && !trimmed(line()).empty()) {
      }
    } else if (items_ > 0 || name == "LOOKUP_TABLE") {
      return false;  // vectors and the like: the mesh is whole by now
    } else {
      at_ = before;
      unreadable(fmt::format("'{}' is no section of such a file", plain_text(all[0], 24)));
    }
    return true;
  }

  /// Version 5 lists offsets and connectivity, those before a run of counts and points.
  void read_cells(const std::vector<std::string_view>& head, std::optional<std::int64_t> type) {
    const std::size_t first = count(head, 1), before = at_;
    const auto next = words();
    if (next.size() > 1 && upper(next[0]) == "OFFSETS") {
      const std::string type_of_offsets = upper(next[1]);
      const std::size_t begin = at_;
      std::vector<std::int64_t> offsets;
      std::vector<std::string_view> list;
      // The first number counts offsets; some writers count cells, which are one less, or leave the nought out.
      for (const std::size_t many : {first, first + 1}) {
        at_ = begin;
        offsets = whole(many, type_of_offsets);
        list = words();
        if (list.size() > 1 && upper(list[0]) == "CONNECTIVITY") break;
      }
      if (list.size() < 2 || upper(list[0]) != "CONNECTIVITY") unreadable("CONNECTIVITY should follow the offsets");
      if (offsets.empty() || offsets.front() != 0) offsets.insert(offsets.begin(), 0);
      // The last offset says how many there are; what the head says of it, writers do not agree on.
      if (offsets.back() < 0 || static_cast<std::uint64_t>(offsets.back()) > bytes_.size())
        unreadable(
            fmt::format("the cells are said to have {} points in all, more than the file can hold", offsets.back()));
      const std::vector<std::int64_t> points = whole(static_cast<std::size_t>(offsets.back()), upper(list[1]));
      for (std::size_t c = 0; c + 1 < offsets.size(); ++c) {
        if (offsets[c] < 0 || offsets[c + 1] < offsets[c] || offsets[c + 1] > static_cast<std::int64_t>(points.size()))
          unreadable(fmt::format("cell {} ends outside the list of its points", c + 1));
        cells_.push_back(
            {std::vector<std::int64_t>(points.begin() + offsets[c], points.begin() + offsets[c + 1]), type});
      }
      return;
    }
    at_ = before;
    const std::vector<std::int64_t> list = whole(count(head, 2), "INT");
    std::size_t at = 0;
    for (std::size_t c = 0; c < first; ++c) {
      if (at >= list.size() || list[at] < 0 || static_cast<std::size_t>(list[at]) > list.size() - at - 1)
        unreadable(fmt::format("cell {} ends outside the list of its points", c + 1));
      const auto begin = list.begin() + static_cast<std::ptrdiff_t>(at) + 1;
      cells_.push_back({std::vector<std::int64_t>(begin, begin + list[at]), type});
      at += 1 + static_cast<std::size_t>(list[at]);
    }
  }

  void read_scalars(const std::vector<std::string_view>& all) {
    const std::string name = all.size() > 1 ? plain_text(all[1]) : "", type = all.size() > 2 ? upper(all[2]) : "FLOAT";
    const std::size_t components = all.size() > 3 ? count(all, 3) : 1, before = at_;
    const auto table = words();
    if (table.empty() || upper(table[0]) != "LOOKUP_TABLE") at_ = before;
    keep(name, type, components, numbers(items_ * std::max<std::size_t>(components, 1), type));
  }

  void read_field(std::size_t arrays) {
    for (std::size_t k = 0; k < arrays; ++k) {
      const auto all = words();
      if (all.size() < 4) unreadable("an array of a field has no name, size and type");
      const std::size_t components = count(all, 1), tuples = count(all, 2);
      const std::string type = upper(all[3]);
      if (type == "STRING") return;  // nothing behind it can be found
      if (components > 1000) unreadable("an array has more than 1000 numbers to each item");
      keep(plain_text(all[0]), type, components, numbers(components * tuples, type));
    }
  }

  void keep(const std::string& name, const std::string& type, std::size_t components,
            const std::vector<double>& values) {
    const bool whole_type = type != "FLOAT" && type != "DOUBLE";
    if (on_cells_ && whole_type && components == 1 && values.size() == items_)
      values_.emplace_back(name, std::vector<std::int64_t>(values.begin(), values.end()));
  }

  void add_cells(Findings& findings) {
    CellSink sink(mesh_, path_);
    for (std::size_t c = 0; c < cells_.size(); ++c) {
      if (!cells_[c].type && c >= types_.size()) unreadable("the cells have not as many types");
      sink.add(cells_[c].type.value_or(c < types_.size() ? types_[c] : 0), cells_[c].points,
               static_cast<std::int64_t>(c) + 1);
    }
    for (const auto& [name, values] : values_) sink.add_groups_by_value(name, values);
    sink.finish(findings);
  }

  struct Listed {
    std::vector<std::int64_t> points;
    std::optional<std::int64_t> type;
  };
  std::string_view bytes_;
  const std::string& path_;
  std::size_t at_ = 0;
  bool binary_ = false, on_cells_ = false;
  std::size_t items_ = 0;
  RawMesh mesh_;
  std::vector<Listed> cells_;
  std::vector<std::int64_t> types_;
  std::vector<std::pair<std::string, std::vector<std::int64_t>>> values_;
};

}  // namespace

bool is_vtk(std::string_view bytes) { return bytes.starts_with("# vtk DataFile"); }

Surface read_vtk(std::string_view bytes, const std::string& path, const ReadOptions& options, Findings& findings) {
  VtkReader reader(bytes, path);
  try {
    return build(reader.read(findings), path, options, findings);
  } catch (const Unreadable& trouble) {
    fail(trouble, bytes, path, reader.binary(), "save the file again, as VTU");
  }
}

}  // namespace bordado::mesh
