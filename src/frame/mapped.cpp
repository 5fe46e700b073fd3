#include "mapped.hpp"

#include "../base/csv.hpp"
#include "carry.hpp"

#include <bordado/base/work.hpp>
#include <bordado/mesh/at_nodes.hpp>
#include <bordado/mesh/care.hpp>
#include <bordado/mesh/io.hpp>
#include <bordado/mesh/locate.hpp>

#include <Eigen/Eigenvalues>
#include <Eigen/Geometry>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace bordado::frame {

namespace {

using Tensor = Eigen::Matrix3d;

/// Directions as tensors d d^T at points; vectors too where the file has them, for their sense.
struct Samples {
  std::vector<Vec3> points;
  std::vector<Tensor> tensors;
  std::vector<Vec3> vectors;             ///< empty where only tensors are known
  std::optional<mesh::Surface> surface;  ///< the points are its nodes
  bool of_elements = false;              ///< tensors and vectors are of its elements, not of its nodes
};

[[noreturn]] void fail(const part::Frame& frame, const Declared<std::string>& file, std::string what,
                       std::string remedy) {
  throw Failure({Severity::error, "frame.field", fmt::format("frame '{}': '{}' {}", frame.name, file.value, what),
                 file.where, std::move(remedy)});
}

/// The array of a name, with so many numbers to each.
const mesh::Array& array_of(const mesh::Sampled& sampled, const std::string& name,
                            std::initializer_list<std::size_t> components, const part::Frame& frame,
                            const Declared<std::string>& file) {
  std::vector<std::string> known;
  for (const mesh::Array& array : sampled.arrays) {
    const bool fits = std::find(components.begin(), components.end(), array.components) != components.end();
    if (array.name == name && fits) return array;
    if (array.name == name)
      fail(frame, file, fmt::format("has {} numbers to each '{}'", array.components, name),
           fmt::format("it should have {}", fmt::join(components, ", ")));
    if (fits) known.push_back(array.name);
  }
  const auto near = nearest_name(name, known);
  fail(frame, file, fmt::format("holds no field '{}'", name),
       near ? fmt::format("did you mean '{}'?", *near)
            : fmt::format("fields that could be meant: {}", listed(known, 20)));
}

Tensor tensor_of(const double* v, std::size_t components) {
  Tensor t;
  if (components == 9)
    t << v[0], v[1], v[2], v[3], v[4], v[5], v[6], v[7], v[8];
  else  // xx yy zz xy yz xz, as VTK orders symmetric tensors
    t << v[0], v[3], v[5], v[3], v[1], v[4], v[5], v[4], v[2];
  const double trace = t.trace();
  return trace > 0.0 ? Tensor(0.5 * (t + t.transpose()) / trace) : Tensor(Tensor::Zero());
}

Tensor tensor_of(const Vec3& d) {
  const double squared = d.squaredNorm();
  return squared > 0.0 ? Tensor(d * d.transpose() / squared) : Tensor(Tensor::Zero());
}

Samples from_vtu(const part::Mapped& kind, const part::Frame& frame, Findings& findings) {
  mesh::Sampled sampled = mesh::read_sampled(kind.file.value, {.factor = kind.factor}, findings);
  const mesh::Array& array = array_of(sampled, kind.field, {3, 6, 9}, frame, kind.file);
  const std::size_t components = array.components;
  const std::size_t count = array.on_nodes ? sampled.surface.points.size() : sampled.surface.element_count();
  const bool vectors = components == 3;
  Samples out;
  out.points = sampled.surface.points;
  out.tensors.assign(count, Tensor::Zero());
  if (vectors) out.vectors.assign(count, Vec3::Zero());
  out.of_elements = !array.on_nodes;
  for (std::size_t i = 0; i < count; ++i) {
    const double* const v = array.values.data() + i * components;
    if (!std::all_of(v, v + components, [](double x) { return std::isfinite(x); })) continue;
    if (!vectors) {
      out.tensors[i] = tensor_of(v, components);
      continue;
    }
    const Vec3 d(v[0], v[1], v[2]);
    out.tensors[i] = tensor_of(d);
    out.vectors[i] = d.norm() > 0.0 ? Vec3(d.normalized()) : d;
  }
  out.surface = std::move(sampled.surface);
  return out;
}

Samples from_csv(const part::Mapped& kind) {
  Samples out;
  for (const std::vector<double>& row : read_csv(kind.file.value, 6).rows) {
    out.points.push_back(kind.factor * Vec3(row[0], row[1], row[2]));
    if (row.size() >= 9) {
      out.tensors.push_back(tensor_of(row.data() + 3, row.size() >= 12 ? 9 : 6));
    } else {
      out.vectors.emplace_back(row[3], row[4], row[5]);
      out.tensors.push_back(tensor_of(out.vectors.back()));
    }
  }
  if (out.vectors.size() != out.points.size()) out.vectors.clear();
  return out;
}

/// Points of a table have no elements between them: the nearest few, by a tree.
class Points {
 public:
  explicit Points(const std::vector<Vec3>& points) : points_(points), order_(points.size()) {
    for (std::uint32_t i = 0; i < order_.size(); ++i) order_[i] = i;
    split(0, order_.size(), 0);
  }
  /// The nearest `count` points, nearest first, with their distances.
  std::vector<std::pair<double, std::uint32_t>> nearest(const Vec3& to, std::size_t count) const {
    std::vector<std::pair<double, std::uint32_t>> best;
    search(0, order_.size(), 0, to, std::min(count, order_.size()), best);
    std::sort(best.begin(), best.end());
    return best;
  }

 private:
  void split(std::size_t begin, std::size_t end, int axis) {
    if (end - begin < 2) return;
    const std::size_t middle = begin + (end - begin) / 2;
    const auto at = [&](std::size_t k) { return order_.begin() + static_cast<std::ptrdiff_t>(k); };
    std::nth_element(at(begin), at(middle), at(end), [&](std::uint32_t a, std::uint32_t b) {
      return std::pair(points_[a][axis], a) < std::pair(points_[b][axis], b);
    });
    split(begin, middle, (axis + 1) % 3);
    split(middle + 1, end, (axis + 1) % 3);
  }
  void search(std::size_t begin, std::size_t end, int axis, const Vec3& to, std::size_t count,
              std::vector<std::pair<double, std::uint32_t>>& best) const {
    if (begin >= end) return;
    const std::size_t middle = begin + (end - begin) / 2;
    const std::uint32_t point = order_[middle];
    best.emplace_back((points_[point] - to).norm(), point);
    std::push_heap(best.begin(), best.end());
    if (best.size() > count) {
      std::pop_heap(best.begin(), best.end());
      best.pop_back();
    }
    const double side = to[axis] - points_[point][axis];
    const auto look = [&](bool lower) {
      lower ? search(begin, middle, (axis + 1) % 3, to, count, best)
            : search(middle + 1, end, (axis + 1) % 3, to, count, best);
    };
    look(side < 0.0);
    if (best.size() < count || std::abs(side) <= best.front().first) look(side >= 0.0);
  }
  const std::vector<Vec3>& points_;
  std::vector<std::uint32_t> order_;
};

using Motion = Eigen::Isometry3d;

/// The rotation and move that brings the first points nearest to the second ones. Reference: S. Umeyama, IEEE Trans.
/// Pattern Analysis 13 (1991) 376.
Motion motion_between(const std::vector<Vec3>& there, const std::vector<Vec3>& here) {
  Eigen::Matrix3Xd a(3, static_cast<Eigen::Index>(there.size())), b(3, static_cast<Eigen::Index>(here.size()));
  for (std::size_t k = 0; k < there.size(); ++k) {
    a.col(static_cast<Eigen::Index>(k)) = there[k];
    b.col(static_cast<Eigen::Index>(k)) = here[k];
  }
  Motion out = Motion::Identity();
  out.matrix() = Eigen::umeyama(a, b, false);
  return out;
}

double mean_square(const std::vector<Vec3>& there, const std::vector<Vec3>& here, const Motion& motion) {
  double sum = 0.0;
  for (std::size_t k = 0; k < there.size(); ++k) sum += (motion * there[k] - here[k]).squaredNorm();
  return sum / static_cast<double>(there.size());
}

/// Middle and main axes of points, long axis first.
std::pair<Vec3, Eigen::Matrix3d> main_axes(const std::vector<Vec3>& points) {
  Vec3 middle = Vec3::Zero();
  for (const Vec3& p : points) middle += p / static_cast<double>(points.size());
  Eigen::Matrix3d spread = Eigen::Matrix3d::Zero();
  for (const Vec3& p : points) spread += (p - middle) * (p - middle).transpose();
  Eigen::Matrix3d axes = principal(spread).axes.rowwise().reverse();
  if (axes.determinant() < 0.0) axes.col(2) *= -1.0;
  return {middle, axes};
}

/// Where the other mesh lies best on this one: main axes laid on main axes in the four ways there are, then nearest
/// places again and again. Reference: P. J. Besl and N. D. McKay, IEEE Trans. Pattern Analysis 14 (1992) 239.
Motion best_fit(const Samples& samples, const Surroundings& around, double& left) {
  std::vector<Vec3> some;
  const std::size_t step = std::max<std::size_t>(1, samples.points.size() / 2000);
  for (std::size_t k = 0; k < samples.points.size(); k += step) some.push_back(samples.points[k]);
  const auto [from, from_axes] = main_axes(samples.points);
  const auto [to, to_axes] = main_axes(around.surface.points);
  const mesh::Locator locator(around.surface);
  Motion best = Motion::Identity();
  left = std::numeric_limits<double>::infinity();
  for (const auto& [s, t] : {std::pair(1.0, 1.0), {1.0, -1.0}, {-1.0, 1.0}, {-1.0, -1.0}}) {
    const Eigen::Matrix3d turn = to_axes * Vec3(s, t, s * t).asDiagonal() * from_axes.transpose();
    Motion motion = Motion::Identity();
    motion.linear() = turn;
    motion.translation() = to - turn * from;
    double before = std::numeric_limits<double>::infinity(), now = before;
    for (int k = 0; k < 200; ++k) {
      std::vector<Vec3> feet(some.size());
      parallel_blocks(
          some.size(),
          [&](std::size_t begin, std::size_t end) {
            for (std::size_t i = begin; i < end; ++i) feet[i] = locator.nearest(motion * some[i]).point;
          },
          64);
      now = mean_square(some, feet, motion);
      if (now < left) {
        left = now;
        best = motion;
      }
      if (before - now <= 1e-7 * before) break;
      before = now;
      motion = motion_between(some, feet);
    }
  }
  left = std::sqrt(left);
  return best;
}

struct Placed {
  Motion motion = Motion::Identity();
  std::optional<double> left = {};  ///< the root mean square distance, where it was fitted
};

struct Placer {
  const Samples& samples;
  const Surroundings& around;

  Placed operator()(const part::Rigid& rigid) const {
    Motion motion = Motion::Identity();
    motion.linear() = Eigen::AngleAxisd(rigid.turn.radians(), rigid.axis).toRotationMatrix();
    motion.translation() = rigid.about - motion.linear() * rigid.about + rigid.move;
    return {motion};
  }
  Placed operator()(const part::PointPairs& given) const {
    std::vector<Vec3> there, here;
    for (const auto& [a, b] : given.pairs) {
      there.push_back(a);
      here.push_back(b);
    }
    const Motion motion = motion_between(there, here);
    return {motion, std::sqrt(mean_square(there, here, motion))};
  }
  Placed operator()(const part::BestFit&) const {
    Placed out;
    out.motion = best_fit(samples, around, out.left.emplace());
    return out;
  }
};

/// The direction that a mixture of tensors has in a plane: how strongly, and with the sense of the mixed vector.
void take_direction(const Tensor& tensor, const Vec3& vector, const Vec3& normal, Vec3& direction, double& doubt) {
  const Vec3 one = normal.unitOrthogonal(), other = normal.cross(one);
  const double a = one.dot(tensor * one), b = other.dot(tensor * other), c = one.dot(tensor * other);
  const double spread = std::hypot(0.5 * (a - b), c), sum = a + b;
  // In the plane there must be something left, and one direction of it stronger than the other.
  if (!(sum > std::pow(least_angle_to_normal.sin(), 2) * tensor.trace()) || !(spread > 0.025 * sum)) {
    direction = Vec3::Zero();
    doubt = 1.0;
    return;
  }
  const double angle = 0.5 * std::atan2(c, 0.5 * (a - b));
  direction = std::cos(angle) * one + std::sin(angle) * other;
  double sense = direction.dot(vector);
  if (sense == 0.0) {  // a tensor has no sense: the largest part of the direction is positive
    Eigen::Index largest = 0;
    direction.cwiseAbs().maxCoeff(&largest);
    sense = direction[largest];
  }
  if (sense < 0.0) direction = -direction;
  doubt = std::clamp(1.0 - 2.0 * spread / sum, 0.0, 1.0);
}

}  // namespace

Transfer transfer(const part::Mapped& kind, const part::Frame& frame, const Surroundings& around, Findings& findings) {
  const bool table = kind.field.empty();
  if (table && kind.file.value.ends_with(".vtu"))
    fail(frame, kind.file, "is a VTU file, and no field of it is named", "add field = \"...\"");
  Samples samples = table ? from_csv(kind) : from_vtu(kind, frame, findings);
  const auto [motion, left] = std::visit(Placer{samples, around}, kind.position);
  for (Vec3& p : samples.points) p = motion * p;
  for (Tensor& t : samples.tensors) t = motion.linear() * t * motion.linear().transpose();
  for (Vec3& v : samples.vectors) v = motion.linear() * v;
  const std::size_t count = around.geometry.centres.size();
  Transfer out;
  out.vectors.assign(count, Vec3::Zero());
  out.distance.assign(count, 0.0);
  out.doubt.assign(count, 1.0);
  out.fit = left;
  std::optional<mesh::Locator> locator;
  std::optional<Points> points;
  if (samples.surface) {
    samples.surface->points = samples.points;
    locator.emplace(*samples.surface);
  } else {
    points.emplace(samples.points);
  }
  parallel_blocks(
      count,
      [&](std::size_t begin, std::size_t end) {
        for (std::size_t e = begin; e < end; ++e) {
          if (!(around.geometry.normals[e].squaredNorm() > 0.5)) continue;
          Tensor tensor = Tensor::Zero();
          Vec3 vector = Vec3::Zero();
          const auto mix = [&](std::size_t n, double weight) {
            tensor += weight * samples.tensors[n];
            if (!samples.vectors.empty()) vector += weight * samples.vectors[n];
          };
          if (locator) {
            const auto found = locator->nearest(around.geometry.centres[e]);
            const auto nodes = samples.surface->nodes_of(found.element);
            if (samples.of_elements) mix(found.element, 1.0);  // its value as it is: it may jump to the next one's
            for (std::size_t k = 0; !samples.of_elements && k < nodes.size(); ++k) mix(nodes[k], found.weights[k]);
            out.distance[e] = found.distance;
          } else {
            const auto near = points->nearest(around.geometry.centres[e], 4);
            for (const auto& [distance, n] : near)
              mix(n, 1.0 / (distance * distance + 1e-12 * near.back().first + 1e-300));
            out.distance[e] = near.front().first;
          }
          take_direction(tensor, vector, around.geometry.normals[e], out.vectors[e], out.doubt[e]);
        }
      },
      512);
  return out;
}

Transfer transfer(const part::GuideSurface& kind, const part::Frame& frame, const Surroundings& around,
                  Findings& findings) {
  mesh::Surface guide = mesh::read(kind.file.value, {.factor = kind.factor}, findings);
  Findings ignored;
  mesh::orient(guide, mesh::AsMeshed{}, ignored);
  const mesh::Group* const edge = guide.group(kind.edge, 1);
  if (!edge || edge->edges.empty()) {
    std::vector<std::string> known;
    for (const mesh::Group& group : guide.groups)
      if (group.dimension == 1) known.push_back(group.name);
    const auto near = nearest_name(kind.edge, known);
    fail(frame, kind.file, fmt::format("has no edge group '{}'", kind.edge),
         near ? fmt::format("did you mean '{}'?", *near) : fmt::format("edge groups of it: {}", listed(known, 20)));
  }
  mesh::NodePairs pairs;
  for (const mesh::Edge& e : edge->edges) pairs.push_back({e.first, e.second});
  const mesh::Geometry geometry = mesh::geometry(guide);
  const Carried carried = carry(guide, geometry, mesh::curves_of(guide, pairs));
  const std::vector<Vec3> at_nodes = mesh::area_sums_at_nodes(guide, geometry, carried.directions),
                          normals = mesh::area_sums_at_nodes(guide, geometry, geometry.normals);
  const mesh::Locator locator(guide);
  const std::size_t count = around.geometry.centres.size();
  Transfer out;
  out.vectors.resize(count);
  out.distance.resize(count);
  out.doubt.resize(count);
  parallel_blocks(
      count,
      [&](std::size_t begin, std::size_t end) {
        for (std::size_t e = begin; e < end; ++e) {
          const auto found = locator.nearest(around.geometry.centres[e]);
          const auto corners = guide.corners_of(found.element);
          Vec3 direction = Vec3::Zero(), normal = Vec3::Zero();
          for (std::size_t k = 0; k < corners.size(); ++k) {
            direction += found.weights[k] * at_nodes[corners[k]];
            normal += found.weights[k] * normals[corners[k]];
          }
          const Vec3& n = around.geometry.normals[e];
          const Vec3 in_plane = direction - direction.dot(n) * n;
          // Within 5° of the normal there is no direction.
          const bool usable = in_plane.norm() > least_angle_to_normal.sin() * direction.norm() && in_plane.norm() > 0.0;
          out.vectors[e] = usable ? Vec3(in_plane.normalized()) : Vec3(Vec3::Zero());
          out.distance[e] = found.distance;
          const double size = normal.norm();
          out.doubt[e] = size > 0.0 ? std::clamp(1.0 - std::abs(normal.dot(n)) / size, 0.0, 1.0) : 1.0;
        }
      },
      512);
  return out;
}

std::vector<double> transfer(const part::TurnByField& turns, const part::Frame& frame, const Surroundings& around,
                             Findings& findings) {
  const mesh::Sampled sampled = mesh::read_sampled(turns.file.value, {.factor = turns.factor}, findings);
  const mesh::Array& array = array_of(sampled, turns.field, {1}, frame, turns.file);
  const std::vector<double> out = mesh::values_at(sampled, array, around.geometry.centres);
  for (mesh::ElementIndex e = 0; e < out.size(); ++e)
    if (!std::isfinite(out[e]))
      fail(frame, turns.file,
           fmt::format("has no number in '{}' where element {} lies", turns.field, around.surface.element_ids[e]),
           "repair the field there");
  return out;
}

}  // namespace bordado::frame
