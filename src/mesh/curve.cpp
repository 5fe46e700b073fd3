#include <bordado/mesh/curves.hpp>

#include <Eigen/Geometry>

#include <algorithm>
#include <cmath>
#include <queue>
#include <set>
#include <unordered_map>

namespace bordado::mesh {

NodeTable elements_at_nodes(const Surface& surface) {
  NodeTable out;
  out.first.assign(surface.points.size() + 1, 0);
  const auto count = static_cast<ElementIndex>(surface.element_count());
  for (ElementIndex e = 0; e < count; ++e)
    for (const NodeIndex n : surface.corners_of(e)) ++out.first[n + 1];
  for (std::size_t n = 0; n + 1 < out.first.size(); ++n) out.first[n + 1] += out.first[n];
  out.elements.resize(out.first.back());
  std::vector<std::uint32_t> next(out.first.begin(), out.first.end() - 1);
  for (ElementIndex e = 0; e < count; ++e)
    for (const NodeIndex n : surface.corners_of(e)) out.elements[next[n]++] = e;
  return out;
}

double length(const Curve& curve) {
  double sum = 0.0;
  for (std::size_t k = 0; k + 1 < curve.points.size(); ++k) sum += (curve.points[k + 1] - curve.points[k]).norm();
  if (curve.closed && curve.points.size() > 1) sum += (curve.points.front() - curve.points.back()).norm();
  return sum;
}

NodePairs free_edges(const Surface& surface) {
  const EdgeTable table = edges(surface);
  NodePairs out;
  for (std::size_t j = 0; j < table.size(); ++j)
    if (table.first[j + 1] - table.first[j] == 1) out.push_back(table.nodes[j]);
  return out;
}

NodePairs creases(const Surface& surface, const Geometry& geometry, Angle turn) {
  const EdgeTable table = edges(surface);
  NodePairs out;
  for (std::size_t j = 0; j < table.size(); ++j) {
    const std::uint32_t begin = table.first[j], end = table.first[j + 1];
    bool sharp = end - begin > 2;  // a junction turns whatever its angles
    if (end - begin == 2) {
      const auto &a = table.uses[begin], &b = table.uses[begin + 1];
      const double agree = a.forward != b.forward ? 1.0 : -1.0;  // neighbours of opposite sides
      const Vec3 &n = geometry.normals[a.element], m = agree * geometry.normals[b.element];
      sharp = std::atan2(n.cross(m).norm(), n.dot(m)) >= turn.radians();
    }
    if (sharp) out.push_back(table.nodes[j]);
  }
  return out;
}

NodePairs edges_among(const Surface& surface, std::span<const NodeIndex> nodes) {
  std::vector<std::uint8_t> member(surface.points.size(), 0);
  for (const NodeIndex n : nodes) member[n] = 1;
  const EdgeTable table = edges(surface);
  NodePairs out;
  for (const auto& pair : table.nodes)
    if (member[pair[0]] && member[pair[1]]) out.push_back(pair);
  return out;
}

namespace {

bool comes_first(const Vec3& a, const Vec3& b) {
  return std::lexicographical_compare(a.begin(), a.end(), b.begin(), b.end());
}

using Links = std::unordered_map<NodeIndex, std::vector<NodeIndex>>;

Links links_of(const NodePairs& edges) {
  Links out;
  for (const auto& [a, b] : edges) {
    out[a].push_back(b);
    out[b].push_back(a);
  }
  return out;
}

Curve curve_through(const Surface& surface, std::vector<NodeIndex> nodes, bool closed) {
  Curve out{{}, std::move(nodes), closed};
  if (closed) {
    // Begins at the node that comes first, and goes on to the neighbour of it that comes first.
    const auto first = std::min_element(out.nodes.begin(), out.nodes.end(), [&](NodeIndex a, NodeIndex b) {
      return comes_first(surface.points[a], surface.points[b]);
    });
    std::rotate(out.nodes.begin(), first, out.nodes.end());
    if (comes_first(surface.points[out.nodes.back()], surface.points[out.nodes[1]]))
      std::reverse(out.nodes.begin() + 1, out.nodes.end());
  } else if (comes_first(surface.points[out.nodes.back()], surface.points[out.nodes.front()])) {
    std::reverse(out.nodes.begin(), out.nodes.end());
  }
  for (const NodeIndex n : out.nodes) out.points.push_back(surface.points[n]);
  return out;
}

}  // namespace

std::vector<Curve> curves_of(const Surface& surface, const NodePairs& edges) {
  const Links links = links_of(edges);
  std::set<std::array<NodeIndex, 2>> left;
  for (const auto& [a, b] : edges) left.insert({std::min(a, b), std::max(a, b)});
  std::vector<Curve> out;
  const auto walk = [&](NodeIndex from, NodeIndex to) {
    std::vector<NodeIndex> nodes{from};
    for (;;) {
      left.erase({std::min(from, to), std::max(from, to)});
      nodes.push_back(to);
      const auto& next = links.at(to);
      if (next.size() != 2 || to == nodes.front()) return nodes;
      const NodeIndex on = next[0] == from ? next[1] : next[0];
      if (!left.contains({std::min(to, on), std::max(to, on)})) return nodes;
      from = to;
      to = on;
    }
  };
  for (const auto& [a, b] : edges)  // from ends and forks
    for (const auto& [from, to] : {std::pair(a, b), std::pair(b, a)})
      if (links.at(from).size() != 2 && left.contains({std::min(a, b), std::max(a, b)})) {
        std::vector<NodeIndex> nodes = walk(from, to);
        const bool closed = nodes.front() == nodes.back();
        if (closed) nodes.pop_back();
        out.push_back(curve_through(surface, std::move(nodes), closed));
      }
  while (!left.empty()) {  // loops
    const auto [a, b] = *left.begin();
    std::vector<NodeIndex> nodes = walk(a, b);
    nodes.pop_back();
    out.push_back(curve_through(surface, std::move(nodes), true));
  }
  std::stable_sort(out.begin(), out.end(), [](const Curve& a, const Curve& b) { return length(a) > length(b); });
  return out;
}

std::optional<Curve> way_along(const Surface& surface, const NodePairs& edges, const Vec3& from, const Vec3& to,
                               const std::optional<Vec3>& through) {
  const Links links = links_of(edges);
  if (links.empty()) return std::nullopt;
  const auto nearest = [&](const Vec3& point) {
    NodeIndex best = no_index;
    double distance = std::numeric_limits<double>::infinity();
    for (const auto& [n, others] : links) {
      const double d = (surface.points[n] - point).norm();
      if (d < distance || (d == distance && n < best)) {
        best = n;
        distance = d;
      }
    }
    return best;
  };
  const auto shortest = [&](NodeIndex start, NodeIndex end) -> std::vector<NodeIndex> {
    std::unordered_map<NodeIndex, std::pair<double, NodeIndex>> reached{{start, {0.0, no_index}}};
    std::priority_queue<std::pair<double, NodeIndex>, std::vector<std::pair<double, NodeIndex>>, std::greater<>> open;
    open.push({0.0, start});
    while (!open.empty()) {
      const auto [d, n] = open.top();
      open.pop();
      if (n == end) break;
      if (d > reached.at(n).first) continue;
      for (const NodeIndex m : links.at(n)) {
        const double next = d + (surface.points[m] - surface.points[n]).norm();
        const auto found = reached.find(m);
        if (found != reached.end() && found->second.first <= next) continue;
        reached[m] = {next, n};
        open.push({next, m});
      }
    }
    if (!reached.contains(end)) return {};
    std::vector<NodeIndex> nodes{end};
    while (nodes.back() != start) nodes.push_back(reached.at(nodes.back()).second);
    std::reverse(nodes.begin(), nodes.end());
    return nodes;
  };
  std::vector<NodeIndex> nodes;
  const NodeIndex start = nearest(from), end = nearest(to);
  if (through) {
    const NodeIndex middle = nearest(*through);
    nodes = shortest(start, middle);
    const std::vector<NodeIndex> rest = shortest(middle, end);
    if (nodes.empty() || rest.empty()) return std::nullopt;
    nodes.insert(nodes.end(), rest.begin() + 1, rest.end());
  } else {
    nodes = shortest(start, end);
  }
  if (nodes.size() < 2) return std::nullopt;
  Curve out{{}, std::move(nodes), false};
  for (const NodeIndex n : out.nodes) out.points.push_back(surface.points[n]);
  return out;
}

}  // namespace bordado::mesh
