#include "masses.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <map>

namespace bordado::layup {

namespace {

class Masses : Laying {
 public:
  explicit Masses(const Laying& on) : Laying(on) {}

  void add() {
    if (part.masses.empty()) return;
    layup.added_mass.assign(surface.element_count(), 0.0);
    for (const part::Mass& mass : part.masses) {
      const auto target = zone::target(mass.on, layup.curves, layup.zones, surface);
      if (!target) {
        unknown(mass);
        continue;
      }
      if (target->elements.empty() + target->edges.empty() + target->points.empty() < 2) {
        wrong(mass, "what it lies on together is of several kinds", "name zones, or edges, or points: a mass for each");
      } else if (mass.per == part::Mass::Per::area && target->elements.empty()) {
        wrong(mass, "a mass per area lies on a zone, not on points or edges", "name a zone, or say total = \"2 kg\"");
      } else if (mass.per == part::Mass::Per::length && target->edges.empty()) {
        wrong(mass, "a mass per length lies on an edge group or curve", "name one, or say total = \"2 kg\"");
      } else {
        lay(mass, *target);
      }
    }
  }

 private:
  void unknown(const part::Mass& mass) {
    const std::vector<std::string> known = zone::targets(layup.curves, layup.zones, surface);
    std::vector<Declared<std::string>> names = mass.on.also;
    if (const auto* const name = std::get_if<std::string>(&mass.on.what)) names.push_back({*name, mass.on.where});
    for (const auto& name : names) {
      if (zone::target({{name.value, name.where}}, layup.curves, layup.zones, surface)) continue;
      const auto near = nearest_name(name.value, known);
      errors.error("mass.on-unknown",
                   fmt::format("[mass.{}]: '{}' is no zone, curve or group of the mesh", mass.name, name.value),
                   name.where,
                   near ? fmt::format("did you mean '{}'?", *near) : fmt::format("known: {}", listed(known, 20)));
    }
  }
  void wrong(const part::Mass& mass, std::string_view what, std::string remedy) {
    errors.error("mass.on-kind", fmt::format("[mass.{}]: {}", mass.name, what), mass.on.where, std::move(remedy));
  }

  /// Shares by area; what lies on a line or a point goes to the elements that touch it, in proportion to their part of
  /// it.
  void lay(const part::Mass& mass, const zone::Target& target) {
    std::map<mesh::ElementIndex, double> shares;
    double whole = 0.0;
    const auto give = [&](mesh::ElementIndex e, double share) {
      shares[e] += share;
      whole += share;
    };
    for (const mesh::ElementIndex e : target.elements) give(e, geometry.areas[e]);
    if (target.elements.empty()) touch(target, give);
    if (!(whole > 0.0)) {
      wrong(mass, "what it lies on has no length or area", "name something that has");
      return;
    }
    const double total = mass.per == part::Mass::Per::total ? mass.value : mass.value * whole;
    for (const auto& [e, share] : shares) layup.added_mass[e] += total * share / whole / geometry.areas[e];
  }

  template <class Give>
  void touch(const zone::Target& target, Give give) {
    std::map<std::array<mesh::NodeIndex, 2>, std::vector<mesh::ElementIndex>> beside;
    std::map<mesh::NodeIndex, std::vector<mesh::ElementIndex>> round;
    for (const mesh::Edge& edge : target.edges) beside[key(edge.first, edge.second)];
    for (const mesh::NodeIndex node : target.points) round[node];
    for (mesh::ElementIndex e = 0; e < surface.element_count(); ++e) {
      const auto corners = surface.corners_of(e);
      for (std::size_t i = 0; i < corners.size(); ++i) {
        if (const auto at = round.find(corners[i]); at != round.end()) at->second.push_back(e);
        const auto found = beside.find(key(corners[i], corners[(i + 1) % corners.size()]));
        if (found != beside.end()) found->second.push_back(e);
      }
    }
    for (const mesh::Edge& edge : target.edges) {
      const auto lengths = mesh::nodal_lengths(surface, edge);
      const auto& elements = beside[key(edge.first, edge.second)];
      for (const mesh::ElementIndex e : elements)
        give(e, (lengths[0] + lengths[1] + lengths[2]) / static_cast<double>(elements.size()));
    }
    // Of a point by area, so that what touches it is loaded alike.
    for (const auto& [node, elements] : round) {
      double area = 0.0;
      for (const mesh::ElementIndex e : elements) area += geometry.areas[e];
      for (const mesh::ElementIndex e : elements) give(e, geometry.areas[e] / area);
    }
  }

  static std::array<mesh::NodeIndex, 2> key(mesh::NodeIndex a, mesh::NodeIndex b) {
    return {std::min(a, b), std::max(a, b)};
  }
};

}  // namespace

void add_masses(const Laying& on) { Masses(on).add(); }

}  // namespace bordado::layup
