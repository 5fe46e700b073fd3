#include "budget.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>
#include <map>
#include <unordered_map>

namespace bordado::section {

namespace {

using laminate::Matrix3;
using layup::Layup;
using layup::StackId;

/// What turns together on a stack: the reference first, the frame of its first ply, then other frames and drapes in
/// order of appearance. Plies of one drape turn together whatever their frames are.
layup::Cloth turning(const Layup& layup, part::PlyId p) {
  const layup::Cloth& cloth = layup.cloths[layup.plies[p].cloth];
  return cloth.drape ? layup::Cloth{{}, cloth.drape} : cloth;
}
std::vector<layup::Cloth> turnings_of(const Layup& layup, StackId stack) {
  std::vector<layup::Cloth> out;
  for (const part::PlyId p : layup.plies_of(stack)) {
    if (out.empty()) out.push_back({layup.frame_of(p), {}});
    if (std::find(out.begin(), out.end(), turning(layup, p)) == out.end()) out.push_back(turning(layup, p));
  }
  return out;
}

/// A, B and D one after the other, six numbers each: the diagonal, then what is off it times the root of two, so that
/// the length of six is the Frobenius norm.
using Stiffnesses = std::array<double, 18>;

void put(Stiffnesses& row, std::size_t matrix, const Matrix3& m) {
  const double twice = std::sqrt(2.0);
  const double six[] = {m(0, 0), m(1, 1), m(2, 2), twice * m(0, 1), twice * m(0, 2), twice * m(1, 2)};
  std::copy(std::begin(six), std::end(six), row.begin() + static_cast<std::ptrdiff_t>(6 * matrix));
}

double length(const Stiffnesses& row, std::size_t matrix) {
  double sum = 0.0;
  for (std::size_t k = 6 * matrix; k < 6 * matrix + 6; ++k) sum += row[k] * row[k];
  return std::sqrt(sum);
}

/// What the plies of one frame add to the stiffness of one stack, about the mesh, from that frame's 0°, as a function of
/// the angle it is turned by: constant, cos and sin of twice and four times the angle (Tsai and Pagano's invariants;
/// Jones sec. 2.7). Found from five samples, which determine such a function exactly.
struct FrameShare {
  std::array<Stiffnesses, 5> terms{};
  double plies = 0.0;

  FrameShare(const std::array<Matrix3, 3>& stiffness, double count) : plies(count) {
    for (int k = 0; k < 5; ++k) {
      const Angle sample = Angle::degrees(36.0 * k);
      const double phase = 2.0 * sample.radians();
      const double factors[] = {1.0, 2.0 * std::cos(phase), 2.0 * std::sin(phase), 2.0 * std::cos(2.0 * phase),
                                2.0 * std::sin(2.0 * phase)};
      Stiffnesses row;
      for (std::size_t m = 0; m < 3; ++m) put(row, m, laminate::rotated(stiffness[m], sample) / 5.0);
      for (std::size_t term = 0; term < 5; ++term)
        for (std::size_t i = 0; i < row.size(); ++i) terms[term][i] += factors[term] * row[i];
    }
  }
};

/// Cosine and sine of twice and of four times an angle.
struct Phase {
  double c, s, c2, s2;
  explicit Phase(double twice_the_angle)
      : c(std::cos(twice_the_angle)), s(std::sin(twice_the_angle)), c2(c * c - s * s), s2(2.0 * s * c) {}
};

class Condenser {
 public:
  Condenser(const layup::Laid& laid, const Options& options)
      : laid_(laid),
        part_(laid.part),
        geometry_(laid.geometry),
        layup_(laid.layup),
        options_(options),
        step_(2.0 * options.angle_tolerance.degrees()) {
    for (const layup::Ply& ply : layup_.plies) thickness_scale_ = std::max(thickness_scale_, ply.thickness);
    out_.options = options;
    out_.deviation.angle_tolerance = options.angle_tolerance;
    out_.deviation.thickness_tolerance = options.thickness_tolerance;
  }

  Sections condense() {
    out_.stack_count = layup_.stack_count();
    for (const StackId s : layup_.stacks()) {
      frames_.push_back(turnings_of(layup_, s));
      shears_.push_back(shears_of(s));
      most_frames_ = std::max(most_frames_, frames_[s].size() + shears_[s].size());
    }
    refer_and_round();
    number();
    out_.deviation.sections_by_tolerance = out_.count();
    if (options_.most_sections && out_.count() > *options_.most_sections) {
      keep_to_budget(out_, part_, geometry_.areas, *options_.most_sections);
      in_budget_ = true;
    }
    measure();
    return std::move(out_);
  }

 private:
  /// The drapes of a stack whose shear changes what its materials are.
  std::vector<layup::DrapeId> shears_of(StackId stack) const {
    std::vector<layup::DrapeId> out;
    for (const part::PlyId p : layup_.plies_of(stack)) {
      const auto& drape = layup_.cloths[layup_.plies[p].cloth].drape;
      if (drape && takes_shear(*drape, layup_.plies[p].material) &&
          std::find(out.begin(), out.end(), *drape) == out.end())
        out.push_back(*drape);
    }
    return out;
  }
  bool takes_shear(layup::DrapeId drape, part::MaterialId m) const {
    return !layup_.drapes[drape].angles_only && changes_by_shear(m);
  }
  bool changes_by_shear(part::MaterialId m) const {
    const material::Material& material = part_.materials[m];
    return material.kind == material::Kind::fabric && (material.yarns || !material.sheared.empty());
  }

  /// The reference of every element; for each further frame or drape of its stack the turn against it, exact and in
  /// whole steps; then the same of the shear of its drapes.
  void refer_and_round() {
    const std::size_t count = layup_.stack_of.size();
    out_.references.resize(count);
    steps_.assign(count * (most_frames_ - 1), 0);
    turns_.assign(count * (most_frames_ - 1), 0.0);
    parallel_blocks(count, [&](std::size_t begin, std::size_t end) {
      for (std::size_t e = begin; e < end; ++e) {
        const auto& frames = frames_[layup_.stack_of[e]];
        const Vec3& r = out_.references[e] = layup_.frames[frames[0].frame].directions[e];
        for (std::size_t k = 1; k < frames.size(); ++k) {
          const std::size_t at = e * (most_frames_ - 1) + k - 1;
          const Vec3& d =
              frames[k].drape ? layup_.drapes[*frames[k].drape].warp[e] : layup_.frames[frames[k].frame].directions[e];
          turns_[at] = frame::between(r, d, geometry_.normals[e]).degrees();
          steps_[at] = static_cast<std::int32_t>(std::lround(turns_[at] / step_));
        }
        const auto& shears = shears_[layup_.stack_of[e]];
        for (std::size_t k = 0; k < shears.size(); ++k) {
          const std::size_t at = e * (most_frames_ - 1) + frames.size() - 1 + k;
          turns_[at] = static_cast<double>(layup_.drapes[shears[k]].shear[e]);
          steps_[at] = static_cast<std::int32_t>(std::lround(turns_[at] / step_));
        }
      }
    });
  }

  std::span<const std::int32_t> steps_of(std::size_t e) const {
    const StackId stack = layup_.stack_of[e];
    return {steps_.data() + e * (most_frames_ - 1), frames_[stack].size() - 1 + shears_[stack].size()};
  }

  /// The cells that the varying thicknesses of an element fall into, one number for each such ply behind one for the
  /// size of the cells: cells as wide as the tolerance leaves to each. A ply that has run out has a number of its own.
  void cells_of(mesh::ElementIndex e, std::vector<std::int32_t>& out) const {
    constexpr std::int32_t run_out = -1;
    const StackId stack = layup_.stack_of[e];
    double h = 0.0, varying = 0.0;
    const auto plies = layup_.plies_of(stack);
    const auto plies_vary = layup_.varying_of(stack);
    for (std::size_t i = 0; i < plies.size(); ++i) {
      h += layup::thickness(layup_, plies[i], e);
      if (plies_vary[i]) varying += 1.0;
    }
    constexpr double growth = 1.25;
    const double size = std::floor(std::log(h / thickness_scale_) / std::log(growth) + stray);
    const double width = options_.thickness_tolerance * std::pow(growth, size) * thickness_scale_ / varying;
    out.push_back(static_cast<std::int32_t>(size));
    for (std::size_t i = 0; i < plies.size(); ++i) {
      if (!plies_vary[i]) continue;
      const double t = layup::thickness(layup_, plies[i], e);
      out.push_back(t == 0.0 ? run_out : static_cast<std::int32_t>(std::min(std::floor(t / width + stray), 2e9)));
    }
  }

  /// Elements of one stack, of the same steps and of the same cells.
  struct Class {
    StackId stack;
    std::vector<std::int32_t> steps;
    double area = 0.0;
    std::vector<double> thickness;  ///< of each ply that varies, times area
  };

  void number() {
    const std::size_t count = layup_.stack_of.size();
    out_.section_of.resize(count);
    out_.first.assign(1, 0);
    constexpr SectionId none{mesh::no_index};
    List<StackId, SectionId> plain(layup_.stack_count(), none);  // stacks of one frame
    std::map<std::pair<StackId, std::vector<std::int32_t>>, SectionId> turned;
    std::vector<Class> classes;
    std::vector<std::int32_t> key;
    for (std::size_t e = 0; e < count; ++e) {
      const StackId stack = layup_.stack_of[e];
      const auto steps = steps_of(e);
      const bool varies = layup_.varies[stack] != 0;
      SectionId& own = out_.section_of[e];
      if (!varies && e > 0 && stack == layup_.stack_of[e - 1] &&
          std::equal(steps.begin(), steps.end(), steps_of(e - 1).begin())) {
        own = out_.section_of[e - 1];  // neighbours in the list mostly agree
        continue;
      }
      SectionId* known = &plain[stack];
      if (varies || !steps.empty()) {
        key.assign(steps.begin(), steps.end());
        if (varies) cells_of(static_cast<mesh::ElementIndex>(e), key);
        known = &turned.try_emplace({stack, key}, none).first->second;
      }
      if (*known == none) {
        *known = static_cast<SectionId>(classes.size());
        classes.push_back({stack, {steps.begin(), steps.end()}, 0.0, {}});
      }
      own = *known;
      if (varies) add_thickness(classes[index(own)], static_cast<mesh::ElementIndex>(e));
    }
    std::vector<SectionId> section_of_class;  // classes are counted as sections are
    for (const Class& one : classes) section_of_class.push_back(section_of(one));
    for (SectionId& own : out_.section_of) own = section_of_class[index(own)];
  }

  void add_thickness(Class& to, mesh::ElementIndex e) const {
    const double area = std::max(geometry_.areas[e], 1e-300);
    to.area += area;
    const auto plies = layup_.plies_of(to.stack);
    const auto plies_vary = layup_.varying_of(to.stack);
    std::size_t k = 0;
    for (std::size_t i = 0; i < plies.size(); ++i) {
      if (!plies_vary[i]) continue;
      if (k == to.thickness.size()) to.thickness.push_back(0.0);
      to.thickness[k++] += area * layup::thickness(layup_, plies[i], e);
    }
  }

  /// The section with these layers, made when no earlier one has equal layers.
  SectionId section_of(const Class& elements) {
    const auto& frames = frames_[elements.stack];
    std::vector<LaidLayer> layers;
    std::string key;
    const auto add = [&key](const auto& value) { key.append(reinterpret_cast<const char*>(&value), sizeof value); };
    double thickness = 0.0;
    std::size_t varying = 0;
    const auto stack = layup_.plies_of(elements.stack);
    const auto plies_vary = layup_.varying_of(elements.stack);
    for (std::size_t i = 0; i < stack.size(); ++i) {
      const part::PlyId p = stack[i];
      const layup::Ply& ply = layup_.plies[p];
      const double t = plies_vary[i] ? elements.thickness[varying++] / elements.area : ply.thickness;
      if (t == 0.0) continue;
      const auto k =
          static_cast<std::size_t>(std::find(frames.begin(), frames.end(), turning(layup_, p)) - frames.begin());
      const Angle own = frames[k].drape ? Angle() : ply.angle;
      const Angle angle = k == 0 ? own : own + Angle::degrees(step_ * elements.steps[k - 1]);
      Angle shear;
      part::MaterialId material = ply.material;
      if (frames[k].drape && takes_shear(*frames[k].drape, material)) {
        const auto& shears = shears_[elements.stack];
        const auto of =
            static_cast<std::size_t>(std::find(shears.begin(), shears.end(), *frames[k].drape) - shears.begin());
        const std::int32_t steps = elements.steps[frames.size() - 1 + of];
        if (steps != 0) {
          shear = Angle::degrees(step_ * steps);
          material = sheared(material, steps);
        }
      }
      layers.push_back({p, material, thickness, t, 1.0, same_fibre(angle), shear});
      thickness += t;
      add(material);
      add(std::llround(t / thickness_scale_ * 1e9));
      add(std::llround(layers.back().angle.degrees() * 1e9));
    }
    const auto [found, is_new] = by_layers_.emplace(std::move(key), out_.thickness.next());
    if (is_new) {
      for (LaidLayer& layer : layers) layer.bottom += layup::bottom(part_, thickness);
      out_.layers.insert(out_.layers.end(), layers.begin(), layers.end());
      out_.first.push_back(static_cast<std::uint32_t>(out_.layers.size()));
      out_.thickness.push_back(thickness);
      out_.bottom.push_back(layup::bottom(part_, thickness));
      out_.stack.push_back(elements.stack);
    }
    return found->second;
  }

  /// A cloth's material at so many steps of shear, made when it is first asked for.
  part::MaterialId sheared(part::MaterialId base, std::int32_t steps) {
    const auto [found, is_new] = sheared_.try_emplace({base, steps}, base);
    if (!is_new) return found->second;
    const material::Material& cloth = part_.materials[base];
    const Angle shear = Angle::degrees(step_ * steps);
    auto changed = layup::at_shear(cloth, shear, layup::ClothAxes::diagonal);
    if (!changed) return base;
    material::Material& made = *changed;
    made.name = fmt::format("{} sheared {:g}", cloth.name, shear.degrees());
    made.mark.clear();
    made.made_of =
        fmt::format("{}, sheared by {:g}°, axes along the longer diagonal of its cells", cloth.name, shear.degrees());
    made.sheared.clear();
    made.yarns.reset();
    found->second = part::MaterialId(part_.materials.size() + out_.sheared.size());
    out_.sheared.push_back(std::move(made));
    return found->second;
  }

  /// In order of frames_.
  std::vector<FrameShare> shares_of(StackId stack) const {
    const auto& frames = frames_[stack];
    struct Sum {
      Matrix3 A = Matrix3::Zero(), B = Matrix3::Zero(), D = Matrix3::Zero();
      double plies = 0.0;
    };
    std::vector<Sum> sums(frames.size());
    double z = layup::bottom(part_, layup::thickness(layup_, stack));
    for (const part::PlyId p : layup_.plies_of(stack)) {
      const layup::Ply& ply = layup_.plies[p];
      Sum& sum =
          sums[static_cast<std::size_t>(std::find(frames.begin(), frames.end(), turning(layup_, p)) - frames.begin())];
      const Matrix3 Q = laminate::rotated(laminate::plane_stress_stiffness(part_.materials[ply.material].elastic),
                                          turning(layup_, p).drape ? Angle() : ply.angle);
      const double t = ply.thickness, middle = z + 0.5 * t;
      sum.A += t * Q;
      sum.B += t * middle * Q;
      sum.D += (t * middle * middle + t * t * t / 12.0) * Q;
      sum.plies += 1.0;
      z += t;
    }
    std::vector<FrameShare> out;
    out.reserve(sums.size());
    for (const Sum& sum : sums) out.emplace_back(std::array{sum.A, sum.B, sum.D}, sum.plies);
    return out;
  }

  struct Sums {
    double largest_angle = 0, sum_angle = 0, largest_thickness = 0, largest_mass = 0, largest[3] = {}, sum[3] = {};
    std::size_t layers = 0;
  };

  void add_angles(std::size_t e, const std::vector<FrameShare>& shares, Sums& sum) const {
    for (std::size_t k = 1; k < shares.size(); ++k) {
      const std::size_t at = e * (most_frames_ - 1) + k - 1;
      const double off = std::abs((Angle::degrees(turns_[at]) - Angle::degrees(step_ * steps_[at])).radians());
      sum.largest_angle = std::max(sum.largest_angle, off);
      sum.sum_angle += off * shares[k].plies;
    }
  }

  void add_errors(std::size_t e, const Stiffnesses& difference, const Stiffnesses& exact, double h, Sums& sum) {
    const double norm_A = length(exact, 0), scale[3] = {norm_A, 0.5 * h * norm_A, length(exact, 2)};
    double worst = 0.0;
    for (std::size_t i = 0; i < 3; ++i) {
      const double relative = length(difference, i) / scale[i];
      sum.largest[i] = std::max(sum.largest[i], relative);
      sum.sum[i] += relative;
      worst = std::max(worst, relative);
    }
    // Rounded up: no element is further off than said.
    if (worst > 0.0) out_.off[e] = std::nextafter(static_cast<float>(worst), std::numeric_limits<float>::infinity());
  }

  /// Adds what rounding does to one element. Exact, since the plies of one frame turn together.
  void measure(std::size_t e, const std::vector<FrameShare>& shares, Sums& sum) {
    Stiffnesses exact, difference{};
    for (std::size_t i = 0; i < exact.size(); ++i)  // from its own 0°
      exact[i] = shares[0].terms[0][i] + shares[0].terms[1][i] + shares[0].terms[3][i];
    for (std::size_t k = 1; k < shares.size(); ++k) {
      const std::size_t at = e * (most_frames_ - 1) + k - 1;
      const Phase real(2.0 * Angle::degrees(turns_[at]).radians());
      const Phase& used = phases_[static_cast<std::size_t>(steps_[at] + most_steps_)];
      const double c = used.c - real.c, s = used.s - real.s, c2 = used.c2 - real.c2, s2 = used.s2 - real.s2;
      const std::array<Stiffnesses, 5>& t = shares[k].terms;
      for (std::size_t i = 0; i < exact.size(); ++i) {
        exact[i] += t[0][i] + real.c * t[1][i] + real.s * t[2][i] + real.c2 * t[3][i] + real.s2 * t[4][i];
        difference[i] += c * t[1][i] + s * t[2][i] + c2 * t[3][i] + s2 * t[4][i];
      }
    }
    add_errors(e, difference, exact, out_.thickness[out_.section_of[e]], sum);
  }

  /// The same, layer by layer: where thickness varies, or a section stands for elements of other stacks.
  void compare(std::size_t e, layup::LayersOn& layers_on, Sums& sum) {
    Matrix3 exact[3] = {Matrix3::Zero(), Matrix3::Zero(), Matrix3::Zero()};
    double h = 0.0, mass = 0.0;
    for (const layup::LaidLayer& layer : layers_on(static_cast<mesh::ElementIndex>(e))) {
      const Matrix3 Q = laminate::rotated(layer.shear.degrees() == 0.0 || by_shear_[layer.material].empty()
                                              ? stiffness_[layer.material]
                                              : at_shear(layer),
                                          layer.angle);
      const double t = layer.thickness, middle = layer.bottom + 0.5 * t;
      exact[0] += t * Q;
      exact[1] += t * middle * Q;
      exact[2] += (t * middle * middle + t * t * t / 12.0) * Q;
      h += t;
      mass += t * part_.materials[layer.material].density.value_or(0.0);
    }
    const SectionId s = out_.section_of[e];
    const laminate::Stiffness& used = used_[s];
    Stiffnesses own, difference;
    const Matrix3* const matrices[] = {&used.A, &used.B, &used.D};
    for (std::size_t m = 0; m < 3; ++m) {
      put(own, m, exact[m]);
      put(difference, m, *matrices[m] - exact[m]);
    }
    sum.largest_thickness = std::max(sum.largest_thickness, std::abs(out_.thickness[s] - h) / h);
    if (mass > 0.0) sum.largest_mass = std::max(sum.largest_mass, std::abs(masses_[s] - mass) / mass);
    add_errors(e, difference, own, h, sum);
  }

  /// Stiffness in plane stress along the warp by shear, every half degree; straight in between.
  static constexpr double shear_step = 0.5, most_shear = 85.0;
  void tabulate(part::MaterialId m) {
    const material::Material& material = part_.materials[m];
    for (double shear = -most_shear; shear <= most_shear + 0.25; shear += shear_step) {
      const auto cloth = layup::sheared_cloth(material, Angle::degrees(shear));
      by_shear_[m].push_back(cloth ? laminate::plane_stress_stiffness(cloth->along_warp) : stiffness_[m]);
    }
  }
  Matrix3 at_shear(const layup::LaidLayer& layer) const {
    const auto& table = by_shear_[layer.material];
    const double at =
        std::clamp((layer.shear.degrees() + most_shear) / shear_step, 0.0, static_cast<double>(table.size()) - 1.001);
    const auto k = static_cast<std::size_t>(at);
    const double t = at - static_cast<double>(k);
    return (1.0 - t) * table[k] + t * table[k + 1];
  }

  void measure() {
    List<StackId, std::vector<FrameShare>> shares(layup_.stack_count());
    bool any = in_budget_;
    for (const StackId s : layup_.stacks()) {
      if (frames_[s].size() > 1) shares[s] = shares_of(s);
      any = any || frames_[s].size() > 1 || layup_.varies[s] != 0;
    }
    const std::size_t count = layup_.stack_of.size();
    if (any) out_.off.assign(count, 0.0f);
    most_steps_ = static_cast<std::int32_t>(std::lround(180.0 / step_)) + 1;
    for (std::int32_t k = -most_steps_; any && k <= most_steps_; ++k)
      phases_.emplace_back(2.0 * Angle::degrees(step_ * k).radians());
    const bool by_layers =
        in_budget_ || std::any_of(layup_.varies.begin(), layup_.varies.end(), [](auto v) { return v != 0; });
    if (by_layers) {
      stiffness_.assign(part_.materials.size(), Matrix3::Zero());
      for (const layup::Ply& ply : layup_.plies)
        stiffness_[ply.material] = laminate::plane_stress_stiffness(part_.materials[ply.material].elastic);
      by_shear_.resize(part_.materials.size());
      for (const layup::Ply& ply : layup_.plies)
        if (layup_.cloths[ply.cloth].drape && changes_by_shear(ply.material) && by_shear_[ply.material].empty())
          tabulate(ply.material);
      for (const SectionId s : out_.ids()) {
        const auto layers = laminate_of(part_, out_, s);
        used_.push_back(laminate::stiffness(layers, out_.bottom[s]));
        masses_.push_back(laminate::areal_mass(layers));
      }
    }
    const std::size_t block = block_of(8192);
    std::vector<Sums> sums((count + block - 1) / block);
    parallel_blocks(
        count,
        [&](std::size_t begin, std::size_t end) {
          Sums& sum = sums[begin / block];
          layup::LayersOn layers_on(laid_);
          for (std::size_t e = begin; e < end; ++e) {
            const StackId stack = layup_.stack_of[e];
            sum.layers += layup_.plies_of(stack).size();
            add_angles(e, shares[stack], sum);
            if (in_budget_ || layup_.varies[stack])
              compare(e, layers_on, sum);
            else if (!shares[stack].empty())
              measure(e, shares[stack], sum);
          }
        },
        block);
    Sums all;
    for (const Sums& sum : sums) {  // in order, so that the result does not depend on threads
      all.largest_angle = std::max(all.largest_angle, sum.largest_angle);
      all.largest_thickness = std::max(all.largest_thickness, sum.largest_thickness);
      all.largest_mass = std::max(all.largest_mass, sum.largest_mass);
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
    out.largest_thickness = all.largest_thickness;
    out.largest_mass = all.largest_mass;
    out.largest_A = all.largest[0], out.largest_B = all.largest[1], out.largest_D = all.largest[2];
    const double elements = std::max<double>(1.0, static_cast<double>(count));
    out.mean_A = all.sum[0] / elements, out.mean_B = all.sum[1] / elements, out.mean_D = all.sum[2] / elements;
  }

  const layup::Laid& laid_;
  const part::Part& part_;
  const mesh::Geometry& geometry_;
  const Layup& layup_;
  const Options& options_;
  double step_;  ///< degrees
  /// The thickest ply: thicknesses are compared by it, so that it does not matter in which unit they are.
  double thickness_scale_ = 0.0;
  static constexpr double stray = 1e-9;  ///< of a cell: what is on its border by rounding lies within
  Sections out_;
  List<StackId, std::vector<layup::Cloth>> frames_;  ///< what turns, the reference first
  List<StackId, std::vector<layup::DrapeId>> shears_;
  std::map<std::pair<part::MaterialId, std::int32_t>, part::MaterialId> sheared_;
  List<layup::MaterialId, std::vector<Matrix3>> by_shear_;
  std::size_t most_frames_ = 1;
  std::vector<std::int32_t> steps_;  ///< per element and further frame of its stack
  std::vector<double> turns_;        ///< the same, exact, in degrees
  std::unordered_map<std::string, SectionId> by_layers_;
  std::int32_t most_steps_ = 0;
  std::vector<Phase> phases_;  ///< of the steps from -most_steps_ on
  bool in_budget_ = false;
  List<layup::MaterialId, Matrix3> stiffness_;  ///< in plane stress
  List<SectionId, laminate::Stiffness> used_;
  List<SectionId, double> masses_;  ///< per area, of each section
};

void check(const Options& options) {
  const auto fail = [](std::string what, std::string remedy) {
    throw Failure({Severity::error, "section.options", std::move(what), {}, std::move(remedy)});
  };
  if (!(options.angle_tolerance.degrees() > 0.0 && options.angle_tolerance.degrees() <= 10.0))
    fail(fmt::format("the angle tolerance is {:g}°", options.angle_tolerance.degrees()),
         "it can be up to 10°, above 0");
  if (!(options.thickness_tolerance > 0.0 && options.thickness_tolerance <= 0.2))
    fail(fmt::format("the thickness tolerance is {:g}", options.thickness_tolerance),
         "it is a share of the laminate: up to 0.2, above 0");
  if (options.most_sections && *options.most_sections == 0)
    fail("no section at all is allowed", "a part has at least one");
}

}  // namespace

Sections condense(const layup::Laid& laid, const Options& options) {
  check(options);
  return Condenser(laid, options).condense();
}

Angle axes_of(const part::Part& part, const Sections& sections, const LaidLayer& layer) {
  if (index(layer.material) < part.materials.size()) return layer.angle;
  return layer.angle + material::to_diagonal(material_of(part, sections, layer.material), layer.shear);
}

std::vector<laminate::Layer> laminate_of(const part::Part& part, const Sections& sections, SectionId section) {
  std::vector<laminate::Layer> out;
  const double factor = density_factor(sections, section);
  for (const LaidLayer& layer : sections.layers_of(section)) {
    out.push_back(laminate::layer_of(material_of(part, sections, layer.material), layer.thickness,
                                     axes_of(part, sections, layer)));
    if (out.back().density) *out.back().density *= factor;
  }
  return out;
}

}  // namespace bordado::section
