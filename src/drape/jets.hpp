// Polynomials fitted to the nodes round a node.
#pragma once

#include <bordado/mesh/surface.hpp>

namespace bordado::drape {

/// The surface near a node: a height above a plane through it, as a polynomial of at most third degree.
struct Jet {
  Vec3 origin = Vec3::Zero(), u = Vec3::Zero(), v = Vec3::Zero(),
       w = Vec3::Zero();          ///< of the plane; w along its normal
  std::array<double, 9> terms{};  ///< of a, b, a², ab, b², a³, a²b, ab², b³

  double height(double a, double b) const {
    const auto& t = terms;
    return a * (t[0] + a * (t[2] + a * t[5] + b * t[6])) + b * (t[1] + a * t[3] + b * (t[4] + a * t[7] + b * t[8]));
  }
  /// The point of the surface above or below one.
  Vec3 lifted(const Vec3& point) const {
    const Vec3 d = point - origin;
    const double a = d.dot(u), b = d.dot(v);
    return origin + a * u + b * v + height(a, b) * w;
  }
  Vec3 normal() const { return (w - terms[0] * u - terms[1] * v).normalized(); }
  /// The larger of the principal curvatures at the node, as a number above nought.
  double curvature() const;
};

/// Elements round a node that hang together without a sharp edge or a border between them.
struct Fans {
  std::vector<std::uint32_t> of_corner;  ///< per element 4: the fan that a corner of it belongs to
  std::vector<std::uint32_t> first;      ///< fan f has elements[first[f]] .. elements[first[f + 1] - 1]
  std::vector<mesh::ElementIndex> elements;
  std::vector<mesh::NodeIndex> node;   ///< per fan
  std::vector<std::uint8_t> is_round;  ///< per fan: whether it goes all the way round its node
  std::size_t size() const { return node.size(); }
  std::span<const mesh::ElementIndex> elements_of(std::uint32_t fan) const {
    return {elements.data() + first[fan], elements.data() + first[fan + 1]};
  }
};

/// \param neighbours, sharp as SmoothSurface has them.
Fans fans(const mesh::Surface& surface, std::span<const std::uint32_t> neighbours, std::span<const std::uint8_t> sharp);

/// A fan and those within so many rings of elements round it, across no sharp edge; ascending.
void fans_around(const mesh::Surface& surface, const Fans& fans, std::uint32_t fan, int rings,
                 std::vector<std::uint32_t>& around);

/// One for each fan.
std::vector<Jet> jets(const mesh::Surface& surface, const mesh::Geometry& geometry, const Fans& fans);

}  // namespace bordado::drape
