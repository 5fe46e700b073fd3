// Stress in every ply as it lies, and what fails first.
#include "doubts.hpp"
#include "element_judge.hpp"

#include <bordado/base/work.hpp>
#include <bordado/design.hpp>
#include <bordado/layup/slopes.hpp>

#include <fmt/format.h>
#include <Eigen/LU>

#include <algorithm>
#include <cmath>
#include <mutex>

namespace bordado::result {

namespace {

/// A case made ready to be judged.
struct ReadyCase {
  const model::CaseFields& fields;
  model::Within within;
  bool apart;  ///< temperature is held, not multiplied

  ReadyCase(const model::Model& model, const model::CaseFields& of, std::size_t case_index)
      : fields(of), within(model, model.cases[case_index]), apart(!of.held.empty()) {}

  laminate::Deformation multiplied(ElementIndex e) const {
    laminate::Deformation out = fields.sections[e].deformation;
    if (!apart) return out;
    out.strain -= fields.held[e].deformation.strain;
    out.curvature -= fields.held[e].deformation.curvature;
    return out;
  }
  laminate::Vector2 shear(ElementIndex e) const {
    return apart ? laminate::Vector2(fields.sections[e].Q - fields.held[e].Q) : fields.sections[e].Q;
  }
};

/// Shear 13, 23 of a ply as xz, yz.
laminate::Vector2 seen_from_section(const laminate::Vector2& shear, const Angle& fibre) {
  return {fibre.cos() * shear[0] - fibre.sin() * shear[1], fibre.sin() * shear[0] + fibre.cos() * shear[1]};
}

/// As judge_element(): stresses as solids have them. The plane through all strains tells of faces.
template <class With>
void judge_solids(ElementJudge& on, const ReadyCase& ready, ElementIndex e, With with) {
  const auto& piece = on.pieces.front();
  const auto& judge = on.judges.front();
  laminate::SectionLoad section_load;
  section_load.deformation = ready.multiplied(e);
  section_load.pressure = ready.within.pressure(e);
  section_load.curved = on.known.curved_of(e);
  const bool warm = ready.within.warm();
  const model::Warmth heat = warm ? ready.within.heat(e) : model::Warmth{};
  on.added.clear(), on.held.clear(), on.shear.clear(), on.held_shear.clear(), on.through.clear(),
      on.held_through.clear();
  for (std::size_t i = 0; i < piece.layers.size(); ++i)
    for (int k = 0; k < 3; ++k) {
      const Vector3 of_plane = judge.ply_stress(section_load.deformation, i, k);
      if (on.within[i].solid == model::InSolid::none) {  // no room, no stress
        on.added.push_back(-of_plane);
        on.shear.push_back(Vector2::Zero());
        on.through.push_back(0.0);
        if (ready.apart) {
          on.held.push_back(Vector3::Zero());
          on.held_shear.push_back(Vector2::Zero());
          on.held_through.push_back(0.0);
        }
        continue;
      }
      const material::Vector6 whole = on.strain_of(i, k, ready.fields.solids);
      SolidStress stress;
      if (ready.apart) {
        const material::Vector6 held = on.strain_of(i, k, ready.fields.held_solids);
        stress = on.stress_of(i, k, whole - held, nullptr);
        const SolidStress of_held = on.stress_of(i, k, held, &heat);
        on.held.push_back(of_held.plane);
        on.held_shear.push_back(of_held.shear);
        on.held_through.push_back(of_held.through);
      } else {
        stress = on.stress_of(i, k, whole, warm ? &heat : nullptr);
      }
      on.added.push_back(stress.plane - of_plane);
      on.shear.push_back(stress.shear);
      on.through.push_back(stress.through);
    }
  section_load.added = on.added;
  section_load.shear = on.shear;
  section_load.through = on.through;
  if (ready.apart) {
    section_load.held = on.held;
    section_load.held_shear = on.held_shear;
    section_load.held_through = on.held_through;
    section_load.held_curvature = ready.fields.held[e].deformation.curvature;
  }
  with(piece, judge, section_load);
}

/// Of what a case does: all of it, or what is multiplied, or what is held.
enum class Part { whole, multiplied, held };

StrainChanges changes_on(ElementJudge& on, const ReadyCase& ready, ElementIndex e, const Vector2& Q, Part of) {
  const bool heated = ready.within.warm() && (of != Part::multiplied || !ready.apart);
  return on.changes(e, Q, [&](ElementIndex other) {
    const laminate::Deformation deformed = of == Part::whole  ? ready.fields.sections[other].deformation
                                           : of == Part::held ? ready.fields.held[other].deformation
                                                              : ready.multiplied(other);
    if (!heated) return on.forces(other, deformed, nullptr);
    const model::Warmth heat = ready.within.heat(other);
    return on.forces(other, deformed, &heat);
  });
}

/// Calls with(piece, judge, section_load) for what lies on an element, in a case.
template <class With>
void judge_element(ElementJudge& on, const ReadyCase& ready, ElementIndex e, With with) {
  on.turn_to(e);
  if (on.direct(ready.fields)) return judge_solids(on, ready, e, with);
  for (std::size_t p = 0; p < on.pieces.size(); ++p) {
    const auto& piece = on.pieces[p];
    laminate::SectionLoad section_load;
    const bool warm = ready.within.warm();
    const model::Warmth heat = warm ? ready.within.heat(e) : model::Warmth{};
    section_load.deformation = on.of_piece(piece, e, ready.multiplied(e), warm && !ready.apart ? &heat : nullptr);
    section_load.Q = ready.shear(e);
    section_load.pressure = ready.within.pressure(e);
    section_load.curved = on.known.curved_of(e);
    if (warm) {
      on.expansion(piece, heat, on.added);
      if (ready.apart) {
        // What the free expansion leaves of the strain that temperature alone brings about is held.
        const laminate::Deformation held = on.of_piece(piece, e, ready.fields.held[e].deformation, &heat);
        on.held = on.added;
        for (std::size_t i = 0; i < on.held.size(); ++i)
          on.held[i] += on.judges[p].ply_stress(held, i / 3, static_cast<int>(i % 3));
        section_load.held = on.held;
        section_load.held_curvature = held.curvature;
        section_load.held_Q = ready.fields.held[e].Q;
      } else {
        section_load.added = on.added;
      }
    }
    on.shear.clear(), on.held_shear.clear();
    if (on.wants_shear && !on.crossed && ready.fields.shear) {
      shear_between(piece.in_plane, piece.z0, changes_on(on, ready, e, section_load.Q, Part::multiplied), on.shear);
      section_load.Q = Vector2::Zero();
      if (ready.apart) {
        shear_between(piece.in_plane, piece.z0, changes_on(on, ready, e, section_load.held_Q, Part::held),
                      on.held_shear);
        section_load.held_Q = Vector2::Zero();
      }
    }
    if (const auto* const slopes = on.slopes_at(e)) on.taper(piece, *slopes, section_load.deformation);
    section_load.shear = on.shear;
    section_load.held_shear = on.held_shear;
    with(piece, on.judges[p], section_load);
  }
}

Critical critical(const laminate::Failing& failing, const JudgedPiece& piece, ElementIndex e, std::size_t case_index,
                  Doubt doubt) {
  return {failing.factor,
          failing.mode,
          failing.criterion,
          failing.place,
          piece.number,
          doubt,
          piece.laid[failing.layer].ply,
          e,
          case_index};
}

}  // namespace

namespace {

/// How normals turn over each element, by least squares over its nodes: curvature x, y, xy in the axes of its section.
std::vector<Vec3> curvatures(const mesh::Surface& surface, const mesh::Geometry& geometry,
                             std::span<const Vec3> references) {
  const std::vector<Vec3> normals = mesh::nodal_normals(surface, geometry);
  std::vector<Vec3> out(surface.element_count(), Vec3::Zero());
  std::size_t use = 0;
  for (ElementIndex e = 0; e < surface.element_count(); ++e) {
    const auto nodes = surface.nodes_of(e);
    const Vec3& r = references[e];
    const Vec3 t = geometry.normals[e].cross(r);
    Vec3 middle = Vec3::Zero(), mean = Vec3::Zero();
    for (std::size_t i = 0; i < nodes.size(); ++i) middle += surface.points[nodes[i]], mean += normals[use + i];
    middle /= static_cast<double>(nodes.size()), mean /= static_cast<double>(nodes.size());
    Eigen::Matrix2d squares = Eigen::Matrix2d::Zero(), products = Eigen::Matrix2d::Zero();
    for (std::size_t i = 0; i < nodes.size(); ++i) {
      const Vec3 to = surface.points[nodes[i]] - middle, turn = normals[use + i] - mean;
      const Eigen::Vector2d x(to.dot(r), to.dot(t)), n(turn.dot(r), turn.dot(t));
      squares += x * x.transpose();
      products += n * x.transpose();
    }
    use += nodes.size();
    if (!(squares.determinant() > 1e-12 * std::pow(squares.trace(), 2))) continue;
    const Eigen::Matrix2d slope = products * squares.inverse();
    out[e] = {slope(0, 0), slope(1, 1), slope(0, 1) + slope(1, 0)};
  }
  return out;
}

}  // namespace

Recovery::Recovery(const model::Model& model, std::vector<laminate::Criterion> criteria) {
  const Design& design = *model.design;
  const auto known = std::make_shared<Known>(Known{design,
                                                   model,
                                                   std::move(criteria),
                                                   {},
                                                   layup::layer_slopes(design, design.sections.references),
                                                   layup::across_edges(design),
                                                   mesh::elements_at_nodes(design.surface)});
  const bool cores = std::any_of(design.part.materials.begin(), design.part.materials.end(),
                                 [](const material::Material& m) { return material::is_core(m.kind); });
  if (cores && std::find(known->criteria.begin(), known->criteria.end(), laminate::Criterion::core_crushing) !=
                   known->criteria.end())
    known->curved = curvatures(design.surface, design.geometry, design.sections.references);
  known_ = known;
  if (model.solids) known->first_solid = first_solids(model);
  known->doubt = doubts(model, known->slopes);
}

std::array<double, 6> stress_in_section(const PlyState& state) {
  return {state.stress[0], state.stress[1], state.ply_through, state.across[1], state.across[0], state.stress[2]};
}

std::array<double, 6> stress_in_part(const Design& design, mesh::ElementIndex element, const PlyState& state) {
  const auto [xx, yy, zz, yz, xz, xy] = stress_in_section(state);
  Eigen::Matrix3d stress, axes;
  stress << xx, xy, xz, xy, yy, yz, xz, yz, zz;
  const Vec3 &x = design.sections.references[element], &n = design.geometry.normals[element];
  axes << x, n.cross(x), n;
  const Eigen::Matrix3d turned = axes * stress * axes.transpose();
  return {turned(0, 0), turned(1, 1), turned(2, 2), turned(1, 2), turned(0, 2), turned(0, 1)};
}

Doubt Recovery::doubt(ElementIndex element) const { return known_->doubt_of(element); }
Vec3 Recovery::curved_of(ElementIndex element) const { return known_->curved_of(element); }
std::span<const laminate::Criterion> Recovery::criteria() const { return known_->criteria; }

namespace {

/// Every layer of an element at its three places.
std::vector<PlyState> states_on(ElementJudge& on, const ReadyCase& ready, ElementIndex e) {
  const model::CaseFields& fields = ready.fields;
  on.wants_shear = true;
  std::vector<PlyState> out;
  judge_element(
      on, ready, e, [&](const JudgedPiece& piece, const laminate::Judge&, const laminate::SectionLoad& section_load) {
        if (on.direct(fields)) {
          for (std::size_t i = 0; i < 3 * piece.layers.size(); ++i) {
            PlyState state;
            const std::size_t l = i / 3;
            const auto k = static_cast<int>(i % 3);
            state.ply = piece.laid[l].ply;
            state.layer = l;
            state.place = static_cast<std::uint8_t>(k);
            state.z = piece.laid[l].bottom + 0.5 * k * piece.layers[l].thickness;
            state.strain = state.ply_strain = state.stress = state.ply_stress = state.ply_held = Vector3::Zero();
            state.ply_shear = state.across = Vector2::Zero();
            if (on.within[l].solid != model::InSolid::none) {
              const material::Vector6 strain = on.strain_of(l, k, fields.solids);
              const material::Vector6 seen = model::turned(strain, piece.layers[l].angle);
              const model::Warmth heat = ready.within.heat(e);
              const SolidStress stress = on.stress_of(l, k, strain, ready.within.warm() ? &heat : nullptr);
              state.strain = {strain[0], strain[1], strain[5]};
              state.ply_strain = {seen[0], seen[1], seen[5]};
              state.ply_stress = stress.plane;
              state.ply_shear = stress.shear;
              state.ply_through = stress.through;
              state.stress = laminate::strains_to(piece.layers[l].angle).transpose() * stress.plane;
              state.across = seen_from_section(stress.shear, piece.layers[l].angle);
              if (!section_load.held.empty()) state.ply_held = section_load.held[i];
            }
            out.push_back(state);
          }
          return;
        }
        laminate::Deformation whole = section_load.deformation;
        if (ready.apart) {
          const model::Warmth heat = ready.within.heat(e);
          const laminate::Deformation held =
              on.of_piece(piece, e, fields.held[e].deformation, ready.within.warm() ? &heat : nullptr);
          whole.strain += held.strain, whole.curvature += held.curvature;
        }
        laminate::Load load;
        load.Q = section_load.Q + section_load.held_Q;
        const auto states = laminate::layer_states(piece.layers, piece.z0, whole, load);
        for (std::size_t i = 0; i < states.size(); ++i) {
          const laminate::LayerState& s = states[i];
          PlyState state;
          state.ply = piece.laid[s.layer].ply;
          state.layer = s.layer;
          state.place = static_cast<std::uint8_t>(i % 3);
          state.piece = piece.number;
          state.z = s.z;
          state.strain = s.strain, state.ply_strain = s.ply_strain;
          state.ply_stress = s.ply_stress;
          if (ready.within.warm()) state.ply_stress += on.added[i];
          state.stress = laminate::strains_to(piece.layers[s.layer].angle).transpose() * state.ply_stress;
          state.ply_held = section_load.held.empty() ? Vector3(Vector3::Zero()) : section_load.held[i];
          state.ply_shear = s.ply_shear;
          if (!section_load.shear.empty()) state.ply_shear += section_load.shear[i];
          if (!section_load.held_shear.empty()) state.ply_shear += section_load.held_shear[i];
          state.across = seen_from_section(state.ply_shear, piece.layers[s.layer].angle);
          out.push_back(state);
        }
      });
  return out;
}

}  // namespace

std::vector<PlyState> Recovery::at(const model::CaseFields& fields, std::size_t case_index, ElementIndex e) const {
  const ReadyCase ready(known_->model, fields, case_index);
  ElementJudge on(*known_);
  return states_on(on, ready, e);
}

std::vector<Critical> Recovery::failing(const model::CaseFields& fields, std::size_t case_index, ElementIndex e) const {
  const ReadyCase ready(known_->model, fields, case_index);
  ElementJudge on(*known_);
  std::vector<Critical> out;
  judge_element(on, ready, e,
                [&](const JudgedPiece& piece, const laminate::Judge& judge, const laminate::SectionLoad& section_load) {
                  for (const laminate::Failing& failing : judge.all(section_load))
                    out.push_back(critical(failing, piece, e, case_index, doubt(e)));
                });
  std::stable_sort(out.begin(), out.end(), [](const Critical& a, const Critical& b) { return a.factor < b.factor; });
  return out;
}

model::Warmth Recovery::warmth(std::size_t case_index, ElementIndex e) const {
  return model::Within(known_->model, known_->model.cases[case_index]).heat(e);
}

std::vector<StrainChanges> Recovery::changes(const model::CaseFields& fields, std::size_t case_index) const {
  const ReadyCase ready(known_->model, fields, case_index);
  std::vector<StrainChanges> out(fields.sections.size(), StrainChanges::Zero());
  parallel_blocks(out.size(), [&](std::size_t begin, std::size_t end) {
    ElementJudge on(*known_);
    for (std::size_t i = begin; i < end; ++i) {
      const auto e = static_cast<ElementIndex>(i);
      on.turn_to(e);
      if (!on.pieces.empty()) out[i] = changes_on(on, ready, e, fields.sections[e].Q, Part::whole);
    }
  });
  return out;
}

std::vector<ElementIndex> Recovery::tapered() const {
  std::vector<ElementIndex> out;
  for (const auto& [e, slopes] : known_->slopes) out.push_back(e);
  std::sort(out.begin(), out.end());
  return out;
}

double Recovery::warmed(std::size_t case_index, ElementIndex e) const {
  const model::Within within(known_->model, known_->model.cases[case_index]);
  if (!within.warm()) return 0.0;
  const model::Warmth heat = within.heat(e);
  double least = std::numeric_limits<double>::infinity(), most = -least;
  for (const section::LaidLayer& layer : known_->design.sections.layers_of(known_->design.sections.section_of[e])) {
    const material::Material& material =
        section::material_of(known_->design.part, known_->design.sections, layer.material);
    for (const double share : {0.0, 1.0}) {
      const double above = heat.above(material, share);
      least = std::min(least, above), most = std::max(most, above);
    }
  }
  return most - least <= 1e-9 * std::max(std::abs(most), std::abs(least)) ? most
                                                                          : std::numeric_limits<double>::quiet_NaN();
}

namespace {

/// Resultants of no size beside the largest of the part are rounding: a moment counts by the thickness that bears it.
void drop_rounding(std::vector<SectionResultants>& all, const section::Sections& sections) {
  const auto thickness = [&](std::size_t e) { return sections.thickness[sections.section_of[e]]; };
  double largest = 0.0;
  for (std::size_t e = 0; e < all.size(); ++e)
    if (const double h = thickness(e); h > 0.0)
      largest = std::max({largest, all[e].N.cwiseAbs().maxCoeff(), all[e].M.cwiseAbs().maxCoeff() / h,
                          all[e].Q.cwiseAbs().maxCoeff()});
  const auto plain = [](auto& values, double least) {
    for (double& value : values)
      if (std::abs(value) < least) value = 0.0;
  };
  const double least = 1e-12 * largest;
  for (std::size_t e = 0; e < all.size(); ++e)
    plain(all[e].N, least), plain(all[e].Q, least), plain(all[e].M, least * thickness(e));
}

}  // namespace

std::vector<SectionResultants> Recovery::carried(const model::CaseFields& fields, std::size_t case_index) const {
  const model::Within within(known_->model, known_->model.cases[case_index]);
  std::vector<SectionResultants> out(fields.sections.size());
  parallel_blocks(out.size(), [&](std::size_t begin, std::size_t end) {
    SectionForces forces(known_->design.part, known_->design.sections);
    for (auto e = static_cast<ElementIndex>(begin); e < end; ++e) {
      const model::Warmth heat = within.heat(e);
      const Carried all = forces(e, fields.sections[e].deformation, within.warm() ? &heat : nullptr);
      out[e] = {{all.head<3>(), all.tail<3>()}, fields.sections[e].Q};
    }
  });
  if (!fields.solids.empty()) {
    // Sums of stress, which is straight over each layer.
    const ReadyCase ready(known_->model, fields, case_index);
    parallel_blocks(out.size(), [&](std::size_t begin, std::size_t end) {
      ElementJudge on(*known_);
      for (std::size_t i = begin; i < end; ++i) {
        on.turn_to(static_cast<ElementIndex>(i));
        if (!on.direct(fields)) continue;
        const std::vector<PlyState> states = states_on(on, ready, static_cast<ElementIndex>(i));
        out[i].N = out[i].M = Vector3::Zero();
        for (std::size_t s = 0; s + 2 < states.size(); s += 3) {
          const double t = states[s + 2].z - states[s].z;
          for (std::size_t k = 0; k < 3; ++k) {
            const double weight = t * (k == 1 ? 4.0 : 1.0) / 6.0;
            out[i].N += weight * states[s + k].stress;
            out[i].M += weight * states[s + k].z * states[s + k].stress;
          }
        }
      }
    });
  }
  drop_rounding(out, known_->design.sections);
  return out;
}

namespace {

/// Keeps the worst of an element, of plies, criteria and cases.
class Keeping : public laminate::Judge::Watch {
 public:
  Keeping(Reserves& own, std::span<const std::size_t> cases) : own_(own), cases_(cases) {}

  void turn_to(const JudgedPiece& piece, ElementIndex e, std::size_t c, Doubt doubt, Critical& worst) {
    piece_ = &piece, element_ = e, case_ = c, doubt_ = doubt, worst_ = &worst;
  }
  double limit(std::size_t layer, laminate::Criterion criterion) const override {
    const bool clear = doubt_ == Doubt::none;
    const auto kept = [&](const Least& least) { return clear ? least.clear.factor : least.doubtful.factor; };
    const auto k = static_cast<std::size_t>(criterion);
    return std::max({worst_->factor, kept(own_.of_plies[piece_->laid[layer].ply]),
                     clear ? own_.next_of_criteria[k].factor : own_.of_criteria[k].doubtful.factor,
                     kept(own_.of_cases[case_])});
  }
  void take(const laminate::Failing& failing) override {
    if (!(failing.factor < limit(failing.layer, failing.criterion))) return;
    const Critical one = critical(failing, *piece_, element_, cases_[case_], doubt_);
    keep_worse(*worst_, one);
    own_.of_plies[one.ply].take(one);
    own_.take_criterion(one);
    own_.of_cases[case_].take(one);
  }

 private:
  Reserves& own_;
  std::span<const std::size_t> cases_;
  const JudgedPiece* piece_ = nullptr;
  Critical* worst_ = nullptr;
  ElementIndex element_ = 0;
  std::size_t case_ = 0;
  Doubt doubt_ = Doubt::none;
};

}  // namespace

Reserves Recovery::reserves(std::span<const model::CaseFields> fields, std::span<const std::size_t> cases,
                            const Progress& progress) const {
  const std::size_t count = known_->design.surface.element_count();
  std::vector<ReadyCase> ready;
  for (std::size_t c = 0; c < fields.size(); ++c) ready.emplace_back(known_->model, fields[c], cases[c]);
  Reserves out;
  out.of_elements.resize(count);
  const auto fresh = [&](Reserves& r) {
    r.of_plies = List<part::PlyId, Least>(known_->design.part.plies.size());
    r.of_cases.resize(fields.size());
  };
  fresh(out);
  // Blocks are judged in parallel and gathered in their order.
  const std::size_t block = block_of(2048);
  std::vector<Reserves> parts((count + block - 1) / block);
  std::mutex telling;
  std::size_t done = 0;
  parallel_blocks(
      count,
      [&](std::size_t begin, std::size_t end) {
        Reserves& own = parts[begin / block];
        fresh(own);
        ElementJudge on(*known_);
        Keeping keeping(own, cases);
        for (std::size_t i = begin; i < end; ++i) {
          const auto e = static_cast<ElementIndex>(i);
          for (std::size_t c = 0; c < ready.size(); ++c)
            judge_element(
                on, ready[c], e,
                [&](const JudgedPiece& piece, const laminate::Judge& judge, const laminate::SectionLoad& section_load) {
                  keeping.turn_to(piece, e, c, doubt(e), out.of_elements[e]);
                  judge.each(section_load, keeping);
                });
        }
        if (!progress) return;
        const std::lock_guard lock(telling);
        done += end - begin;
        progress("judging every ply", 0.99 * static_cast<double>(done) / static_cast<double>(count));
      },
      block);
  if (progress) progress("", 1.0);
  for (const Reserves& own : parts) {
    for (const part::PlyId p : out.of_plies.ids()) out.of_plies[p].take(own.of_plies[p]);
    for (std::size_t k = 0; k < laminate::criterion_count; ++k)
      for (const Critical& one : {own.of_criteria[k].clear, own.of_criteria[k].doubtful, own.next_of_criteria[k]})
        if (one.any()) out.take_criterion(one);
    for (std::size_t c = 0; c < fields.size(); ++c) out.of_cases[c].take(own.of_cases[c]);
  }
  for (const Doubt one : known_->doubt) {
    out.doubtful += one != Doubt::none;
    out.at_points += one == Doubt::force || one == Doubt::held;
  }
  for (const Critical& one : out.of_elements) out.below_one += one.any() && !one.doubtful() && one.factor < 1.0;
  return out;
}

}  // namespace bordado::result
