#include "pieces.hpp"

#include <bordado/review/book.hpp>

#include <algorithm>
#include <cmath>

namespace bordado::review {

namespace {

class Entry {
 public:
  Entry(const Design& design, part::PlyId ply)
      : design_(design),
        ply_(design.layup.plies[ply]),
        elements_(design.layup.elements_of(ply)),
        directions_(design.layup.directions_of(ply)) {
    out_.ply = ply;
    out_.elements = elements_.size();
    for (const mesh::ElementIndex e : elements_) out_.area += design.layup.covered(ply, e) * design.geometry.areas[e];
    out_.thickness = ply_.thickness;
    draping_ = design.layup.draping_of(ply);
    if ((!ply_.taper && !draping_ && !design.layup.regions[ply_.region].has_edge()) || elements_.empty()) return;
    double volume = 0.0;
    for (const mesh::ElementIndex e : elements_)
      volume += design.geometry.areas[e] * layup::thickness(design.layup, ply, e);
    if (out_.area > 0.0) out_.thickness = volume / out_.area;
  }

  PlyEntry make(std::size_t pieces) {
    if (elements_.empty()) return out_;
    out_.pieces = pieces;
    direct();
    extend();
    const material::Material& material = design_.part.materials[ply_.material];
    if (material.density) out_.mass = out_.area * out_.thickness * *material.density;
    if (material.form.roll_width) {
      out_.strips = static_cast<std::size_t>(std::max(1.0, std::ceil(out_.across / *material.form.roll_width - 1e-9)));
      out_.roll_length = out_.along * static_cast<double>(out_.strips);
    }
    if (material.cost) {
      const UnitSystem& units = design_.part.units;
      if (material.cost->per == material::Cost::Per::area)
        out_.cost = material.cost->value * out_.area * units.to_si(Dimension::area);
      else if (out_.mass)
        out_.cost = material.cost->value * *out_.mass * units.to_si(Dimension::mass);
    }
    return out_;
  }

 private:
  Vec3 fibre(mesh::ElementIndex e) const {
    if (draping_) return draping_->warp[e];
    const Vec3& r = directions_[e];
    return cosine_ * r + sine_ * design_.geometry.normals[e].cross(r);
  }

  /// The mean without regard to sense: the main axis of the sum of d dᵀ.
  void direct() {
    Eigen::Matrix3d sum = Eigen::Matrix3d::Zero();
    Vec3 sense = Vec3::Zero();
    for (const mesh::ElementIndex e : elements_) {
      const Vec3 d = fibre(e);
      sum += design_.geometry.areas[e] * d * d.transpose();
      sense += design_.geometry.areas[e] * d;
    }
    out_.direction = principal(sum).axes.col(2);
    if (out_.direction.dot(sense) < 0.0) out_.direction = -out_.direction;
    double least = 2.0;
    for (const mesh::ElementIndex e : elements_) {
      const double c = std::abs(fibre(e).dot(out_.direction));
      if (c < least) least = c, out_.furthest_at = e;
    }
    out_.furthest = Angle::radians(std::acos(std::min(1.0, least)));
  }

  void extend() {
    Vec3 normal = Vec3::Zero();
    for (const mesh::ElementIndex e : elements_) normal += design_.geometry.areas[e] * design_.geometry.normals[e];
    Vec3 x = out_.direction;
    Vec3 y = normal.cross(x);
    if (y.norm() < 1e-6 * out_.area) y = x.unitOrthogonal();  // a closed part has no side to look from
    y.normalize();
    double low[2] = {1e300, 1e300}, high[2] = {-1e300, -1e300};
    for (const mesh::ElementIndex e : elements_)
      for (const mesh::NodeIndex n : design_.surface.nodes_of(e)) {
        const Vec3& p = design_.surface.points[n];
        for (int k = 0; k < 2; ++k) {
          const double at = p.dot(k == 0 ? x : y);
          low[k] = std::min(low[k], at);
          high[k] = std::max(high[k], at);
        }
      }
    out_.along = high[0] - low[0];
    out_.across = high[1] - low[1];
    // A ply that goes round an edge shows itself only from the side: no rectangle is smaller than the ply.
    if (out_.along > 0.0) out_.across = std::max(out_.across, out_.area / out_.along);
  }

  const Design& design_;
  const layup::Ply& ply_;
  std::vector<mesh::ElementIndex> elements_;
  const layup::Draping* draping_ = nullptr;
  const std::vector<Vec3>& directions_;
  double cosine_ = ply_.angle.cos(), sine_ = ply_.angle.sin();
  PlyEntry out_;
};

void add(std::optional<double>& sum, const std::optional<double>& value) {
  if (value) sum = sum.value_or(0.0) + *value;
}

}  // namespace

PlyBook ply_book(const Design& design) {
  const auto pieces = pieces_of_regions(design);
  PlyBook out;
  out.plies.resize(design.layup.plies.size());
  parallel_blocks(
      out.plies.size(),
      [&](std::size_t begin, std::size_t end) {
        for (const part::PlyId p : Ids<part::PlyId>(begin, end))
          out.plies[index(p)] = Entry(design, p).make(pieces[design.layup.plies[p].region]);
      },
      1);
  for (const part::MaterialId m : design.part.materials.ids()) {
    MaterialEntry entry{.material = m};
    for (const PlyEntry& ply : out.plies) {
      if (design.layup.plies[ply.ply].material != m) continue;
      ++entry.plies;
      entry.area += ply.area;
      add(entry.mass, ply.mass);
      add(entry.roll_length, ply.roll_length);
      add(entry.cost, ply.cost);
    }
    if (entry.plies > 0) out.materials.push_back(entry);
  }
  return out;
}

}  // namespace bordado::review
