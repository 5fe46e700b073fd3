// OFF: counts, points, faces. Reference: Geomview manual, "OFF files"; with its prefixes for normals, colours and
// textures, whose numbers are passed over.
#include "cells.hpp"
#include "formats.hpp"
#include "text.hpp"

#include <bordado/base/text.hpp>

namespace bordado::mesh {

namespace {

/// Lines without comments and empty ones, as numbers.
class OffReader {
 public:
  OffReader(std::string_view bytes, const std::string& path) : lines_(bytes), bytes_(bytes), path_(path) {}

  RawMesh read(Findings& findings) {
    std::vector<double> head = numbers_behind_name();
    while (head.size() < 2) {
      const auto more = numbers();
      head.insert(head.end(), more.begin(), more.end());
    }
    const std::size_t points = count(head[0]), faces = count(head[1]);
    for (std::size_t i = 0; i < points; ++i) {
      const auto row = numbers();
      if (row.size() < 3) unreadable("a point has fewer than three coordinates");
      mesh_.node_ids.push_back(static_cast<std::int64_t>(i) + 1);
      mesh_.coordinates.insert(mesh_.coordinates.end(), row.begin(), row.begin() + 3);
    }
    CellSink sink(mesh_, path_);
    for (std::size_t i = 0; i < faces; ++i) {
      const auto row = numbers();
      if (row.empty() || !(row[0] >= 1.0 && row[0] <= static_cast<double>(row.size() - 1)))
        unreadable("a face has not as many corners as it says");
      std::vector<std::int64_t> corners;
      for (std::size_t k = 1; k <= static_cast<std::size_t>(row[0]); ++k) {
        if (!(std::abs(row[k]) < 9e15)) unreadable("a corner is no number of a point");
        corners.push_back(static_cast<std::int64_t>(row[k]));
      }
      sink.add(corners.size() == 1 ? 1 : corners.size() == 2 ? 3 : 7, corners, static_cast<std::int64_t>(i) + 1);
    }
    sink.finish(findings);
    return std::move(mesh_);
  }

 private:
  [[noreturn]] void unreadable(std::string what) const { throw Unreadable{lines_.offset(), std::move(what)}; }

  std::size_t count(double value) const {
    if (!(value >= 0.0 && value <= static_cast<double>(bytes_.size())))
      unreadable("the head counts more than the file can hold");
    return static_cast<std::size_t>(value);
  }

  std::vector<double> parse(std::string_view line) const {
    std::vector<double> out;
    for (const std::string_view piece : split(line, ' '))
      for (const std::string_view word : split(piece, '\t')) {
        if (word.empty()) continue;
        const auto value = real_of(word);
        if (!value) unreadable(fmt::format("'{}' stands where a number should", plain_text(word, 24)));
        out.push_back(*value);
      }
    return out;
  }

  std::vector<double> numbers() {
    while (const auto line = lines_.next()) {
      const std::string_view text = trimmed(line->substr(0, line->find('#')));
      if (!text.empty()) return parse(text);
    }
    throw Unreadable{bytes_.size(), "the file ends before its last face"};
  }

  std::vector<double> numbers_behind_name() {
    while (const auto line = lines_.next()) {
      std::string_view text = trimmed(line->substr(0, line->find('#')));
      if (text.empty()) continue;
      const std::string_view name = text.substr(0, text.find_first_of(" \t"));
      if (name.find_first_of("4n") != std::string_view::npos)
        unreadable(fmt::format("{} is of four dimensions or more", name));
      text.remove_prefix(name.size());
      return parse(text);
    }
    return {};
  }

  Lines lines_;
  std::string_view bytes_;
  const std::string& path_;
  RawMesh mesh_;
};

}  // namespace

bool is_off(std::string_view bytes) {
  Lines lines(bytes.substr(0, 4000));
  while (const auto line = lines.next()) {
    const std::string_view text = trimmed(line->substr(0, line->find('#')));
    if (text.empty()) continue;
    const std::string_view name = text.substr(0, text.find_first_of(" \t"));
    return name.ends_with("OFF") && name.size() <= 7 && name.find_first_not_of("STCN4nOF") == std::string_view::npos &&
           text.find("BINARY") == std::string_view::npos;
  }
  return false;
}

Surface read_off(std::string_view bytes, const std::string& path, const ReadOptions& options, Findings& findings) {
  try {
    return build(OffReader(bytes, path).read(findings), path, options, findings);
  } catch (const Unreadable& trouble) {
    fail(trouble, bytes, path, false, "save the OFF file again");
  }
}

}  // namespace bordado::mesh
