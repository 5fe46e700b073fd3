#include <bordado/frame.hpp>

#include <Eigen/Geometry>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace bordado::frame {

namespace {

std::string point(const Vec3& p) { return fmt::format("({:.4g}, {:.4g}, {:.4g})", p.x(), p.y(), p.z()); }

std::string spot(const part::PointOrName& spot) {
  if (const auto* const at = std::get_if<Vec3>(&spot.what)) return point(*at);
  return fmt::format("'{}'", std::get<std::string>(spot.what));
}

struct Teller {
  const part::Part& part;
  const mesh::Geometry& geometry;
  const Field& field;
  mesh::ElementIndex element;

  std::string length(double value) const { return fmt::format("{:.4g} {}", value, part.units.unit(Dimension::length)); }
  std::string from_normal(const Vec3& vector) const {
    const Vec3& n = geometry.normals[element];
    return fmt::format("{:.1f}° from the normal",
                       Angle::radians(std::atan2(n.cross(vector).norm(), std::abs(n.dot(vector)))).degrees());
  }
  std::string doubt() const { return fmt::format("doubt {:.3f}", field.doubt[element]); }

  std::string operator()(const part::ProjectedVector& kind) const {
    return fmt::format("the vector {}, {}, laid onto the surface", point(kind.vector), from_normal(kind.vector));
  }
  std::string operator()(const part::Cylindrical& kind) const {
    const Vec3 off = geometry.centres[element] - kind.through;
    const double radius = (off - off.dot(kind.along) * kind.along).norm();
    constexpr std::string_view takes[] = {"along", "round", "away from"};
    return fmt::format("{} the axis through {} along {}, {} from it", takes[static_cast<int>(kind.take)],
                       point(kind.through), point(kind.along), length(radius));
  }
  std::string operator()(const part::Spherical& kind) const {
    constexpr std::string_view takes[] = {"towards the pole", "round the pole", "away from the centre"};
    return fmt::format("{}, seen from the centre {}, {} from it", takes[static_cast<int>(kind.take)],
                       point(kind.centre), length((geometry.centres[element] - kind.centre).norm()));
  }
  std::string operator()(const part::AsMeshedSide&) const {
    return "the element's side 1-2, as the mesher left it: not after a new mesh";
  }
  std::string operator()(const part::AxisSystem& kind) const {
    const Vec3 axis = kind.take == 0 ? kind.x : kind.take == 1 ? kind.y : Vec3(kind.x.cross(kind.y));
    return fmt::format("axis {} = {} of its system, {}, laid onto the surface", "xyz"[kind.take], point(axis),
                       from_normal(axis));
  }
  std::string operator()(const part::AlongCurves& kind) const {
    std::vector<std::string> names;
    for (const auto& name : kind.curves) names.push_back("'" + name.value + "'");
    return fmt::format("carried over {} of surface from {} {}, {}", length(field.distance[element]),
                       names.size() == 1 ? "curve" : "curves", listed(names), doubt());
  }
  std::string operator()(const part::GuideSurface& kind) const {
    return fmt::format("from the nearest place of guide surface '{}', {} away, where it is carried from edge '{}'; {}",
                       kind.file.value, length(field.distance[element]), kind.edge, doubt());
  }
  std::string operator()(const part::Blend& kind) const {
    const double s = std::clamp(field.distance[element] / kind.over, 0.0, 1.0);
    return fmt::format("{:.0f} % of the way from frame '{}' to '{}': {} from {}, over {}", 100 * s * s * (3 - 2 * s),
                       kind.from.value, kind.to.value, length(field.distance[element]), spot(kind.start),
                       length(kind.over));
  }
  std::string operator()(const part::Mapped& kind) const {
    const std::string fit = std::holds_alternative<part::Rigid>(kind.position)
                                ? std::string()
                                : fmt::format(", fitted to {}", length(field.fit.value_or(0.0)));
    return fmt::format("mapped from {}'{}'{}, {} away, {}", kind.field.empty() ? "" : "field '" + kind.field + "' of ",
                       kind.file.value, fit, length(field.distance[element]), doubt());
  }
};

}  // namespace

std::string explain(const part::Frame& frame, const part::Part& part, const mesh::Geometry& geometry,
                    const Field& field, mesh::ElementIndex element) {
  std::string out = std::visit(Teller{part, geometry, field, element}, frame.kind);
  if (std::binary_search(field.fallen_back.begin(), field.fallen_back.end(), element))
    out = fmt::format("the fallback {}, since there is no direction here otherwise ({})", point(*frame.fallback), out);
  if (frame.turn.degrees() != 0.0) out += fmt::format("; turned by {:g}°", frame.turn.degrees());
  if (const auto* const by = std::get_if<part::TurnByDistance>(&frame.turns))
    out += fmt::format("; turned by its table over the distance from {}", spot(by->of));
  if (const auto* const by = std::get_if<part::TurnByField>(&frame.turns))
    out += fmt::format("; turned by field '{}' of '{}'", by->field, by->file.value);
  return out;
}

}  // namespace bordado::frame
