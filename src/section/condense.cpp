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

/// A plane-stress stiffness as a function of the angle it is turned by: constant, cos and sin of twice and four times
/// the angle (Tsai and Pagano's invariants; Jones sec. 2.7). Found from five samples, which determine such a function
/// exactly.
class Turning {
 public:
  explicit Turning(const Matrix3& Q) {
    for (int k = 0; k < 5; ++k) {
      const Angle sample = Angle::degrees(36.0 * k);
      const double phase = 2.0 * sample.radians();
      const Matrix3 turned = laminate::rotated(Q, sample) / 5.0;
      terms_[0] += turned;
      terms_[1] += 2.0 * std::cos(phase) * turned;
      terms_[2] += 2.0 * std::sin(phase) * turned;
      terms_[3] += 2.0 * std::cos(2.0 * phase) * turned;
      terms_[4] += 2.0 * std::sin(2.0 * phase) * turned;
    }
  }
  /// \param c, s cosine and sine of twice the angle.
  Matrix3 at(double c, double s) const {
    return terms_[0] + c * terms_[1] + s * terms_[2] + (c * c - s * s) * terms_[3] + 2.0 * s * c * terms_[4];
  }

 private:
  Matrix3 terms_[5] = {Matrix3::Zero(), Matrix3::Zero(), Matrix3::Zero(), Matrix3::Zero(), Matrix3::Zero()};
};

/// What the plies of one frame add to the stiffness of one stack, about the mesh, from that frame's 0°.
struct FrameShare {
  Turning A, B, D;
  double plies;
};

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
  /// The reference of every element, and for each further frame of its stack the turn against it, exact and in whole
  /// steps.
  void refer_and_round() {
    const std::size_t count = layup_.stack_of.size();
    out_.references.resize(count);
    steps_.assign(count * (most_frames_ - 1), 0);
    turns_.assign(count * (most_frames_ - 1), 0.0);
    parallel_blocks(count, [&](std::size_t begin, std::size_t end) {
      for (std::size_t e = begin; e < end; ++e) {
        const auto& frames = frames_[layup_.stack_of[e]];
        const Vec3& r = out_.references[e] = layup_.frames[frames[0]].directions[e];
        for (std::size_t k = 1; k < frames.size(); ++k) {
          const std::size_t at = e * (most_frames_ - 1) + k - 1;
          turns_[at] = frame::between(r, layup_.frames[frames[k]].directions[e], geometry_.normals[e]).degrees();
          steps_[at] = static_cast<std::int32_t>(std::lround(turns_[at] / step_));
        }
      }
    });
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
      if (e > 0 && stack == layup_.stack_of[e - 1] && std::equal(steps.begin(), steps.end(), steps_of(e - 1).begin())) {
        out_.section_of[e] = out_.section_of[e - 1];  // neighbours in the list mostly agree
        continue;
      }
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

  /// In order of frames_.
  std::vector<FrameShare> shares_of(StackIndex stack) const {
    const auto& frames = frames_[stack];
    struct Sum {
      Matrix3 A = Matrix3::Zero(), B = Matrix3::Zero(), D = Matrix3::Zero();
      double plies = 0.0;
    };
    std::vector<Sum> sums(frames.size());
    double z = layup::bottom(part_, layup::thickness(layup_, stack));
    for (const layup::PlyIndex p : layup_.plies_of(stack)) {
      const layup::Ply& ply = layup_.plies[p];
      Sum& sum = sums[static_cast<std::size_t>(std::find(frames.begin(), frames.end(), ply.frame) - frames.begin())];
      const Matrix3 Q =
          laminate::rotated(laminate::plane_stress_stiffness(part_.materials[ply.material].elastic), ply.angle);
      const double t = ply.thickness, middle = z + 0.5 * t;
      sum.A += t * Q;
      sum.B += t * middle * Q;
      sum.D += (t * middle * middle + t * t * t / 12.0) * Q;
      sum.plies += 1.0;
      z += t;
    }
    std::vector<FrameShare> out;
    out.reserve(sums.size());
    for (const Sum& sum : sums) out.push_back({Turning(sum.A), Turning(sum.B), Turning(sum.D), sum.plies});
    return out;
  }

  struct Sums {
    double largest_angle = 0, sum_angle = 0, largest[3] = {}, sum[3] = {};
    std::size_t layers = 0;
  };

  /// Adds what rounding does to one element. Exact, since the plies of one frame turn together.
  void measure(std::size_t e, const std::vector<FrameShare>& shares, Sums& sum) const {
    Matrix3 exact[3] = {shares[0].A.at(1.0, 0.0), shares[0].B.at(1.0, 0.0), shares[0].D.at(1.0, 0.0)};
    Matrix3 difference[3] = {Matrix3::Zero(), Matrix3::Zero(), Matrix3::Zero()};
    for (std::size_t k = 1; k < shares.size(); ++k) {
      const std::size_t at = e * (most_frames_ - 1) + k - 1;
      const Angle real = Angle::degrees(turns_[at]), used = Angle::degrees(step_ * steps_[at]);
      const double off = std::abs((real - used).radians());
      sum.largest_angle = std::max(sum.largest_angle, off);
      sum.sum_angle += off * shares[k].plies;
      const double c = std::cos(2.0 * real.radians()), s = std::sin(2.0 * real.radians());
      const double c_used = std::cos(2.0 * used.radians()), s_used = std::sin(2.0 * used.radians());
      const Turning* const turnings[3] = {&shares[k].A, &shares[k].B, &shares[k].D};
      for (int i = 0; i < 3; ++i) {
        const Matrix3 own = turnings[i]->at(c, s);
        exact[i] += own;
        difference[i] += turnings[i]->at(c_used, s_used) - own;
      }
    }
    const double norm_A = exact[0].norm(),
                 scale[3] = {norm_A, 0.5 * out_.thickness[out_.section_of[e]] * norm_A, exact[2].norm()};
    for (int i = 0; i < 3; ++i) {
      const double relative = difference[i].norm() / scale[i];
      sum.largest[i] = std::max(sum.largest[i], relative);
      sum.sum[i] += relative;
    }
  }

  void measure() {
    std::vector<std::vector<FrameShare>> shares(layup_.stack_count());
    for (StackIndex s = 0; s < layup_.stack_count(); ++s)
      if (frames_[s].size() > 1) shares[s] = shares_of(s);
    const std::size_t count = layup_.stack_of.size();
    constexpr std::size_t block = 8192;
    std::vector<Sums> sums((count + block - 1) / block);
    parallel_blocks(
        count,
        [&](std::size_t begin, std::size_t end) {
          Sums& sum = sums[begin / block];
          for (std::size_t e = begin; e < end; ++e) {
            const StackIndex stack = layup_.stack_of[e];
            sum.layers += layup_.plies_of(stack).size();
            if (!shares[stack].empty()) measure(e, shares[stack], sum);
          }
        },
        block);
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
  std::vector<std::int32_t> steps_;  ///< per element and further frame of its stack
  std::vector<double> turns_;        ///< the same, exact, in degrees
  std::unordered_map<std::string, SectionIndex> by_layers_;
};

}  // namespace

Sections condense(const part::Part& part, const mesh::Geometry& geometry, const Layup& layup, const Options& options) {
  return Condenser(part, geometry, layup, options).condense();
}

std::vector<laminate::Layer> laminate_of(const part::Part& part, const Sections& sections, SectionIndex section) {
  std::vector<laminate::Layer> out;
  for (const Layer& layer : sections.layers_of(section)) {
    out.push_back(laminate::layer_of(part.materials[layer.material], layer.thickness, layer.angle));
  }
  return out;
}

}  // namespace bordado::section
