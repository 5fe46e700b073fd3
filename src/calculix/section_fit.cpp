// The strains of layered shells at integration points as states of their sections.
#include "section_fit.hpp"

#include <bordado/calculix/boxes.hpp>
#include <bordado/deck/uses.hpp>
#include <bordado/deck/writing.hpp>
#include <bordado/design.hpp>
#include <bordado/mesh/shape.hpp>
#include <bordado/warmth.hpp>
#include "findings.hpp"
#include "solid_fit.hpp"

#include <fmt/format.h>

#include <Eigen/Geometry>
#include <Eigen/LU>

#include <algorithm>
#include <cmath>
#include <unordered_map>

namespace bordado::calculix {

namespace {

using laminate::Matrix2;
using mesh::ElementIndex;

/// Integration points in the plane of an element, in the solver's order.
struct PlanePoints {
  std::size_t count;
  std::array<mesh::ShapeValues, 4> at;
};

PlanePoints points_of(mesh::Shape shape) {
  PlanePoints out{mesh::corner_count(shape) == 4 ? 4u : 3u, {}};
  const double g = 1.0 / std::sqrt(3.0);
  const double quad[4][2] = {{-g, -g}, {g, -g}, {-g, g}, {g, g}};
  const double triangle[3][2] = {{1.0 / 6.0, 1.0 / 6.0}, {2.0 / 3.0, 1.0 / 6.0}, {1.0 / 6.0, 2.0 / 3.0}};
  for (std::size_t p = 0; p < out.count; ++p) {
    const double* const at = out.count == 4 ? quad[p] : triangle[p];
    out.at[p] = mesh::shape_values(shape, at[0], at[1]);
  }
  return out;
}

Eigen::Matrix3d tensor(const double* six) {
  Eigen::Matrix3d out;
  out << six[0], six[3], six[4], six[3], six[1], six[5], six[4], six[5], six[2];
  return out;
}

}  // namespace

SectionFit::SectionFit(const Model& model, const deck::WriteOptions& options, std::span<const std::size_t> cases)
    : model_(model),
      heat_in_materials_(deck::heat_in_materials(model, cases)),
      standing_(model, options, unheard_),
      bricks_(model.design->sections.count()),
      wedges_(model.design->sections.count()),
      normals_(mesh::nodal_normals(model.surface, model.design->geometry)) {
  for (const section::SectionId s : bricks_.ids()) {
    for (const mesh::Shape shape : {mesh::Shape::quadrilateral8, mesh::Shape::triangle6}) {
      OfSection& of = (shape == mesh::Shape::triangle6 ? wedges_ : bricks_)[s];
      of.levels = standing_.levels(s, shape);
      std::vector<double> levels = {-1.0 / std::sqrt(3.0), 1.0 / std::sqrt(3.0)};
      if (of.levels == 3) levels = {-std::sqrt(0.6), 0.0, std::sqrt(0.6)};
      for (const StandingLayer& layer : standing_.layers_of(s)) {
        for (std::size_t l = 0; l < levels.size(); ++l) {
          const double share = layer.thickness * (of.levels == 2 ? 0.5 : l == 1 ? 8.0 / 18.0 : 5.0 / 18.0);
          of.z.push_back(layer.bottom + 0.5 * layer.thickness * (1.0 + levels[l]));
          of.bears.push_back(share * layer.Q);
          of.squeezed.push_back(share * layer.through);
        }
        of.shear.push_back(layer.thickness * layer.G);
      }
      Eigen::Matrix<double, 6, 6> ABD = Eigen::Matrix<double, 6, 6>::Zero();
      for (std::size_t i = 0; i < of.z.size(); ++i) {
        ABD.topLeftCorner<3, 3>() += of.bears[i];
        ABD.topRightCorner<3, 3>() += of.z[i] * of.bears[i];
        ABD.bottomLeftCorner<3, 3>() += of.z[i] * of.bears[i];
        ABD.bottomRightCorner<3, 3>() += of.z[i] * of.z[i] * of.bears[i];
      }
      of.flexibility = laminate::inverse(ABD);
    }
  }
  for (const mesh::Shape shape : {mesh::Shape::quadrilateral8, mesh::Shape::triangle6}) {
    const PlanePoints points = points_of(shape);
    for (std::size_t p = 0; p < points.count; ++p)
      for (std::size_t n = 0; n < 8; ++n) {
        auto& slope = slopes_[points.count == 4 ? 0 : 1][p];
        slope.xi[n] = points.at[p].by_xi[n];
        slope.eta[n] = points.at[p].by_eta[n];
      }
  }
}

SectionFit::At SectionFit::at(ElementIndex e, std::size_t p) const {
  const mesh::Surface& surface = model_.surface;
  const bool wedge = mesh::corner_count(surface.shapes[e]) == 3;
  const auto& slope = slopes_[wedge ? 1 : 0][p];
  Vec3 by_xi = Vec3::Zero(), by_eta = Vec3::Zero(), turn_xi = Vec3::Zero(), turn_eta = Vec3::Zero();
  const auto nodes = surface.nodes_of(e);
  for (std::size_t n = 0; n < nodes.size(); ++n) {
    by_xi += slope.xi[n] * surface.points[nodes[n]];
    by_eta += slope.eta[n] * surface.points[nodes[n]];
    turn_xi += slope.xi[n] * normals_[surface.first[e] + n];
    turn_eta += slope.eta[n] * normals_[surface.first[e] + n];
  }
  const Vec3 across = by_xi.cross(by_eta), normal = across.normalized();
  const Vec3& reference = model_.design->sections.references[e];
  const Vec3 r = (reference - reference.dot(normal) * normal).normalized();
  const double grows = (turn_xi.cross(by_eta) + by_xi.cross(turn_eta)).dot(normal) / across.norm(),
               twice = turn_xi.cross(turn_eta).dot(normal) / across.norm();
  return {r, normal.cross(r), normal, across.norm() / (wedge ? 6.0 : 1.0), {grows, twice}};
}

Eigen::Matrix3d SectionFit::axes_of(ElementIndex e) const {
  const Vec3 &r = model_.design->sections.references[e], &n = model_.design->geometry.normals[e];
  Eigen::Matrix3d out;
  out << r, n.cross(r), n;
  return out;
}

Eigen::Matrix3d SectionFit::OfSection::borne(std::size_t i, const Eigen::Matrix3d& E) const {
  const laminate::Vector3 plane = bears[i] * laminate::Vector3(E(0, 0), E(1, 1), 2.0 * E(0, 1));
  const laminate::Vector2 across =
      shear[i / levels] * laminate::Vector2(2.0 * E(0, 2), 2.0 * E(1, 2)) / static_cast<double>(levels);
  Eigen::Matrix3d out;
  out << plane[0], plane[2], across[0], plane[2], plane[1], across[1], across[0], across[1], squeezed[i] * E(2, 2);
  return out;
}

StrainEnergy SectionFit::energy(ElementIndex e, std::span<const double> strains, const model::Warmth* heat) const {
  const bool wedge = mesh::corner_count(model_.surface.shapes[e]) == 3;
  const section::SectionId s = model_.design->sections.section_of[e];
  const OfSection& of = (wedge ? wedges_ : bricks_)[s];
  const std::size_t in_plane_points = wedge ? 3 : 4, levels = of.levels;
  std::vector<Eigen::Matrix3d> free;  // of layers, tensorial
  if (heat)
    for (const LayerExpansion& by : standing_.expansions(s, *heat, !heat_in_materials_)) {
      Eigen::Matrix3d one = Eigen::Vector3d(by.plane[0], by.plane[1], by.through).asDiagonal();
      one(0, 1) = one(1, 0) = 0.5 * by.plane[2];
      free.push_back(one);
    }
  const Eigen::Matrix3d middle = axes_of(e);
  StrainEnergy out;
  for (std::size_t p = 0; p < in_plane_points; ++p) {
    const At here = at(e, p);
    for (std::size_t i = 0; i < of.z.size(); ++i) {
      const std::size_t layer = i / levels, level = i % levels;
      const double area = here.at(of.z[i]);
      Eigen::Matrix3d E =
          middle.transpose() * tensor(&strains[6 * ((layer * levels + level) * in_plane_points + p)]) * middle;
      if (heat) {
        E -= free[layer];
        out.held += 0.5 * area * free[layer].cwiseProduct(of.borne(i, free[layer])).sum();
      }
      out.elastic += 0.5 * area * E.cwiseProduct(of.borne(i, E)).sum();
    }
  }
  return out;
}

model::SectionState SectionFit::operator()(ElementIndex e, std::span<const double> strains) const {
  const bool wedge = mesh::corner_count(model_.surface.shapes[e]) == 3;
  const OfSection& of = (wedge ? wedges_ : bricks_)[model_.design->sections.section_of[e]];
  const std::size_t in_plane_points = wedge ? 3 : 4, levels = of.levels;
  model::SectionState out;
  // The solver's materials keep the axes of the element's middle at all of its points; what is borne is seen in each
  // point's own.
  const Eigen::Matrix3d middle = axes_of(e);
  for (std::size_t p = 0; p < in_plane_points; ++p) {
    const At here = at(e, p);
    const Vec3 &r = here.r, &t = here.t, &normal = here.normal;
    // What the layers bear, and the plane that bears as much.
    Eigen::Matrix<double, 6, 1> forces = Eigen::Matrix<double, 6, 1>::Zero();
    for (std::size_t i = 0; i < of.z.size(); ++i) {
      const std::size_t layer = i / levels, level = i % levels;
      const Eigen::Matrix3d E = tensor(&strains[6 * ((layer * levels + level) * in_plane_points + p)]);
      const Eigen::Matrix3d borne = middle * of.borne(i, middle.transpose() * E * middle) * middle.transpose();
      const Vec3 on_r = borne * r, on_t = borne * t;
      const laminate::Vector3 plane(r.dot(on_r), t.dot(on_t), r.dot(on_t));
      forces.head<3>() += plane;
      forces.tail<3>() += of.z[i] * plane;
      out.Q += laminate::Vector2(normal.dot(on_r), normal.dot(on_t));
    }
    const Eigen::Matrix<double, 6, 1> line = of.flexibility * forces;
    out.deformation.strain += line.head<3>();
    out.deformation.curvature += line.tail<3>();
  }
  const double share = 1.0 / static_cast<double>(in_plane_points);
  out.deformation.strain *= share;
  out.deformation.curvature *= share;
  out.Q *= share;
  return out;
}

namespace {

/// What supports put on the part, per node of its surface: what elements put on held nodes, less the loads that act there.
/// \param moments of columns of solids
std::vector<Vec3> reactions_at(const Model& model, std::size_t case_index, const std::vector<NodeRow>& rows,
                               const std::unordered_map<std::int64_t, mesh::NodeIndex>& nodes,
                               std::vector<Vec3>& moments) {
  const Model::Case& of = model.cases[case_index];
  std::vector<Vec3> out(model.surface.points.size(), Vec3::Zero());
  if (model.solids) {
    moments.assign(out.size(), Vec3::Zero());
    std::vector<mesh::NodeIndex> surface_node(model.solids->points.size(), mesh::no_index);
    for (mesh::NodeIndex n = 0; n < out.size(); ++n)
      for (const std::uint32_t node : model.solids->column_of(n)) surface_node[node] = n;
    const auto add = [&](std::int64_t id, const Vec3& force) {
      if (id >= 1 && static_cast<std::size_t>(id) <= surface_node.size())
        if (const mesh::NodeIndex n = surface_node[static_cast<std::size_t>(id - 1)]; n != mesh::no_index) {
          out[n] += force;
          moments[n] += (model.solids->points[static_cast<std::size_t>(id - 1)] - model.surface.points[n]).cross(force);
        }
    };
    for (const NodeRow& row : rows) add(row.id, row.value);
    for (const auto& [id, force] : calculix::loads_on_held(model, of)) add(id, -force);
    return out;
  }
  const std::vector<Vec3> loads = model::nodal_loads(model, of);
  for (const NodeRow& row : rows)
    if (const auto found = nodes.find(row.id); found != nodes.end())
      out[found->second] += row.value - loads[found->second];
  // A support does nothing along what it does not hold.
  for (const ForceSet& set : calculix::force_sets(model, of))
    for (const mesh::NodeIndex n : set.nodes)
      for (int k = 0; k < 3; ++k)
        if ((set.held >> k & 1) == 0) out[n][k] = 0.0;
  return out;
}

/// Where the elements of a model stand, by their ids in the deck.
class ElementIds {
 public:
  explicit ElementIds(const mesh::Surface& surface) {
    for (ElementIndex e = 0; e < surface.element_count(); ++e) ids_.emplace_back(surface.element_ids[e], e);
    std::sort(ids_.begin(), ids_.end());
  }
  /// Answers come in ascending order, mostly.
  std::optional<ElementIndex> operator()(std::int64_t id) {
    if (next_ < ids_.size() && ids_[next_].first == id) return ids_[next_++].second;
    const auto found = std::lower_bound(ids_.begin(), ids_.end(), std::pair{id, ElementIndex{0}});
    if (found == ids_.end() || found->first != id) return std::nullopt;
    next_ = static_cast<std::size_t>(found - ids_.begin()) + 1;
    return found->second;
  }

 private:
  std::vector<std::pair<std::int64_t, ElementIndex>> ids_;
  std::size_t next_ = 0;
};

}  // namespace

namespace {

/// Energies of an element agree to some per cent; where it holds next to nothing, by what an element holds in the mean.
/// Temperatures that differ from node to node are an element's mean in ours and not in the solver's.
void find_odd_element(Whole& whole, const Model& model) {
  constexpr double most = 0.15;
  ElementIds ids(model.surface);
  const double mean = whole.energy->elastic / static_cast<double>(std::max<std::size_t>(whole.energies.size(), 1));
  double worst = most;
  for (const ElementEnergy& energy : whole.answer.element_energies) {
    const auto e = model.solids ? std::optional(static_cast<ElementIndex>(energy.id - 1)) : ids(energy.id);
    if (!e || *e >= whole.energies.size()) continue;
    const double own = whole.energies[*e].elastic;
    const double share =
        std::abs(own - energy.value) / (std::max(own, std::abs(energy.value)) + 0.05 * mean + whole.energies[*e].held);
    if (share > worst) worst = share, whole.odd_element = {energy.id, own, energy.value};
  }
}

}  // namespace

Whole read_whole(const Model& model, std::size_t case_index, const std::string& dat, std::span<const deck::Mark> marks,
                 const deck::WriteOptions& options, const Progress& progress) {
  Whole whole;
  model::CaseFields& out = whole.fields;
  out.name = model.cases[case_index].name;
  const bool modes = model.cases[case_index].analysis == part::Analysis::frequencies ||
                     model.cases[case_index].analysis == part::Analysis::buckling;
  const bool strains = options.ply_results && !modes;
  std::optional<SectionFit> fit;
  std::optional<SolidFit> solid_fit;
  std::vector<std::size_t> cases;
  for (const deck::Mark& mark : marks) cases.push_back(mark.case_index);
  if (strains && model.solids) solid_fit.emplace(model, cases);
  if (strains && model.solids) solid_fit.emplace(model, cases);
  if (strains && !model.solids) fit.emplace(model, options, cases);
  const Model::Case& of = model.cases[case_index];
  const model::Within within(model, of);
  if (fit || solid_fit) {
    whole.energy = StrainEnergy{};
    whole.energies.assign(model.solids ? model.solids->count() : model.surface.element_count(), {});
  }
  const auto add = [&](std::size_t number, ElementIndex e, const auto& energy_of) {
    const model::Warmth heat = within.heat(e);
    const StrainEnergy own = whole.energies[number] = energy_of(heat.factor != 0.0 ? &heat : nullptr);
    whole.energy->elastic += own.elastic;
    whole.energy->held += own.held;
  };
  const auto odd = [&](std::string what) {
    if (whole.odd.empty()) whole.odd = std::move(what);
  };
  const auto read = [&](bool held, std::vector<model::SectionState>& into,
                        std::vector<model::SolidState>& into_solids) {
    ReadOptions reading;
    reading.progress = progress;
    for (const deck::Mark& mark : marks)
      if (mark.case_index == case_index && mark.held == held) reading.marks.push_back(mark.name);
    ElementIds ids(model.surface);
    std::size_t given = 0;
    const std::size_t wanted = model.solids ? model.solids->count() : model.surface.element_count();
    if (solid_fit) {
      into_solids.resize(wanted);
      reading.strains = [&](std::int64_t id, std::span<const double> values) {
        const auto solid = static_cast<std::size_t>(id - 1);
        if (id < 1 || solid >= wanted) {
          odd(fmt::format("the answer has strains of solid {}, which the deck has not", id));
        } else if (values.size() != 6 * solid_fit->points(solid)) {
          odd(fmt::format("the answer has {} lines of strain of solid {}; {} were asked for", values.size() / 6, id,
                          solid_fit->points(solid)));
        } else {
          into_solids[solid] = (*solid_fit)(solid, values);
          if (!held)
            add(solid, model.solids->element[solid],
                [&](const model::Warmth* heat) { return solid_fit->energy(solid, values, heat); });
          ++given;
        }
      };
    } else if (fit) {
      into.resize(model.surface.element_count());
      reading.strains = [&](std::int64_t id, std::span<const double> values) {
        const auto e = ids(id);
        if (!e) {
          odd(fmt::format("the answer has strains of element {}, which the deck has not", id));
        } else if (values.size() != 6 * fit->points(*e)) {
          odd(fmt::format("the answer has {} lines of strain of element {}; {} were asked for", values.size() / 6, id,
                          fit->points(*e)));
        } else {
          into[*e] = (*fit)(*e, values);
          if (!held) add(*e, *e, [&](const model::Warmth* heat) { return fit->energy(*e, values, heat); });
          ++given;
        }
      };
    }
    Answer answer = read_answer(dat, reading);
    if (strains && given != wanted)
      odd(fmt::format("the answer has strains of {}; the deck has {}",
                      counted(given, model.solids ? "solid" : "element"), wanted));
    if (solid_fit) into = solid_fit->sections(into_solids);
    return answer;
  };
  whole.answer = read(false, out.sections, out.solids);
  if (std::any_of(marks.begin(), marks.end(),
                  [&](const deck::Mark& mark) { return mark.case_index == case_index && mark.held; }))
    read(true, out.held, out.held_solids);
  std::unordered_map<std::int64_t, mesh::NodeIndex> nodes;
  if (!model.solids)
    for (mesh::NodeIndex n = 0; n < model.surface.points.size(); ++n) nodes.emplace(model.surface.node_ids[n], n);
  const auto at_nodes = [&](const std::vector<NodeRow>& rows) {
    if (model.solids) {
      std::vector<Vec3> moved(model.solids->points.size(), Vec3::Zero());
      for (const NodeRow& row : rows)
        if (row.id >= 1 && static_cast<std::size_t>(row.id) <= moved.size())
          moved[static_cast<std::size_t>(row.id - 1)] = row.value;
      return halfway_up(model, moved);
    }
    std::vector<Vec3> moved(model.surface.points.size(), Vec3::Zero());
    for (const NodeRow& row : rows)
      if (const auto found = nodes.find(row.id); found != nodes.end()) moved[found->second] = row.value;
    return moved;
  };
  if (whole.energy && of.analysis == part::Analysis::linear) find_odd_element(whole, model);
  if (!modes) {
    out.displacements = at_nodes(whole.answer.displacements);
    if (!whole.answer.node_forces.empty())
      out.reactions = reactions_at(model, case_index, whole.answer.node_forces, nodes, out.reaction_moments);
    return whole;
  }
  bool missed = false;
  for (const ModeOfLoads& of_loads : modes_of(whole.answer, model, of, missed))
    if (!of_loads.mode->shape.empty())
      out.modes.push_back({of_loads.value, of_loads.reversed, at_nodes(of_loads.mode->shape)});
  std::stable_sort(out.modes.begin(), out.modes.end(),
                   [](const model::ModeField& a, const model::ModeField& b) { return a.value < b.value; });
  return whole;
}

std::vector<ModeOfLoads> modes_of(const Answer& answer, const Model& model, const Model::Case& load_case,
                                  bool& missed) {
  std::vector<std::vector<ModeOfLoads>> tables;
  std::vector<double> shares;
  for (const PlannedStep& step : steps_of(model, load_case, false)) {
    if (step.modes == 0 || tables.size() == answer.modes.size()) continue;
    shares.push_back(step.share);
    std::vector<ModeOfLoads>& table = tables.emplace_back();
    for (const Mode& mode : answer.modes[tables.size() - 1])
      if (step.does == PlannedStep::Does::frequencies || mode.value > 0.0)
        table.push_back({&mode, std::abs(step.share) * mode.value, step.share < 0.0});
  }
  const auto lowest = [](const std::vector<ModeOfLoads>& table) {
    double out = 1.0;  // what is above it is not passed over
    for (const ModeOfLoads& mode : table) out = std::min(out, mode.value);
    return out;
  };
  missed = tables.size() > 1 && shares[1] == share_below_one && lowest(tables[1]) < 0.999 * lowest(tables[0]);
  if (tables.size() > 1 && shares[1] == share_below_one) tables.erase(tables.begin() + (missed ? 0 : 1));
  std::vector<ModeOfLoads> out;
  for (const auto& table : tables) out.insert(out.end(), table.begin(), table.end());
  return out;
}

void check_strains(const Whole& whole, const Model::Case& load_case, const std::string& dat) {
  if (!whole.odd.empty())
    throw Failure({Severity::error, "result.cut", whole.odd, Place::in(dat),
                   "the answer is not that of this deck, or was cut short: solve it again"});
  if (!whole.energy || whole.answer.element_energies.empty()) return;
  // Springs of beds have energy of their own: that of elements is summed up here.
  double solver = 0.0;
  for (const ElementEnergy& energy : whole.answer.element_energies) solver += energy.value;
  const double own = whole.energy->elastic;
  // Of large displacements the solver multiplies the last strain by the mean of the last two stresses [38]: up to twice the
  // energy, and after a snap something else; strains that are halved or doubled make a fourth and fourfold.
  const bool far = load_case.analysis == part::Analysis::large_displacements;
  const bool agree = far ? 0.55 * own <= solver && solver <= 3.6 * own
                         : std::abs(own - solver) <= 0.02 * std::abs(solver) + 0.002 * whole.energy->held;
  if (agree && whole.odd_element) {
    const auto& [id, own_there, solver_there] = *whole.odd_element;
    throw Failure(
        {Severity::error, "result.energy",
         fmt::format("the strains of element {} hold an energy of {:.4g}, and the solver says {:.4g}: they do not "
                     "belong together",
                     id, own_there, solver_there),
         Place::in(dat), "do not use this answer: solve the deck again, with the options it was written with"});
  }
  if (agree) return;
  throw Failure(
      {Severity::error, "result.energy",
       fmt::format("its strains hold an energy of {:.4g}, and the solver says {:.4g}: they do not belong together", own,
                   solver),
       Place::in(dat), "do not use this answer: solve the deck again, with the options it was written with"});
}

model::CaseFields read_case(const Model& model, std::size_t case_index, const std::string& dat,
                            std::span<const deck::Mark> marks, const deck::WriteOptions& options,
                            const Progress& progress) {
  deck::WriteOptions own = options;
  own.cases.clear();
  for (const deck::Mark& mark : marks) own.cases.push_back(mark.case_index);
  Whole whole = read_whole(model, case_index, dat, marks, own, progress);
  Expected whole_one = expected(model, model.cases[case_index], own);
  whole_one.force_sets.clear();  // in a deck of several cases they have other names
  check_whole(whole.answer, whole_one, dat);
  check_strains(whole, model.cases[case_index], dat);
  return std::move(whole.fields);
}

}  // namespace bordado::calculix
