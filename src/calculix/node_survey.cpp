#include "node_survey.hpp"

#include <bordado/design.hpp>
#include <bordado/mesh/at_nodes.hpp>

#include <algorithm>
#include <array>
#include <atomic>
#include <cmath>

namespace bordado::calculix {

using mesh::ElementIndex;
using mesh::NodeIndex;
using section::SectionId;

namespace {

/// The thickness that each section is written with: those within a millionth of each other are made equal to the
/// thinnest of them, since the solver sees a step in any difference above 1e-10 [6].
List<SectionId, double> settled_thickness(const section::Sections& sections) {
  const auto ids = sections.ids();
  std::vector<SectionId> order(ids.begin(), ids.end());
  std::sort(order.begin(), order.end(), [&](auto a, auto b) { return sections.thickness[a] < sections.thickness[b]; });
  List<SectionId, double> out(sections.count());
  double settled = 0.0;
  for (const SectionId s : order) {
    if (sections.thickness[s] > settled * (1.0 + 1e-6)) settled = sections.thickness[s];
    out[s] = settled;
  }
  return out;
}

/// The thickest laminate of each class of those that vary; of others their own.
List<SectionId, double> box_thickness(const Model& model, const List<SectionId, double>& settled) {
  constexpr double widest = 1.2;  // box over laminate: at 1.5 and more results drift [23]
  const section::Sections& sections = model.design->sections;
  std::vector<SectionId> varying;
  for (const SectionId s : sections.ids())
    if (model.design->layup.varies[sections.stack[s]]) varying.push_back(s);
  std::sort(varying.begin(), varying.end(), [&](auto a, auto b) { return settled[a] > settled[b]; });
  List<SectionId, double> out = settled;
  double box = 0.0;
  for (const SectionId s : varying) {
    if (box == 0.0 || box > widest * settled[s]) box = settled[s];
    out[s] = box;
  }
  return out;
}

}  // namespace

List<SectionId, SolverBox> boxes(const Model& model, const deck::WriteOptions& options) {
  const section::Sections& sections = model.design->sections;
  const part::Part& part = model.design->part;
  const List<SectionId, double> settled = settled_thickness(sections);
  List<SectionId, SolverBox> out(sections.count());
  for (const SectionId s : out.ids())
    out[s] = {layup::bottom(part, settled[s]), settled[s], sections.layers_of(s).size(), {}};
  if (layers_as(options) == deck::LayersAs::plies) return out;
  const List<SectionId, double> shared = box_thickness(model, settled);
  parallel_blocks(
      out.size(),
      [&](std::size_t begin, std::size_t end) {
        for (const SectionId s : Ids<SectionId>(begin, end)) {
          const auto layers = section::laminate_of(part, sections, s);
          const auto in_box = [&](double thickness) {
            return three_layers(layers, sections.bottom[s], layup::bottom(part, thickness), thickness);
          };
          auto found = in_box(shared[s]);
          if (!found && shared[s] != settled[s]) found = in_box(settled[s]);
          if (found) out[s] = {found->bottom, found->thickness, 3, std::move(found)};
        }
      },
      4);
  return out;
}

NodeSurvey::NodeSurvey(const Model& model, const List<SectionId, SolverBox>& boxes, std::span<const std::size_t> cases)
    : model_(model), boxes_(boxes) {
  mesh::NodeUses uses = mesh::uses_of_nodes(model.surface);
  elements_.first = std::move(uses.first);
  for (const mesh::NodeUses::Use& use : uses.uses) elements_.elements.push_back(use.element);
  clusters_.resize(model.surface.points.size());
  std::atomic<bool> kinked{false};
  parallel_blocks(clusters_.size(), [&](std::size_t begin, std::size_t end) {
    bool here = false;
    for (std::size_t n = begin; n < end; ++n) {
      clusters_[n] = clusters(static_cast<NodeIndex>(n));
      here = here || kinked_at(static_cast<NodeIndex>(n));
    }
    if (here) kinked = true;
  });
  kinked_ = kinked;
  tied_.assign(clusters_.size(), 0);
  find_overlay(cases);
}

namespace {

/// Whether layers differ in the plane, so that a stress that is the same in all of them is not what they bear.
bool is_layered(const Model& model, const SolverBox& box, SectionId s) {
  const auto differ = [](const laminate::Matrix3& a, const laminate::Matrix3& b) {
    return (a - b).norm() > 1e-6 * a.norm();
  };
  if (box.equivalents)
    return differ(box.equivalents->Q[0], box.equivalents->Q[1]) || differ(box.equivalents->Q[0], box.equivalents->Q[2]);
  const auto layers = section::laminate_of(model.design->part, model.design->sections, s);
  const auto Q = [&](const laminate::Layer& layer) {
    return laminate::rotated(laminate::plane_stress_stiffness(layer.elastic), layer.angle);
  };
  return std::any_of(layers.begin(), layers.end(),
                     [&](const laminate::Layer& layer) { return differ(Q(layers.front()), Q(layer)); });
}

}  // namespace

std::vector<std::uint8_t> beside_mesh(const Model& model) {
  const section::Sections& sections = model.design->sections;
  std::vector<std::uint8_t> out(model.surface.points.size(), 0);
  for (ElementIndex e = 0; e < model.surface.element_count(); ++e) {
    const SectionId s = sections.section_of[e];
    if (std::abs(sections.bottom[s] + 0.5 * sections.thickness[s]) > 1e-9 * sections.thickness[s])
      for (const NodeIndex n : model.surface.nodes_of(e)) out[n] = 1;
  }
  return out;
}

std::vector<std::uint8_t> held_as_knots(const Model& model, const Model::Case& load_case) {
  constexpr std::uint8_t rotations = part::rx | part::ry | part::rz;
  std::vector<std::uint8_t> out(model.surface.points.size(), 0), askew(out.size(), 0);
  for_each_load<Model::Displacement>(model, load_case, [&](const Model::Displacement& moved, double) {
    if (moved.by[3] || moved.by[4] || moved.by[5])
      for (const NodeIndex n : moved.nodes) out[n] = 1;
  });
  for (const std::size_t i : load_case.supports) {
    const Model::Support& support = model.supports[i];
    for (const NodeIndex n : support.nodes) {
      if ((support.held & rotations) != 0) out[n] = 1;
      if (!support.axes.empty()) askew[n] = 1;
    }
  }
  if (std::find(out.begin(), out.end(), 1) == out.end()) return out;
  for (NodeIndex n = 0; n < out.size(); ++n)
    if (askew[n]) out[n] = 0;
  return out;
}

void NodeSurvey::find_overlay(std::span<const std::size_t> cases) {
  const mesh::Surface& surface = model_.surface;
  std::vector<std::uint8_t> loaded(tied_.size(), 0), turned(tied_.size(), 0);
  bool any = false;
  const auto mark = [&](std::vector<std::uint8_t>& nodes, NodeIndex n) { nodes[n] = 1, any = true; };
  for (const std::size_t k : cases) {
    for_each_load<Model::Force>(model_, model_.cases[k], [&](const Model::Force& force, double) {
      for (std::size_t i = 0; i < force.nodes.size(); ++i) {
        const Vec3& f = force.forces[i];
        const Vec3 n = normal(force.nodes[i]);
        if ((f - f.dot(n) * n).norm() > 1e-6 * f.norm()) mark(loaded, force.nodes[i]);
      }
    });
    const std::vector<std::uint8_t> held = held_as_knots(model_, model_.cases[k]);
    for (NodeIndex n = 0; n < held.size(); ++n)
      if (held[n]) mark(turned, n);
  }
  if (!any) return;
  List<SectionId, std::uint8_t> layered;
  for (const SectionId s : model_.design->sections.ids()) layered.push_back(is_layered(model_, boxes_[s], s));
  const auto counts = [&](ElementIndex e, NodeIndex n) {
    return turned[n] != 0 || (loaded[n] != 0 && layered[model_.design->sections.section_of[e]] != 0);
  };
  const auto take = [&](ElementIndex e) {
    overlay_.push_back(e);
    for (const NodeIndex n : surface.nodes_of(e)) tied_[n] = 1;
  };
  // Those with a whole side of such nodes; then one for each node that is left.
  for (ElementIndex e = 0; e < surface.element_count(); ++e) {
    const auto nodes = surface.nodes_of(e);
    if (std::count_if(nodes.begin(), nodes.end(), [&](NodeIndex n) { return counts(e, n); }) >= 3) take(e);
  }
  for (NodeIndex n = 0; n < loaded.size(); ++n) {
    if (tied_[n] || (!loaded[n] && !turned[n])) continue;
    const auto elements = elements_of(n);
    const auto found = std::find_if(elements.begin(), elements.end(), [&](ElementIndex e) { return counts(e, n); });
    if (found != elements.end()) take(*found);
  }
  std::sort(overlay_.begin(), overlay_.end());
}

std::size_t NodeSurvey::ties() const {
  std::size_t out = 0;
  for (NodeIndex n = 0; n < clusters_.size(); ++n) out += is_knot(n);
  return out;
}

bool NodeSurvey::kinked_at(NodeIndex node) const {
  const auto elements = elements_of(node);
  const double sharp = Angle::degrees(20.0).cos();
  for (std::size_t a = 0; a < elements.size(); ++a)
    for (std::size_t b = a + 1; b < elements.size(); ++b)
      if (model_.design->geometry.normals[elements[a]].dot(model_.design->geometry.normals[elements[b]]) <= sharp)
        return true;
  return false;
}

std::size_t NodeSurvey::knots() const {
  return static_cast<std::size_t>(std::count_if(clusters_.begin(), clusters_.end(), [](auto c) { return c > 1; }));
}

std::vector<double> NodeSurvey::arcs() const {
  std::vector<double> out;
  for (NodeIndex n = 0; n < clusters_.size(); ++n) {
    const auto elements = elements_of(n);
    if (elements.size() != 2) continue;
    const auto nodes = model_.surface.nodes_of(elements[0]);
    if (std::find(nodes.begin() + static_cast<std::ptrdiff_t>(nodes.size() / 2), nodes.end(), n) == nodes.end())
      continue;
    const double cosine =
        model_.design->geometry.normals[elements[0]].dot(model_.design->geometry.normals[elements[1]]);
    if (cosine < 0.9999) out.push_back(Angle::radians(std::acos(std::max(cosine, -1.0))).degrees());
  }
  return out;
}

Vec3 NodeSurvey::normal(NodeIndex node) const {
  Vec3 sum = Vec3::Zero();
  for (const ElementIndex e : elements_of(node)) sum += model_.design->geometry.normals[e];
  return sum.normalized();
}

Vec3 NodeSurvey::to_middle(NodeIndex node) const { return height_of_middle(node) * normal(node); }

Vec3 NodeSurvey::place(NodeIndex node) const {
  const Vec3& here = model_.surface.points[node];
  if (!is_knot(node)) return here;
  const auto elements = elements_of(node);
  Vec3 normal = Vec3::Zero();
  for (const ElementIndex e : elements) normal += model_.design->geometry.normals[e];
  normal.normalize();
  if (normal.cwiseAbs().maxCoeff() < 1.0 - 1e-13) return here;
  Vec3 curving = Vec3::Zero();  // the way in which normals turn most
  for (const ElementIndex e : elements) {
    const Vec3 off = model_.design->geometry.normals[e] - normal, along = off - off.dot(normal) * normal;
    if (along.squaredNorm() > curving.squaredNorm() * (1.0 + 1e-9)) curving = along;
  }
  if (!(curving.norm() > 1e-6)) return here;  // flat
  return here + 1e-6 * std::sqrt(model_.design->geometry.areas[elements.front()]) * curving.normalized();
}

std::size_t NodeSurvey::moved() const {
  std::size_t out = 0;
  for (NodeIndex n = 0; n < clusters_.size(); ++n) out += place(n) != model_.surface.points[n];
  return out;
}

double NodeSurvey::height_of_middle(NodeIndex node) const {
  const SectionId s = model_.design->sections.section_of[elements_of(node).front()];
  return boxes_[s].bottom + 0.5 * boxes_[s].thickness;
}

double NodeSurvey::mean_height_of_middle(NodeIndex node) const {
  double sum = 0.0;
  for (const ElementIndex e : elements_of(node)) {
    const SolverBox& box = boxes_[model_.design->sections.section_of[e]];
    sum += box.bottom + 0.5 * box.thickness;
  }
  return elements_of(node).empty() ? 0.0 : sum / static_cast<double>(elements_of(node).size());
}

std::vector<Column> columns_of_forces(const Model& model, const Model::Case& load_case,
                                      const deck::WriteOptions& options) {
  std::vector<NodeIndex> nodes;
  for_each_load<Model::Force>(model, load_case, [&](const Model::Force& force, double) {
    nodes.insert(nodes.end(), force.nodes.begin(), force.nodes.end());
  });
  std::vector<Column> out;
  if (nodes.empty()) return out;
  std::sort(nodes.begin(), nodes.end());
  nodes.erase(std::unique(nodes.begin(), nodes.end()), nodes.end());
  const List<SectionId, SolverBox> made = boxes(model, options);
  const NodeSurvey survey(model, made, {});
  for (const NodeIndex n : nodes) {
    const SolverBox& box = made[model.design->sections.section_of[survey.elements_of(n).front()]];
    const double height = survey.mean_height_of_middle(n);
    if (std::abs(height) <= 1e-9 * box.thickness) continue;
    const Vec3 place = survey.place(n), normal = survey.normal(n);
    out.push_back({n, height, place + box.bottom * normal, place + (box.bottom + box.thickness) * normal});
  }
  return out;
}

std::size_t NodeSurvey::card_copies() const {
  const auto& sections = model_.design->sections;
  double most_layers = 1.0, layers = 0.0;
  for (const SectionId s : sections.section_of) {
    const auto count = static_cast<double>(boxes_[s].layers);
    most_layers = std::max(most_layers, count);
    layers += count;
  }
  double need = 0.0;
  for (NodeIndex n = 0; n < clusters_.size(); ++n) {
    const double c = clusters_[n] + (tied_[n] ? 1.0 : 0.0);
    need += c * (3.0 + 3.0 * most_layers) + (c > 1.0 ? 3.0 * c + 2.0 : 0.0);
  }
  const double fixed = 64.0 * static_cast<double>(sections.section_of.size());
  return static_cast<std::size_t>(std::max(1.0, std::ceil((1.05 * need - fixed) / (20.0 * layers))));
}

/// Groups of like thickness, offset and normal (within 20 degrees) among the elements at a node.
std::uint8_t NodeSurvey::clusters(NodeIndex node) const {
  struct Cluster {
    double thickness;  // with the part's flush face and offset it gives the bottom too
    const Vec3* normal;
  };
  std::array<Cluster, 16> found;
  std::size_t count = 0;
  for (const ElementIndex e : elements_of(node)) {
    const SectionId s = model_.design->sections.section_of[e];
    const Cluster own{boxes_[s].thickness, &model_.design->geometry.normals[e]};
    const bool known =
        std::any_of(found.begin(), found.begin() + static_cast<std::ptrdiff_t>(count), [&](const Cluster& c) {
          return std::abs(c.thickness - own.thickness) <= 1e-10 && c.normal->dot(*own.normal) > 0.9396926;
        });
    if (!known && count < found.size()) found[count++] = own;
  }
  return static_cast<std::uint8_t>(count);
}

}  // namespace bordado::calculix
