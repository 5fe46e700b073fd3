// Meshes written in the keywords of CalculiX: *NODE, *ELEMENT, *NSET, *ELSET. Everything else of a deck is passed over.
// Reference: CalculiX CrunchiX user's manual, chapter "Input deck format".
#include "builder.hpp"
#include "formats.hpp"
#include "text.hpp"

#include <map>

namespace bordado::mesh {

namespace {

enum class Use { shell, edge, other };

struct Kind {
  std::string_view type;
  Use use;
  Shape shape;
  std::size_t nodes;
};

constexpr Kind kinds[] = {
    {"S3", Use::shell, Shape::triangle3, 3},
    {"S3R", Use::shell, Shape::triangle3, 3},
    {"S6", Use::shell, Shape::triangle6, 6},
    {"S4", Use::shell, Shape::quadrilateral4, 4},
    {"S4R", Use::shell, Shape::quadrilateral4, 4},
    {"S8", Use::shell, Shape::quadrilateral8, 8},
    {"S8R", Use::shell, Shape::quadrilateral8, 8},
    {"M3D3", Use::shell, Shape::triangle3, 3},
    {"M3D6", Use::shell, Shape::triangle6, 6},
    {"M3D4", Use::shell, Shape::quadrilateral4, 4},
    {"M3D4R", Use::shell, Shape::quadrilateral4, 4},
    {"M3D8", Use::shell, Shape::quadrilateral8, 8},
    {"M3D8R", Use::shell, Shape::quadrilateral8, 8},
    {"CPS3", Use::shell, Shape::triangle3, 3},
    {"CPS6", Use::shell, Shape::triangle6, 6},
    {"CPS4", Use::shell, Shape::quadrilateral4, 4},
    {"CPS4R", Use::shell, Shape::quadrilateral4, 4},
    {"CPS8", Use::shell, Shape::quadrilateral8, 8},
    {"CPS8R", Use::shell, Shape::quadrilateral8, 8},
    {"CPE3", Use::shell, Shape::triangle3, 3},
    {"CPE6", Use::shell, Shape::triangle6, 6},
    {"CPE4", Use::shell, Shape::quadrilateral4, 4},
    {"CPE4R", Use::shell, Shape::quadrilateral4, 4},
    {"CPE8", Use::shell, Shape::quadrilateral8, 8},
    {"CPE8R", Use::shell, Shape::quadrilateral8, 8},
    {"T3D2", Use::edge, {}, 2},
    {"T3D3", Use::edge, {}, 3},
    {"B31", Use::edge, {}, 2},
    {"B31R", Use::edge, {}, 2},
    {"B32", Use::edge, {}, 3},
    {"B32R", Use::edge, {}, 3},
};

constexpr Kind other_kind{"", Use::other, {}, 0};

class Reader {
 public:
  Reader(std::string_view bytes, const std::string& path, Findings& findings)
      : lines_(bytes), path_(path), findings_(findings) {}

  RawMesh read() {
    while (const auto line = lines_.next()) {
      const std::string_view text = trimmed(*line);
      if (text.empty() || text.starts_with("**")) continue;
      if (text.starts_with('*'))
        open_keyword(text);
      else
        read_data(text);
    }
    finish_element(true);
    gather_sets();
    return std::move(mesh_);
  }

 private:
  enum class Block { none, node, element, node_set, element_set };
  /// A set as it is listed: numbers, and names of other sets.
  struct Set {
    std::string name;  ///< as first written
    std::vector<std::int64_t> ids;
    std::vector<std::string> sets;
  };
  using Sets = std::map<std::string, Set>;

  [[noreturn]] void unreadable(std::string what) const { throw Unreadable{lines_.offset(), std::move(what)}; }

  void open_keyword(std::string_view text) {
    finish_element(true);
    std::string card(text);
    while (trimmed(card).ends_with(',')) {  // parameters go on in the next line
      const auto more = lines_.next();
      if (!more) break;
      card += trimmed(*more);
    }
    const auto fields = split(card, ',');
    std::map<std::string, std::string> values;
    for (std::size_t k = 1; k < fields.size(); ++k) {
      const std::size_t equals = fields[k].find('=');
      const std::string_view value = equals == std::string_view::npos ? "" : trimmed(fields[k].substr(equals + 1));
      values[upper(trimmed(fields[k].substr(0, equals)))] =
          value.size() >= 2 && value.front() == '"' && value.back() == '"' ? value.substr(1, value.size() - 2) : value;
    }
    const auto value = [&](const std::string& name) {
      const auto found = values.find(name);
      return found == values.end() ? std::string() : found->second;
    };
    const std::string keyword = upper(fields[0].substr(1));
    block_ = Block::none;
    generate_ = values.contains("GENERATE");
    set_ = nullptr;
    if (keyword == "NODE") {
      block_ = Block::node;
      if (const auto name = value("NSET"); !name.empty()) set_ = &set(node_sets_, name);
    } else if (keyword == "ELEMENT") {
      block_ = Block::element;
      kind_ = &other_kind;
      const std::string type = upper(value("TYPE"));
      for (const Kind& kind : kinds)
        if (kind.type == type) kind_ = &kind;
      if (const auto name = value("ELSET"); !name.empty()) set_ = &set(element_sets_, name);
    } else if (keyword == "NSET" || keyword == "ELSET") {
      block_ = keyword == "NSET" ? Block::node_set : Block::element_set;
      const auto name = value(keyword);
      if (name.empty()) unreadable(fmt::format("*{} has no name", keyword));
      set_ = &set(block_ == Block::node_set ? node_sets_ : element_sets_, name);
    } else if (keyword == "INCLUDE") {
      findings_.warning("mesh.include", fmt::format("the file it includes, '{}', is not read", value("INPUT")),
                        {path_, lines_.number(), {}, {}}, "put the mesh into one file");
    }
  }

  static Set& set(Sets& sets, const std::string& name) {
    Set& out = sets[upper(name)];
    if (out.name.empty()) out.name = name;
    return out;
  }

  std::int64_t whole(std::string_view field) const {
    const auto value = integer_of(field);
    if (!value) unreadable(fmt::format("'{}' stands where a whole number should", field.substr(0, 24)));
    return *value;
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
    }
  }

  void read_node(const std::vector<std::string_view>& fields) {
    mesh_.node_ids.push_back(whole(fields[0]));
    for (std::size_t k = 1; k < 4; ++k) {
      const std::string_view field = k < fields.size() ? fields[k] : "";
      const auto value = field.empty() ? std::optional(0.0) : real_of(field);
      if (!value) unreadable(fmt::format("'{}' stands where a coordinate should", field.substr(0, 24)));
      mesh_.coordinates.push_back(*value);
    }
    if (set_) set_->ids.push_back(mesh_.node_ids.back());
  }

  /// An element's numbers may stand on several lines.
  void read_element(std::string_view text) {
    if (kind_->use == Use::other) {
      if (!goes_on_) ++mesh_.passed_over;
      goes_on_ = text.ends_with(',');
      return;
    }
    for (const std::string_view field : split(text, ','))
      if (!field.empty()) element_.push_back(whole(field));
    if (element_.size() > kind_->nodes + 1)
      unreadable(fmt::format("element {} has more than the {} nodes of {}", element_[0], kind_->nodes, kind_->type));
    finish_element(false);
  }

  void finish_element(bool end_of_block) {
    if (end_of_block) goes_on_ = false;
    if (element_.empty()) return;
    if (element_.size() < kind_->nodes + 1) {
      if (!end_of_block) return;
      throw Unreadable{lines_.offset(), fmt::format("element {} has {} of the {} nodes of {}", element_[0],
                                                    element_.size() - 1, kind_->nodes, kind_->type)};
    }
    if (kind_->use == Use::shell) {
      mesh_.shapes.push_back(kind_->shape);
      mesh_.element_ids.push_back(element_[0]);
      mesh_.nodes.insert(mesh_.nodes.end(), element_.begin() + 1, element_.end());
    } else {
      line_ids_.push_back(element_[0]);
      const bool quadratic = kind_->nodes == 3;  // written first, middle, last
      lines_of_.push_back({element_[1], element_[quadratic ? 3 : 2], quadratic ? element_[2] : 0});
    }
    if (set_) set_->ids.push_back(element_[0]);
    element_.clear();
  }

  void read_set(const std::vector<std::string_view>& fields) {
    if (generate_) {
      if (fields.size() < 2) unreadable("a generated set needs a first and a last number");
      const std::int64_t from = whole(fields[0]), to = whole(fields[1]);
      const std::int64_t step = fields.size() > 2 && !fields[2].empty() ? whole(fields[2]) : 1;
      if (step <= 0 || from < 0 || to < from) unreadable("a generated set should run upwards from first to last");
      if ((to - from) / step > 100'000'000) unreadable("a generated set has more than 100 million members");
      generated_ += static_cast<std::size_t>((to - from) / step) + 1;
      if (generated_ > 400'000'000) unreadable("the generated sets have more than 400 million members");
      for (std::int64_t id = from; id <= to - step; id += step) set_->ids.push_back(id);
      set_->ids.push_back(from + (to - from) / step * step);
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

  /// Members of a set with those of the sets it names.
  std::vector<std::int64_t> members(const Sets& sets, const Set& of) const {
    std::vector<std::int64_t> out;
    std::vector<const Set*> open{&of};
    for (std::size_t k = 0; k < open.size(); ++k) {  // grows while it runs
      out.insert(out.end(), open[k]->ids.begin(), open[k]->ids.end());
      for (const std::string& name : open[k]->sets) {
        const auto found = sets.find(name);
        if (found == sets.end())
          findings_.warning("mesh.set-unknown",
                            fmt::format("set '{}' names a set '{}' that the file does not define", of.name, name),
                            Place::in(path_), "define it, or take its name out");
        else if (std::find(open.begin(), open.end(), &found->second) == open.end())
          open.push_back(&found->second);
      }
    }
    std::sort(out.begin(), out.end());
    out.erase(std::unique(out.begin(), out.end()), out.end());
    return out;
  }

  void gather_sets() {
    const IdMap nodes(mesh_.node_ids), elements(mesh_.element_ids), edges(line_ids_);
    for (const auto& [key, listed_set] : node_sets_) {
      RawMesh::RawGroup group{listed_set.name, 0, {}, {}, {}};
      for (const std::int64_t id : members(node_sets_, listed_set))
        if (nodes.find(id) != no_index) group.points.push_back(id);
      mesh_.groups.push_back(std::move(group));
    }
    for (const auto& [key, listed_set] : element_sets_) {
      RawMesh::RawGroup faces{listed_set.name, 2, {}, {}, {}}, curve{listed_set.name, 1, {}, {}, {}};
      for (const std::int64_t id : members(element_sets_, listed_set)) {
        if (const std::uint32_t e = elements.find(id); e != no_index) faces.elements.push_back(e);
        if (const std::uint32_t l = edges.find(id); l != no_index) curve.edges.push_back(lines_of_[l]);
      }
      if (!curve.edges.empty()) mesh_.groups.push_back(std::move(curve));
      if (!faces.elements.empty()) mesh_.groups.push_back(std::move(faces));
    }
  }

  Lines lines_;
  const std::string& path_;
  Findings& findings_;
  RawMesh mesh_;
  Block block_ = Block::none;
  bool generate_ = false, goes_on_ = false;
  const Kind* kind_ = &other_kind;
  std::vector<std::int64_t> element_;  ///< id and nodes of the one being read
  Set* set_ = nullptr;                 ///< the one that takes what is read
  Sets node_sets_, element_sets_;      ///< by name in capitals
  std::vector<std::int64_t> line_ids_;
  std::vector<std::array<std::int64_t, 3>> lines_of_;
  std::size_t generated_ = 0;
};

}  // namespace

bool is_keywords(std::string_view bytes) {
  Lines lines(bytes.substr(0, 100000));
  while (const auto line = lines.next()) {
    const std::string_view text = trimmed(*line);
    if (text.empty() || text.starts_with("**")) continue;
    return text.size() > 1 && text[0] == '*' && std::isalpha(static_cast<unsigned char>(text[1]));
  }
  return false;
}

Surface read_keywords(std::string_view bytes, const std::string& path, const ReadOptions& options, Findings& findings) {
  try {
    return build(Reader(bytes, path, findings).read(), path, options, findings);
  } catch (const Unreadable& trouble) {
    fail(trouble, bytes, path, false, "save the deck again, or repair this line");
  }
}

}  // namespace bordado::mesh
