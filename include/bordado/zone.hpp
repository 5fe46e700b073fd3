/// \file zone.hpp
/// Declared zones as sets of elements.
#ifndef BORDADO_ZONE_HPP
#define BORDADO_ZONE_HPP

#include <bordado/mesh/curves.hpp>
#include <bordado/part.hpp>

#include <bit>
#include <map>
#include <memory>

namespace bordado::mesh {
struct Divided;
}

namespace bordado::zone {

/// A declared curve, or an edge group of the mesh: one line, or several where edges do not hang together.
struct NamedCurve {
  std::string name;
  std::vector<mesh::Curve> lines;  ///< longest first
};
struct Curves {
  std::vector<NamedCurve> all;
  const NamedCurve* find(std::string_view name) const;
};

/// Works out every curve: the declared ones, and each edge group of the mesh under its own name unless a declared curve
/// has it. \throws Failure "curve.nowhere" for all that cannot be found.
Curves curves(const part::Part& part, const mesh::Surface& surface, const mesh::Geometry& geometry);

/// What distances are measured from, for a name or a point: a curve, a zone (all its elements), a point group of the
/// mesh. Nothing where there is none of that name.
struct ZoneSets;
std::optional<mesh::Sources> sources(const part::PointOrName& spot, const Curves& curves, const ZoneSets& zones,
                                     const mesh::Surface& surface);

/// Position of a zone in ZoneSets; 0 is always "everything".
enum class ZoneId : std::uint32_t {};
inline constexpr ZoneId everything{0};

/// The line round a zone, in pieces: across elements where the zone's shape cuts them, otherwise along their sides.
struct Border {
  struct Piece {
    std::array<Vec3, 2> ends;
    mesh::ElementIndex inside, outside;  ///< the same element where the piece runs across it
    /// Of the surface that it is traced on: its nodes where it is a side of that.
    std::array<mesh::NodeIndex, 2> side{mesh::no_index, mesh::no_index};
    Vec3 inwards = Vec3::Zero();  ///< roughly: from the piece to a place in the zone
    bool is_side() const { return side[0] != mesh::no_index; }
  };
  std::vector<Piece> pieces;
  /// Per node of the surface that it is traced on: whether a corner of an element lies in the zone there.
  std::vector<std::uint8_t> inside;
};
/// The pieces as lines to measure from. \param traced the surface that it is traced on \param taken per piece whether it
/// counts; empty: all do.
std::vector<mesh::Curve> lines(const mesh::Surface& traced, const Border& border,
                               std::span<const std::uint8_t> taken = {});
/// Per piece of `border` whether a piece of `other` lies there with the zone on the same side.
std::vector<std::uint8_t> shared(const Border& border, const Border& other);

/// All zones of a part: the declared ones, and each element group of the mesh under its own name unless a declared zone
/// has it. Membership is a bit per zone and element, zone z in word z / 64.
struct ZoneSets {
  List<ZoneId, std::string> names;
  std::vector<std::vector<std::uint64_t>> words;  ///< words[w][element]
  List<ZoneId, std::size_t> counts;               ///< elements per zone
  List<ZoneId, double> element_areas;             ///< per zone: of its elements
  /// Per zone: of the shape as it is declared, cutting through elements. Group, facing direction, rows, pieces and ids
  /// mean whole elements.
  List<ZoneId, double> exact_areas;

  /// Of the zones whose edges plies move (part::Ply::edge, chamfers, ramps). The part's own border is none: plies end
  /// there with it.
  std::map<ZoneId, Border> borders;
  /// What borders are traced on where elements are too large for them: where a zone, or a gap in it, is narrower than two
  /// of them, or its outline turns within one.
  std::shared_ptr<const mesh::Divided> divided;
  const mesh::Surface& traced_on(const mesh::Surface& mesh) const;
  /// Elements of that surface that an element of the mesh became: from the first to before the second.
  std::array<mesh::ElementIndex, 2> pieces_of(mesh::ElementIndex element) const;
  /// For ramps from one zone to another: per piece of the first one's border whether the other lies beyond it.
  std::map<std::pair<ZoneId, ZoneId>, std::vector<std::uint8_t>> facing;
  /// For ramps: per piece of the first one's border whether the other's shape holds the place just within it, wherever
  /// elements end.
  std::map<std::pair<ZoneId, ZoneId>, std::vector<std::uint8_t>> behind;

  bool contains(ZoneId zone, mesh::ElementIndex element) const {
    return words[index(zone) / 64][element] >> (index(zone) % 64) & 1u;
  }
  /// All but "everything".
  Ids<ZoneId> declared() const { return names.ids(1); }
  /// Calls with(zone) for each zone that holds the element, ascending.
  template <class With>
  void for_each_of(mesh::ElementIndex element, With with) const {
    for (std::uint32_t w = 0; w < words.size(); ++w)
      for (std::uint64_t rest = words[w][element]; rest != 0; rest &= rest - 1)
        with(ZoneId{64 * w + static_cast<std::uint32_t>(std::countr_zero(rest))});
  }
  std::optional<ZoneId> find(std::string_view name) const;
  /// Elements of a zone, ascending.
  std::vector<mesh::ElementIndex> elements(ZoneId zone) const;
};

/// Works out every zone. An element that a shape (box, sphere, polygon, distance ...) covers in part belongs to it
/// where at least the zone's `share` of its area is covered; unions and the like are made of such elements. Findings:
/// "zone.unknown", "zone.group-unknown", "zone.circular", "zone.of-unknown", "zone.curve-open", "zone.element-unknown"
/// (errors), "zone.empty", "zone.element-ids" (warnings). \throws Failure with all errors.
ZoneSets zones(const part::Part& part, const mesh::Surface& surface, const mesh::Geometry& geometry,
               const Curves& curves, Findings& findings);
/// As above, with the part's own curves worked out for it.
ZoneSets zones(const part::Part& part, const mesh::Surface& surface, const mesh::Geometry& geometry,
               Findings& findings);

/// What something acts on.
struct Target {
  std::vector<mesh::NodeIndex> nodes;        ///< all, ascending
  std::vector<mesh::NodeIndex> points;       ///< single points
  std::vector<mesh::Edge> edges;             ///< of a curve or an edge group
  std::vector<mesh::ElementIndex> elements;  ///< of a zone, ascending
};
/// What a name stands for: a zone, an edge or point group of the mesh, or a curve that runs along edges of elements; of
/// a point the nearest corner node; of several names all that they stand for, each node, edge and element once. Nothing
/// where there is none of a name, or it holds no node.
std::optional<Target> target(const part::ActsOn& on, const Curves& curves, const ZoneSets& zones,
                             const mesh::Surface& surface);
/// Names that could have been meant.
std::vector<std::string> targets(const Curves& curves, const ZoneSets& zones, const mesh::Surface& surface);

/// The part of an element's area, 0 to 1, where a level, given at the nodes and straight in between (quadrilaterals as
/// four triangles round their middle), is not positive.
double covered_below(const mesh::Surface& surface, mesh::ElementIndex element, std::span<const double> level);
/// The mean over an element's area of what the level is below nought, up to `most`: of min(max(-level, 0), most).
double mean_depth(const mesh::Surface& surface, mesh::ElementIndex element, std::span<const double> level, double most);

}  // namespace bordado::zone

#endif
