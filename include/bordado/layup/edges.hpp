/// \file edges.hpp
/// Where the edges of plies run, as levels at the nodes.
#ifndef BORDADO_LAYUP_EDGES_HPP
#define BORDADO_LAYUP_EDGES_HPP

#include <bordado/layup/edge_shapes.hpp>

#include <bordado/layup.hpp>

namespace bordado::layup {

/// Levels of the regions of one zone, at the nodes of the surface that borders are traced on. Distances from each part of
/// its border are worked out once.
class EdgeLevels {
 public:
  /// \param mesh the part's \param reach levels are told to this distance from nought and cut off beyond.
  EdgeLevels(const Layup& layup, const mesh::Surface& mesh, zone::ZoneId zone, double reach);

  std::vector<double> of(const Region& region);

  /// Works out the distances that of() a region asks for: those of several zones side by side, each in a thread of its own.
  void work_out(const Region& region) { parts_of(region); }

  /// Distances of all nodes from the border, or from what a ramp runs along; infinite beyond reach.
  const std::vector<double>& distances(std::optional<RampId> ramp);
  bool inside(mesh::NodeIndex node) const { return border_.inside[node] != 0; }

 private:
  const std::vector<double>& from(const std::vector<std::uint8_t>& pieces);

  const Layup& layup_;
  const mesh::Surface& surface_;
  const zone::Border& border_;
  zone::ZoneId zone_;
  double reach_;
  /// Distances from the parts of the border along which the edge is moved by one amount, and by how much.
  std::vector<std::pair<const std::vector<double>*, double>> parts_of(const Region& region);
  std::vector<double> moved(const Region& region);
  const Outline& outline();

  std::map<std::string, std::vector<double>> made_;  ///< by pieces
  std::optional<Outline> outline_;
};

/// How far the edge of a region lies from the border of its zone at the most.
double far_of(const Region& region);

/// Elements that a region covers, wholly or in part, ascending: what a ply is cut to, also where it has run out to nothing.
std::vector<mesh::ElementIndex> covered_by(const Layup& layup, RegionId region);

/// Length of the line within an element where a level, straight in between, is nought.
double line_length(const mesh::Surface& surface, mesh::ElementIndex element, std::span<const double> level);

}  // namespace bordado::layup

#endif
