#include "element_judge.hpp"

#include <algorithm>
#include <cmath>

namespace bordado::result {

namespace {

/// The same of all pieces of an element.
std::vector<JudgedPiece> made_ready(const part::Part& part, std::vector<layup::Piece> pieces) {
  std::vector<JudgedPiece> out;
  for (layup::Piece& piece : pieces) {
    JudgedPiece& ready = out.emplace_back();
    ready.laid = std::move(piece.layers);
    ready.z0 = piece.bottom;
    ready.number = piece.number;
    for (const layup::LaidLayer& layer : ready.laid) {
      ready.layers.push_back(layup::layer_of(part, layer));
      ready.in_plane.emplace_back(ready.layers.back());
      ready.materials.push_back(&part.materials[layer.material]);
    }
  }
  return out;
}

}  // namespace

InLayer::InLayer(const laminate::Layer& layer)
    : plane(laminate::plane_stress_stiffness(layer.elastic)), angle(layer.angle) {
  const material::Matrix6 S = material::compliance(layer.elastic);
  const int in[] = {0, 1, 5};
  for (int r = 0; r < 3; ++r)
    for (int c = 0; c < 3; ++c) squeeze(r, c) = S(in[r], 2 + c);
  laminate::Layer own = layer;
  own.angle = Angle();
  expansion = laminate::free_strain(own, laminate::Expands::by_temperature);
}

OfSolid::OfSolid(const material::Material& material)
    : across(material::stiffness(material.elastic).middleRows<3>(2)), expansion(material::Vector6::Zero()) {
  expansion.head<3>() = material.thermal.all();
  expansion[5] = material.thermal.shear.value_or(0.0);
}

ElementJudge::ElementJudge(const Known& of)
    : known(of),
      layers_on(of.design),
      forces(of.design.part, of.design.sections),
      changing(of.design.surface, of.design.geometry, of.design.sections.references, of.design.layup, of.at_nodes) {
  for (const laminate::Criterion criterion : of.criteria)
    wants_shear = wants_shear || criterion == laminate::Criterion::interlaminar_shear ||
                  criterion == laminate::Criterion::core_shear;
}

void ElementJudge::turn_to(ElementIndex e) {
  const auto laid = layers_on(e);
  const auto& solids = known.model.solids;
  if (solids) find_in_solids(*solids, known.first_solid[e], known.first_solid[e + 1], laid, within);
  if (std::equal(laid.begin(), laid.end(), key.begin(), key.end())) return;
  key.assign(laid.begin(), laid.end());
  crossed = layup::is_crossed(laid);
  pieces = made_ready(known.design.part, layup::pieces(known.design.part, laid));
  in_layers.clear();
  own_stiffness.clear();
  own_compliance.reset();
  if (solids && !crossed && !pieces.empty())
    for (const laminate::Layer& layer : pieces.front().layers) in_layers.emplace_back(layer);
  judges.clear();
  for (const JudgedPiece& piece : pieces) judges.emplace_back(piece.layers, piece.materials, piece.z0, known.criteria);
}

bool ElementJudge::direct(const model::CaseFields& fields) const {
  return !fields.solids.empty() && !crossed && !pieces.empty();
}

material::Vector6 ElementJudge::strain_of(std::size_t layer, int place,
                                          std::span<const model::SolidState> states) const {
  const model::InSolid& in = within[layer];
  const model::SolidState& state = states[in.solid];
  return state.mean + (in.low + 0.5 * place * (in.high - in.low)) * state.slope;
}

SolidStress ElementJudge::stress_of(std::size_t layer, int place, const material::Vector6& strain,
                                    const model::Warmth* heat) {
  const model::Solids& solids = *known.model.solids;
  const std::uint32_t s = within[layer].solid;
  const std::uint32_t m = solids.material[s];
  const OfSolid& solid = of_solids.try_emplace(m, solids.materials[m]).first->second;
  const InLayer& own = in_layers[layer];
  const JudgedPiece& piece = pieces.front();
  double of_solid = 0.0, of_ply = 0.0;  // kelvins
  if (heat) {
    const double h = laminate::thickness(piece.layers), z = piece.laid[layer].bottom - piece.z0;
    const double share = h > 0.0 ? (z + 0.5 * place * piece.layers[layer].thickness) / h : 0.0;
    of_solid = heat->above(solids.materials[m], share);
    of_ply = heat->above(*piece.materials[layer], share);
  }
  const Angle turn = solids.turn[s];
  const Vector3 across = solid.across * (model::turned(strain, turn) - of_solid * solid.expansion);  // 33, 23, 13
  // The same in the axes of the ply.
  const Angle further = Angle::radians(own.angle.radians() - turn.radians());
  const double c = further.cos(), n = further.sin();
  const Vector3 in_ply(across[0], c * across[1] - n * across[2], n * across[1] + c * across[2]);
  const material::Vector6 seen = model::turned(strain, own.angle);
  SolidStress out;
  out.plane = own.plane * (Vector3(seen[0], seen[1], seen[5]) - of_ply * own.expansion - own.squeeze * in_ply);
  out.shear = {in_ply[2], in_ply[1]};
  out.through = in_ply[0];
  return out;
}

const std::vector<Eigen::Vector2d>* ElementJudge::slopes_at(ElementIndex e) const {
  const auto found = known.slopes.find(e);
  return crossed || found == known.slopes.end() ? nullptr : &found->second;
}

void ElementJudge::taper(const JudgedPiece& piece, std::span<const Eigen::Vector2d> slopes,
                         const laminate::Deformation& deformed) {
  const std::size_t count = piece.layers.size();
  const Carried bears = laminate::stiffness(piece.layers, piece.z0).ABD() * six(deformed);
  const double h = laminate::thickness(piece.layers);
  double step = 1e-4 * h;
  for (std::size_t i = 0; i < count; ++i)
    if (const double slope = slopes[i].cwiseAbs().maxCoeff(); slope > 0.0)
      step = std::min(step, std::min(1e-4 * h, 0.1 * piece.layers[i].thickness) / slope);
  // What lies below each place bears, a step on.
  const auto borne = [&](int along, double by, std::vector<Vector3>& into) {
    std::vector<laminate::Layer> layers = piece.layers;
    for (std::size_t i = 0; i < count; ++i) layers[i].thickness += by * slopes[i][along];
    double z = layup::bottom(known.design.part, laminate::thickness(layers));
    const Eigen::Matrix<double, 6, 1> all = laminate::solve(laminate::stiffness(layers, z).ABD(), bears);
    Vector3 below = Vector3::Zero();
    into.clear();
    for (std::size_t i = 0; i < count; ++i) {
      const double t = layers[i].thickness;
      const laminate::Matrix3& Q = piece.in_plane[i].Q;
      into.push_back(below);
      into.push_back(below + 0.5 * t * Q * (all.head<3>() + (z + 0.25 * t) * all.tail<3>()));
      below += t * Q * (all.head<3>() + (z + 0.5 * t) * all.tail<3>());
      into.push_back(below);
      z += t;
    }
  };
  std::vector<Vector2> grown(3 * count, Vector2::Zero());
  std::vector<Vector3> ahead, behind;
  for (const int along : {0, 1}) {
    borne(along, step, ahead);
    borne(along, -step, behind);
    for (std::size_t i = 0; i < grown.size(); ++i) {
      const Vector3 change = (ahead[i] - behind[i]) / (2.0 * step);
      grown[i] -= along == 0 ? Vector2(change[0], change[2]) : Vector2(change[2], change[1]);
    }
  }
  shear.resize(3 * count, Vector2::Zero());
  for (std::size_t i = 0; i < grown.size(); ++i) {
    const Angle angle = piece.layers[i / 3].angle;
    shear[i] += Vector2(angle.cos() * grown[i][0] + angle.sin() * grown[i][1],
                        angle.cos() * grown[i][1] - angle.sin() * grown[i][0]);
  }
}

StrainChanges ElementJudge::changes(ElementIndex e, const Vector2& Q,
                                    const std::function<Carried(ElementIndex)>& carried_by) {
  Gradients all = Gradients::Zero();
  if (!crossed) all = changing(e, carried_by);
  balance(all, Q);
  if (crossed) return laminate::inverse(forces.section(e).stiffness) * all;
  if (!own_compliance)
    own_compliance = laminate::inverse(laminate::stiffness(pieces.front().layers, pieces.front().z0).ABD());
  return *own_compliance * all;
}

void ElementJudge::expansion(const JudgedPiece& piece, const model::Warmth& heat, std::vector<Vector3>& into) const {
  into.clear();
  const double h = laminate::thickness(piece.layers);
  for (std::size_t i = 0; i < piece.layers.size(); ++i) {
    laminate::Layer own = piece.layers[i];
    own.angle = Angle();
    const Vector3 per_kelvin =
        laminate::plane_stress_stiffness(own.elastic) * laminate::free_strain(own, laminate::Expands::by_temperature);
    for (int k = 0; k < 3; ++k) {
      const double z = piece.laid[i].bottom + 0.5 * k * own.thickness;
      into.push_back(-heat.above(*piece.materials[i], h > 0.0 ? (z - piece.z0) / h : 0.0) * per_kelvin);
    }
  }
}

laminate::Deformation ElementJudge::of_piece(const JudgedPiece& piece, ElementIndex e,
                                             const laminate::Deformation& of_section, const model::Warmth* heat) {
  const Eigen::Matrix<double, 6, 6>& whole = forces.section(e).stiffness;
  if (own_stiffness.empty())
    for (const JudgedPiece& one : pieces) own_stiffness.push_back(laminate::stiffness(one.layers, one.z0).ABD());
  Eigen::Matrix<double, 6, 6> own = own_stiffness[static_cast<std::size_t>(&piece - pieces.data())];
  if (!crossed && (own - whole).cwiseAbs().maxCoeff() <= 1e-12 * own.cwiseAbs().maxCoeff()) return of_section;
  Carried strains = six(of_section), bears = forces(e, of_section, heat);
  if (heat)
    bears += six(held_expansion(
        *heat, piece.layers, [&](std::size_t l) -> const material::Material& { return *piece.materials[l]; },
        piece.z0));
  const auto across = known.across.find(e);
  if (across == known.across.end()) {
    const Eigen::Matrix<double, 6, 1> all = laminate::solve(own, bears);
    return {all.head<3>(), all.tail<3>()};
  }
  // In axes across and along the edge: forces go over it, strain along it is the same on both sides.
  const Vec3& r = known.model.design->sections.references[e];
  const Vec3 t = known.design.geometry.normals[e].cross(r);
  const double c = across->second.dot(r), s = across->second.dot(t);
  const laminate::Matrix3 turn = laminate::strains_to(c, s);
  Eigen::Matrix<double, 6, 6> both = Eigen::Matrix<double, 6, 6>::Zero();
  both.topLeftCorner<3, 3>() = both.bottomRightCorner<3, 3>() = turn;
  Eigen::Matrix<double, 6, 6> back = Eigen::Matrix<double, 6, 6>::Zero();
  back.topLeftCorner<3, 3>() = back.bottomRightCorner<3, 3>() = turn.inverse();
  strains = both * strains;
  bears = back.transpose() * bears;
  own = back.transpose() * own * back;
  for (const int along : {1, 4}) {
    const double stiff = own(along, along);
    own.row(along).setZero();
    own(along, along) = stiff;
    bears[along] = stiff * strains[along];
  }
  const Eigen::Matrix<double, 6, 1> all = back * laminate::solve(own, bears);
  return {all.head<3>(), all.tail<3>()};
}

}  // namespace bordado::result
