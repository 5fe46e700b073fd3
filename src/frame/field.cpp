#include "../base/arena.hpp"
#include "carry.hpp"
#include "mapped.hpp"

#include <bordado/base/text.hpp>
#include <bordado/base/work.hpp>

#include <Eigen/Geometry>

#include <fmt/format.h>
#include <tbb/parallel_invoke.h>

#include <algorithm>
#include <cmath>
#include <exception>

namespace bordado::frame {

std::optional<Vec3> projected(const Vec3& vector, const Vec3& normal) {
  const double length = vector.norm();
  if (!(length > 0.0)) return std::nullopt;
  const Vec3 in_plane = vector / length - (vector.dot(normal) / length) * normal;
  const double sine = in_plane.norm();  // of the angle between vector and normal
  if (!(sine >= least_angle_to_normal.sin())) return std::nullopt;
  return Vec3(in_plane / sine);
}

Vec3 turned(const Vec3& r, const Vec3& normal, Angle angle) {
  if (angle == Angle()) return r;
  return angle.cos() * r + angle.sin() * normal.cross(r);
}

Angle between(const Vec3& r, const Vec3& d, const Vec3& normal) {
  return Angle::radians(std::atan2(normal.cross(r).dot(d), r.dot(d)));
}

namespace {

template <class Body>
std::exception_ptr caught(Body body) {
  try {
    body();
  } catch (...) {
    return std::current_exception();
  }
  return {};
}

/// What a kind of frame has to go by at one element.
struct AtElement {
  const Surroundings& around;
  mesh::ElementIndex element;
  const Vec3& centre() const { return around.geometry.centres[element]; }
};

// The vector that each kind projects on the element's plane; zero where it has none.

Vec3 vector_at(const part::ProjectedVector& kind, const AtElement&) { return kind.vector; }

Vec3 vector_at(const part::Cylindrical& kind, const AtElement& spot) {
  const Vec3 from_axis = spot.centre() - kind.through;
  switch (kind.take) {
    case part::Cylindrical::Take::axial:
      return kind.along;
    case part::Cylindrical::Take::hoop:
      return kind.along.cross(from_axis);
    case part::Cylindrical::Take::radial:
      break;
  }
  return from_axis - from_axis.dot(kind.along) * kind.along;
}

Vec3 vector_at(const part::Spherical& kind, const AtElement& spot) {
  const Vec3 outward = spot.centre() - kind.centre;
  switch (kind.take) {
    case part::Spherical::Take::meridian:
      return outward.cross(kind.pole).cross(outward);
    case part::Spherical::Take::parallel:
      return kind.pole.cross(outward);
    case part::Spherical::Take::radial:
      break;
  }
  return outward;
}

Vec3 vector_at(const part::AsMeshedSide&, const AtElement& spot) {
  const mesh::Surface& surface = spot.around.surface;
  const auto corners = surface.corners_of(spot.element);
  const bool turned = !surface.turned.empty() && surface.turned[spot.element] != 0;
  return surface.points[corners[turned ? 0 : 1]] - surface.points[corners[turned ? 1 : 0]];
}

Vec3 vector_at(const part::AxisSystem& kind, const AtElement&) {
  return kind.take == 0 ? kind.x : kind.take == 1 ? kind.y : Vec3(kind.x.cross(kind.y));
}

/// The vectors of all elements, for kinds that work on the whole surface at once.
class Maker {
 public:
  Maker(const part::Frame& frame, const Surroundings& around, Findings& findings,
        std::vector<const part::Frame*> making)
      : frame_(frame), around_(around), findings_(findings), making_(std::move(making)) {
    making_.push_back(&frame);
  }

  Field make() {
    Field out;
    std::vector<Vec3> vectors = std::visit([&](const auto& kind) { return vectors_of(kind, out); }, frame_.kind);
    const std::vector<double> turns = std::visit([&](const auto& kind) { return turns_of(kind); }, frame_.turns);
    const std::vector<Vec3>& normals = around_.geometry.normals;
    const std::size_t count = normals.size();
    out.directions.assign(count, Vec3::Zero());
    enum : std::uint8_t { regular, fallen_back, undefined };
    std::vector<std::uint8_t> state(count, regular);
    parallel_blocks(count, [&](std::size_t begin, std::size_t end) {
      for (std::size_t e = begin; e < end; ++e) {
        const Vec3& normal = normals[e];
        const bool has_normal = normal.squaredNorm() > 0.5;  // an element without area has none
        auto d = has_normal ? projected(vectors[e], normal) : std::nullopt;
        if (!d && has_normal && frame_.fallback) {
          d = projected(*frame_.fallback, normal);
          state[e] = fallen_back;
        }
        if (d)
          out.directions[e] = turned(*d, normal, turns.empty() ? frame_.turn : frame_.turn + Angle::degrees(turns[e]));
        else
          state[e] = undefined;
      }
    });
    for (mesh::ElementIndex e = 0; e < count; ++e) {
      if (state[e] == fallen_back) out.fallen_back.push_back(e);
      if (state[e] == undefined) out.undefined.push_back(e);
    }
    return out;
  }

 private:
  /// Kinds that look at one element at a time.
  template <class Kind>
  std::vector<Vec3> vectors_of(const Kind& kind, Field&) const {
    std::vector<Vec3> out(around_.geometry.normals.size());
    parallel_blocks(out.size(), [&](std::size_t begin, std::size_t end) {
      for (std::size_t e = begin; e < end; ++e) out[e] = vector_at(kind, {around_, static_cast<mesh::ElementIndex>(e)});
    });
    return out;
  }

  std::vector<Vec3> vectors_of(const part::AlongCurves& kind, Field& field) const {
    std::vector<mesh::Curve> lines;
    Findings errors;
    for (const auto& name : kind.curves) {
      const zone::NamedCurve* const curve = around_.curves.find(name.value);
      if (curve)
        lines.insert(lines.end(), curve->lines.begin(), curve->lines.end());
      else
        errors.error("frame.of-unknown", fmt::format("frame '{}': there is no curve '{}'", frame_.name, name.value),
                     name.where, known_curves(name.value));
    }
    errors.throw_if_errors();
    Carried carried;
    std::vector<double> distances;  // on one core, beside the other
    in_arena([&] {
      tbb::parallel_invoke([&] { carried = carry(around_.surface, around_.geometry, lines); },
                           [&] { distances = mesh::distances(around_.surface, {.curves = lines}); });
    });
    field.doubt = std::move(carried.doubt);
    field.distance = at_centres(distances);
    return std::move(carried.directions);
  }

  std::vector<Vec3> vectors_of(const part::GuideSurface& kind, Field& field) const { return taken(kind, field); }
  std::vector<Vec3> vectors_of(const part::Mapped& kind, Field& field) const { return taken(kind, field); }

  template <class Kind>
  std::vector<Vec3> taken(const Kind& kind, Field& field) const {
    Transfer transferred = transfer(kind, frame_, around_, findings_);
    field.distance = std::move(transferred.distance);
    field.doubt = std::move(transferred.doubt);
    field.fit = transferred.fit;
    return std::move(transferred.vectors);
  }

  std::vector<Vec3> vectors_of(const part::Blend& kind, Field& field) const {
    Field from, to;
    std::vector<double> distance;
    std::exception_ptr no_frame, no_distance;  // whichever is found first, the same one is told
    in_arena([&] {
      tbb::parallel_invoke([&] { no_frame = caught([&] { from = named(kind.from), to = named(kind.to); }); },
                           [&] { no_distance = caught([&] { distance = at_centres(distances_from(kind.start)); }); });
    });
    if (no_frame) std::rethrow_exception(no_frame);
    if (no_distance) std::rethrow_exception(no_distance);
    std::vector<Vec3> out(around_.geometry.normals.size(), Vec3::Zero());
    parallel_blocks(out.size(), [&](std::size_t begin, std::size_t end) {
      for (std::size_t e = begin; e < end; ++e) {
        const Vec3 &a = from.directions[e], &b = to.directions[e];
        if (a.isZero() || b.isZero()) continue;
        // Smoothly, so that fibres have no kink at either end: 3 s^2 - 2 s^3.
        const double s = std::clamp(distance[e] / kind.over, 0.0, 1.0), weight = s * s * (3.0 - 2.0 * s);
        const Vec3& normal = around_.geometry.normals[e];
        out[e] = turned(a, normal, Angle::degrees(weight * between(a, b, normal).degrees()));
      }
    });
    field.distance = distance;
    return out;
  }

  Field named(const Declared<std::string>& name) const {
    const auto& all = around_.part.frames;
    const auto found = std::find_if(all.begin(), all.end(), [&](const part::Frame& f) { return f.name == name.value; });
    if (found == all.end()) {
      std::vector<std::string> names;
      for (const part::Frame& frame : all) names.push_back(frame.name);
      const auto near = nearest_name(name.value, names);
      throw Failure({Severity::error, "frame.unknown",
                     fmt::format("frame '{}': there is no frame '{}'", frame_.name, name.value), name.where,
                     near ? fmt::format("did you mean '{}'?", *near) : fmt::format("frames: {}", listed(names, 20))});
    }
    if (std::find(making_.begin(), making_.end(), &*found) != making_.end())
      throw Failure({Severity::error, "frame.circular",
                     fmt::format("frame '{}' is blended from '{}', which is made from it", frame_.name, name.value),
                     name.where, "break the circle"});
    constexpr std::size_t deepest = 50;
    if (making_.size() > deepest)
      throw Failure({Severity::error, "frame.too-deep",
                     fmt::format("frame '{}' is blended from others by way of more than {}", frame_.name, deepest),
                     name.where, "blend in fewer steps"});
    std::optional<Field>* const made = around_.made ? &(*around_.made)[part::FrameId(found - all.begin())] : nullptr;
    if (made && *made) return **made;
    Field field = Maker(*found, around_, findings_, making_).make();
    if (made) *made = field;
    return field;
  }

  std::vector<double> distances_from(const part::PointOrName& spot) const {
    const auto from = zone::sources(spot, around_.curves, around_.zones, around_.surface);
    if (from) return mesh::distances(around_.surface, *from);
    const auto& name = std::get<std::string>(spot.what);
    throw Failure({Severity::error, "frame.of-unknown",
                   fmt::format("frame '{}': there is no curve or zone '{}'", frame_.name, name), spot.where,
                   known_curves(name)});
  }

  std::string known_curves(const std::string& name) const {
    std::vector<std::string> known = around_.zones.names.all();
    for (const zone::NamedCurve& curve : around_.curves.all) known.push_back(curve.name);
    const auto near = nearest_name(name, known);
    return near ? fmt::format("did you mean '{}'?", *near) : fmt::format("known: {}", listed(known, 20));
  }

  /// Mean of the corners.
  std::vector<double> at_centres(const std::vector<double>& at_nodes) const {
    std::vector<double> out(around_.surface.element_count(), 0.0);
    parallel_blocks(out.size(), [&](std::size_t begin, std::size_t end) {
      for (std::size_t e = begin; e < end; ++e) {
        const auto corners = around_.surface.corners_of(static_cast<mesh::ElementIndex>(e));
        for (const mesh::NodeIndex n : corners) out[e] += at_nodes[n] / static_cast<double>(corners.size());
      }
    });
    return out;
  }

  // Turning in degrees per element; empty where there is none.
  std::vector<double> turns_of(const std::monostate&) const { return {}; }
  std::vector<double> turns_of(const part::TurnByField& kind) const {
    return transfer(kind, frame_, around_, findings_);
  }
  std::vector<double> turns_of(const part::TurnByDistance& kind) const {
    std::vector<std::pair<double, double>> table;
    for (const auto& [distance, angle] : kind.table) table.emplace_back(distance, angle.degrees());
    std::vector<double> out = at_centres(distances_from(kind.of));
    for (double& value : out) value = in_table(table, value);
    return out;
  }

  const part::Frame& frame_;
  const Surroundings& around_;
  Findings& findings_;
  std::vector<const part::Frame*> making_;  ///< this one and those it is made for
};

}  // namespace

Field field(const part::Frame& frame, const Surroundings& around, Findings& findings) {
  return Maker(frame, around, findings, {}).make();
}

Field field(const part::Frame& frame, const mesh::Surface& surface, const mesh::Geometry& geometry) {
  const part::Part part;
  const zone::Curves curves;
  const zone::ZoneSets zones;
  Findings ignored;
  return field(frame, {part, surface, geometry, curves, zones}, ignored);
}

}  // namespace bordado::frame
