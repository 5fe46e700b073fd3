#include "jets.hpp"
#include "margin.hpp"

#include <bordado/base/work.hpp>

#include <Eigen/Dense>

#include <algorithm>
#include <cmath>
#include <limits>

namespace bordado::drape {

namespace {

/// Values, derivatives and second derivatives (by xi xi, xi eta, eta eta) of quadratic Lagrange functions: corners,
/// middles of sides, the centre.
struct Functions {
  double value[9], by_xi[9], by_eta[9];
};

void triangle(double x, double y, Functions& f) {
  const double z = 1.0 - x - y;
  const double value[] = {z * (2 * z - 1), x * (2 * x - 1), y * (2 * y - 1), 4 * x * z, 4 * x * y, 4 * y * z};
  const double by_xi[] = {1 - 4 * z, 4 * x - 1, 0, 4 * (z - x), 4 * y, -4 * y};
  const double by_eta[] = {1 - 4 * z, 0, 4 * y - 1, -4 * x, 4 * x, 4 * (z - y)};
  std::copy(value, value + 6, f.value);
  std::copy(by_xi, by_xi + 6, f.by_xi);
  std::copy(by_eta, by_eta + 6, f.by_eta);
}

void quadrilateral(double x, double y, Functions& f) {
  const double a[] = {0.5 * x * (x - 1), 0.5 * x * (x + 1), 1 - x * x}, da[] = {x - 0.5, x + 0.5, -2 * x};
  const double b[] = {0.5 * y * (y - 1), 0.5 * y * (y + 1), 1 - y * y}, db[] = {y - 0.5, y + 0.5, -2 * y};
  static constexpr int i[] = {0, 1, 1, 0, 2, 1, 2, 0, 2}, j[] = {0, 0, 1, 1, 0, 2, 1, 2, 2};
  for (int k = 0; k < 9; ++k) {
    f.value[k] = a[i[k]] * b[j[k]];
    f.by_xi[k] = da[i[k]] * b[j[k]];
    f.by_eta[k] = a[i[k]] * db[j[k]];
  }
}

}  // namespace

SmoothSurface::Sample SmoothSurface::at(const Spot& spot) const {
  Functions f;
  const bool is_triangle = corners[spot.element] == 3;
  if (is_triangle)
    triangle(spot.xi, spot.eta, f);
  else
    quadrilateral(spot.xi, spot.eta, f);
  const Vec3* const p = control.data() + 9 * static_cast<std::size_t>(spot.element);
  Sample out{Vec3::Zero(), Vec3::Zero(), Vec3::Zero()};
  const int count = is_triangle ? 6 : 9;
  for (int k = 0; k < count; ++k) {
    out.point += f.value[k] * p[k];
    out.by_xi += f.by_xi[k] * p[k];
    out.by_eta += f.by_eta[k] * p[k];
  }
  return out;
}

std::optional<SmoothSurface::Outside> SmoothSurface::outside(const Spot& spot) const {
  Outside out{0, 0.0};
  const auto past = [&](unsigned side, double by) {
    if (by > out.by) out = {side, by};
  };
  if (corners[spot.element] == 3) {
    past(0, -spot.eta);
    past(1, spot.xi + spot.eta - 1.0);
    past(2, -spot.xi);
  } else {
    past(0, -1.0 - spot.eta);
    past(1, spot.xi - 1.0);
    past(2, spot.eta - 1.0);
    past(3, -1.0 - spot.xi);
  }
  if (out.by > 0.0) return out;
  return std::nullopt;
}

Spot SmoothSurface::on_facet(mesh::ElementIndex element, const Vec3& point) const {
  const Vec3* const p = control.data() + 9 * static_cast<std::size_t>(element);
  const auto solved = [](const Vec3& a, const Vec3& b, const Vec3& d) {
    const double aa = a.squaredNorm(), ab = a.dot(b), bb = b.squaredNorm(), det = aa * bb - ab * ab;
    if (!(det > 1e-24 * aa * bb)) return std::array{0.0, 0.0};
    const double da = d.dot(a), db = d.dot(b);
    return std::array{(da * bb - db * ab) / det, (db * aa - da * ab) / det};
  };
  if (corners[element] == 3) {
    const auto [xi, eta] = solved(p[1] - p[0], p[2] - p[0], point - p[0]);
    return {element, xi, eta};
  }
  // From the middle, by the plane that touches there; then again from where that leads, as far as it is inside.
  const Vec3 middle = 0.25 * (p[0] + p[1] + p[2] + p[3]), a = 0.25 * (p[1] + p[2] - p[0] - p[3]),
             b = 0.25 * (p[2] + p[3] - p[0] - p[1]), twist = 0.25 * (p[0] - p[1] + p[2] - p[3]);
  auto [xi, eta] = solved(a, b, point - middle);
  for (int k = 0; k < 2; ++k) {
    const double x = std::clamp(xi, -1.0, 1.0), y = std::clamp(eta, -1.0, 1.0);
    const auto step = solved(a + y * twist, b + x * twist, point - (middle + x * a + y * b + x * y * twist));
    xi = x + step[0], eta = y + step[1];
  }
  return {element, xi, eta};
}

std::optional<Spot> SmoothSurface::under(const Vec3& point, mesh::ElementIndex from) const {
  Spot spot = on_facet(from, point);
  mesh::ElementIndex before = mesh::no_index;
  double least = std::numeric_limits<double>::infinity();
  for (int step = 0; step < 4096; ++step) {
    const auto out = outside(spot);
    if (!out || out->by < 0.02) break;
    const mesh::ElementIndex next = neighbours[4 * static_cast<std::size_t>(spot.element) + out->side];
    if (next == mesh::no_index) {
      if (out->by > 0.3) return std::nullopt;
      break;
    }
    if (next == before) {  // to and fro across a side: it is at it
      if (out->by >= least) break;
      least = out->by;
    }
    before = spot.element;
    spot = on_facet(next, point);
  }
  // On the patches along the normal: the difference is square to both derivatives.
  for (int step = 0; step < 24; ++step) {
    const Sample s = at(spot);
    const Vec3 d = point - s.point;
    const double aa = s.by_xi.squaredNorm(), ab = s.by_xi.dot(s.by_eta), bb = s.by_eta.squaredNorm(),
                 det = aa * bb - ab * ab, da = d.dot(s.by_xi), db = d.dot(s.by_eta);
    if (!(det > 0.0)) return std::nullopt;
    double dx = (da * bb - db * ab) / det, dy = (db * aa - da * ab) / det;
    const double far = std::max(std::abs(dx), std::abs(dy));
    if (far > 0.7) dx *= 0.7 / far, dy *= 0.7 / far;
    spot.xi += dx, spot.eta += dy;
    const auto out = outside(spot);
    if (out && out->by > 1e-9) {
      const mesh::ElementIndex next = neighbours[4 * static_cast<std::size_t>(spot.element) + out->side];
      if (next != mesh::no_index && (next != before || out->by > 0.05)) {
        before = spot.element;
        spot = on_facet(next, at(spot).point);
        continue;
      }
      if (next == mesh::no_index && out->by > 0.3) return std::nullopt;
    }
    if (far < 1e-11) break;
  }
  const auto out = outside(spot);
  if (out && out->by > 1e-6 && neighbours[4 * static_cast<std::size_t>(spot.element) + out->side] == mesh::no_index)
    return std::nullopt;
  return spot;
}

double SmoothSurface::curvature_along(const Spot& spot, const Vec3& direction) const {
  const Sample s = at(spot);
  const double aa = s.by_xi.squaredNorm(), ab = s.by_xi.dot(s.by_eta), bb = s.by_eta.squaredNorm(),
               det = aa * bb - ab * ab, da = direction.dot(s.by_xi), db = direction.dot(s.by_eta);
  const double x = (da * bb - db * ab) / det, y = (db * aa - da * ab) / det;
  // Second derivative of the patch along (x, y): by differences of first derivatives, which are exact for triangles and
  // second order in a step for quadrilaterals.
  const double step = 1e-3;
  const double run = std::hypot(x, y), dx = step * x / run, dy = step * y / run;
  const Sample ahead = at({spot.element, spot.xi + dx, spot.eta + dy});
  const Sample behind = at({spot.element, spot.xi - dx, spot.eta - dy});
  const Vec3 second = ((ahead.by_xi - behind.by_xi) * x + (ahead.by_eta - behind.by_eta) * y) * run / (2.0 * step);
  return second.dot(s.normal());
}

namespace {

using mesh::ElementIndex;

/// Which sides meet, and which of them are sharp. Where three or more elements share an edge the two that turn least
/// against each other go on into each other.
void join(const mesh::Surface& surface, const mesh::Geometry& geometry, const SmoothOptions& options,
          const mesh::EdgeTable& edges, SmoothSurface& out) {
  out.neighbours.assign(4 * surface.element_count(), mesh::no_index);
  out.sharp.assign(surface.element_count(), 0);
  const double cosine = options.crease.cos();
  for (std::size_t j = 0; j < edges.size(); ++j) {
    const std::uint32_t begin = edges.first[j], end = edges.first[j + 1];
    if (end - begin < 2 || std::binary_search(options.cuts.begin(), options.cuts.end(), edges.nodes[j])) continue;
    const auto turn = [&](std::uint32_t a, std::uint32_t b) {  // cosine of the turn; sides may disagree
      const auto &one = edges.uses[a], &other = edges.uses[b];
      const double c = geometry.normals[one.element].dot(geometry.normals[other.element]);
      return one.forward == other.forward ? -c : c;
    };
    std::uint32_t best_a = begin, best_b = begin + 1;
    for (std::uint32_t a = begin; a < end; ++a)
      for (std::uint32_t b = a + 1; b < end; ++b)
        if (turn(a, b) > turn(best_a, best_b)) best_a = a, best_b = b;
    const auto &one = edges.uses[best_a], &other = edges.uses[best_b];
    if (one.forward == other.forward || one.element == other.element) continue;  // sides disagree: a border
    out.neighbours[4 * one.element + one.side] = other.element;
    out.neighbours[4 * other.element + other.side] = one.element;
    if (turn(best_a, best_b) < cosine ||
        std::binary_search(options.creases.begin(), options.creases.end(), edges.nodes[j])) {
      out.sharp[one.element] = static_cast<std::uint8_t>(out.sharp[one.element] | 1u << one.side);
      out.sharp[other.element] = static_cast<std::uint8_t>(out.sharp[other.element] | 1u << other.side);
    }
  }
}

/// Middles of sides and centres.
void bend(const mesh::Surface& surface, const mesh::EdgeTable& edges, const Fans& fans, std::span<const Jet> jets,
          SmoothSurface& out) {
  const std::size_t count = surface.element_count();
  out.control.assign(9 * count, Vec3::Zero());
  out.radius.assign(count, std::numeric_limits<float>::infinity());
  parallel_blocks(count, [&](std::size_t begin, std::size_t end) {
    for (std::size_t e = begin; e < end; ++e) {
      const auto corners = surface.corners_of(static_cast<ElementIndex>(e));
      const unsigned n = out.corners[e];
      Vec3* const p = out.control.data() + 9 * e;
      double bent = 0.0;
      for (unsigned k = 0; k < n; ++k) {
        p[k] = surface.points[corners[k]];
        const Jet& jet = jets[fans.of_corner[4 * e + k]];
        bent = std::max(bent, jet.curvature());
      }
      if (bent > 0.0) out.radius[e] = static_cast<float>(1.0 / bent);
      for (unsigned k = 0; k < n; ++k) {
        const unsigned next = (k + 1) % n;
        const Vec3 middle = 0.5 * (p[k] + p[next]);
        p[n + k] =
            0.5 * (jets[fans.of_corner[4 * e + k]].lifted(middle) + jets[fans.of_corner[4 * e + next]].lifted(middle));
      }
      if (n == 4) {
        const Vec3 middle = 0.25 * (p[0] + p[1] + p[2] + p[3]);
        for (unsigned k = 0; k < 4; ++k) p[8] += 0.25 * jets[fans.of_corner[4 * e + k]].lifted(middle);
      }
    }
  });
  // A side is one line, whichever element it is seen from; and where the mesh says how it is curved, that holds.
  const auto middle_of = [&](const mesh::EdgeTable::Use& use) -> Vec3& {
    return out.control[9 * static_cast<std::size_t>(use.element) + out.corners[use.element] + use.side];
  };
  std::vector<std::uint8_t> given(count, 0);
  for (std::size_t j = 0; j < edges.size(); ++j) {
    const std::uint32_t begin = edges.first[j], end = edges.first[j + 1];
    Vec3 sum = Vec3::Zero();
    for (std::uint32_t k = begin; k < end; ++k) sum += middle_of(edges.uses[k]);
    sum /= static_cast<double>(end - begin);
    const auto& [a, b] = edges.nodes[j];
    const Vec3 chord = 0.5 * (surface.points[a] + surface.points[b]);
    const double length = (surface.points[a] - surface.points[b]).norm();
    const auto& use = edges.uses[begin];
    if (mesh::is_quadratic(surface.shapes[use.element])) {
      const Vec3& own = surface.points[surface.nodes_of(use.element)[out.corners[use.element] + use.side]];
      if ((own - chord).norm() > 1e-6 * length) {
        sum = own;
        for (std::uint32_t k = begin; k < end; ++k)
          given[edges.uses[k].element] =
              static_cast<std::uint8_t>(given[edges.uses[k].element] | 1u << edges.uses[k].side);
      }
    }
    if ((sum - chord).norm() > 0.3 * length) sum = chord, ++out.rejected;
    for (std::uint32_t k = begin; k < end; ++k) middle_of(edges.uses[k]) = sum;
  }
  for (std::size_t e = 0; e < count; ++e) {
    Vec3* const p = out.control.data() + 9 * e;
    if (out.corners[e] == 4 && given[e] == 0xf)  // the mesh's own centre, as its serendipity functions have it
      p[8] = 0.5 * (p[4] + p[5] + p[6] + p[7]) - 0.25 * (p[0] + p[1] + p[2] + p[3]);
  }
}

/// Patches that would fold stay flat.
void unfold(const mesh::Geometry& geometry, const mesh::EdgeTable& edges, SmoothSurface& out) {
  std::vector<std::uint8_t> folds(out.element_count(), 0);
  const auto folded = [&](std::size_t e) {
    static constexpr double corners3[][2] = {{0, 0}, {1, 0}, {0, 1}, {1.0 / 3, 1.0 / 3}};
    static constexpr double corners4[][2] = {{-1, -1}, {1, -1}, {1, 1}, {-1, 1}, {0, 0}};
    const auto element = static_cast<ElementIndex>(e);
    const unsigned n = out.corners[e];
    const Vec3* const p = out.control.data() + 9 * e;
    for (unsigned k = 0; k <= n; ++k) {
      const auto& at = n == 3 ? corners3[k] : corners4[k];
      // A corner that is folded over, or straight, in the mesh is no fault of the patch.
      if (k < n) {
        const Vec3 next = p[(k + 1) % n] - p[k], before = p[(k + n - 1) % n] - p[k];
        if (next.cross(before).dot(geometry.normals[e]) < 0.1 * next.norm() * before.norm()) continue;
      }
      if (!(out.at({element, at[0], at[1]}).normal().dot(geometry.normals[e]) > 0.3)) return true;
    }
    return false;
  };
  parallel_blocks(out.element_count(), [&](std::size_t begin, std::size_t end) {
    for (std::size_t e = begin; e < end; ++e) folds[e] = folded(e);
  });
  for (std::size_t j = 0; j < edges.size(); ++j) {
    bool flat = false;
    for (std::uint32_t k = edges.first[j]; k < edges.first[j + 1]; ++k) flat = flat || folds[edges.uses[k].element];
    if (!flat) continue;
    ++out.rejected;
    for (std::uint32_t k = edges.first[j]; k < edges.first[j + 1]; ++k) {
      const auto& use = edges.uses[k];
      const unsigned n = out.corners[use.element];
      Vec3* const p = out.control.data() + 9 * static_cast<std::size_t>(use.element);
      p[n + use.side] = 0.5 * (p[use.side] + p[(use.side + 1) % n]);
    }
  }
  for (std::size_t e = 0; e < out.element_count(); ++e) {
    Vec3* const p = out.control.data() + 9 * e;
    if (folds[e] && out.corners[e] == 4) p[8] = 0.25 * (p[0] + p[1] + p[2] + p[3]);
  }
}

}  // namespace

mesh::NodePairs sides_along(const mesh::Surface& surface, const mesh::Curve& line) {
  mesh::NodePairs all;
  const mesh::EdgeTable edges = mesh::edges(surface);
  for (std::size_t j = 0; j < edges.size(); ++j) all.push_back(edges.nodes[j]);
  mesh::NodePairs out;
  const std::size_t count = line.points.size();
  for (std::size_t k = 0; k + (line.closed ? 0 : 1) < count; ++k) {
    const std::size_t next = (k + 1) % count;
    if (!line.nodes.empty()) {  // it runs along sides
      out.push_back({std::min(line.nodes[k], line.nodes[next]), std::max(line.nodes[k], line.nodes[next])});
    } else if (const auto way = mesh::way_along(surface, all, line.points[k], line.points[next])) {
      for (std::size_t i = 0; i + 1 < way->nodes.size(); ++i)
        out.push_back({std::min(way->nodes[i], way->nodes[i + 1]), std::max(way->nodes[i], way->nodes[i + 1])});
    }
  }
  std::sort(out.begin(), out.end());
  out.erase(std::unique(out.begin(), out.end()), out.end());
  return out;
}

SmoothSurface smooth(const mesh::Surface& surface, const mesh::Geometry& geometry, const SmoothOptions& options) {
  SmoothSurface out;
  out.own = surface.element_count();
  out.corners.reserve(out.own);
  for (const mesh::Shape shape : surface.shapes)
    out.corners.push_back(static_cast<std::uint8_t>(mesh::corner_count(shape)));
  out.size = extent(surface.points).diagonal();
  const mesh::EdgeTable edges = mesh::edges(surface);
  join(surface, geometry, options, edges, out);
  const Fans round = fans(surface, out.neighbours, out.sharp);
  const std::vector<Jet> fitted = jets(surface, geometry, round);
  bend(surface, edges, round, fitted, out);
  unfold(geometry, edges, out);
  if (options.margin > 0.0) carry_on(surface, round, fitted, options.margin, options.goes_on, out);
  return out;
}

}  // namespace bordado::drape
