// PLY, ASCII and binary of both byte orders. Reference: G. Turk, The PLY Polygon File Format (1994).
#include "cells.hpp"
#include "formats.hpp"
#include "text.hpp"

#include <bordado/base/text.hpp>

#include <bit>

namespace bordado::mesh {

namespace {

class PlyReader {
 public:
  PlyReader(std::string_view bytes, const std::string& path) : bytes_(bytes), path_(path) {}

  RawMesh read(Findings& findings) {
    read_head();
    for (const Element& element : elements_) read_element(element);
    CellSink sink(mesh_, path_);
    for (std::size_t c = 0; c < faces_.size(); ++c) sink.add(7, faces_[c], static_cast<std::int64_t>(c) + 1);
    sink.finish(findings);
    return std::move(mesh_);
  }
  bool binary() const { return format_ != Format::text; }

 private:
  enum class Format { text, little, big };
  struct Property {
    std::string name, type, count_type;  ///< a list where it has a type for its count
  };
  struct Element {
    std::string name;
    std::size_t count;
    std::vector<Property> properties;
  };
  [[noreturn]] void unreadable(std::string what) const { throw Unreadable{at_, std::move(what)}; }

  void read_head() {
    bool ended = false;
    while (at_ < bytes_.size() && !ended) {
      const std::size_t end = std::min(bytes_.find('\n', at_), bytes_.size());
      std::vector<std::string> words;
      for (const std::string_view word : split(bytes_.substr(at_, end - at_), ' '))
        if (!word.empty()) words.emplace_back(word);
      at_ = end + 1;
      if (words.empty() || words[0] == "ply" || words[0] == "comment" || words[0] == "obj_info") continue;
      if (words[0] == "end_header") {
        ended = true;
      } else if (words[0] == "format" && words.size() > 1) {
        format_ = words[1] == "binary_little_endian" ? Format::little
                  : words[1] == "binary_big_endian"  ? Format::big
                                                     : Format::text;
      } else if (words[0] == "element" && words.size() > 2) {
        const auto count = integer_of(words[2]);
        if (!count || *count < 0 || static_cast<std::uint64_t>(*count) > bytes_.size())
          unreadable(fmt::format("the head counts more of '{}' than the file can hold", plain_text(words[1], 24)));
        elements_.push_back({words[1], static_cast<std::size_t>(*count), {}});
      } else if (words[0] == "property" && words.size() > 2 && !elements_.empty()) {
        const bool list = words[1] == "list" && words.size() > 4;
        elements_.back().properties.push_back(
            {words.back(), list ? words[3] : words[1], list ? words[2] : std::string()});
      } else {
        unreadable(fmt::format("'{}' is no line of the head", plain_text(words[0], 24)));
      }
    }
    if (!ended) throw Unreadable{bytes_.size(), "the file ends inside its head"};
    at_ = std::min(at_, bytes_.size());
  }

  template <class Number>
  double stored() {
    if (sizeof(Number) > bytes_.size() - at_) throw Unreadable{bytes_.size(), "the file ends inside a number"};
    char raw[sizeof(Number)];
    std::memcpy(raw, bytes_.data() + at_, sizeof raw);
    if ((format_ == Format::big) != (std::endian::native == std::endian::big)) std::reverse(raw, raw + sizeof raw);
    at_ += sizeof raw;
    Number value;
    std::memcpy(&value, raw, sizeof raw);
    return static_cast<double>(value);
  }

  double number(const std::string& type) {
    if (format_ == Format::text) {
      TextCursor cursor(bytes_, at_);
      const double value = cursor.real();
      at_ = cursor.offset();
      return value;
    }
    if (type == "float" || type == "float32") return stored<float>();
    if (type == "double" || type == "float64") return stored<double>();
    if (type == "char" || type == "int8") return stored<std::int8_t>();
    if (type == "uchar" || type == "uint8") return stored<std::uint8_t>();
    if (type == "short" || type == "int16") return stored<std::int16_t>();
    if (type == "ushort" || type == "uint16") return stored<std::uint16_t>();
    if (type == "int" || type == "int32") return stored<std::int32_t>();
    if (type == "uint" || type == "uint32") return stored<std::uint32_t>();
    unreadable(fmt::format("numbers of type '{}' are not read", plain_text(type, 24)));
  }

  void read_element(const Element& element) {
    for (std::size_t i = 0; i < element.count; ++i) {
      Vec3 point = Vec3::Zero();
      std::vector<std::int64_t> face;
      for (const Property& property : element.properties) {
        if (property.count_type.empty()) {
          const double value = number(property.type);
          if (property.name.size() == 1 && property.name[0] >= 'x' && property.name[0] <= 'z')
            point[property.name[0] - 'x'] = value;
          continue;
        }
        const double many = number(property.count_type);
        if (!(many >= 0.0 && many <= static_cast<double>(bytes_.size()))) unreadable("a list is longer than the file");
        const bool corners = property.name == "vertex_indices" || property.name == "vertex_index";
        for (std::size_t k = 0; k < static_cast<std::size_t>(many); ++k) {
          const double value = number(property.type);
          if (!(std::abs(value) < 9e15)) unreadable("a whole number is none");
          if (corners) face.push_back(static_cast<std::int64_t>(value));
        }
      }
      if (element.name == "vertex") {
        mesh_.node_ids.push_back(static_cast<std::int64_t>(i) + 1);
        mesh_.coordinates.insert(mesh_.coordinates.end(), {point.x(), point.y(), point.z()});
      } else if (element.name == "face") {
        faces_.push_back(std::move(face));
      }
    }
  }

  std::string_view bytes_;
  const std::string& path_;
  std::size_t at_ = 0;
  Format format_ = Format::text;
  std::vector<Element> elements_;
  RawMesh mesh_;
  std::vector<std::vector<std::int64_t>> faces_;
};

}  // namespace

bool is_ply(std::string_view bytes) { return bytes.starts_with("ply\n") || bytes.starts_with("ply\r"); }

Surface read_ply(std::string_view bytes, const std::string& path, const ReadOptions& options, Findings& findings) {
  PlyReader reader(bytes, path);
  try {
    return build(reader.read(findings), path, options, findings);
  } catch (const Unreadable& trouble) {
    fail(trouble, bytes, path, reader.binary(), "save the PLY file again");
  }
}

}  // namespace bordado::mesh
