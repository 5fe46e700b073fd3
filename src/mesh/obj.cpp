// Wavefront OBJ: v, f, l, g and o lines; everything else is about looks and passed over. Polygons of more than four
// corners and concave ones become triangles. Points at the same place are welded. Reference: the format's published
// description, "Object Files (.obj)", version 3.0.
#include <bordado/mesh/weld.hpp>
#include "builder.hpp"
#include "formats.hpp"
#include "polygon.hpp"
#include "text.hpp"

#include <map>
#include <utility>

namespace bordado::mesh {

namespace {

class ObjReader {
 public:
  explicit ObjReader(std::string_view bytes) : lines_(bytes) {}

  RawMesh read() {
    while (const auto line = lines_.next()) {
      std::string joined;
      std::string_view text = *line;
      if (trimmed(text).ends_with('\\')) {  // goes on in the next line
        joined = text;
        while (trimmed(joined).ends_with('\\')) {
          joined.erase(joined.rfind('\\'));
          const auto more = lines_.next();
          if (!more) break;
          joined += ' ';
          joined += *more;
        }
        text = joined;
      }
      read_line(text.substr(0, text.find('#')));
    }
    for (const Waiting& face : std::exchange(waiting_, {})) {
      grouped_ = face.grouped, object_ = face.object;
      for (const std::int64_t corner : face.corners)
        if (corner > static_cast<std::int64_t>(mesh_.node_ids.size()))
          unreadable(fmt::format("a face uses point {} of {}", corner, mesh_.node_ids.size()));
      add_polygon(face.corners);
    }
    return std::move(mesh_);
  }
  std::size_t cut_polygons() const { return cut_polygons_; }

 private:
  static std::vector<std::string_view> words(std::string_view line) {
    std::vector<std::string_view> out;
    for (const std::string_view word : split(line, ' '))
      for (const std::string_view part : split(word, '\t'))
        if (!part.empty()) out.push_back(part);
    return out;
  }

  [[noreturn]] void unreadable(std::string what) const { throw Unreadable{lines_.offset(), std::move(what)}; }

  void read_line(std::string_view line) {
    const auto all = words(line);
    if (all.empty()) return;
    const std::span<const std::string_view> rest(all.begin() + 1, all.end());
    if (all[0] == "v") read_point(rest);
    if (all[0] == "f") read_face(rest);
    if (all[0] == "l") read_line_strip(rest);
    if (all[0] == "g") open_groups(rest, grouped_);
    if (all[0] == "o") open_groups(rest.first(std::min<std::size_t>(rest.size(), 1)), object_);
  }

  void read_point(std::span<const std::string_view> words) {
    if (words.size() < 3) unreadable("a point has fewer than three coordinates");
    for (std::size_t k = 0; k < 3; ++k) {
      const auto value = real_of(words[k]);
      if (!value) unreadable(fmt::format("'{}' stands where a coordinate should", words[k].substr(0, 24)));
      mesh_.coordinates.push_back(*value);
    }
    mesh_.node_ids.push_back(static_cast<std::int64_t>(mesh_.node_ids.size()) + 1);
  }

  std::int64_t point(std::string_view word) const {
    const auto number = integer_of(word.substr(0, word.find('/')));
    const auto count = static_cast<std::int64_t>(mesh_.node_ids.size());
    if (!number || *number == 0 || *number < -count)
      unreadable(fmt::format("'{}' stands where a point's number should", word.substr(0, 24)));
    return *number > 0 ? *number : count + 1 + *number;
  }

  void read_face(std::span<const std::string_view> words) {
    std::vector<std::int64_t> corners;
    for (const std::string_view word : words) corners.push_back(point(word));
    if (corners.size() < 3) unreadable("a face has fewer than three corners");
    add_polygon(corners);
  }

  void add_polygon(const std::vector<std::int64_t>& corners) {
    if (corners.size() == 3) return add_face(corners);
    if (corners.size() > most_corners)
      unreadable(fmt::format("a face has {} corners; at most {} are cut into triangles", corners.size(), most_corners));
    std::vector<Vec3> points;
    for (const std::int64_t corner : corners) {
      if (corner > static_cast<std::int64_t>(mesh_.node_ids.size()))
        return waiting_.push_back({corners, grouped_, object_});  // its points follow
      const double* const x = mesh_.coordinates.data() + 3 * (corner - 1);
      points.emplace_back(x[0], x[1], x[2]);
    }
    if (corners.size() == 4 && is_convex(points)) return add_face(corners);
    ++cut_polygons_;
    for (const auto& [a, b, c] : cut_polygon(points)) add_face(std::array{corners[a], corners[b], corners[c]});
  }

  void add_face(std::span<const std::int64_t> corners) {
    const auto position = static_cast<std::uint32_t>(mesh_.shapes.size());
    mesh_.shapes.push_back(corners.size() == 3 ? Shape::triangle3 : Shape::quadrilateral4);
    mesh_.element_ids.push_back(std::int64_t{position} + 1);
    mesh_.nodes.insert(mesh_.nodes.end(), corners.begin(), corners.end());
    for (const auto& names : {grouped_, object_})
      for (const std::string& name : names) mesh_.groups[group(name, 2)].elements.push_back(position);
  }

  void read_line_strip(std::span<const std::string_view> words) {
    std::vector<std::int64_t> points;
    for (const std::string_view word : words) points.push_back(point(word));
    for (std::size_t k = 0; k + 1 < points.size(); ++k)
      for (const auto& names : {grouped_, object_})
        for (const std::string& name : names)
          mesh_.groups[group(name, 1)].edges.push_back({points[k], points[k + 1], 0});
  }

  void open_groups(std::span<const std::string_view> words, std::vector<std::string>& open) {
    open.clear();
    for (const std::string_view word : words)
      if (word != "default") open.emplace_back(word);
  }

  std::size_t group(const std::string& name, int dimension) {
    const auto [found, is_new] = group_of_.emplace(std::pair(name, dimension), mesh_.groups.size());
    if (is_new) mesh_.groups.push_back({name, dimension, {}, {}, {}});
    return found->second;
  }

  Lines lines_;
  RawMesh mesh_;
  std::vector<std::string> grouped_, object_;  ///< groups that are open: of the last g line, of the last o line
  std::map<std::pair<std::string, int>, std::size_t> group_of_;
  struct Waiting {
    std::vector<std::int64_t> corners;
    std::vector<std::string> grouped, object;
  };
  std::vector<Waiting> waiting_;
  std::size_t cut_polygons_ = 0;
};

}  // namespace

bool is_obj(std::string_view bytes) {
  Lines lines(bytes.substr(0, 20000));
  while (const auto line = lines.next()) {
    const std::string_view text = trimmed(*line);
    if (text.empty() || text.starts_with('#')) continue;
    const std::string_view word = text.substr(0, text.find_first_of(" \t"));
    for (const std::string_view known : {"v", "vn", "vt", "f", "g", "o", "s", "mtllib", "usemtl", "l", "p"})
      if (word == known) return true;
    return false;
  }
  return false;
}

Surface read_obj(std::string_view bytes, const std::string& path, const ReadOptions& options, Findings& findings) {
  try {
    ObjReader reader(bytes);
    RawMesh mesh = reader.read();
    if (reader.cut_polygons() > 0)
      findings.note("mesh.polygons-cut",
                    fmt::format("{} were cut into triangles", counted(reader.cut_polygons(), "polygon")),
                    Place::in(path));
    weld(mesh, options.weld, path, findings);
    return build(std::move(mesh), path, options, findings);
  } catch (const Unreadable& trouble) {
    fail(trouble, bytes, path, false, "save the OBJ file again");
  }
}

}  // namespace bordado::mesh
