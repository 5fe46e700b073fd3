#include "edge_checks.hpp"

#include <bordado/base/work.hpp>
#include <bordado/mesh/locate.hpp>
#include <bordado/review/check.hpp>

#include <fmt/format.h>
#include <Eigen/LU>

#include <algorithm>
#include <cmath>
#include <map>
#include <set>

namespace bordado::review {

namespace {

using layup::PlyId;
using layup::RampId;
using layup::RegionId;

class EdgeChecker {
 public:
  EdgeChecker(const Design& design, Findings& findings)
      : design_(design), part_(design.part), layup_(design.layup), findings_(findings) {}

  void check() {
    for (const RampId r : layup_.ramps.ids()) check_ramp(layup_.ramps[r]);
    check_meetings();
    check_chamfers();
    check_widths();
    check_distances();
    check_smearing();
  }

 private:
  std::string unit() const { return part_.units.unit(Dimension::length); }
  const std::string& id(PlyId p) const { return part_.plies[p].id; }
  const material::Material& material_of(PlyId p) const { return part_.materials[layup_.plies[p].material]; }
  const part::Ramp& declared(const layup::Ramp& ramp) const { return part_.ramps[ramp.declared]; }

  void check_ramp(const layup::Ramp& ramp) {
    std::vector<std::string> steep, unsymmetric, unbalanced, neighbours;
    double steepest = std::numeric_limits<double>::infinity(), limit = 0.0;
    for (std::size_t k = 0; k < ramp.steps.size(); ++k) {
      const layup::RampStep& step = ramp.steps[k];
      const std::string line = fmt::format("{}", k + 1);
      if (step.run > 0.0) {
        double least = 0.0;
        for (const PlyId p : step.plies)
          least = std::max(least, material_of(p).form.steepest.value_or(part_.checks.steepest));
        const double slope = step.run / step.thickness;
        if (slope < least * (1.0 - 1e-9)) {
          steep.push_back(line);
          if (slope / least < steepest) steepest = slope / least, limit = least;
        }
      }
      for (std::size_t i = 1; i < step.plies.size(); ++i) {
        const auto at = std::find(ramp.thick.begin(), ramp.thick.end(), step.plies[i - 1]);
        if (at + 1 != ramp.thick.end() && *(at + 1) == step.plies[i])
          neighbours.push_back(fmt::format("{} with {}", id(step.plies[i - 1]), id(step.plies[i])));
      }
      if (!step.symmetric) unsymmetric.push_back(line);
      if (!step.balanced) unbalanced.push_back(line);
    }
    if (!steep.empty())
      findings_.warning(
          "ramp.steep",
          fmt::format("ramp '{}': steeper than 1:{:.4g} behind line{} {}, 1:{:.3g} at the steepest", ramp.name, limit,
                      steep.size() == 1 ? "" : "s", listed(steep, 12), steepest * limit),
          declared(ramp).where,
          "make slope or step longer; the limit is the material's 'steepest', or that of [checks]");
    if (!neighbours.empty())
      findings_.note(
          "ramp.neighbours",
          fmt::format("ramp '{}': plies that lie on each other end together: {}", ramp.name, listed(neighbours, 8)),
          declared(ramp).where, "they leave one larger pocket of resin: let others end between them");
    const std::size_t last = ramp.steps.size();
    const auto in_between = [&](std::vector<std::string>& lines) {
      std::erase(lines, fmt::format("{}", last));  // what the thin zone is is told of its laminate
    };
    in_between(unsymmetric);
    in_between(unbalanced);
    if (ramp.symmetric && !unsymmetric.empty())
      findings_.warning("ramp.unsymmetric",
                        fmt::format("ramp '{}': the stack is symmetric, what is left behind line{} {} is not",
                                    ramp.name, unsymmetric.size() == 1 ? "" : "s", listed(unsymmetric, 12)),
                        declared(ramp).where,
                        "let plies that mirror each other end together: pairs = \"together\" and together = 2 or more");
    if (ramp.balanced && !unbalanced.empty())
      findings_.warning("ramp.unbalanced",
                        fmt::format("ramp '{}': a ply at an angle is left without its opposite behind line{} {}, so it "
                                    "shears there when pulled",
                                    ramp.name, unbalanced.size() == 1 ? "" : "s", listed(unbalanced, 12)),
                        declared(ramp).where, "let +θ and -θ end together: together = 4 lets two mirrored pairs");
  }

  /// Elements that edges of two ramps cross.
  void check_meetings() {
    const layup::Parts& parts = layup_.parts;
    std::map<std::pair<RampId, RampId>, std::vector<mesh::ElementIndex>> meet;
    for (mesh::ElementIndex e = 0; layup_.ramps.size() > 1 && e < design_.surface.element_count(); ++e) {
      std::set<RampId> here;
      for (std::uint32_t k = parts.first[e]; k < parts.first[e + 1]; ++k)
        if (parts.covered[k] > 0.0f && parts.covered[k] < 1.0f)
          for (const layup::Moved& moved : layup_.regions[parts.region[k]].moved) here.insert(moved.ramp);
      for (auto a = here.begin(); a != here.end(); ++a)
        for (auto b = std::next(a); b != here.end(); ++b)
          if (!one_region(*a, *b)) meet[{*a, *b}].push_back(e);
    }
    for (const auto& [pair, elements] : meet) {
      std::vector<std::int64_t> ids;
      for (const mesh::ElementIndex e : elements) ids.push_back(design_.surface.element_ids[e]);
      findings_.note("ramp.meets",
                     fmt::format("ramps '{}' and '{}' meet: edges of both cross elements {}",
                                 layup_.ramps[pair.first].name, layup_.ramps[pair.second].name, listed(ids, 8)),
                     design_.surface.place_of(elements.front()),
                     "the steps of both add up there: let one lie on the other side of its border, or make it steeper");
    }
  }
  /// Whether a ply is moved by both: then they are parts of one border.
  bool one_region(RampId a, RampId b) const {
    return std::any_of(layup_.regions.begin(), layup_.regions.end(), [&](const layup::Region& region) {
      const auto by = [&](RampId r) {
        return std::any_of(region.moved.begin(), region.moved.end(), [&](const auto& m) { return m.ramp == r; });
      };
      return by(a) && by(b);
    });
  }

  void check_chamfers() {
    for (const PlyId p : layup_.plies.ids()) {
      const part::Ply& ply = part_.plies[p];
      const auto limit = material_of(p).form.steepest;
      if (!ply.chamfer || ply.fills || !limit) continue;
      const double slope =
          *part::chamfer_length(part_, p) / (part::full_thickness(part_, p) - ply.chamfer->edge_thickness);
      if (slope < *limit * (1.0 - 1e-9))
        findings_.warning("layup.chamfer-steep",
                          fmt::format("the chamfer of ply '{}' is 1:{:.3g}; its material '{}' wants 1:{:.3g} at the "
                                      "steepest",
                                      ply.id, slope, material_of(p).name, *limit),
                          ply.where, "make it longer");
    }
  }

  mesh::Sources outline_of(RegionId r) const {
    mesh::Sources out;
    out.curves = layup::edge_lines(layup_, design_.surface, r);
    for (mesh::Curve& curve : mesh::curves_of(design_.surface, mesh::free_edges(design_.surface)))
      out.curves.push_back(std::move(curve));
    return out;
  }

  /// Plies that are nowhere as wide as their material has to be.
  void check_widths() {
    std::map<RegionId, double> widest;
    for (const PlyId p : layup_.plies.ids()) {
      const auto least = material_of(p).form.least_width;
      if (!least) continue;
      const RegionId r = layup_.plies[p].region;
      auto found = widest.find(r);
      if (found == widest.end()) {
        double deepest = 0.0;
        const std::vector<double> distance =
            mesh::distances(design_.surface, outline_of(r), 0.5 * *least + 2.0 * mesh::longest_edge(design_.surface));
        for (mesh::ElementIndex e = 0; e < design_.surface.element_count(); ++e) {
          if (!(layup_.covered(r, e) > 0.5)) continue;
          for (const mesh::NodeIndex n : design_.surface.corners_of(e)) deepest = std::max(deepest, distance[n]);
        }
        found = widest.emplace(r, 2.0 * deepest).first;
      }
      if (found->second < *least)
        findings_.warning("layup.narrow",
                          fmt::format("ply '{}' is at most {:.3g} {} wide; '{}' cannot be laid narrower than {:.3g}",
                                      part_.plies[p].id, found->second, unit(), material_of(p).name, *least),
                          part_.plies[p].where, "make its zone larger, or take it out; least-width is the material's");
    }
  }

  /// Edges nearer to a hole, a border or another ramp than [checks] edge-distance.
  void check_distances() {
    if (!part_.checks.edge_distance) return;
    const double least = *part_.checks.edge_distance;
    const mesh::Surface& surface = design_.surface;
    auto with_edges = layup::edge_lines(layup_, surface);
    std::map<RegionId, std::vector<mesh::Curve>> lines;
    for (const layup::Ply& ply : layup_.plies) {
      const layup::Region& region = layup_.regions[ply.region];
      if (region.zone == zone::everything || lines.count(ply.region)) continue;
      lines[ply.region] =
          region.has_edge() ? std::move(with_edges[ply.region]) : layup::edge_lines(layup_, surface, ply.region);
    }
    const mesh::Locator locator(surface);
    const double reach = least + 3.0 * mesh::longest_edge(surface);
    const double touching = 1e-3 * mesh::longest_edge(surface);
    // The nearest place of a line; where it ends on what it is measured from, only places that lie nearer to that than
    // half their way to the end.
    const auto nearest = [&](const mesh::Curve& line, const std::vector<double>& distance) {
      std::vector<double> along(line.points.size(), 0.0);
      for (std::size_t k = 1; k < along.size(); ++k)
        along[k] = along[k - 1] + (line.points[k] - line.points[k - 1]).norm();
      std::vector<std::pair<double, mesh::ElementIndex>> at;
      for (const Vec3& point : line.points) {
        const auto found = locator.nearest(point);
        const auto corners = surface.corners_of(found.element);
        double sum = 0.0;
        for (std::size_t k = 0; k < corners.size(); ++k) sum += found.weights[k] * distance[corners[k]];
        if (mesh::is_quadratic(surface.shapes[found.element])) {
          sum = std::numeric_limits<double>::infinity();
          for (const mesh::NodeIndex n : corners) sum = std::min(sum, distance[n] + (surface.points[n] - point).norm());
        }
        at.emplace_back(sum, found.element);
      }
      std::pair<double, mesh::ElementIndex> out{std::numeric_limits<double>::infinity(), mesh::no_index};
      const bool begins = !line.closed && at.front().first <= touching,
                 ends = !line.closed && at.back().first <= touching;
      for (std::size_t k = 0; k < at.size(); ++k) {
        double to_end = std::numeric_limits<double>::infinity();
        if (begins) to_end = std::min(to_end, along[k]);
        if (ends) to_end = std::min(to_end, along.back() - along[k]);
        if (at[k].first < 0.5 * to_end && at[k].first < out.first) out = at[k];
      }
      return out;
    };
    const auto plies_of = [&](RegionId r) {
      std::vector<std::string> out;
      for (const PlyId p : layup_.plies.ids())
        if (layup_.plies[p].region == r) out.push_back(id(p));
      return listed(out, 6);
    };
    const auto tell = [&](RegionId r, double distance, std::string_view of, mesh::ElementIndex e) {
      findings_.warning("layup.edge-near",
                        fmt::format("the edge of {} runs {:.3g} {} from {}; [checks] edge-distance is {:g}",
                                    plies_of(r), distance, unit(), of, least),
                        surface.place_of(e), "move the edge, or let the ply go on to it");
    };
    for (const mesh::Curve& rim : mesh::curves_of(surface, mesh::free_edges(surface))) {
      const std::vector<double> distance = mesh::distances(surface, {.curves = {rim}}, reach);
      for (const auto& [r, all] : lines)
        for (const mesh::Curve& line : all) {
          const auto [d, e] = nearest(line, distance);
          if (d < least) tell(r, d, rim.closed ? "a hole or border" : "the part's border", e);
        }
    }
    for (const RampId a : layup_.ramps.ids()) {
      mesh::Sources of_a;
      std::set<RegionId> mine;
      for (const layup::RampStep& step : layup_.ramps[a].steps) mine.insert(layup_.plies[step.plies.front()].region);
      for (const RegionId r : mine) of_a.curves.insert(of_a.curves.end(), lines[r].begin(), lines[r].end());
      std::vector<double> distance;
      for (const RampId b : layup_.ramps.ids(index(a) + 1)) {
        if (one_region(a, b)) continue;
        if (distance.empty()) distance = mesh::distances(surface, of_a, reach);
        for (const layup::RampStep& step : layup_.ramps[b].steps) {
          const RegionId r = layup_.plies[step.plies.front()].region;
          if (mine.count(r)) continue;
          for (const mesh::Curve& line : lines[r])
            if (const auto [d, e] = nearest(line, distance); d < least)
              tell(r, d, fmt::format("ramp '{}'", layup_.ramps[a].name), e);
        }
      }
    }
  }

  // --- smearing

  using Matrix6 = Eigen::Matrix<double, 6, 6>;

  static Matrix6 flexibility(std::span<const laminate::Layer> layers, double bottom) {
    const laminate::Stiffness k = laminate::stiffness(layers, bottom);
    Matrix6 all;
    all << k.A, k.B, k.B, k.D;
    return all.inverse();
  }

  /// What bends is compared with the mean of the flexibilities of the true pieces of each element.
  void check_smearing() {
    if (part_.list.edges != part::Covered::smeared || layup_.parts.first.empty()) return;
    struct Worst {
      double off = 0.0;
      mesh::ElementIndex element = 0;
      std::size_t count = 0;
      double area = 0.0;
    };
    const std::size_t block = block_of(8192);
    const std::size_t count = design_.surface.element_count();
    std::vector<Worst> of_block((count + block - 1) / block);
    parallel_blocks(
        count,
        [&](std::size_t begin, std::size_t end) {
          Worst& worst = of_block[begin / block];
          layup::LayersOn layers_on(design_);
          std::vector<layup::LaidLayer> last;
          double last_off = 0.0;
          for (mesh::ElementIndex e = static_cast<mesh::ElementIndex>(begin); e < end; ++e) {
            if (layup_.parts.first[e] == layup_.parts.first[e + 1]) continue;
            const auto layers = layers_on(e);
            if (std::all_of(layers.begin(), layers.end(), [](const auto& l) { return l.covered >= 1.0; })) continue;
            if (!std::equal(layers.begin(), layers.end(), last.begin(), last.end())) {
              last.assign(layers.begin(), layers.end());
              last_off = off(layers);
            }
            if (std::abs(last_off) <= misleads) continue;
            ++worst.count;
            worst.area += design_.geometry.areas[e];
            if (std::abs(last_off) > std::abs(worst.off)) worst.off = last_off, worst.element = e;
          }
        },
        block);
    Worst all;
    double area = 0.0;
    for (const double a : design_.geometry.areas) area += a;
    for (const Worst& one : of_block) {
      all.count += one.count;
      all.area += one.area;
      if (std::abs(one.off) > std::abs(all.off)) all.off = one.off, all.element = one.element;
    }
    if (all.count == 0) return;
    layup::LayersOn layers_on(design_);
    std::vector<std::string> crossed;
    for (const layup::LaidLayer& layer : layers_on(all.element))
      if (layer.covered < 1.0) crossed.push_back(fmt::format("{} {:.0f} %", id(layer.ply), 100.0 * layer.covered));
    findings_.warning(
        "layup.smeared-misleads",
        fmt::format("{} ({:.2g} % of the area) bend by more than {:g} % {} for being smeared than their pieces "
                    "would, {:.0f} % at the most; there lie {}",
                    counted(all.count, "element"), 100.0 * all.area / area, 100.0 * misleads,
                    all.off < 0.0 ? "less" : "more", 100.0 * std::abs(all.off), listed(crossed, 6)),
        design_.surface.place_of(all.element),
        "cut the mesh there (bordado cut), or refine it across the edge; end plies where they carry less");
  }
  static constexpr double misleads = 0.03;

  /// How much more an element bends, smeared, than the mean of its pieces; of both axes the one that is further off.
  double off(std::span<const layup::LaidLayer> layers) const {
    // What runs out within the element by itself is as thick in every piece.
    const auto covered = [&](const layup::LaidLayer& layer) {
      return layup_.plies[layer.ply].taper ? 1.0 : layer.covered;
    };
    std::vector<double> shares{1.0};
    for (const layup::LaidLayer& layer : layers)
      if (covered(layer) < 1.0) shares.push_back(covered(layer));
    std::sort(shares.begin(), shares.end(), std::greater<>());
    shares.erase(std::unique(shares.begin(), shares.end()), shares.end());
    std::vector<laminate::Layer> stack;
    for (const layup::LaidLayer& layer : layers) stack.push_back(layup::layer_of(part_, layer));
    const Matrix6 smeared = flexibility(stack, layers.front().bottom);
    Matrix6 mean = Matrix6::Zero();
    for (std::size_t k = 0; k < shares.size(); ++k) {
      // The piece that lies under every ply that covers this much and more.
      const double share = shares[k] - (k + 1 < shares.size() ? shares[k + 1] : 0.0);
      std::vector<laminate::Layer> piece;
      double h = 0.0;
      for (const layup::LaidLayer& layer : layers) {
        if (covered(layer) < shares[k]) continue;
        piece.push_back(layup::layer_of(part_, layer));
        piece.back().thickness /= covered(layer);
        h += piece.back().thickness;
      }
      if (piece.empty()) return 0.0;  // bare in part: nothing to compare with
      mean += share * flexibility(piece, layup::bottom(part_, h));
    }
    double worst = 0.0;
    for (const int i : {3, 4}) {
      const double here = smeared(i, i) / mean(i, i) - 1.0;
      if (std::abs(here) > std::abs(worst)) worst = here;
    }
    return worst;
  }

  const Design& design_;
  const part::Part& part_;
  const layup::Layup& layup_;
  Findings& findings_;
};

}  // namespace

void check_edges(const Design& design, Findings& findings) { EdgeChecker(design, findings).check(); }

}  // namespace bordado::review
