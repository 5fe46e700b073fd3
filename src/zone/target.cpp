#include <bordado/zone.hpp>

#include <algorithm>
#include <limits>
#include <map>

namespace bordado::zone {

namespace {

using mesh::NodeIndex;

/// Pairs of neighbours along a curve, as edges of the mesh with their middle nodes.
std::vector<mesh::Edge> edges_along(const NamedCurve& curve, const mesh::Surface& surface) {
  std::map<std::array<NodeIndex, 2>, std::size_t> wanted;
  std::vector<mesh::Edge> out;
  for (const mesh::Curve& line : curve.lines)
    for (std::size_t i = 0; i + (line.closed ? 0 : 1) < line.nodes.size(); ++i) {
      const NodeIndex a = line.nodes[i], b = line.nodes[(i + 1) % line.nodes.size()];
      wanted.emplace(std::array{std::min(a, b), std::max(a, b)}, out.size());
      out.push_back({a, b});
    }
  if (wanted.empty()) return out;
  for (mesh::ElementIndex e = 0; e < surface.element_count(); ++e) {
    if (!mesh::is_quadratic(surface.shapes[e])) continue;
    const auto nodes = surface.nodes_of(e);
    const std::size_t corners = nodes.size() / 2;
    for (std::size_t i = 0; i < corners; ++i) {
      const NodeIndex a = nodes[i], b = nodes[(i + 1) % corners];
      const auto found = wanted.find({std::min(a, b), std::max(a, b)});
      if (found != wanted.end()) out[found->second].middle = nodes[corners + i];
    }
  }
  return out;
}

NodeIndex nearest_corner(const mesh::Surface& surface, const Vec3& point) {
  // Corner nodes only, so that the same place is taken whether the mesh is linear or quadratic.
  double best = std::numeric_limits<double>::infinity();
  NodeIndex node = 0;
  for (mesh::ElementIndex e = 0; e < surface.element_count(); ++e)
    for (const NodeIndex corner : surface.corners_of(e)) {
      const double distance = (surface.points[corner] - point).squaredNorm();
      if (distance > best || (distance == best && corner >= node)) continue;
      best = distance;
      node = corner;
    }
  return node;
}

}  // namespace

namespace {

/// What one name stands for, but for its nodes.
std::optional<Target> named(const std::string& name, const Curves& curves, const ZoneSets& zones,
                            const mesh::Surface& surface) {
  Target out;
  if (const auto zone = zones.find(name)) {
    out.elements = zones.elements(*zone);
  } else if (const mesh::Group* const edges = surface.group(name, 1)) {
    out.edges = edges->edges;
  } else if (const mesh::Group* const points = surface.group(name, 0)) {
    out.points = points->points;
  } else if (const NamedCurve* const curve = curves.find(name)) {
    out.edges = edges_along(*curve, surface);
  } else {
    return std::nullopt;
  }
  return out;
}

template <class Item, class Key>
void once(std::vector<Item>& items, Key key) {
  std::sort(items.begin(), items.end(), [&](const Item& a, const Item& b) { return key(a) < key(b); });
  items.erase(std::unique(items.begin(), items.end(), [&](const Item& a, const Item& b) { return key(a) == key(b); }),
              items.end());
}

void add(Target& all, const Target& more) {
  const auto itself = [](auto item) { return item; };
  all.points.insert(all.points.end(), more.points.begin(), more.points.end());
  all.edges.insert(all.edges.end(), more.edges.begin(), more.edges.end());
  all.elements.insert(all.elements.end(), more.elements.begin(), more.elements.end());
  once(all.points, itself);
  once(all.edges, [](const mesh::Edge& edge) {
    return std::array{std::min(edge.first, edge.second), std::max(edge.first, edge.second)};
  });
  once(all.elements, itself);
}

}  // namespace

std::optional<Target> target(const part::ActsOn& on, const Curves& curves, const ZoneSets& zones,
                             const mesh::Surface& surface) {
  if (const Vec3* const point = std::get_if<Vec3>(&on.what)) {
    const NodeIndex node = nearest_corner(surface, *point);
    return Target{{node}, {node}, {}, {}};
  }
  std::optional<Target> first = named(std::get<std::string>(on.what), curves, zones, surface);
  if (!first) return std::nullopt;
  Target out = std::move(*first);
  for (const auto& name : on.also) {
    const auto more = named(name.value, curves, zones, surface);
    if (!more) return std::nullopt;
    add(out, *more);
  }
  std::vector<std::uint8_t> meant(surface.points.size(), 0);
  for (const NodeIndex node : out.points) meant[node] = 1;
  for (const mesh::Edge& edge : out.edges)
    for (const NodeIndex node : {edge.first, edge.second, edge.middle})
      if (node != mesh::no_index) meant[node] = 1;
  for (const mesh::ElementIndex e : out.elements)
    for (const NodeIndex node : surface.nodes_of(e)) meant[node] = 1;
  for (NodeIndex node = 0; node < meant.size(); ++node)
    if (meant[node]) out.nodes.push_back(node);
  if (out.nodes.empty()) return std::nullopt;
  return out;
}

std::vector<std::string> targets(const Curves& curves, const ZoneSets& zones, const mesh::Surface& surface) {
  std::vector<std::string> out = zones.names.all();
  for (const mesh::Group& group : surface.groups)
    if (group.dimension < 2) out.push_back(group.name);
  for (const NamedCurve& curve : curves.all)
    if (std::find(out.begin(), out.end(), curve.name) == out.end()) out.push_back(curve.name);
  return out;
}

}  // namespace bordado::zone
