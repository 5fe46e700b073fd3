#include <bordado/section.hpp>

#include <algorithm>
#include <cmath>
#include <map>
#include <mutex>
#include <unordered_map>

namespace bordado::section {

namespace {

using laminate::Matrix3;
using layup::Layup;
using layup::StackIndex;

/// The frames of a stack: the reference first, then the others in order of appearance.
std::vector<std::uint32_t> frames_of(const Layup& layup, StackIndex stack) {
  std::vector<std::uint32_t> out;
  for (const layup::PlyIndex p : layup.plies_of(stack))
    if (std::find(out.begin(), out.end(), layup.plies[p].frame) == out.end()) out.push_back(layup.plies[p].frame);
  return out;
}

/// A, B, D of the plies of one stack that share one frame, about the mesh, in that frame's axes.
struct Part3 {
  Matrix3 A = Matrix3::Zero(), B = Matrix3::Zero(), D = Matrix3::Zero();
};

Part3 turned(const Part3& part, Angle angle) {
  return {laminate::rotated(part.A, angle), laminate::rotated(part.B, angle), laminate::rotated(part.D, angle)};
}

class Condenser {
 public:
  Condenser(const part::Part& part, const mesh::Geometry& geometry, const Layup& layup, const Options& options)
      : part_(part), geometry_(geometry), layup_(layup), step_(2.0 * options.angle_tolerance.degrees()) {
    out_.deviation.angle_tolerance = options.angle_tolerance;
  }

  Sections condense() {
    out_.stack_count = layup_.stack_count();
    for (StackIndex s = 0; s < layup_.stack_count(); ++s) frames_.push_back(frames_of(layup_, s));
    most_frames_ = 1;
    for (const auto& frames : frames_) most_frames_ = std::max(most_frames_, frames.size());
    refer_and_round();
    number();
    measure();
    return std::move(out_);
  }

 private:
  /// The reference of every element, and for each further frame of its stack the turn against it in whole steps.
  void refer_and_round() {
    const std::size_t count = layup_.stack_of.size();
    out_.references.resize(count);
    steps_.assign(count * (most_frames_ - 1), 0);
    parallel_blocks(count, [&](std::size_t begin, std::size_t end) {
      for (std::size_t e = begin; e < end; ++e) {
        const auto& frames = frames_[layup_.stack_of[e]];
        const Vec3& r = out_.references[e] = layup_.frames[frames[0]].directions[e];
        for (std::size_t k = 1; k < frames.size(); ++k)
          steps_[e * (most_frames_ - 1) + k - 1] = static_cast<std::int32_t>(std::lround(turn(e, r, frames[k]).degrees() / step_));
      }
    });
  }

  Angle turn(std::size_t e, const Vec3& r, std::uint32_t frame) const {
    return frame::between(r, layup_.frames[frame].directions[e], geometry_.normals[e]);
  }

  std::span<const std::int32_t> steps_of(std::size_t e) const {
    return {steps_.data() + e * (most_frames_ - 1), frames_[layup_.stack_of[e]].size() - 1};
  }

  void number() {
    const std::size_t count = layup_.stack_of.size();
    out_.section_of.resize(count);
    out_.first.assign(1, 0);
    constexpr SectionIndex none = 0xffffffffu;
    std::vector<SectionIndex> plain(layup_.stack_count(), none);  // stacks of one frame
    std::map<std::pair<StackIndex, std::vector<std::int32_t>>, SectionIndex> turned;
    for (std::size_t e = 0; e < count; ++e) {
      const StackIndex stack = layup_.stack_of[e];
      const auto steps = steps_of(e);
      SectionIndex* section = &plain[stack];
      if (!steps.empty()) section = &turned.try_emplace({stack, {steps.begin(), steps.end()}}, none).first->second;
      if (*section == none) *section = section_of_layers(stack, steps);
      out_.section_of[e] = *section;
    }
  }

  /// The section with the layers of this stack, made when no earlier one has equal layers.
  SectionIndex section_of_layers(StackIndex stack, std::span<const std::int32_t> steps) {
    const auto& frames = frames_[stack];
    std::vector<Layer> layers;
    std::string key;
    const auto add = [&key](const auto& value) { key.append(reinterpret_cast<const char*>(&value), sizeof value); };
    double thickness = 0.0;
    for (const layup::PlyIndex p : layup_.plies_of(stack)) {
      const layup::Ply& ply = layup_.plies[p];
      const auto k = static_cast<std::size_t>(std::find(frames.begin(), frames.end(), ply.frame) - frames.begin());
      const Angle angle = k == 0 ? ply.angle : ply.angle + Angle::degrees(step_ * steps[k - 1]);
      layers.push_back({ply.material, ply.thickness, same_fibre(angle)});
      thickness += ply.thickness;
      add(ply.material);
      add(ply.thickness);
      add(std::llround(layers.back().angle.degrees() * 1e9));
    }
    const auto [found, is_new] = by_layers_.emplace(std::move(key), static_cast<SectionIndex>(out_.thickness.size()));
    if (is_new) {
      out_.layers.insert(out_.layers.end(), layers.begin(), layers.end());
      out_.first.push_back(static_cast<std::uint32_t>(out_.layers.size()));
      out_.thickness.push_back(thickness);
      out_.bottom.push_back(layup::bottom(part_, thickness));
      out_.stack.push_back(stack);
    }
    return found->second;
  }

  /// Stiffness per frame of each stack of several frames.
  std::vector<Part3> parts_of(StackIndex stack) const {
    const auto& frames = frames_[stack];
    std::vector<Part3> out(frames.size());
    double z = layup::bottom(part_, layup::thickness(layup_, stack));
    for (const layup::PlyIndex p : layup_.plies_of(stack)) {
      const layup::Ply& ply = layup_.plies[p];
      const auto k = static_cast<std::size_t>(std::find(frames.begin(), frames.end(), ply.frame) - frames.begin());
      const Matrix3 Q = laminate::rotated(laminate::plane_stress_stiffness(part_.materials[ply.material].elastic), ply.angle);
      const double t = ply.thickness, middle = z + 0.5 * t;
      out[k].A += t * Q;
      out[k].B += t * middle * Q;
      out[k].D += (t * middle * middle + t * t * t / 12.0) * Q;
      z += t;
    }
    return out;
  }

  /// The deviation of every element from its section: exact, since plies of one frame turn together.
  void measure() {
    struct Sums {
      double largest_angle = 0, sum_angle = 0, largest[3] = {}, sum[3] = {};
      std::size_t layers = 0;
    };
    std::vector<std::vector<Part3>> parts(layup_.stack_count());
    std::vector<std::vector<std::size_t>> plies_per_frame(layup_.stack_count());
    for (StackIndex s = 0; s < layup_.stack_count(); ++s) {
      if (frames_[s].size() < 2) continue;
      parts[s] = parts_of(s);
      plies_per_frame[s].assign(frames_[s].size(), 0);
      for (const layup::PlyIndex p : layup_.plies_of(s))
        ++plies_per_frame[s][static_cast<std::size_t>(std::find(frames_[s].begin(), frames_[s].end(), layup_.plies[p].frame) - frames_[s].begin())];
    }
    const std::size_t count = layup_.stack_of.size();
    constexpr std::size_t block = 8192;
    std::vector<Sums> sums((count + block - 1) / block);
    parallel_blocks(count, [&](std::size_t begin, std::size_t end) {
      Sums& sum = sums[begin / block];
      for (std::size_t e = begin; e < end; ++e) {
        const StackIndex stack = layup_.stack_of[e];
        sum.layers += layup_.plies_of(stack).size();
        const auto& frames = frames_[stack];
        if (frames.size() < 2) continue;
        Part3 exact = parts[stack][0], difference;
        for (std::size_t k = 1; k < frames.size(); ++k) {
          const Angle real = turn(e, out_.references[e], frames[k]);
          const Angle used = Angle::degrees(step_ * steps_of(e)[k - 1]);
          const double off = std::abs((real - used).radians());
          sum.largest_angle = std::max(sum.largest_angle, off);
          sum.sum_angle += off * static_cast<double>(plies_per_frame[stack][k]);
          const Part3 a = turned(parts[stack][k], real), b = turned(parts[stack][k], used);
          exact.A += a.A, exact.B += a.B, exact.D += a.D;
          difference.A += b.A - a.A, difference.B += b.B - a.B, difference.D += b.D - a.D;
        }
        const double norm = exact.A.norm(), h = out_.thickness[out_.section_of[e]];
        const double relative[3] = {difference.A.norm() / norm, difference.B.norm() / (0.5 * h * norm), difference.D.norm() / exact.D.norm()};
        for (int i = 0; i < 3; ++i) {
          sum.largest[i] = std::max(sum.largest[i], relative[i]);
          sum.sum[i] += relative[i];
        }
      }
    }, block);
    Sums all;
    for (const Sums& sum : sums) {  // in order, so that the result does not depend on threads
      all.largest_angle = std::max(all.largest_angle, sum.largest_angle);
      all.sum_angle += sum.sum_angle;
      all.layers += sum.layers;
      for (int i = 0; i < 3; ++i) {
        all.largest[i] = std::max(all.largest[i], sum.largest[i]);
        all.sum[i] += sum.sum[i];
      }
    }
    Deviation& out = out_.deviation;
    out.largest_angle = Angle::radians(all.largest_angle);
    out.mean_angle = Angle::radians(all.layers > 0 ? all.sum_angle / static_cast<double>(all.layers) : 0.0);
    out.largest_A = all.largest[0], out.largest_B = all.largest[1], out.largest_D = all.largest[2];
    const double elements = std::max<double>(1.0, static_cast<double>(count));
    out.mean_A = all.sum[0] / elements, out.mean_B = all.sum[1] / elements, out.mean_D = all.sum[2] / elements;
  }

  const part::Part& part_;
  const mesh::Geometry& geometry_;
  const Layup& layup_;
  double step_;  ///< degrees
  Sections out_;
  std::vector<std::vector<std::uint32_t>> frames_;
  std::size_t most_frames_ = 1;
  std::vector<std::int32_t> steps_;
  std::unordered_map<std::string, SectionIndex> by_layers_;
};

}  // namespace

Sections condense(const part::Part& part, const mesh::Geometry& geometry, const Layup& layup, const Options& options) {
  return Condenser(part, geometry, layup, options).condense();
}

std::vector<laminate::Layer> laminate_of(const part::Part& part, const Sections& sections, SectionIndex section) {
  std::vector<laminate::Layer> out;
  for (const Layer& layer : sections.layers_of(section)) {
    const material::Material& material = part.materials[layer.material];
    out.push_back({material.elastic, layer.thickness, layer.angle, material.density});
  }
  return out;
}

}  // namespace bordado::section
