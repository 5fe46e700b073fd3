// Meshes written as bulk data: GRID in any coordinate system, triangles, quadrilaterals and shear panels; lines as
// edges, lists of points; small, large and free field, included files. Everything else is passed over. Reference: the
// public description of the bulk data cards, NASA SP-222.
#include "builder.hpp"
#include "deck_files.hpp"
#include "formats.hpp"

#include <bordado/base/text.hpp>
#include <bordado/base/units.hpp>

#include <Eigen/Geometry>

#include <cmath>
#include <map>

namespace bordado::mesh {

namespace {

/// A card: its name and the fields behind it, continuations joined.
struct Card {
  std::string name;
  std::vector<std::string_view> fields;
  Place place;  ///< of its first line

  std::string_view field(std::size_t k) const { return k < fields.size() ? fields[k] : ""; }
};

struct CardKind {
  std::string_view name;
  std::size_t corners, nodes;
  Shape linear, quadratic;
};

constexpr CardKind card_kinds[] = {
    {"CTRIA3", 3, 3, Shape::triangle3, Shape::triangle3},
    {"CTRIAR", 3, 3, Shape::triangle3, Shape::triangle3},
    {"CTRIA6", 3, 6, Shape::triangle3, Shape::triangle6},
    {"CQUAD4", 4, 4, Shape::quadrilateral4, Shape::quadrilateral4},
    {"CQUADR", 4, 4, Shape::quadrilateral4, Shape::quadrilateral4},
    {"CQUAD8", 4, 8, Shape::quadrilateral4, Shape::quadrilateral8},
    {"CQUAD", 4, 9, Shape::quadrilateral4, Shape::quadrilateral8},   // the ninth node, in the middle, is dropped
    {"CQUAD9", 4, 9, Shape::quadrilateral4, Shape::quadrilateral8},  // the same, as a mesher calls it
    {"CSHEAR", 4, 4, Shape::quadrilateral4, Shape::quadrilateral4},
};

/// Elements along a line; the fields of their two ends. Those without a property have none before.
struct LineKind {
  std::string_view name;
  std::size_t first;
  bool has_property;
};
constexpr LineKind line_kinds[] = {{"CBAR", 2, true},    {"CBEAM", 2, true}, {"CROD", 2, true},   {"CTUBE", 2, true},
                                   {"CONROD", 1, false}, {"CBUSH", 2, true}, {"PLOTEL", 1, false}};

class CardReader {
 public:
  CardReader(std::string_view bytes, const std::string& path, IncludeRules rules, Findings& findings)
      : bytes_(bytes), sources_(bytes, path, rules), path_(path), findings_(findings) {}

  RawMesh read() {
    std::size_t executive = lines_before_bulk();
    while (const auto line = sources_.next()) {
      if (executive > 0) {
        --executive;
        continue;
      }
      const std::string_view text = line->substr(0, line->find('$'));
      if (trimmed(text).empty()) continue;
      const std::string start = upper(trimmed(text).substr(0, 8));
      if (start.starts_with("ENDDATA")) break;
      if (start.starts_with("INCLUDE"))
        open_include(trimmed(text).substr(7));
      else
        add_line(text);
    }
    finish_card();
    place_nodes();
    drop_repeated_nodes();
    gather_groups();
    if (moved_ > 0)
      findings_.note("mesh.offset-passed-over",
                     fmt::format("{} moved off the grid points by the file (ZOFFS); that is passed over: say 'surface' "
                                 "or 'offset' in the part file",
                                 counted(moved_, "element")),
                     Place::in(path_));
    if (lowered_ > 0)
      findings_.note(
          "mesh.order-lowered",
          fmt::format("{} with middle nodes on some edges only were taken without them", counted(lowered_, "element")),
          Place::in(path_));
    mesh_.no_shells_remedy = "save the shells too (CTRIA3, CQUAD4, CTRIA6, CQUAD8, ...), or mesh the surfaces";
    return std::move(mesh_);
  }

 private:
  /// Case control in front of BEGIN BULK is no mesh: so many lines.
  std::size_t lines_before_bulk() const {
    Lines lines(bytes_);
    while (const auto line = lines.next()) {
      const std::string text = upper(trimmed(*line).substr(0, 60));
      if (text.starts_with("BEGIN") && text.find("BULK") != std::string::npos) return lines.number();
      if (text.starts_with("GRID") || text.starts_with("CQUAD") || text.starts_with("CTRIA")) return 0;
    }
    return 0;
  }

  [[noreturn]] void unreadable(std::string what) const {
    throw Failure({Severity::error, "mesh.unreadable", std::move(what), card_.place,
                   "repair this card, or save the bulk data again"});
  }

  /// The name stands in quotes, and may run over several lines.
  void open_include(std::string_view rest) {
    finish_card();
    std::string name(trimmed(rest));
    const char quote = name.empty() ? ' ' : name.front();
    while ((quote == '\'' || quote == '"') && (name.size() < 2 || name.back() != quote)) {
      const auto more = sources_.next();
      if (!more || name.size() > 4096) break;
      name += trimmed(*more);
    }
    if (name.size() >= 2 && (quote == '\'' || quote == '"')) name = name.substr(1, name.size() - 2);
    sources_.include(name);
  }

  /// Fields of eight columns; a tab goes to the next column that begins one.
  static std::string without_tabs(std::string_view text) {
    std::string out;
    for (const char c : text)
      if (c == '\t')
        out.append(8 - out.size() % 8, ' ');
      else
        out += c;
    return out;
  }

  void add_line(std::string_view text) {
    const bool free_field = text.find(',') != std::string_view::npos;
    if (!free_field && text.find('\t') != std::string_view::npos) text = expanded_.emplace_back(without_tabs(text));
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
      card_.place = sources_.place();
      card_.name = upper(first);
      while (card_.name.ends_with('*')) card_.name.pop_back();
      wanted_ = card_.name == "GRID" || card_.name == "GRDSET" || card_.name.starts_with("CORD") || is_solid() ||
                card_.name == "SET1" || card_.name == "SPC1" || kind() != nullptr || line_kind() != nullptr;
      if (!wanted_ && card_.name.size() > 2 && (card_.name.starts_with("CQ") || card_.name.starts_with("CT")))
        ++mesh_.unknown_types[card_.name];
    }
    if (!wanted_ || card_.fields.size() > 1'000'000) return;
    card_.fields.insert(card_.fields.end(), fields.begin(), fields.end());
  }

  bool is_solid() const {
    for (const std::string_view name : {"CTETRA", "CHEXA", "CPENTA", "CPYRAM"})
      if (card_.name.starts_with(name)) return true;
    return false;
  }

  const CardKind* kind() const {
    for (const CardKind& kind : card_kinds)
      if (kind.name == card_.name) return &kind;
    return nullptr;
  }

  const LineKind* line_kind() const {
    for (const LineKind& kind : line_kinds)
      if (kind.name == card_.name) return &kind;
    return nullptr;
  }

  std::int64_t whole(std::size_t k, std::optional<std::int64_t> otherwise = {}) const {
    const std::string_view field = card_.field(k);
    if (field.empty() && otherwise) return *otherwise;
    const auto value = integer_of(field);
    if (!value)
      unreadable(
          fmt::format("field {} of {} is '{}': it should be a whole number", k + 2, card_.name, plain_text(field, 24)));
    return *value;
  }

  double real(std::size_t k) const {
    const std::string_view field = card_.field(k);
    if (field.empty()) return 0.0;
    const auto value = real_of(field);
    if (!value)
      unreadable(
          fmt::format("field {} of {} is '{}': it should be a number", k + 2, card_.name, plain_text(field, 24)));
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
      declared_[whole(0)] = {card_.name.back(), whole(1, 0), point(2), point(5), point(8), {}, card_.place};
    } else if (card_.name.starts_with("CORD1") && card_.name.size() == 6) {
      for (std::size_t k = 0; k < 8; k += 4)  // two systems to a card
        if (k == 0 || !card_.field(k).empty())
          declared_[whole(k)] = {card_.name.back(), 0, {}, {}, {}, {{whole(k + 1), whole(k + 2), whole(k + 3)}},
                                 card_.place};
    } else if (card_.name.starts_with("CORD")) {
      unsupported_[whole(0)] = card_.name;
    } else if (wanted_ && is_solid()) {
      ++mesh_.passed_over;
    } else if (const CardKind* const found = wanted_ ? kind() : nullptr) {
      add_element(*found);
    } else if (const LineKind* const line = wanted_ ? line_kind() : nullptr) {
      add_line_element(*line);
    } else if (card_.name == "SET1" || card_.name == "SPC1") {
      add_points(card_.name == "SET1" ? 1 : 2);
    }
    card_.name.clear();
    card_.fields.clear();
    wanted_ = false;
    if (expanded_.size() > 1000) expanded_.clear();  // no field refers to them any more
  }

  void add_element(const CardKind& kind) {
    const std::int64_t id = whole(0);
    std::size_t given = 0;
    std::int64_t nodes[9];
    for (std::size_t k = 0; k < kind.nodes; ++k) {
      nodes[k] = whole(2 + k, k < kind.corners ? std::optional<std::int64_t>() : 0);
      given += k >= kind.corners && k < 2 * kind.corners && nodes[k] != 0;
    }
    const bool whole_edges = given == kind.corners;
    if (given > 0 && !whole_edges) ++lowered_;
    const Shape shape = whole_edges ? kind.quadratic : kind.linear;
    auto& group = card_.field(1).empty() ? without_property_ : elements_of_[whole(1)];
    group.push_back(static_cast<std::uint32_t>(mesh_.shapes.size()));
    mesh_.shapes.push_back(shape);
    mesh_.element_ids.push_back(id);
    mesh_.nodes.insert(mesh_.nodes.end(), nodes, nodes + node_count(shape));
    // ZOFFS: behind the angle for linear elements; before or behind the corner thicknesses for quadratic ones.
    const std::size_t offset_field = kind.nodes == kind.corners ? kind.corners + 3 : kind.nodes == 6 ? 9 : 15;
    if (card_.name == "CSHEAR" || kind.nodes == 9) return;
    if (const auto offset = real_of(card_.field(offset_field)); offset && *offset != 0.0) ++moved_;
  }

  void add_line_element(const LineKind& kind) {
    const auto a = integer_of(card_.field(kind.first)), b = integer_of(card_.field(kind.first + 1));
    if (!a || !b || *a == *b) return;  // an end may be grounded
    const auto property = kind.has_property ? integer_of(card_.field(1)) : std::nullopt;
    edges_of_[property ? fmt::format("property {}", *property) : upper(kind.name)].push_back({*a, *b, 0});
  }

  /// Numbers with "a THRU b" among them.
  void add_points(std::size_t first) {
    auto& points = points_of_[fmt::format("{} {}", card_.name == "SET1" ? "set" : "spc", card_.field(0))];
    for (std::size_t k = first; k < card_.fields.size(); ++k) {
      const auto id = integer_of(card_.field(k));
      if (!id) continue;
      points.push_back(*id);
      if (upper(card_.field(k + 1)) != "THRU") continue;
      const auto last = integer_of(card_.field(k + 2));
      if (!last || *last < *id) unreadable(fmt::format("a run of points from {} has no end that can be", *id));
      runs_.push_back({&points, *id, *last});
      k += 2;
    }
  }

  void gather_groups() {
    for (auto& [property, elements] : elements_of_)
      mesh_.groups.push_back({fmt::format("property {}", property), 2, {}, {}, std::move(elements)});
    if (!without_property_.empty() && !elements_of_.empty())
      mesh_.groups.push_back({"without property", 2, {}, {}, std::move(without_property_)});
    for (auto& [name, edges] : edges_of_) mesh_.groups.push_back({name, 1, std::move(edges), {}, {}});
    std::vector<std::int64_t> ids = mesh_.node_ids;
    std::sort(ids.begin(), ids.end());
    std::size_t members = 0;
    for (const auto& [points, from, to] : runs_) {  // of the points that there are
      const auto first = std::lower_bound(ids.begin(), ids.end(), from);
      const auto last = std::upper_bound(first, ids.end(), to);
      points->insert(points->end(), first, last);
      constexpr std::size_t most = 400'000'000;
      members += static_cast<std::size_t>(last - first);
      if (members > most)
        throw Failure({Severity::error, "mesh.set-size",
                       fmt::format("runs of points (THRU) hold {} members, again and again; {} million are the most",
                                   members, most / 1'000'000),
                       Place::in(path_), "leave out runs that lie over each other"});
    }
    const IdMap known(mesh_.node_ids);
    for (auto& [name, points] : points_of_) {
      std::sort(points.begin(), points.end());
      points.erase(std::unique(points.begin(), points.end()), points.end());
      std::erase_if(points, [&](std::int64_t id) { return known.find(id) == no_index; });
      if (!points.empty()) mesh_.groups.push_back({name, 0, {}, std::move(points), {}});
    }
  }

  /// A grid point may stand twice where both are the same.
  void drop_repeated_nodes() {
    std::unordered_map<std::int64_t, std::size_t> first;
    std::size_t kept = 0;
    if (!IdMap(mesh_.node_ids).duplicate()) return;
    for (std::size_t i = 0; i < mesh_.node_ids.size(); ++i) {
      const auto [found, is_new] = first.emplace(mesh_.node_ids[i], kept);
      const double* const own = mesh_.coordinates.data() + 3 * i;
      if (!is_new && std::equal(own, own + 3, mesh_.coordinates.data() + 3 * found->second)) continue;
      mesh_.node_ids[kept] = mesh_.node_ids[i];
      std::copy(own, own + 3, mesh_.coordinates.data() + 3 * kept);
      ++kept;
    }
    mesh_.node_ids.resize(kept);
    mesh_.coordinates.resize(3 * kept);
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
    std::optional<std::array<std::int64_t, 3>> nodes;  ///< where grid points are these three
    Place place;
  };

  [[noreturn]] static void no_system_like_that(const Place& place, std::string what) {
    throw Failure({Severity::error, "mesh.unreadable", std::move(what), place,
                   "repair this card, or save the bulk data in the basic system"});
  }

  /// A grid point in the basic system; systems are made as they are needed.
  Vec3 basic_point(std::int64_t id, const Declared& wanted) {
    const std::uint32_t i = node_index_->find(id);
    if (i == no_index)
      no_system_like_that(wanted.place, fmt::format("grid point {} of a coordinate system is not defined", id));
    const double* const at = mesh_.coordinates.data() + 3 * i;
    const std::int64_t in = systems_[i] == no_system ? default_system_ : systems_[i];
    return in == 0 ? Vec3(at[0], at[1], at[2]) : ready_.at(in).to_basic({at[0], at[1], at[2]});
  }

  /// The systems that a declared one is given in.
  std::vector<std::int64_t> needed(const Declared& d) const {
    if (!d.nodes) return {d.in};
    std::vector<std::int64_t> out;
    for (const std::int64_t id : *d.nodes)
      if (const std::uint32_t i = node_index_->find(id); i != no_index)
        out.push_back(systems_[i] == no_system ? default_system_ : systems_[i]);
    return out;
  }

  const System& system(std::int64_t id) {
    ready_.try_emplace(0, System{'R', Vec3::Zero(), Eigen::Matrix3d::Identity()});
    // By hand instead of by recursion: systems may stand in each other tens of thousands deep.
    std::vector<std::int64_t> open{id};
    while (!open.empty()) {
      const std::int64_t now = open.back();
      if (ready_.contains(now)) {
        open.pop_back();
        continue;
      }
      const auto found = declared_.find(now);
      if (found == declared_.end()) {
        const auto other = unsupported_.find(now);
        no_system_like_that(
            Place::in(path_),
            other == unsupported_.end()
                ? fmt::format("coordinate system {} is not defined", now)
                : fmt::format("coordinate system {} is a {}: CORD1 and CORD2 of the card_kinds R, C and S are read",
                              now, plain_text(other->second, 20)));
      }
      const Declared& d = found->second;
      bool wait = false;
      for (const std::int64_t in : needed(d))
        if (!ready_.contains(in)) {
          if (being_made_.contains(in) || in == now)
            no_system_like_that(d.place, fmt::format("coordinate system {} is defined in itself", now));
          open.push_back(in);
          wait = true;
        }
      if (wait) {
        being_made_.insert(now);
        continue;
      }
      being_made_.erase(now);
      ready_[now] = make(now, d);
      open.pop_back();
    }
    return ready_.at(id);
  }

  System make(std::int64_t id, const Declared& d) {
    Vec3 a, b, c;
    if (d.nodes) {
      a = basic_point((*d.nodes)[0], d), b = basic_point((*d.nodes)[1], d), c = basic_point((*d.nodes)[2], d);
    } else {
      const System& in = ready_.at(d.in);
      a = in.to_basic(d.a), b = in.to_basic(d.b), c = in.to_basic(d.c);
    }
    const Vec3 z = b - a, y = z.cross(c - a);
    if (!(z.norm() > 0.0) || !(y.norm() > 1e-9 * z.norm() * (c - a).norm()))
      no_system_like_that(d.place, fmt::format("the three points of coordinate system {} lie on one line", id));
    System out{d.kind, a, {}};
    out.axes.col(2) = z.normalized();
    out.axes.col(1) = y.normalized();
    out.axes.col(0) = out.axes.col(1).cross(out.axes.col(2));
    return out;
  }

  void place_nodes() {
    node_index_.emplace(mesh_.node_ids);
    // All systems first: some are made of points that are not moved yet.
    for (const std::int64_t id : systems_) system(id == no_system ? default_system_ : id);
    for (std::size_t i = 0; i < systems_.size(); ++i) {
      const std::int64_t id = systems_[i] == no_system ? default_system_ : systems_[i];
      if (id == 0) continue;
      double* const at = mesh_.coordinates.data() + 3 * i;
      const Vec3 basic = system(id).to_basic({at[0], at[1], at[2]});
      std::copy(basic.begin(), basic.end(), at);
    }
  }

  static constexpr std::int64_t no_system = std::numeric_limits<std::int64_t>::min();

  std::string_view bytes_;
  DeckFiles sources_;
  const std::string& path_;
  Findings& findings_;
  RawMesh mesh_;
  Card card_;
  std::deque<std::string> expanded_;  ///< lines whose tabs were made blanks
  bool wanted_ = false;
  std::vector<std::int64_t> systems_;  ///< per node
  std::int64_t default_system_ = 0;
  std::map<std::int64_t, Declared> declared_;
  std::map<std::int64_t, std::string> unsupported_;
  std::unordered_map<std::int64_t, System> ready_;
  std::set<std::int64_t> being_made_;
  std::optional<IdMap> node_index_;
  std::map<std::int64_t, std::vector<std::uint32_t>> elements_of_;  ///< by property
  std::vector<std::uint32_t> without_property_;
  std::map<std::string, std::vector<std::array<std::int64_t, 3>>> edges_of_;
  std::map<std::string, std::vector<std::int64_t>> points_of_;
  struct Run {
    std::vector<std::int64_t>* of;
    std::int64_t from, to;
  };
  std::vector<Run> runs_;
  std::size_t moved_ = 0, lowered_ = 0;
};

}  // namespace

bool is_bulk_data(std::string_view bytes) {
  Lines lines(bytes.substr(0, 1'000'000));
  while (const auto line = lines.next()) {
    const std::string_view text = trimmed(line->substr(0, line->find('$')));
    if (text.empty()) continue;
    const std::string start = upper(text.substr(0, 60));
    if (start.starts_with("BEGIN") && start.find("BULK") != std::string::npos) return true;
    for (const std::string_view card :
         {"GRID", "CQUAD", "CTRIA", "PSHELL", "PCOMP", "MAT1", "MAT8", "CORD2", "CORD1", "CSHEAR"})
      if (start.starts_with(card)) return true;
  }
  return false;
}

Surface read_bulk_data(std::string_view bytes, const std::string& path, const ReadOptions& options,
                       Findings& findings) {
  return build(CardReader(bytes, path, {.anywhere = options.includes_anywhere}, findings).read(), path, options,
               findings);
}

}  // namespace bordado::mesh
