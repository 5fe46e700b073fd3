// Meshes written in the keywords of CalculiX: *NODE, *ELEMENT, *NSET, *ELSET, *SURFACE, *INCLUDE, and the keywords that
// generate nodes and elements. What else a deck holds is passed over; what would move or copy the mesh is refused.
// Reference: CalculiX CrunchiX user's manual, chapter "Input deck format".
#include "builder.hpp"
#include "deck_files.hpp"
#include "formats.hpp"
#include "keyword_sets.hpp"

#include <bordado/base/text.hpp>
#include <bordado/base/units.hpp>

#include <limits>
#include <map>
#include <set>

namespace bordado::mesh {

namespace {

enum class KeywordUse { shell, edge, other };

struct KeywordKind {
  std::string_view type;
  KeywordUse use;
  Shape shape;
  std::size_t nodes;
};

constexpr KeywordKind keyword_kinds[] = {
    {"S3", KeywordUse::shell, Shape::triangle3, 3},
    {"S3R", KeywordUse::shell, Shape::triangle3, 3},
    {"S6", KeywordUse::shell, Shape::triangle6, 6},
    {"S4", KeywordUse::shell, Shape::quadrilateral4, 4},
    {"S4R", KeywordUse::shell, Shape::quadrilateral4, 4},
    {"S8", KeywordUse::shell, Shape::quadrilateral8, 8},
    {"S8R", KeywordUse::shell, Shape::quadrilateral8, 8},
    {"M3D3", KeywordUse::shell, Shape::triangle3, 3},
    {"M3D6", KeywordUse::shell, Shape::triangle6, 6},
    {"M3D4", KeywordUse::shell, Shape::quadrilateral4, 4},
    {"M3D4R", KeywordUse::shell, Shape::quadrilateral4, 4},
    {"M3D8", KeywordUse::shell, Shape::quadrilateral8, 8},
    {"M3D8R", KeywordUse::shell, Shape::quadrilateral8, 8},
    {"CPS3", KeywordUse::shell, Shape::triangle3, 3},
    {"CPS6", KeywordUse::shell, Shape::triangle6, 6},
    {"CPS4", KeywordUse::shell, Shape::quadrilateral4, 4},
    {"CPS4R", KeywordUse::shell, Shape::quadrilateral4, 4},
    {"CPS8", KeywordUse::shell, Shape::quadrilateral8, 8},
    {"CPS8R", KeywordUse::shell, Shape::quadrilateral8, 8},
    {"CPE3", KeywordUse::shell, Shape::triangle3, 3},
    {"CPE6", KeywordUse::shell, Shape::triangle6, 6},
    {"CPE4", KeywordUse::shell, Shape::quadrilateral4, 4},
    {"CPE4R", KeywordUse::shell, Shape::quadrilateral4, 4},
    {"CPE8", KeywordUse::shell, Shape::quadrilateral8, 8},
    {"CPE8R", KeywordUse::shell, Shape::quadrilateral8, 8},
    {"US3", KeywordUse::shell, Shape::triangle3, 3},
    {"US4", KeywordUse::shell, Shape::quadrilateral4, 4},
    {"T3D2", KeywordUse::edge, {}, 2},
    {"T3D3", KeywordUse::edge, {}, 3},
    {"B31", KeywordUse::edge, {}, 2},
    {"B31R", KeywordUse::edge, {}, 2},
    {"B32", KeywordUse::edge, {}, 3},
    {"B32R", KeywordUse::edge, {}, 3},
};

constexpr KeywordKind other_kind{"", KeywordUse::other, {}, 0};

/// Documented elements that are neither shells nor edges and leave nothing to say.
constexpr std::string_view beside_shells[] = {"SPRING", "DASHPOT", "GAPUNI", "MASS", "DCOUP3D", "D"};
constexpr std::string_view solids[] = {"C3D", "F3D"};
/// Beginnings of the names of flat elements in decks of other programs: what they are follows from their nodes.
constexpr std::string_view flat[] = {"S", "M3D", "CPS", "CPE", "R3D", "SFM"};

/// Keywords that change where nodes are or which elements there are, and are not read.
struct Refused {
  std::string_view keyword, what, remedy;
};
constexpr Refused refused[] = {
    {"PART", "the deck is made of parts and instances; their moves and copies are not read",
     "write it flat, with one list of nodes and one of elements, or save the mesh as MSH or VTU"},
    {"INSTANCE", "the deck is made of parts and instances; their moves and copies are not read",
     "write it flat, with one list of nodes and one of elements, or save the mesh as MSH or VTU"},
    {"ASSEMBLY", "the deck is made of parts and instances; their moves and copies are not read",
     "write it flat, with one list of nodes and one of elements, or save the mesh as MSH or VTU"},
    {"NCOPY", "*NCOPY makes copies of nodes, which is not read", "write the nodes out"},
    {"ELCOPY", "*ELCOPY makes copies of elements, which is not read", "write the elements out"},
    {"NMAP", "*NMAP moves nodes, which is not read", "write the nodes where they come to lie"},
    {"PARAMETER", "*PARAMETER puts numbers in the place of names, which is not read", "write the numbers out"},
};

class KeywordReader {
 public:
  KeywordReader(std::string_view bytes, const std::string& path, IncludeRules rules, Findings& findings)
      : sources_(bytes, path, rules), path_(path), findings_(findings) {}

  RawMesh read() {
    bool begun = false;  // titles may stand before the first keyword
    while (const auto line = sources_.next()) {
      const std::string_view text = trimmed(*line);
      if (text.empty() || text.starts_with("**")) continue;
      if (text.starts_with('*')) {
        begun = true;
        open_keyword(text);
      } else if (begun) {
        read_data(text);
      }
    }
    finish_element(true);
    gather_sets({node_sets_, element_sets_, surfaces_, plane_, line_ids_, lines_of_}, mesh_, path_, findings_);
    mesh_.no_shells_remedy = "save the shells too (S3, S4, S6, S8, S8R, ...), or mesh the surfaces";
    return std::move(mesh_);
  }

 private:
  using Set = KeywordSet;
  using Sets = KeywordSets;
  using NamedSurface = KeywordSurface;
  enum class Block { none, node, element, node_set, element_set, surface, node_surface, system, line, fill, repeat };
  [[noreturn]] void fail_here(std::string code, std::string what, std::string remedy) const {
    throw Failure({Severity::error, std::move(code), std::move(what), sources_.place(), std::move(remedy)});
  }
  [[noreturn]] void unreadable(std::string what) const {
    fail_here("mesh.unreadable", std::move(what), "save the deck again, or repair this line");
  }

  void open_keyword(std::string_view text) {
    finish_element(true);
    std::string card(text);
    while (trimmed(card).ends_with(',')) {  // parameters go on in the next line
      const auto more = sources_.next();
      if (!more) break;
      card += trimmed(*more);
    }
    const auto fields = split(card, ',');
    values_.clear();
    for (std::size_t k = 1; k < fields.size(); ++k) {
      const std::size_t equals = fields[k].find('=');
      std::string_view value = equals == std::string_view::npos ? "" : trimmed(fields[k].substr(equals + 1));
      if (value.size() >= 2 && value.front() == '"' && value.back() == '"') value = value.substr(1, value.size() - 2);
      values_[upper(trimmed(fields[k].substr(0, equals)))] = value;
    }
    const std::string keyword = upper(trimmed(fields[0].substr(1)));
    block_ = Block::none;
    generate_ = values_.contains("GENERATE");
    set_ = nullptr;
    for (const Refused& other : refused)
      if (keyword == other.keyword)
        fail_here("mesh.keyword-not-read", std::string(other.what), std::string(other.remedy));
    if (keyword == "NODE") {
      open_nodes();
    } else if (keyword == "ELEMENT") {
      open_elements();
    } else if (keyword == "NSET" || keyword == "ELSET") {
      open_set(keyword);
    } else if (keyword == "SURFACE") {
      open_surface();
    } else if (keyword == "SYSTEM") {
      block_ = Block::system;
    } else if (keyword == "NGEN" || keyword == "NFILL" || keyword == "ELGEN") {
      if (values_.contains("LINE"))
        fail_here("mesh.keyword-not-read", fmt::format("*{} along a curve is not read", keyword),
                  "write the nodes out");
      block_ = keyword == "NGEN" ? Block::line : keyword == "NFILL" ? Block::fill : Block::repeat;
      const std::string name = value(keyword == "ELGEN" ? "ELSET" : "NSET");
      if (!name.empty()) set_ = &set(keyword == "ELGEN" ? element_sets_ : node_sets_, name);
    }
    if (values_.contains("INPUT") && (block_ != Block::none || keyword == "INCLUDE")) sources_.include(value("INPUT"));
  }

  std::string value(const std::string& name) const {
    const auto found = values_.find(name);
    return found == values_.end() ? std::string() : std::string(found->second);
  }

  void open_nodes() {
    block_ = Block::node;
    if (const auto name = value("NSET"); !name.empty()) set_ = &set(node_sets_, name);
    const std::string system = upper(value("SYSTEM"));
    round_ = system == "C";
    if (!system.empty() && system != "R" && system != "C")
      fail_here("mesh.keyword-not-read", fmt::format("nodes in the system '{}' are not read", plain_text(system, 20)),
                "write them as x, y, z");
  }

  void open_elements() {
    block_ = Block::element;
    kind_ = &other_kind;
    type_ = upper(value("TYPE"));
    for (const KeywordKind& kind : keyword_kinds)
      if (kind.type == type_) kind_ = &kind;
    const auto begins = [&](const auto& names) {
      return std::any_of(std::begin(names), std::end(names),
                         [&](std::string_view name) { return type_.starts_with(name); });
    };
    is_solid_ = begins(solids);
    is_beside_ = !is_solid_ &&
                 (std::find(std::begin(beside_shells), std::end(beside_shells), type_) != std::end(beside_shells) ||
                  type_.starts_with("SPRING") || type_.starts_with("DASHPOT"));
    is_flat_ = kind_->use == KeywordUse::other && !is_solid_ && !is_beside_ && begins(flat);
    const auto name = value("ELSET");
    ties_ = upper(name).starts_with("TIES") ? name : "";
    if (!name.empty() && ties_.empty()) set_ = &set(element_sets_, name);
  }

  void open_set(const std::string& keyword) {
    block_ = keyword == "NSET" ? Block::node_set : Block::element_set;
    const auto name = value(keyword);
    if (name.empty()) unreadable(fmt::format("*{} has no name", keyword));
    set_ = &set(block_ == Block::node_set ? node_sets_ : element_sets_, name);
    if (const auto other = value("ELSET"); block_ == Block::node_set && !other.empty())
      set_->of_elements.push_back(upper(other));
  }

  void open_surface() {
    const std::string type = upper(value("TYPE"));
    if (!type.empty() && type != "ELEMENT" && type != "NODE") return;  // made of others, or analytical
    block_ = type == "NODE" ? Block::node_surface : Block::surface;
    surfaces_.push_back({value("NAME"), {}, {}});
  }

  static Set& set(Sets& sets, const std::string& name) {
    Set& out = sets[upper(name)];
    if (out.name.empty()) out.name = name;
    return out;
  }

  std::int64_t whole(std::string_view field) const {
    const auto number = integer_of(field);
    if (number) return *number;
    // Some programs write ids as reals: "12." is 12.
    const auto real = real_of(field);
    if (real && std::abs(*real) < 9e15 && *real == std::floor(*real)) return static_cast<std::int64_t>(*real);
    unreadable(fmt::format("'{}' stands where a whole number should", plain_text(field, 24)));
  }

  void read_data(std::string_view text) {
    switch (block_) {
      case Block::none:
        return;
      case Block::node:
        return read_node(split(text, ','));
      case Block::element:
        return read_element(text);
      case Block::node_set:
      case Block::element_set:
        return read_set(split(text, ','));
      case Block::surface: {
        const auto fields = split(text, ',');
        surfaces_.back().faces.push_back({upper(fields[0]), fields.size() > 1 ? upper(fields[1]) : std::string()});
        return;
      }
      case Block::node_surface:
        surfaces_.back().nodes.push_back(upper(split(text, ',')[0]));
        return;
      case Block::system:
        fail_here("mesh.keyword-not-read", "nodes in a system of their own (*SYSTEM) are not read",
                  "write them as x, y, z");
      case Block::line:
        return generate_line(split(text, ','));
      case Block::fill:
        return generate_fill(split(text, ','));
      case Block::repeat:
        return generate_elements(split(text, ','));
    }
  }

  void add_node(std::int64_t id, const Vec3& at) {
    mesh_.node_ids.push_back(id);
    mesh_.coordinates.insert(mesh_.coordinates.end(), {at.x(), at.y(), at.z()});
    if (set_) set_->ids.push_back(id);
  }

  void read_node(const std::vector<std::string_view>& fields) {
    Vec3 at = Vec3::Zero();
    for (std::size_t k = 1; k < 4; ++k) {
      const std::string_view field = k < fields.size() ? fields[k] : "";
      const auto number = field.empty() ? std::optional(0.0) : real_of(field);
      if (!number) unreadable(fmt::format("'{}' stands where a coordinate should", plain_text(field, 24)));
      at[static_cast<Eigen::Index>(k) - 1] = *number;
    }
    if (round_) {
      const Angle angle = Angle::degrees(at.y());
      at = {at.x() * angle.cos(), at.x() * angle.sin(), at.z()};
    }
    add_node(whole(fields[0]), at);
  }

  /// An element's numbers may stand on several lines.
  void read_element(std::string_view text) {
    if (kind_->use == KeywordUse::other && !is_flat_) {
      if (!goes_on_) {
        if (is_solid_)
          ++mesh_.passed_over;
        else if (!is_beside_)
          ++mesh_.unknown_types[type_.empty() ? "no type" : type_];
      }
      goes_on_ = text.ends_with(',');
      return;
    }
    for (const std::string_view field : split(text, ','))
      if (!field.empty()) element_.push_back(whole(field));
    if (is_flat_) {
      if (element_.size() > 100) unreadable(fmt::format("element {} has more than 99 nodes", element_[0]));
      if (!text.ends_with(',')) finish_flat();
      return;
    }
    if (element_.size() > kind_->nodes + 1)
      unreadable(fmt::format("element {} has more than the {} nodes of {}", element_[0], kind_->nodes, kind_->type));
    finish_element(false);
  }

  /// An element of a type that only its number of nodes explains.
  void finish_flat() {
    if (element_.empty()) return;
    const std::size_t nodes = element_.size() - 1;
    if (nodes == 9) element_.pop_back();  // the node in the middle
    const std::optional<Shape> shape = nodes == 3                 ? std::optional(Shape::triangle3)
                                       : nodes == 4               ? std::optional(Shape::quadrilateral4)
                                       : nodes == 6               ? std::optional(Shape::triangle6)
                                       : nodes == 8 || nodes == 9 ? std::optional(Shape::quadrilateral8)
                                                                  : std::nullopt;
    if (shape) {
      ++mesh_.guessed_types[type_];
      add_shell(*shape);
    } else {
      ++mesh_.unknown_types[type_];
    }
    element_.clear();
  }

  /// Whether an element only ties the layers of one that stands already, as in decks that were written here.
  bool is_tie() {
    if (ties_.empty()) return false;
    if (known_.empty()) {
      std::size_t at = 0;
      for (const Shape shape : mesh_.shapes) {
        const auto begin = mesh_.nodes.begin() + static_cast<std::ptrdiff_t>(at);
        known_.emplace(begin, begin + static_cast<std::ptrdiff_t>(node_count(shape)));
        at += node_count(shape);
      }
    }
    return known_.contains({element_.begin() + 1, element_.end()});
  }

  void add_shell(Shape shape) {
    if (is_tie()) return;
    if (!ties_.empty()) set_ = &set(element_sets_, ties_);
    mesh_.shapes.push_back(shape);
    mesh_.element_ids.push_back(element_[0]);
    mesh_.nodes.insert(mesh_.nodes.end(), element_.begin() + 1, element_.end());
    plane_.push_back(type_.starts_with("CPS") || type_.starts_with("CPE") || type_.starts_with("M3D"));
    if (set_) set_->ids.push_back(element_[0]);
  }

  void finish_element(bool end_of_block) {
    if (end_of_block) goes_on_ = false;
    if (element_.empty()) return;
    if (is_flat_) return finish_flat();
    if (element_.size() < kind_->nodes + 1) {
      if (!end_of_block) return;
      fail_here("mesh.truncated",
                fmt::format("the mesh file is cut short: element {} has {} of the {} nodes of {}", element_[0],
                            element_.size() - 1, kind_->nodes, kind_->type),
                "save the deck again, or repair this line");
    }
    if (kind_->use == KeywordUse::shell) {
      add_shell(kind_->shape);
    } else {
      line_ids_.push_back(element_[0]);
      const bool quadratic = kind_->nodes == 3;  // written first, middle, last
      lines_of_.push_back({element_[1], element_[quadratic ? 3 : 2], quadratic ? element_[2] : 0});
      if (set_) set_->ids.push_back(element_[0]);
    }
    element_.clear();
  }

  /// Nodes and elements that lines make out of nothing: a line of text must not ask for all the memory.
  void count_generated(std::initializer_list<std::int64_t> factors) {
    constexpr std::int64_t most = 50'000'000;
    std::int64_t more = 1;
    bool beyond = false;
    for (const std::int64_t factor : factors) beyond = __builtin_mul_overflow(more, factor, &more) || beyond;
    if (beyond || more < 0 || more > most - generated_)
      unreadable(fmt::format("this line generates {} nodes or elements{}; {} million are the most in a file",
                             beyond ? "more than 2^63" : fmt::format("{}", more),
                             generated_ > 0 ? fmt::format(" after {} of lines above", generated_) : "",
                             most / 1'000'000));
    generated_ += more;
  }

  /// A number so many steps on.
  std::int64_t stepped(std::int64_t from, std::int64_t times, std::int64_t step) const {
    std::int64_t way = 0, out = 0;
    if (__builtin_mul_overflow(times, step, &way) || __builtin_add_overflow(from, way, &out))
      unreadable(fmt::format("{} steps of {} from {} lead beyond all numbers", times, step, from));
    return out;
  }

  void read_set(const std::vector<std::string_view>& fields) {
    if (generate_) {
      if (fields.size() < 2) unreadable("a generated set needs a first and a last number");
      const std::int64_t from = whole(fields[0]), to = whole(fields[1]);
      const std::int64_t step = fields.size() > 2 && !fields[2].empty() ? whole(fields[2]) : 1;
      if (step <= 0 || from < 0 || to < from) unreadable("a generated set should run upwards from first to last");
      set_->runs.push_back({from, to, step});
      return;
    }
    for (const std::string_view field : fields) {
      if (field.empty()) continue;
      if (const auto id = integer_of(field))
        set_->ids.push_back(*id);
      else
        set_->sets.push_back(upper(field));
    }
  }

  // --- generated nodes and elements
  // ------------------------------------------------------------------------------------------------

  Vec3 node_at(std::int64_t id) {
    for (; known_nodes_ < mesh_.node_ids.size(); ++known_nodes_)
      node_index_[mesh_.node_ids[known_nodes_]] = known_nodes_;
    const auto found = node_index_.find(id);
    if (found == node_index_.end()) unreadable(fmt::format("node {} is not defined above", id));
    const double* const at = mesh_.coordinates.data() + 3 * found->second;
    return {at[0], at[1], at[2]};
  }

  /// Nodes between two, evenly: first, last, step of the numbers.
  void generate_line(const std::vector<std::string_view>& fields) {
    if (fields.size() < 2) unreadable("generated nodes need a first and a last one");
    const std::int64_t first = whole(fields[0]), last = whole(fields[1]);
    const std::int64_t step = fields.size() > 2 && !fields[2].empty() ? whole(fields[2]) : 1;
    std::int64_t way = 0;
    if (step == 0 || step == std::numeric_limits<std::int64_t>::min() || __builtin_sub_overflow(last, first, &way) ||
        way % step != 0 || way / step < 1)
      unreadable(fmt::format("steps of {} do not lead from node {} to {}", step, first, last));
    const std::int64_t pieces = way / step;
    count_generated({pieces});
    const Vec3 a = node_at(first), b = node_at(last);
    if (set_) set_->ids.push_back(first);
    for (std::int64_t k = 1; k < pieces; ++k)
      add_node(first + k * step, a + (b - a) * (static_cast<double>(k) / static_cast<double>(pieces)));
    if (set_) set_->ids.push_back(last);
  }

  /// Rows of nodes between two sets: first set, last set, intervals, step of the numbers.
  void generate_fill(const std::vector<std::string_view>& fields) {
    if (fields.size() < 4) unreadable("filled nodes need two sets, a number of intervals and a step");
    const auto ids = [&](std::string_view name) -> std::vector<std::int64_t> {
      const auto found = node_sets_.find(upper(name));
      if (found == node_sets_.end())
        unreadable(fmt::format("node set '{}' is not defined above", plain_text(name, 40)));
      return found->second.ids;
    };
    const std::vector<std::int64_t> from = ids(fields[0]), to = ids(fields[1]);
    const std::int64_t pieces = whole(fields[2]), step = whole(fields[3]);
    if (from.size() != to.size() || pieces < 1)
      unreadable("the two sets have not as many nodes, or there are no intervals");
    count_generated({static_cast<std::int64_t>(from.size()), pieces});
    for (std::size_t i = 0; i < from.size(); ++i) {
      const Vec3 a = node_at(from[i]), b = node_at(to[i]);
      for (std::int64_t k = 1; k < pieces; ++k)
        add_node(stepped(from[i], k, step), a + (b - a) * (static_cast<double>(k) / static_cast<double>(pieces)));
    }
  }

  /// Copies of an element with numbers that go up: element, then count, step of nodes, step of elements, up to three
  /// times.
  void generate_elements(const std::vector<std::string_view>& fields) {
    const std::int64_t id = whole(fields[0]);
    for (; known_elements_ < mesh_.element_ids.size(); ++known_elements_) {
      element_index_.try_emplace(mesh_.element_ids[known_elements_], known_elements_, known_corners_);
      known_corners_ += node_count(mesh_.shapes[known_elements_]);
    }
    const auto found = element_index_.find(id);
    if (found == element_index_.end()) unreadable(fmt::format("element {} is not a shell defined above", id));
    const auto [position, first] = found->second;
    const Shape shape = mesh_.shapes[position];
    const bool plane = plane_[position];
    const std::vector<std::int64_t> nodes(mesh_.nodes.begin() + static_cast<std::ptrdiff_t>(first),
                                          mesh_.nodes.begin() + static_cast<std::ptrdiff_t>(first + node_count(shape)));
    std::array<std::int64_t, 3> counts{1, 1, 1}, node_steps{}, element_steps{};
    for (std::size_t k = 0; k < 3; ++k) {
      const auto field = [&](std::size_t i, std::int64_t otherwise) {
        const std::size_t at = 1 + 3 * k + i;
        return at < fields.size() && !fields[at].empty() ? whole(fields[at]) : otherwise;
      };
      counts[k] = std::max<std::int64_t>(1, field(0, 1));
      node_steps[k] = field(1, 1);
      element_steps[k] = field(2, 1);
    }
    count_generated({counts[0], counts[1], counts[2]});
    const auto on = [&](std::int64_t from, const std::array<std::int64_t, 3>& steps, std::int64_t a, std::int64_t b,
                        std::int64_t c) {
      return stepped(stepped(stepped(from, a, steps[0]), b, steps[1]), c, steps[2]);
    };
    for (std::int64_t c = 0; c < counts[2]; ++c)
      for (std::int64_t b = 0; b < counts[1]; ++b)
        for (std::int64_t a = 0; a < counts[0]; ++a) {
          const std::int64_t own = on(id, element_steps, a, b, c);
          if (set_) set_->ids.push_back(own);
          if (a == 0 && b == 0 && c == 0) continue;
          mesh_.shapes.push_back(shape);
          plane_.push_back(plane);
          mesh_.element_ids.push_back(own);
          for (const std::int64_t node : nodes) mesh_.nodes.push_back(on(node, node_steps, a, b, c));
        }
  }

  DeckFiles sources_;
  const std::string& path_;
  Findings& findings_;
  RawMesh mesh_;
  Block block_ = Block::none;
  std::map<std::string, std::string> values_;  ///< parameters of the keyword
  bool generate_ = false, goes_on_ = false, round_ = false;
  std::string ties_;                           ///< the set of elements that may be ties
  std::set<std::vector<std::int64_t>> known_;  ///< nodes of elements before them, once they are asked for
  bool is_solid_ = false, is_beside_ = false, is_flat_ = false;
  const KeywordKind* kind_ = &other_kind;
  std::string type_;
  std::vector<std::int64_t> element_;  ///< id and nodes of the one being read
  std::vector<bool> plane_;            ///< per shell: a plane or membrane element, whose faces are its edges
  Set* set_ = nullptr;                 ///< the one that takes what is read
  Sets node_sets_, element_sets_;      ///< by name in capitals
  std::vector<NamedSurface> surfaces_;
  std::vector<std::int64_t> line_ids_;
  std::vector<std::array<std::int64_t, 3>> lines_of_;
  std::unordered_map<std::int64_t, std::size_t> node_index_;  ///< made when nodes are generated
  std::unordered_map<std::int64_t, std::pair<std::size_t, std::size_t>> element_index_;  ///< and its first node
  std::size_t known_nodes_ = 0, known_elements_ = 0, known_corners_ = 0;
  std::int64_t generated_ = 0;
};

constexpr std::string_view first_keywords[] = {"NODE",          "ELEMENT",
                                               "HEADING",       "INCLUDE",
                                               "NSET",          "ELSET",
                                               "PART",          "ASSEMBLY",
                                               "MATERIAL",      "SURFACE",
                                               "SYSTEM",        "NGEN",
                                               "STEP",          "BOUNDARY",
                                               "EQUATION",      "ORIENTATION",
                                               "TRANSFORM",     "PARAMETER",
                                               "RESTART",       "AMPLITUDE",
                                               "PREPRINT",      "PHYSICAL CONSTANTS",
                                               "USER ELEMENT",  "SUBMODEL",
                                               "DISTRIBUTION",  "INITIAL CONDITIONS",
                                               "SOLID SECTION", "SHELL SECTION"};

}  // namespace

bool is_keywords(std::string_view bytes) {
  if (bytes.starts_with("\xef\xbb\xbf")) bytes.remove_prefix(3);
  Lines lines(bytes.substr(0, 100000));
  std::size_t seen = 0;
  while (const auto line = lines.next()) {
    const std::string_view text = trimmed(*line);
    if (text.empty() || text.starts_with("**")) continue;
    if (text.starts_with('*')) {
      const std::string keyword = upper(trimmed(text.substr(1, text.find(',') - 1)));
      if (std::find(std::begin(first_keywords), std::end(first_keywords), keyword) != std::end(first_keywords))
        return true;
      if (seen == 0 && !keyword.empty() && std::isalpha(static_cast<unsigned char>(keyword[0])) != 0) return true;
    }
    if (++seen > 200) return false;  // so much text before the first keyword is no title
  }
  return false;
}

Surface read_keywords(std::string_view bytes, const std::string& path, const ReadOptions& options, Findings& findings) {
  return build(KeywordReader(bytes, path, {.anywhere = options.includes_anywhere}, findings).read(), path, options,
               findings);
}

}  // namespace bordado::mesh
