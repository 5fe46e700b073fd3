// Meshes written as bulk data: GRID in any coordinate system, CTRIA3, CQUAD4, CTRIA6, CQUAD8; small, large and free
// field. Everything else is passed over. Reference: the public description of the bulk data cards, NASA SP-222.
#include "builder.hpp"
#include "formats.hpp"
#include "text.hpp"

#include <Eigen/Geometry>

#include <cmath>
#include <map>

namespace bordado::mesh {

namespace {

/// A card: its name and the fields behind it, continuations joined.
struct Card {
  std::string name;
  std::vector<std::string_view> fields;
  std::size_t offset = 0;  ///< of its first line in the file

  std::string_view field(std::size_t k) const { return k < fields.size() ? fields[k] : ""; }
};

struct Kind {
  std::string_view name;
  std::size_t corners, nodes;
  Shape linear, quadratic;
};

constexpr Kind kinds[] = {
    {"CTRIA3", 3, 3, Shape::triangle3, Shape::triangle3},
    {"CTRIAR", 3, 3, Shape::triangle3, Shape::triangle3},
    {"CTRIA6", 3, 6, Shape::triangle3, Shape::triangle6},
    {"CQUAD4", 4, 4, Shape::quadrilateral4, Shape::quadrilateral4},
    {"CQUADR", 4, 4, Shape::quadrilateral4, Shape::quadrilateral4},
    {"CQUAD8", 4, 8, Shape::quadrilateral4, Shape::quadrilateral8},
};

class Reader {
 public:
  Reader(std::string_view bytes, const std::string& path, Findings& findings)
      : bytes_(bytes), path_(path), findings_(findings) {}

  RawMesh read() {
    Lines lines(bytes_);
    const std::size_t begin = begin_of_bulk();
    while (const auto line = lines.next()) {
      if (lines.offset() < begin) continue;
      const std::string_view text = line->substr(0, line->find('$'));
      if (trimmed(text).empty()) continue;
      if (upper(trimmed(text).substr(0, 7)) == "ENDDATA") break;
      add_line(text, lines.offset());
    }
    finish_card();
    place_nodes();
    for (auto& [property, elements] : elements_of_)
      mesh_.groups.push_back({fmt::format("property {}", property), 2, {}, {}, std::move(elements)});
    if (moved_ > 0)
      findings_.note("mesh.offset-passed-over",
                     fmt::format("{} moved off the grid points by the file (ZOFFS); that is passed over: say 'surface' "
                                 "or 'offset' in the part file",
                                 counted(moved_, "element")),
                     Place::in(path_));
    return std::move(mesh_);
  }

 private:
  /// Case control in front of BEGIN BULK is no mesh.
  std::size_t begin_of_bulk() const {
    Lines lines(bytes_);
    while (const auto line = lines.next()) {
      const std::string text = upper(trimmed(*line).substr(0, 60));
      if (text.starts_with("BEGIN") && text.find("BULK") != std::string::npos) return lines.offset() + line->size();
      if (text.starts_with("GRID")) return 0;
    }
    return 0;
  }

  [[noreturn]] void unreadable(std::string what) const { throw Unreadable{card_.offset, std::move(what)}; }

  void add_line(std::string_view text, std::size_t offset) {
    const bool free_field = text.find(',') != std::string_view::npos;
    std::vector<std::string_view> fields;
    std::string_view first;
    if (free_field) {
      fields = split(text, ',');
      first = fields.front();
      fields.erase(fields.begin());
    } else {
      first = trimmed(text.substr(0, 8));
      const std::size_t width = first.find('*') != std::string_view::npos ? 16 : 8;
      for (std::size_t at = 8; at < std::min<std::size_t>(text.size(), 72); at += width)
        fields.push_back(trimmed(text.substr(at, std::min(width, 72 - at))));
    }
    const bool continues = first.empty() || first.front() == '+' || first.front() == '*';
    // A line holds eight fields, four where they are large; what stands behind names the continuation.
    const std::size_t most = first.find('*') != std::string_view::npos ? 4 : 8;
    fields.resize(most);
    if (!continues) {
      finish_card();
      card_.offset = offset;
      card_.name = upper(first);
      while (card_.name.ends_with('*')) card_.name.pop_back();
      wanted_ = card_.name == "GRID" || card_.name == "GRDSET" || card_.name.starts_with("CORD") ||
                card_.name == "CTETRA" || card_.name == "CHEXA" || card_.name == "CPENTA" || card_.name == "CPYRAM" ||
                card_.name == "INCLUDE" || card_.name.starts_with("INCLUDE") || kind() != nullptr;
    }
    if (!wanted_ || card_.fields.size() > 100) return;
    card_.fields.insert(card_.fields.end(), fields.begin(), fields.end());
  }

  const Kind* kind() const {
    for (const Kind& kind : kinds)
      if (kind.name == card_.name) return &kind;
    return nullptr;
  }

  std::int64_t whole(std::size_t k, std::optional<std::int64_t> otherwise = {}) const {
    const std::string_view field = card_.field(k);
    if (field.empty() && otherwise) return *otherwise;
    const auto value = integer_of(field);
    if (!value)
      unreadable(
          fmt::format("field {} of {} is '{}': it should be a whole number", k + 2, card_.name, field.substr(0, 24)));
    return *value;
  }

  double real(std::size_t k) const {
    const std::string_view field = card_.field(k);
    if (field.empty()) return 0.0;
    const auto value = real_of(field);
    if (!value)
      unreadable(fmt::format("field {} of {} is '{}': it should be a number", k + 2, card_.name, field.substr(0, 24)));
    return *value;
  }

  Vec3 point(std::size_t k) const { return {real(k), real(k + 1), real(k + 2)}; }

  void finish_card() {
    if (card_.name == "GRID") {
      mesh_.node_ids.push_back(whole(0));
      systems_.push_back(card_.field(1).empty() ? no_system : whole(1));
      const Vec3 at = point(2);
      mesh_.coordinates.insert(mesh_.coordinates.end(), {at.x(), at.y(), at.z()});
    } else if (card_.name == "GRDSET") {
      default_system_ = whole(1, 0);
    } else if (card_.name.starts_with("CORD2") && card_.name.size() == 6) {
      declared_[whole(0)] = {card_.name.back(), whole(1, 0), point(2), point(5), point(8), card_.offset};
    } else if (card_.name.starts_with("CORD")) {
      unsupported_[whole(0)] = card_.name;
    } else if (const Kind* const found = wanted_ ? kind() : nullptr) {
      add_element(*found);
    } else if (card_.name == "CTETRA" || card_.name == "CHEXA" || card_.name == "CPENTA" || card_.name == "CPYRAM") {
      ++mesh_.passed_over;
    } else if (card_.name.starts_with("INCLUDE")) {
      Place where = Place::in(path_);
      findings_.warning("mesh.include", "the file that it includes is not read", where, "put the mesh into one file");
    }
    card_.name.clear();
    card_.fields.clear();
  }

  void add_element(const Kind& kind) {
    const std::int64_t id = whole(0), property = whole(1, id);
    std::size_t given = 0;
    std::int64_t nodes[8];
    for (std::size_t k = 0; k < kind.nodes; ++k) {
      nodes[k] = whole(2 + k, k < kind.corners ? std::optional<std::int64_t>() : 0);
      given += k >= kind.corners && nodes[k] != 0;
    }
    if (given != 0 && given != kind.nodes - kind.corners)
      unreadable(fmt::format("{} {} has a middle node on some of its edges and none on others", kind.name, id));
    const Shape shape = given > 0 ? kind.quadratic : kind.linear;
    elements_of_[property].push_back(static_cast<std::uint32_t>(mesh_.shapes.size()));
    mesh_.shapes.push_back(shape);
    mesh_.element_ids.push_back(id);
    mesh_.nodes.insert(mesh_.nodes.end(), nodes, nodes + node_count(shape));
    // ZOFFS: behind the angle for linear elements; before or behind the corner thicknesses for quadratic ones.
    const std::size_t offset_field = kind.nodes == kind.corners ? kind.corners + 3 : kind.nodes == 6 ? 9 : 15;
    if (const auto offset = real_of(card_.field(offset_field)); offset && *offset != 0.0) ++moved_;
  }

  /// A coordinate system made ready: columns are its axes.
  struct System {
    char kind;  ///< R rectangular, C cylindrical, S spherical
    Vec3 origin;
    Eigen::Matrix3d axes;

    Vec3 to_basic(const Vec3& p) const {
      const Angle second = Angle::degrees(p.y()), third = Angle::degrees(p.z());
      Vec3 local = p;
      if (kind == 'C') local = {p.x() * second.cos(), p.x() * second.sin(), p.z()};
      if (kind == 'S') local = p.x() * Vec3(second.sin() * third.cos(), second.sin() * third.sin(), second.cos());
      return origin + axes * local;
    }
  };
  struct Declared {
    char kind;
    std::int64_t in;  ///< the system that its points are given in
    Vec3 a, b, c;     ///< origin, a point of the third axis, a point in the plane of third and first
    std::size_t offset;
  };

  const System& system(std::int64_t id, std::size_t depth) {
    if (const auto done = ready_.find(id); done != ready_.end()) return done->second;
    if (id == 0) return ready_[0] = {'R', Vec3::Zero(), Eigen::Matrix3d::Identity()};
    const auto found = declared_.find(id);
    if (found == declared_.end()) {
      const auto other = unsupported_.find(id);
      throw Unreadable{card_.offset, other == unsupported_.end()
                                         ? fmt::format("coordinate system {} is not defined", id)
                                         : fmt::format("coordinate system {} is a {}: only CORD2R, CORD2C and CORD2S "
                                                       "are read",
                                                       id, other->second)};
    }
    const Declared& d = found->second;
    if (depth > declared_.size())
      throw Unreadable{d.offset, fmt::format("coordinate system {} is defined in itself", id)};
    const System in = system(d.in, depth + 1);
    const Vec3 a = in.to_basic(d.a), b = in.to_basic(d.b), c = in.to_basic(d.c);
    const Vec3 z = b - a, y = z.cross(c - a);
    if (!(z.norm() > 0.0) || !(y.norm() > 1e-9 * z.norm() * (c - a).norm()))
      throw Unreadable{d.offset, fmt::format("the three points of coordinate system {} lie on one line", id)};
    System out{d.kind, a, {}};
    out.axes.col(2) = z.normalized();
    out.axes.col(1) = y.normalized();
    out.axes.col(0) = out.axes.col(1).cross(out.axes.col(2));
    return ready_[id] = out;
  }

  void place_nodes() {
    for (std::size_t i = 0; i < systems_.size(); ++i) {
      const std::int64_t id = systems_[i] == no_system ? default_system_ : systems_[i];
      if (id == 0) continue;
      double* const at = mesh_.coordinates.data() + 3 * i;
      const Vec3 basic = system(id, 0).to_basic({at[0], at[1], at[2]});
      std::copy(basic.begin(), basic.end(), at);
    }
  }

  static constexpr std::int64_t no_system = std::numeric_limits<std::int64_t>::min();

  std::string_view bytes_;
  const std::string& path_;
  Findings& findings_;
  RawMesh mesh_;
  Card card_;
  bool wanted_ = false;
  std::vector<std::int64_t> systems_;  ///< per node
  std::int64_t default_system_ = 0;
  std::map<std::int64_t, Declared> declared_;
  std::map<std::int64_t, std::string> unsupported_;
  std::map<std::int64_t, System> ready_;
  std::map<std::int64_t, std::vector<std::uint32_t>> elements_of_;  ///< by property
  std::size_t moved_ = 0;
};

}  // namespace

bool is_bulk_data(std::string_view bytes) {
  Lines lines(bytes.substr(0, 1'000'000));
  while (const auto line = lines.next()) {
    const std::string_view text = trimmed(line->substr(0, line->find('$')));
    if (text.empty()) continue;
    const std::string start = upper(text.substr(0, 60));
    if (start.starts_with("BEGIN") && start.find("BULK") != std::string::npos) return true;
    for (const std::string_view card : {"GRID", "CQUAD", "CTRIA", "PSHELL", "PCOMP", "MAT1", "MAT8", "CORD2"})
      if (start.starts_with(card)) return true;
  }
  return false;
}

Surface read_bulk_data(std::string_view bytes, const std::string& path, const ReadOptions& options,
                       Findings& findings) {
  try {
    return build(Reader(bytes, path, findings).read(), path, options, findings);
  } catch (const Unreadable& trouble) {
    fail(trouble, bytes, path, false, "repair this card, or save the bulk data again");
  }
}

}  // namespace bordado::mesh
