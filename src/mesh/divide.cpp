#include <bordado/mesh/divide.hpp>

#include <algorithm>
#include <unordered_map>

namespace bordado::mesh {

namespace {

class Divider {
 public:
  Divider(const Surface& surface, std::span<const std::uint8_t> which) : old_(surface), which_(which) {
    out_.surface.file = surface.file;
    out_.surface.points = surface.points;
    out_.surface.node_ids = surface.node_ids;
    next_node_ = after(surface.node_ids);
    next_element_ = after(surface.element_ids);
  }

  Divided divide() {
    out_.first.assign(1, 0);
    out_.surface.first.assign(1, 0);
    for (ElementIndex e = 0; e < old_.element_count(); ++e)
      if (which_[e]) {
        const auto corners = old_.corners_of(e);
        for (std::size_t k = 0; k < corners.size(); ++k) halve(corners[k], corners[(k + 1) % corners.size()]);
      }
    for (ElementIndex e = 0; e < old_.element_count(); ++e) {
      if (which_[e])
        in_four(e);
      else
        beside(e);
      out_.first.push_back(static_cast<std::uint32_t>(out_.from.size()));
    }
    groups();
    return std::move(out_);
  }

 private:
  static std::int64_t after(const std::vector<std::int64_t>& ids) {
    return ids.empty() ? 1 : *std::max_element(ids.begin(), ids.end()) + 1;
  }
  static std::uint64_t key(NodeIndex a, NodeIndex b) { return (std::uint64_t{std::min(a, b)} << 32) | std::max(a, b); }

  NodeIndex add(const Vec3& point) {
    out_.surface.points.push_back(point);
    out_.surface.node_ids.push_back(next_node_++);
    return static_cast<NodeIndex>(out_.surface.points.size() - 1);
  }
  void halve(NodeIndex a, NodeIndex b) {
    const auto [found, is_new] = middles_.try_emplace(key(a, b), no_index);
    if (is_new) found->second = add(0.5 * (old_.points[a] + old_.points[b]));
  }
  NodeIndex middle(NodeIndex a, NodeIndex b) const {
    const auto found = middles_.find(key(a, b));
    return found == middles_.end() ? no_index : found->second;
  }
  NodeIndex centre(ElementIndex e) {
    const auto corners = old_.corners_of(e);
    Vec3 sum = Vec3::Zero();
    for (const NodeIndex n : corners) sum += old_.points[n];
    return add(sum / static_cast<double>(corners.size()));
  }
  void element(ElementIndex from, std::initializer_list<NodeIndex> corners) {
    Surface& s = out_.surface;
    const bool again = !out_.from.empty() && out_.from.back() == from;
    s.element_ids.push_back(again ? next_element_++ : old_.element_ids[from]);
    s.shapes.push_back(corners.size() == 3 ? Shape::triangle3 : Shape::quadrilateral4);
    s.nodes.insert(s.nodes.end(), corners);
    s.first.push_back(static_cast<std::uint32_t>(s.nodes.size()));
    out_.from.push_back(from);
  }

  void in_four(ElementIndex e) {
    const auto c = old_.corners_of(e);
    const std::size_t n = c.size();
    const auto half = [&](std::size_t k) { return middle(c[k % n], c[(k + 1) % n]); };
    if (n == 4) {
      const NodeIndex inner = centre(e);
      for (std::size_t k = 0; k < 4; ++k) element(e, {c[k], half(k), inner, half(k + 3)});
      return;
    }
    for (std::size_t k = 0; k < 3; ++k) element(e, {c[k], half(k), half(k + 2)});
    element(e, {half(0), half(1), half(2)});
  }

  /// As it is, or, where a neighbour is divided, triangles round its middle.
  void beside(ElementIndex e) {
    const auto c = old_.corners_of(e);
    std::vector<NodeIndex> round;
    for (std::size_t k = 0; k < c.size(); ++k) {
      round.push_back(c[k]);
      if (const NodeIndex n = middle(c[k], c[(k + 1) % c.size()]); n != no_index) round.push_back(n);
    }
    if (round.size() == c.size())
      return c.size() == 4 ? element(e, {c[0], c[1], c[2], c[3]}) : element(e, {c[0], c[1], c[2]});
    const NodeIndex inner = centre(e);
    for (std::size_t k = 0; k < round.size(); ++k) element(e, {round[k], round[(k + 1) % round.size()], inner});
  }

  void groups() {
    for (const Group& group : old_.groups) {
      Group own{group.name, group.dimension, group.points, {}, {}};
      for (const Edge& edge : group.edges) {
        const NodeIndex half = middle(edge.first, edge.second);
        if (half == no_index) {
          own.edges.push_back({edge.first, edge.second});
        } else {
          own.edges.push_back({edge.first, half});
          own.edges.push_back({half, edge.second});
        }
      }
      for (const ElementIndex e : group.elements)
        for (ElementIndex f = out_.first[e]; f < out_.first[e + 1]; ++f) own.elements.push_back(f);
      out_.surface.groups.push_back(std::move(own));
    }
  }

  const Surface& old_;
  std::span<const std::uint8_t> which_;
  Divided out_;
  std::unordered_map<std::uint64_t, NodeIndex> middles_;
  std::int64_t next_node_, next_element_;
};

}  // namespace

Divided divided(const Surface& surface, std::span<const std::uint8_t> which) {
  return Divider(surface, which).divide();
}

Divided divided(const Divided& once, std::span<const std::uint8_t> which) {
  Divided out = Divider(once.surface, which).divide();
  for (ElementIndex& from : out.from) from = once.from[from];
  std::vector<std::uint32_t> first;
  for (const std::uint32_t f : once.first) first.push_back(out.first[f]);
  out.first = std::move(first);
  return out;
}

}  // namespace bordado::mesh
