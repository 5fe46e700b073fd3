#include "vtu.hpp"

#include "../base/base64.hpp"
#include "cells.hpp"
#include "formats.hpp"
#include "text.hpp"

#include <bordado/base/files.hpp>
#include <bordado/base/text.hpp>
#include <bordado/mesh/care.hpp>

#include <lz4.h>
#include <lzma.h>
#include <zlib.h>
#include <pugixml.hpp>

#include <bit>
#include <map>

namespace bordado::mesh {

namespace {

/// Numbers of an array: whole ones are kept exact.
struct Values {
  bool whole = false;
  std::vector<std::int64_t> integers;
  std::vector<double> reals;
  std::size_t size() const { return whole ? integers.size() : reals.size(); }
};

std::string bytes_of(std::string_view base64) {
  std::optional<std::string> bytes = from_base64(base64);
  if (!bytes) throw Unreadable{0, "a binary array holds a character that is not base64"};
  return std::move(*bytes);
}

class VtuReader {
 public:
  VtuReader(std::string_view bytes, const std::string& path) : bytes_(bytes), path_(path) {}

  VtuFile read(Findings& findings) {
    load();
    const pugi::xml_node file = document_.child("VTKFile"), grid = file.child("UnstructuredGrid"),
                         poly = file.child("PolyData");
    if (!grid && !poly)
      throw Unreadable{0, fmt::format("the VTK file holds {}: an UnstructuredGrid or PolyData is read",
                                      plain_text(file.attribute("type").value(), 40))};
    for (const pugi::xml_node piece : grid.children("Piece")) read_piece(piece);
    for (const pugi::xml_node piece : poly.children("Piece")) read_piece(piece);
    finish(findings);
    return std::move(out_);
  }

 private:
  void load() {
    // Appended raw data are no XML: the tree ends before them.
    const std::size_t appended = bytes_.find("<AppendedData");
    pugi::xml_parse_result result;
    if (appended == std::string_view::npos) {
      result = document_.load_buffer(bytes_.data(), bytes_.size());
    } else {
      const std::size_t close = bytes_.find('>', appended), mark = bytes_.find('_', close);
      if (close == std::string_view::npos || mark == std::string_view::npos)
        throw Unreadable{bytes_.size(), "the file ends before its appended data"};
      appended_base64_ = bytes_.substr(appended, close - appended).find("base64") != std::string_view::npos;
      appended_ = bytes_.substr(mark + 1);
      if (appended_base64_) appended_ = appended_.substr(0, appended_.find('<'));
      const std::string tree = std::string(bytes_.substr(0, appended)) + "</VTKFile>";
      result = document_.load_buffer(tree.data(), tree.size());
    }
    if (!result)
      throw Unreadable{static_cast<std::size_t>(std::max<std::ptrdiff_t>(0, result.offset)),
                       fmt::format("the XML cannot be read: {}", result.description())};
    const pugi::xml_node head = document_.child("VTKFile");
    big_endian_ = std::string_view(head.attribute("byte_order").value()) == "BigEndian";
    header_size_ = std::string_view(head.attribute("header_type").value()) == "UInt64" ? 8 : 4;
    const std::string_view compressor = head.attribute("compressor").value();
    packing_ = compressor.empty()                      ? Packing::none
               : compressor == "vtkZLibDataCompressor" ? Packing::zlib
               : compressor == "vtkLZ4DataCompressor"  ? Packing::lz4
               : compressor == "vtkLZMADataCompressor"
                   ? Packing::lzma
                   : throw Unreadable{0, fmt::format("its arrays are compressed by {}: zlib, LZ4 and LZMA are read",
                                                     plain_text(compressor, 40))};
    most_unpacked_ = 200 * bytes_.size() + (std::size_t{64} << 20);
    if (!appended_.empty())
      for (const auto& found : document_.select_nodes("//DataArray[@format='appended']"))
        offsets_.push_back(found.node().attribute("offset").as_ullong());
    std::sort(offsets_.begin(), offsets_.end());
  }

  std::uint64_t header(std::string_view data, std::size_t index) const {
    if (data.size() < (index + 1) * header_size_) throw Unreadable{bytes_.size(), "the file ends in an array's size"};
    std::uint64_t value = 0;
    for (std::size_t k = 0; k < header_size_; ++k) {
      const std::size_t at = index * header_size_ + (big_endian_ ? header_size_ - 1 - k : k);
      value |= std::uint64_t{static_cast<unsigned char>(data[at])} << (8 * k);
    }
    return value;
  }

  enum class Packing { none, zlib, lz4, lzma };

  /// One block into its place; whether it was whole.
  static bool unpack(Packing packing, std::string_view packed, char* target, std::size_t size) {
    if (packing == Packing::lz4)
      return packed.size() <= LZ4_MAX_INPUT_SIZE && size <= LZ4_MAX_INPUT_SIZE &&
             LZ4_decompress_safe(packed.data(), target, static_cast<int>(packed.size()), static_cast<int>(size)) ==
                 static_cast<int>(size);
    if (packing == Packing::lzma) {
      std::uint64_t memory = std::uint64_t{256} << 20;
      std::size_t in = 0, out = 0;
      return lzma_stream_buffer_decode(&memory, 0, nullptr, reinterpret_cast<const std::uint8_t*>(packed.data()), &in,
                                       packed.size(), reinterpret_cast<std::uint8_t*>(target), &out, size) == LZMA_OK &&
             out == size;
    }
    uLongf got = size;
    Bytef dummy = 0;  // zlib wants a place even for nothing
    return ::uncompress(size > 0 ? reinterpret_cast<Bytef*>(target) : &dummy, &got,
                        reinterpret_cast<const Bytef*>(packed.data()), packed.size()) == Z_OK &&
           got == size;
  }

  /// What an encoded array holds.
  std::string unpacked(std::string_view data) {
    if (packing_ == Packing::none) {
      const std::uint64_t size = header(data, 0);
      if (size > data.size() - header_size_) throw Unreadable{bytes_.size(), "the file ends inside an array"};
      return std::string(data.substr(header_size_, size));
    }
    const std::uint64_t blocks = header(data, 0);
    if (blocks == 0) return {};
    if (blocks > data.size() / header_size_) throw Unreadable{bytes_.size(), "the file ends inside an array's sizes"};
    const std::uint64_t full = header(data, 1), last = header(data, 2);
    std::string out;
    std::size_t at = (3 + blocks) * header_size_;
    for (std::uint64_t b = 0; b < blocks; ++b) {
      const std::uint64_t packed = header(data, 3 + b);
      if (at > data.size() || packed > data.size() - at)
        throw Unreadable{bytes_.size(), "the file ends inside an array"};
      const std::uint64_t size = b + 1 == blocks && last != 0 ? last : full;
      // A mesh does not shrink to a two hundredth: a larger claim is a broken file, and must not ask for the memory.
      if (size > most_unpacked_ || out.size() + size > most_unpacked_ - unpacked_)
        throw Unreadable{0, "its arrays claim to be more than 200 times as large as the file"};
      const std::size_t before = out.size();
      out.resize(before + size);
      if (!unpack(packing_, data.substr(at, packed), out.data() + before, size))
        throw Unreadable{0, "a compressed array is broken"};
      at += packed;
    }
    unpacked_ += out.size();
    return out;
  }

  template <class Stored, class Wide>
  void widen(const std::string& raw, std::vector<Wide>& out) const {
    out.resize(raw.size() / sizeof(Stored));
    for (std::size_t i = 0; i < out.size(); ++i) {
      char bytes[sizeof(Stored)];
      std::memcpy(bytes, raw.data() + i * sizeof(Stored), sizeof(Stored));
      if (big_endian_ != (std::endian::native == std::endian::big)) std::reverse(bytes, bytes + sizeof(Stored));
      Stored value;
      std::memcpy(&value, bytes, sizeof(Stored));
      out[i] = static_cast<Wide>(value);
    }
  }

  std::string binary_of(const pugi::xml_node& array) {
    if (std::string_view(array.attribute("format").value()) != "appended")
      return unpacked(bytes_of(array.text().get()));
    const std::uint64_t offset = array.attribute("offset").as_ullong();
    if (offset >= appended_.size()) throw Unreadable{bytes_.size(), "the file ends before an array"};
    if (!appended_base64_) return unpacked(appended_.substr(offset));
    const auto next = std::upper_bound(offsets_.begin(), offsets_.end(), offset);
    return unpacked(
        bytes_of(appended_.substr(offset, next == offsets_.end() ? std::string_view::npos : *next - offset)));
  }

  Values values_of(const pugi::xml_node& array) {
    Values out;
    const std::string_view type = array.attribute("type").value(), format = array.attribute("format").value();
    out.whole = !type.starts_with("Float");
    if (format.empty() || format == "ascii") {
      const std::string_view text = array.text().get();
      TextCursor cursor(text, 0);
      try {
        while (!trimmed(text.substr(cursor.offset(), 64)).empty() || !trimmed(text.substr(cursor.offset())).empty())
          if (out.whole)
            out.integers.push_back(cursor.integer());
          else
            out.reals.push_back(cursor.real());
      } catch (const Unreadable& trouble) {
        throw Unreadable{static_cast<std::size_t>(std::max<std::ptrdiff_t>(0, array.offset_debug())),
                         fmt::format("array '{}': {}", array.attribute("Name").value(), trouble.what)};
      }
      return out;
    }
    if (format != "binary" && format != "appended")
      throw Unreadable{0, fmt::format("an array is of an unknown format '{}'", format)};
    const std::string raw = binary_of(array);
    if (type == "Float32")
      widen<float>(raw, out.reals);
    else if (type == "Float64")
      widen<double>(raw, out.reals);
    else if (type == "Int8")
      widen<std::int8_t>(raw, out.integers);
    else if (type == "UInt8")
      widen<std::uint8_t>(raw, out.integers);
    else if (type == "Int16")
      widen<std::int16_t>(raw, out.integers);
    else if (type == "UInt16")
      widen<std::uint16_t>(raw, out.integers);
    else if (type == "Int32")
      widen<std::int32_t>(raw, out.integers);
    else if (type == "UInt32")
      widen<std::uint32_t>(raw, out.integers);
    else if (type == "Int64")
      widen<std::int64_t>(raw, out.integers);
    else if (type == "UInt64")
      widen<std::uint64_t>(raw, out.integers);
    else
      throw Unreadable{0, fmt::format("an array is of an unknown type '{}'", type)};
    return out;
  }

  static std::vector<double> as_reals(const Values& values) {
    return values.whole ? std::vector<double>(values.integers.begin(), values.integers.end()) : values.reals;
  }

  struct Named {
    bool whole = true;
    std::size_t components = 1;
    std::vector<double> reals;
    std::vector<std::int64_t> integers;
  };
  using NamedArrays = std::vector<std::pair<std::string, Named>>;

  void read_arrays(const pugi::xml_node& parent, std::size_t items, NamedArrays& into, std::string& id_name,
                   std::size_t before) {
    if (const std::string_view ids = parent.attribute("GlobalIds").value(); !ids.empty()) id_name = ids;
    for (const pugi::xml_node node : parent.children("DataArray")) {
      if (std::string_view(node.attribute("type").value()) == "String") continue;
      const std::string name = plain_text(node.attribute("Name").value());
      const auto components = std::max<std::size_t>(1, node.attribute("NumberOfComponents").as_ullong(1));
      const Values values = values_of(node);
      if (components > 1000 || values.size() != items * components)
        throw Unreadable{
            0, fmt::format("array '{}' has {} numbers, not {} for each of {}", name, values.size(), components, items)};
      auto found = std::find_if(into.begin(), into.end(), [&](const auto& entry) { return entry.first == name; });
      if (found == into.end()) {
        into.push_back({name, {}});
        found = into.end() - 1;
        found->second.components = components;
        found->second.reals.resize(before * components);
      }
      Named& target = found->second;
      if (target.components != components) throw Unreadable{0, fmt::format("array '{}' changes its size", name)};
      target.whole = target.whole && values.whole;
      target.reals.resize(before * components);  // a piece that lacks the array has zeros
      target.integers.resize(before * components);
      const auto reals = as_reals(values);
      target.reals.insert(target.reals.end(), reals.begin(), reals.end());
      if (values.whole)
        target.integers.insert(target.integers.end(), values.integers.begin(), values.integers.end());
      else
        target.integers.resize(target.reals.size());
    }
  }

  void read_piece(const pugi::xml_node& piece) {
    const std::size_t points_before = points_, cells_before = types_.size();
    const pugi::xml_node point_array = piece.child("Points").child("DataArray");
    if (point_array) {
      const std::vector<double> points = as_reals(values_of(point_array));
      if (points.size() % 3 != 0) throw Unreadable{0, "the points do not have three coordinates each"};
      out_.mesh.coordinates.insert(out_.mesh.coordinates.end(), points.begin(), points.end());
      points_ += points.size() / 3;
    }
    add_cells_of(piece.child("Cells"), {}, points_before);
    // Of poly data the kind follows from the list; values of cells stand in this order.
    for (const auto& [list, type] :
         {std::pair{"Verts", 2}, std::pair{"Lines", 4}, std::pair{"Polys", 7}, std::pair{"Strips", 6}})
      add_cells_of(piece.child(list), type, points_before);
    read_arrays(piece.child("PointData"), points_ - points_before, on_points_, node_ids_, points_before);
    read_arrays(piece.child("CellData"), types_.size() - cells_before, on_cells_, element_ids_, cells_before);
  }

  void add_cells_of(const pugi::xml_node& list, std::optional<std::int64_t> type, std::size_t points_before) {
    if (!list) return;
    std::vector<std::int64_t> connectivity, offsets, types;
    for (const pugi::xml_node array : list.children("DataArray")) {
      const std::string_view name = array.attribute("Name").value();
      auto* const target = name == "connectivity" ? &connectivity
                           : name == "offsets"    ? &offsets
                           : name == "types"      ? &types
                                                  : nullptr;
      if (!target) continue;
      Values values = values_of(array);
      if (!values.whole) throw Unreadable{0, fmt::format("the cells' '{}' are not whole numbers", name)};
      *target = std::move(values.integers);
    }
    if (type) types.assign(offsets.size(), *type);
    if (offsets.size() != types.size()) throw Unreadable{0, "the cells have not as many offsets as types"};
    std::int64_t at = 0;
    for (std::size_t c = 0; c < types.size(); ++c) {
      if (offsets[c] < at || offsets[c] > static_cast<std::int64_t>(connectivity.size()))
        throw Unreadable{0, fmt::format("cell {} ends outside the list of its points", c + 1)};
      for (; at < offsets[c]; ++at)
        connectivity_.push_back(connectivity[static_cast<std::size_t>(at)] + static_cast<std::int64_t>(points_before));
      ends_.push_back(connectivity_.size());
      types_.push_back(types[c]);
    }
  }

  /// The ids that the file gives, or numbers from 1.
  static std::vector<std::int64_t> ids_of(const NamedArrays& arrays, const std::string& name, std::size_t count) {
    for (const auto& [own, array] : arrays)
      if (own == name && array.whole && array.components == 1 && array.integers.size() == count) return array.integers;
    std::vector<std::int64_t> out(count);
    for (std::size_t i = 0; i < count; ++i) out[i] = static_cast<std::int64_t>(i) + 1;
    return out;
  }

  void finish(Findings& findings) {
    RawMesh& mesh = out_.mesh;
    mesh.node_ids = ids_of(on_points_, node_ids_, points_);
    const std::vector<std::int64_t> cell_ids = ids_of(on_cells_, element_ids_, types_.size());
    CellSink sink(mesh, path_);
    std::size_t begin = 0;
    for (std::size_t c = 0; c < types_.size(); begin = ends_[c++])
      sink.add(types_[c], std::span(connectivity_).subspan(begin, ends_[c] - begin), cell_ids[c]);
    gather_groups(sink);
    sink.finish(findings);
    out_.cell_of = sink.cell_of();
    for (auto* const arrays : {&on_points_, &on_cells_})
      for (auto& [name, array] : *arrays) {
        array.reals.resize((arrays == &on_points_ ? points_ : types_.size()) * array.components);
        if (!name.starts_with(group_prefix) && name != node_ids_ && name != element_ids_)
          out_.arrays.push_back({name, arrays == &on_points_, array.components, std::move(array.reals)});
      }
  }

  /// Our own groups by their arrays; otherwise the values of whole-number arrays, where they are few.
  void gather_groups(CellSink& sink) {
    for (const auto& [name, array] : on_cells_) {
      if (!array.whole || array.components != 1 || name == element_ids_ || name == "vtkGhostType") continue;
      if (!name.starts_with(group_prefix)) {
        sink.add_groups_by_value(name, array.integers);
        continue;
      }
      std::vector<std::uint32_t> members;
      for (std::uint32_t c = 0; c < array.integers.size(); ++c)
        if (array.integers[c] == 1) members.push_back(c);
      sink.add_group(name.substr(group_prefix.size()), members);
    }
  }

  std::string_view bytes_, appended_;
  pugi::xml_document document_;
  const std::string& path_;
  bool appended_base64_ = false, big_endian_ = false;
  Packing packing_ = Packing::none;
  std::size_t most_unpacked_ = 0, unpacked_ = 0;
  std::size_t header_size_ = 4;
  std::vector<std::uint64_t> offsets_;
  VtuFile out_;
  std::size_t points_ = 0;
  std::vector<std::int64_t> connectivity_, types_;
  std::vector<std::size_t> ends_;
  NamedArrays on_points_, on_cells_;
  std::string node_ids_{node_id_name}, element_ids_{element_id_name};
};

}  // namespace

VtuFile parse_vtu(std::string_view bytes, const std::string& path, Findings& findings) {
  try {
    return VtuReader(bytes, path).read(findings);
  } catch (const Unreadable& trouble) {
    fail(trouble, bytes, path, trouble.offset == 0,
         "save the VTK file again: ASCII, inline or appended, compressed or not");
  }
}

bool is_vtu(std::string_view bytes) { return bytes.substr(0, 2000).find("<VTKFile") != std::string_view::npos; }

Surface read_vtu(std::string_view bytes, const std::string& path, const ReadOptions& options, Findings& findings) {
  return build(parse_vtu(bytes, path, findings).mesh, path, options, findings);
}

Sampled read_sampled(const std::string& path, const ReadOptions& options, Findings& findings) {
  const std::string bytes = read_file(path);
  if (!is_vtu(bytes))
    throw Failure({Severity::error, "mesh.format-unknown", "the file is no VTU file", Place::in(path),
                   "save mesh and values as VTU"});
  VtuFile file = parse_vtu(bytes, path, findings);
  const std::vector<std::int64_t> node_ids = file.mesh.node_ids;
  Sampled out{build(std::move(file.mesh), path, options, findings), {}};
  const IdMap point_of(node_ids);
  for (Array& array : file.arrays) {
    Array kept{array.name, array.on_nodes, array.components, {}};
    const std::size_t count = array.on_nodes ? out.surface.points.size() : out.surface.element_count();
    kept.values.reserve(count * array.components);
    for (std::size_t i = 0; i < count; ++i) {
      const std::size_t from = array.on_nodes ? point_of.find(out.surface.node_ids[i]) : file.cell_of[i];
      for (std::size_t k = 0; k < array.components; ++k)
        kept.values.push_back(array.values[from * array.components + k]);
    }
    out.arrays.push_back(std::move(kept));
  }
  return out;
}

}  // namespace bordado::mesh
