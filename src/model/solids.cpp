// The mesh extruded along its normals, ply by ply or group by group.
#include <bordado/base/work.hpp>
#include <bordado/design.hpp>
#include <bordado/mesh/at_nodes.hpp>
#include <bordado/solid_shapes.hpp>
#include "solid_groups.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <numeric>

namespace bordado::model {

namespace {

using mesh::ElementIndex;
using mesh::NodeIndex;
using part::PlyId;

constexpr std::uint32_t none = 0xFFFFFFFFu;

/// Thicknesses of groups at a place, ascending by group; nothing has none.
struct Slice {
  std::uint32_t group;
  double thickness;
};

class Extruder {
 public:
  Extruder(const Model& model, const SolidOptions& options, Findings& findings)
      : model_(model), part_(model.design->part), surface_(model.surface), on_(plies_on(model)), findings_(findings) {
    out_.options = options;
  }

  std::shared_ptr<const Solids> run() {
    // A budget of sections puts other stacks in the place of elements' own: these no longer are their plies.
    const section::Sections& sections = model_.design->sections;
    for (ElementIndex e = 0; e < surface_.element_count(); ++e)
      if (on_.of(e).size() != sections.layers_of(sections.section_of[e]).size())
        throw Failure({Severity::error, "solid.sections",
                       fmt::format("element {} has {} and its section {}: sections were made fewer than laminates are",
                                   surface_.element_ids[e], counted(on_.of(e).size(), "layer"),
                                   sections.layers_of(sections.section_of[e]).size()),
                       surface_.place_of(e), "leave out --most-sections: solids need the plies of every element"});
    out_.laminate_volume = on_.volume;
    out_.group_of = group_plies(model_, on_, out_.options);
    out_.groups = names_of_groups(model_, on_, out_.group_of);
    columns();
    errors_.throw_if_errors();
    place();
    raise();
    errors_.throw_if_errors();
    give_materials(model_, on_, out_);
    count_constants();
    measure();
    report();
    errors_.throw_if_errors();
    return std::make_shared<const Solids>(std::move(out_));
  }

 private:
  // --- columns

  /// What goes on to all elements at a corner: the plies that all of them hold, each as thick as they have it in the
  /// mean.
  std::vector<Slice> slices_at(std::span<const ElementIndex> elements) const {
    std::map<PlyId, std::array<double, 2>> common;  // thickness times area, area
    for (std::size_t i = 0; i < elements.size(); ++i) {
      const ElementIndex e = elements[i];
      const double area = model_.design->geometry.areas[e];
      std::map<PlyId, std::array<double, 2>> here;
      for (std::size_t k = 0; k < on_.of(e).size(); ++k) {
        const PlyId p = on_.of(e)[k];
        const auto known = common.find(p);
        if (i > 0 && known == common.end()) continue;
        auto sum = i > 0 ? known->second : std::array{0.0, 0.0};
        const double t = on_.thickness(e, k);
        // Equal thicknesses stay what they are to the last bit.
        sum[0] = i > 0 && sum[1] > 0.0 && t == sum[0] / sum[1] ? t * (sum[1] + area) : sum[0] + t * area;
        sum[1] += area;
        here[p] = sum;
      }
      common = std::move(here);
    }
    std::vector<Slice> out;
    for (const auto& [p, sum] : common) {
      const double t = sum[0] / sum[1];
      if (!(t > 0.0)) continue;
      const std::uint32_t g = out_.group_of[p];
      if (!out.empty() && out.back().group == g)
        out.back().thickness += t;
      else
        out.push_back({g, t});
    }
    return out;
  }

  void columns() {
    const mesh::NodeTable table = mesh::elements_at_nodes(surface_);
    const std::size_t count = surface_.points.size();
    slices_.resize(count);
    std::vector<std::uint8_t> corner(count, 0);
    for (ElementIndex e = 0; e < surface_.element_count(); ++e)
      for (const NodeIndex n : surface_.corners_of(e)) corner[n] = 1;
    parallel_blocks(count, [&](std::size_t begin, std::size_t end) {
      for (std::size_t n = begin; n < end; ++n)
        if (corner[n]) slices_[n] = slices_at(table.of(static_cast<NodeIndex>(n)));
    });
    // Between two corners the mean of both: sides are straight.
    std::vector<std::uint8_t> done(count, 0);
    for (ElementIndex e = 0; e < surface_.element_count(); ++e) {
      const auto nodes = surface_.nodes_of(e);
      const std::size_t corners = nodes.size() / 2;
      for (std::size_t i = 0; i < corners; ++i) {
        const NodeIndex middle = nodes[corners + i];
        if (done[middle]) continue;
        done[middle] = 1;
        slices_[middle] = mean(slices_[nodes[i]], slices_[nodes[(i + 1) % corners]]);
      }
    }
    corner_ = std::move(corner);
    for (NodeIndex n = 0; n < count; ++n) {
      if (!slices_[n].empty() || table.of(n).empty()) continue;
      const auto elements = table.of(n);
      std::vector<std::int64_t> ids;
      for (const ElementIndex e : elements) ids.push_back(surface_.element_ids[e]);
      errors_.error("solid.nothing-goes-on",
                    fmt::format("no ply goes on over node {}: elements {} share none, so that their solids would hang "
                                "together by a line",
                                surface_.node_ids[n], listed(ids)),
                    surface_.place_of(elements.front()), "let a ply run through, or use shells there");
      if (errors_.all().size() >= 10) break;
    }
    // Where three sheets meet, no column stands on all of them.
    const mesh::EdgeTable edges = mesh::edges(surface_);
    for (std::size_t j = 0; j < edges.size() && errors_.all().size() < 10; ++j)
      if (edges.first[j + 1] - edges.first[j] > 2)
        errors_.error(
            "solid.sheets",
            fmt::format("{} sheets of the surface meet at a side of element {}: solids of which would "
                        "overlap",
                        edges.first[j + 1] - edges.first[j], surface_.element_ids[edges.uses[edges.first[j]].element]),
            surface_.place_of(edges.uses[edges.first[j]].element), "use shells for this part");
  }

  static std::vector<Slice> mean(const std::vector<Slice>& a, const std::vector<Slice>& b) {
    std::vector<Slice> out;
    std::size_t i = 0, j = 0;
    while (i < a.size() || j < b.size()) {
      const std::uint32_t g = std::min(i < a.size() ? a[i].group : none, j < b.size() ? b[j].group : none);
      double t = 0.0;
      if (i < a.size() && a[i].group == g) t += 0.5 * a[i++].thickness;
      if (j < b.size() && b[j].group == g) t += 0.5 * b[j++].thickness;
      out.push_back({g, t});
    }
    return out;
  }

  /// The direction in which a column stands, and so long that faces on all sides of it keep their distance.
  void uprights() {
    const double widest = Angle::degrees(20.0).cos();
    const std::vector<Vec3> normals = mesh::nodal_normals(surface_, model_.design->geometry);
    const mesh::NodeUses uses = mesh::uses_of_nodes(surface_);
    out_.upright.assign(surface_.points.size(), Vec3::Zero());
    folded_.assign(surface_.points.size(), 0);
    std::vector<std::uint8_t> mitred(surface_.points.size(), 0);
    parallel_blocks(surface_.points.size(), [&](std::size_t begin, std::size_t end) {
      for (std::size_t n = begin; n < end; ++n) {
        std::vector<Vec3> apart;  // normals that stand at 20 degrees and more to each other
        for (const mesh::NodeUses::Use& use : uses.of(static_cast<NodeIndex>(n))) {
          const Vec3& own = normals[use.at];
          if (std::none_of(apart.begin(), apart.end(), [&](const Vec3& other) { return other.dot(own) > widest; }))
            apart.push_back(own);
        }
        if (apart.size() == 1) {
          out_.upright[n] = apart.front();
          continue;
        }
        mitred[n] = 1;
        Eigen::Matrix3d squares = Eigen::Matrix3d::Zero();
        Vec3 sum = Vec3::Zero();
        for (const Vec3& normal : apart) {
          squares += normal * normal.transpose();
          sum += normal;
        }
        // d with n . d = 1 for every normal n, the shortest.
        const Principal own = principal(squares);
        Vec3 d = Vec3::Zero();
        for (int k = 0; k < 3; ++k)
          if (own.values[k] > 1e-6 * own.values[2]) d += own.axes.col(k).dot(sum) / own.values[k] * own.axes.col(k);
        if (d.norm() > 3.0) folded_[n] = 1;
        out_.upright[n] = d;
      }
    });
    // From a mitred corner to one that is not, sides of faces are straight.
    for (ElementIndex e = 0; e < surface_.element_count(); ++e) {
      const auto nodes = surface_.nodes_of(e);
      const std::size_t corners = nodes.size() / 2;
      for (std::size_t i = 0; i < corners; ++i) {
        const NodeIndex a = nodes[i], b = nodes[(i + 1) % corners], middle = nodes[corners + i];
        if (!mitred[middle] && (mitred[a] || mitred[b]))
          out_.upright[middle] = 0.5 * (out_.upright[a] + out_.upright[b]);
      }
    }
  }

  void place() {
    uprights();
    const std::size_t count = surface_.points.size();
    out_.column.assign(count + 1, 0);
    out_.bottom.assign(count, 0.0);
    out_.height.assign(count, 0.0);
    for (std::size_t n = 0; n < count; ++n)
      out_.column[n + 1] =
          out_.column[n] + (slices_[n].empty() ? 0u : static_cast<std::uint32_t>(slices_[n].size()) + 1u);
    out_.levels.resize(out_.column.back());
    out_.between.assign(out_.column.back(), none);
    std::vector<std::uint32_t> at(count + 1, 0);  // first node of each column
    for (std::size_t n = 0; n < count; ++n) {
      const auto levels = out_.column[n + 1] - out_.column[n];
      at[n + 1] = at[n] + levels + (corner_[n] && levels > 0 ? levels - 1 : 0);
    }
    out_.points.resize(at.back());
    parallel_blocks(count, [&](std::size_t begin, std::size_t end) {
      for (std::size_t n = begin; n < end; ++n) {
        if (slices_[n].empty()) continue;
        double h = 0.0;
        for (const Slice& slice : slices_[n]) h += slice.thickness;
        double z = layup::bottom(part_, h);
        out_.bottom[n] = z;
        out_.height[n] = h;
        std::uint32_t next = at[n];
        const auto put = [&](double height) {
          out_.points[next] = surface_.points[n] + height * out_.upright[n];
          return next++;
        };
        for (std::size_t k = 0; k <= slices_[n].size(); ++k) {
          out_.levels[out_.column[n] + k] = put(z);
          if (k == slices_[n].size()) break;
          if (corner_[n]) out_.between[out_.column[n] + k] = put(z + 0.5 * slices_[n][k].thickness);
          z += slices_[n][k].thickness;
        }
      }
    });
  }

  // --- solids

  /// The faces of a group at a node: places in `levels`; the same where it has run out.
  std::array<std::uint32_t, 2> faces(NodeIndex n, std::uint32_t group) const {
    const auto& slices = slices_[n];
    const auto found = std::lower_bound(slices.begin(), slices.end(), group,
                                        [](const Slice& slice, std::uint32_t g) { return slice.group < g; });
    const auto k = out_.column[n] + static_cast<std::uint32_t>(found - slices.begin());
    return {k, found != slices.end() && found->group == group ? k + 1 : k};
  }

  void raise() {
    const std::size_t count = surface_.element_count();
    // Blocks of elements side by side, put together in order.
    const std::size_t block = block_of(4096);
    struct Made {
      std::vector<std::uint32_t> sizes, nodes, group;
      std::vector<ElementIndex> element;
      std::size_t wedges = 0, vanished = 0;
    };
    std::vector<Made> made(count / block + 1);
    parallel_blocks(
        count,
        [&](std::size_t begin, std::size_t end) {
          Made& here = made[begin / block];
          for (std::size_t i = begin; i < end; ++i) {
            const auto e = static_cast<ElementIndex>(i);
            std::uint32_t last = none;
            for (const PlyId p : on_.of(e)) {
              const std::uint32_t g = out_.group_of[p];
              if (g == last) continue;
              last = g;
              std::vector<std::uint32_t> nodes = solid(e, g, here.wedges);
              if (nodes.empty()) {
                ++here.vanished;
                continue;
              }
              here.sizes.push_back(static_cast<std::uint32_t>(nodes.size()));
              here.nodes.insert(here.nodes.end(), nodes.begin(), nodes.end());
              here.group.push_back(g);
              here.element.push_back(e);
            }
          }
        },
        block);
    out_.first.push_back(0);
    for (const Made& one : made) {
      for (const std::uint32_t size : one.sizes) out_.first.push_back(out_.first.back() + size);
      out_.nodes.insert(out_.nodes.end(), one.nodes.begin(), one.nodes.end());
      out_.group.insert(out_.group.end(), one.group.begin(), one.group.end());
      out_.element.insert(out_.element.end(), one.element.begin(), one.element.end());
      out_.wedges += one.wedges;
      out_.vanished += one.vanished;
    }
  }

  /// The nodes of a group's solid on an element; none where it has no thickness there.
  std::vector<std::uint32_t> solid(ElementIndex e, std::uint32_t group, std::size_t& wedges) const {
    const auto nodes = surface_.nodes_of(e);
    const std::size_t corners = nodes.size() / 2;
    std::array<std::array<std::uint32_t, 2>, 8> at{};
    std::vector<std::size_t> out_of_room;
    for (std::size_t i = 0; i < nodes.size(); ++i) {
      at[i] = faces(nodes[i], group);
      if (i < corners && at[i][0] == at[i][1]) out_of_room.push_back(i);
    }
    if (out_of_room.size() == corners) return {};
    const auto level = [&](std::size_t i, std::size_t face) { return out_.levels[at[i][face]]; };
    const auto upright = [&](std::size_t i) {
      return at[i][0] == at[i][1] ? out_.levels[at[i][0]] : out_.between[at[i][0]];
    };
    std::vector<std::uint32_t> out;
    if (!out_of_room.empty()) ++wedges;
    if (corners == 4 && out_of_room.size() == 2 && (out_of_room[1] - out_of_room[0]) % 2 == 1) {
      // A wedge that lies on its side: sides c0 and c3 stand, the edge c1 - c2 is sharp.
      const std::size_t c1 = out_of_room[0] == 0 && out_of_room[1] == 3 ? 3 : out_of_room[0];
      const std::size_t c2 = (c1 + 1) % 4, c3 = (c1 + 2) % 4, c0 = (c1 + 3) % 4;
      const std::size_t m01 = 4 + c0, m12 = 4 + c1, m23 = 4 + c2, m30 = 4 + c3;
      return {level(c0, 0),  level(c0, 1),  level(c1, 0),  level(c3, 0),  level(c3, 1),
              level(c2, 0),  upright(c0),   level(m01, 1), level(m01, 0), upright(c3),
              level(m23, 1), level(m23, 0), level(m30, 0), level(m30, 1), level(m12, 0)};
    }
    for (const std::size_t face : {0u, 1u})
      for (std::size_t i = 0; i < corners; ++i) out.push_back(level(i, face));
    for (const std::size_t face : {0u, 1u})
      for (std::size_t i = corners; i < nodes.size(); ++i) out.push_back(level(i, face));
    for (std::size_t i = 0; i < corners; ++i) out.push_back(upright(i));
    return out;
  }

  // --- what it costs

  void measure() {
    if (out_.options.per != SolidOptions::Per::ply) out_.error = grouping_error(model_, on_, out_.group_of);
    const std::size_t count = out_.count();
    const std::size_t block = block_of(2048);
    std::vector<double> volumes(count / block + 1, 0.0);
    std::vector<std::vector<std::uint32_t>> inverted(volumes.size());
    parallel_blocks(
        count,
        [&](std::size_t begin, std::size_t end) {
          for (std::size_t s = begin; s < end; ++s) {
            const SolidSize size = size_of_solid(out_.points, out_.nodes_of(s));
            volumes[begin / block] += size.volume;
            if (!(size.least > 0.0)) inverted[begin / block].push_back(static_cast<std::uint32_t>(s));
          }
        },
        block);
    for (const double volume : volumes) out_.volume += volume;
    std::map<ElementIndex, std::vector<std::uint32_t>> by_element;
    for (const auto& some : inverted)
      for (const std::uint32_t s : some) by_element[out_.element[s]].push_back(s);
    tell_inverted(by_element);
  }

  void tell_inverted(const std::map<ElementIndex, std::vector<std::uint32_t>>& by_element) {
    if (by_element.empty()) return;
    std::vector<std::int64_t> ids;
    for (const auto& [e, solids] : by_element) ids.push_back(surface_.element_ids[e]);
    const auto& [e, solids] = *by_element.begin();
    bool fold = false;
    for (const NodeIndex n : surface_.nodes_of(e)) fold = fold || folded_[n];
    errors_.error(
        "solid.inverted",
        fmt::format(
            "{} would be turned inside out on {}: {}; first '{}' on element {}, where the laminate is {:.4g} {} "
            "thick and the element's shortest side {:.4g}",
            counted(std::accumulate(by_element.begin(), by_element.end(), std::size_t{0},
                                    [](std::size_t sum, const auto& one) { return sum + one.second.size(); }),
                    "solid"),
            counted(by_element.size(), "element"), listed(ids), out_.groups[out_.group[solids.front()]],
            surface_.element_ids[e], on_.heights[e], part_.units.unit(Dimension::length), shortest_side(e)),
        surface_.place_of(e),
        fold ? "the surface folds back on itself there: round the fold, or use shells"
             : "columns on the inner side of a bend cross: mesh coarser along it, round it, or use shells there");
  }

  /// Nine constants are those of the compliance: what it does when pulled or sheared along one axis alone stays.
  void count_constants() {
    using Constants = SolidOptions::Constants;
    if (out_.options.constants == Constants::as_they_are) return;
    std::size_t changed = 0;
    double most = 0.0;
    for (material::Material& m : out_.materials) {
      if (out_.options.constants == Constants::all) {
        m.elastic.full = material::stiffness(m.elastic);
        continue;
      }
      if (!m.elastic.full) continue;
      const material::Matrix6 whole = *m.elastic.full;
      m.elastic.full.reset();
      if (const auto why = material::not_positive_definite(m.elastic)) {
        errors_.error("solid.constants", fmt::format("'{}' has no nine constants of its own: {}", m.name, *why),
                      Place::in(part_.file), "leave --constants out, or say 21");
        continue;
      }
      most = std::max(most, (material::stiffness(m.elastic) - whole).norm() / whole.norm());
      ++changed;
    }
    errors_.throw_if_errors();
    if (changed > 0)
      findings_.warning(
          "solid.nine-constants",
          fmt::format("{} of solids couple pulling and shear, which nine constants leave out: that changes "
                      "their stiffness by up to {}",
                      counted(changed, "material"), share(most)),
          Place::in(part_.file), "groups that are balanced have nothing to leave out; 21 constants have it all");
  }

  double shortest_side(ElementIndex e) const {
    const auto corners = surface_.corners_of(e);
    double out = std::numeric_limits<double>::infinity();
    for (std::size_t i = 0; i < corners.size(); ++i)
      out = std::min(out, (surface_.points[corners[(i + 1) % corners.size()]] - surface_.points[corners[i]]).norm());
    return out;
  }

  /// In per cent; rounding is none.
  static std::string share(double value) { return value < 1e-9 ? "0 %" : fmt::format("{:.2g} %", 100.0 * value); }

  void report() {
    const Place place = Place::in(part_.file);
    std::string text =
        fmt::format("{} stand for {}: {}; their volume is {:.4g} of that of the plies", counted(out_.count(), "solid"),
                    counted(surface_.element_count(), "element"),
                    out_.options.per == SolidOptions::Per::ply ? "one for each ply"
                                                               : counted(out_.groups.size(), "group") + " of plies",
                    out_.volume / out_.laminate_volume);
    if (out_.wedges > 0) text += fmt::format("; {} of them run out to nothing where plies end", out_.wedges);
    if (out_.options.per != SolidOptions::Per::ply)
      text += fmt::format("; grouping changes A by {}, B {}, D {}, H {} at most, and the stress of plies by {}",
                          share(out_.error.A), share(out_.error.B), share(out_.error.D), share(out_.error.H),
                          share(out_.error.stress));
    findings_.note("solid.made", text, place);
    if ((out_.error.B > 0.2 || out_.error.D > 0.2) && !out_.options.rough)
      errors_.error(
          "solid.rough",
          fmt::format("grouping plies changes what couples pulling and bending by up to {}, bending by {} and the "
                      "stress of plies by {}",
                      share(out_.error.B), share(out_.error.D), share(out_.error.stress)),
          place, "more groups (--solids ply has one for each ply), or --rough-solids to have them all the same");
    else if (out_.error.D > 0.02 || out_.error.A > 0.02 || out_.error.B > 0.02)
      findings_.warning(
          "solid.grouped",
          fmt::format(
              "grouping plies changes the bending stiffness by up to {}, what couples it with pulling by {}, the "
              "stiffness in the plane by {} and the stress of plies by {}",
              share(out_.error.D), share(out_.error.B), share(out_.error.A), share(out_.error.stress)),
          place, "more groups, each with a stack that is balanced about its own middle");
    if (out_.vanished > 0)
      findings_.warning("solid.vanished",
                        fmt::format("{} times a ply has no thickness at any corner of an element, since it ends on all "
                                    "sides, and is left out there",
                                    out_.vanished),
                        place, "mesh zones at least two elements wide");
    const auto folds = static_cast<std::size_t>(std::count(folded_.begin(), folded_.end(), std::uint8_t{1}));
    if (folds > 0)
      findings_.warning(
          "solid.folded",
          fmt::format("at {} the surface turns back so sharply that a column is three times as high as the "
                      "laminate is thick",
                      counted(folds, "node")),
          place, "round the edge, or use shells there");
  }

  const Model& model_;
  const part::Part& part_;
  const mesh::Surface& surface_;
  const PliesOn on_;
  Findings& findings_;
  Findings errors_;
  Solids out_;
  std::vector<std::vector<Slice>> slices_;  ///< per node of the surface
  std::vector<std::uint8_t> corner_, folded_;
};

}  // namespace

std::vector<std::uint32_t> Solids::column_of(NodeIndex node) const {
  std::vector<std::uint32_t> out;
  for (std::uint32_t k = column[node]; k < column[node + 1]; ++k) {
    out.push_back(levels[k]);
    if (between[k] != none) out.push_back(between[k]);
  }
  return out;
}

std::shared_ptr<const Solids> extrude(const Model& model, const SolidOptions& options, Findings& findings) {
  if (options.per == SolidOptions::Per::count && (options.most < 1 || options.most > 1000))
    throw Failure({Severity::error, "solid.options", fmt::format("{} solids through the thickness", options.most),
                   Place::in(model.design->part.file), "1 to 1000"});
  return Extruder(model, options, findings).run();
}

}  // namespace bordado::model
