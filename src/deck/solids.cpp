// The mesh extruded along its normals, ply by ply or group by group.
#include <bordado/solids.hpp>

#include "solid_shapes.hpp"

#include <fmt/format.h>
#include <Eigen/Eigenvalues>

#include <algorithm>
#include <cmath>
#include <map>
#include <numeric>
#include <set>

namespace bordado::deck {

namespace {

using mesh::ElementIndex;
using mesh::NodeIndex;
using part::PlyId;
using section::SectionId;

constexpr std::uint32_t none = 0xFFFFFFFFu;

/// Thicknesses of groups at a place, ascending by group; nothing has none.
struct Slice {
  std::uint32_t group;
  double thickness;
};

class Extruder {
 public:
  Extruder(const Model& model, const SolidOptions& options, Findings& findings)
      : model_(model), part_(*model.part), surface_(model.surface), sections_(*model.sections), findings_(findings) {
    out_.options = options;
  }

  std::shared_ptr<const Solids> run() {
    lay();
    group();
    columns();
    errors_.throw_if_errors();
    place();
    raise();
    errors_.throw_if_errors();
    give_materials();
    measure();
    report();
    errors_.throw_if_errors();
    return std::make_shared<const Solids>(std::move(out_));
  }

 private:
  // --- what lies where

  /// Plies and thicknesses of every element, in flat arrays.
  void lay() {
    const std::size_t count = surface_.element_count();
    first_layer_.assign(count + 1, 0);
    layup::LayersOn layers_on(part_, model_.geometry, *model_.layup);
    for (ElementIndex e = 0; e < count; ++e) {
      double h = 0.0;
      for (const layup::LaidLayer& layer : layers_on(e)) {
        plies_.push_back(layer.ply);
        thicknesses_.push_back(layer.thickness);
        h += layer.thickness;
      }
      heights_.push_back(h);
      out_.laminate_volume += h * model_.geometry.areas[e];
      first_layer_[e + 1] = static_cast<std::uint32_t>(plies_.size());
    }
  }
  std::span<const PlyId> plies_of(ElementIndex e) const {
    return {plies_.data() + first_layer_[e], plies_.data() + first_layer_[e + 1]};
  }
  double thickness_of(ElementIndex e, std::size_t k) const { return thicknesses_[first_layer_[e] + k]; }

  // --- groups

  bool is_core(PlyId ply) const { return material::is_core(part_.materials[model_.layup->plies[ply].material].kind); }

  /// Groups are runs of the list of plies, the same everywhere, so that solids of neighbours meet face to face.
  void group() {
    std::vector<double> volume(part_.plies.size(), 0.0);
    for (ElementIndex e = 0; e < surface_.element_count(); ++e)
      for (std::size_t k = 0; k < plies_of(e).size(); ++k)
        volume[index(plies_of(e)[k])] += thickness_of(e, k) * model_.geometry.areas[e];
    std::vector<std::uint8_t> begins(part_.plies.size(), 0);
    for (const PlyId p : part_.plies.ids()) {
      const std::size_t i = index(p);
      const PlyId before{static_cast<std::uint32_t>(i == 0 ? 0 : i - 1)};
      begins[i] = i == 0 || out_.options.per == SolidOptions::Per::ply || is_core(p) != is_core(before) ||
                  (is_core(p) && part_.plies[p].material.value != part_.plies[before].material.value);
    }
    if (out_.options.per == SolidOptions::Per::count) part_into(volume, begins, out_.options.most);
    out_.group_of.resize(part_.plies.size());
    for (const PlyId p : part_.plies.ids()) {
      if (begins[index(p)]) out_.groups.emplace_back();
      out_.group_of[p] = static_cast<std::uint32_t>(out_.groups.size() - 1);
      if (volume[index(p)] == 0.0) continue;
      std::string& name = out_.groups.back();
      const std::string& id = part_.plies[p].id;
      const std::size_t to = name.find(" to ");
      name = name.empty() ? id : (to == std::string::npos ? name : name.substr(0, to)) + " to " + id;
    }
  }

  /// Faces are cut where that changes the laminates' bending stiffness least, until there are `most` groups; where there
  /// are more runs of faces and cores than that, neighbours that are thinnest together become one.
  void part_into(const std::vector<double>& volume, std::vector<std::uint8_t>& begins, std::size_t most) const {
    const auto runs = [&] {
      std::vector<std::size_t> first;
      for (std::size_t i = 0; i < begins.size(); ++i)
        if (begins[i]) first.push_back(i);
      first.push_back(begins.size());
      return first;
    };
    const auto sum = [&](std::size_t from, std::size_t to) {
      return std::accumulate(volume.begin() + static_cast<std::ptrdiff_t>(from),
                             volume.begin() + static_cast<std::ptrdiff_t>(to), 0.0);
    };
    for (std::vector<std::size_t> first = runs(); first.size() - 1 > most; first = runs()) {
      std::size_t best = 1;
      for (std::size_t r = 1; r + 1 < first.size(); ++r)
        if (sum(first[r - 1], first[r + 1]) < sum(first[best - 1], first[best + 1])) best = r;
      begins[first[best]] = 0;
    }
    const std::vector<ElementIndex> typical = of_each_section(200);
    for (std::size_t groups = runs().size() - 1; groups < most; ++groups) {
      std::size_t best = 0;
      double least = std::numeric_limits<double>::infinity();
      for (std::size_t i = 1; i < begins.size(); ++i) {
        if (begins[i] || is_core(PlyId{static_cast<std::uint32_t>(i)}) || volume[i] == 0.0) continue;
        std::vector<std::uint8_t> cut = begins;
        cut[i] = 1;
        const GroupingError error = grouping_error(typical, groups_of(cut));
        if (error.D + error.H < least - 1e-12) least = error.D + error.H, best = i;
      }
      if (best == 0) return;
      begins[best] = 1;
    }
  }

  static List<PlyId, std::uint32_t> groups_of(const std::vector<std::uint8_t>& begins) {
    List<PlyId, std::uint32_t> out;
    std::uint32_t group = none;
    for (const std::uint8_t begin : begins) out.push_back(begin ? ++group : group);
    return out;
  }

  /// An element of every section, of so many at most.
  std::vector<ElementIndex> of_each_section(std::size_t most) const {
    std::vector<ElementIndex> out;
    std::vector<std::uint8_t> done(sections_.count(), 0);
    for (ElementIndex e = 0; e < surface_.element_count() && out.size() < most; ++e)
      if (auto& known = done[index(sections_.section_of[e])]; !known) known = 1, out.push_back(e);
    return out;
  }

  // --- columns

  /// What goes on to all elements at a corner: the plies that all of them hold, each as thick as they have it in the
  /// mean.
  std::vector<Slice> slices_at(std::span<const ElementIndex> elements) const {
    std::map<PlyId, std::array<double, 2>> common;  // thickness times area, area
    for (std::size_t i = 0; i < elements.size(); ++i) {
      const ElementIndex e = elements[i];
      const double area = model_.geometry.areas[e];
      std::map<PlyId, std::array<double, 2>> here;
      for (std::size_t k = 0; k < plies_of(e).size(); ++k) {
        const PlyId p = plies_of(e)[k];
        const auto known = common.find(p);
        if (i > 0 && known == common.end()) continue;
        auto sum = i > 0 ? known->second : std::array{0.0, 0.0};
        const double t = thickness_of(e, k);
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
    const std::vector<Vec3> normals = mesh::nodal_normals(surface_, model_.geometry);
    // Uses of every node, those in the middle of sides, too: places in Surface::nodes.
    std::vector<std::uint32_t> first(surface_.points.size() + 1, 0);
    for (const NodeIndex n : surface_.nodes) ++first[n + 1];
    for (std::size_t n = 0; n + 1 < first.size(); ++n) first[n + 1] += first[n];
    std::vector<std::uint32_t> uses(surface_.nodes.size()), next(first.begin(), first.end() - 1);
    for (std::uint32_t use = 0; use < surface_.nodes.size(); ++use) uses[next[surface_.nodes[use]]++] = use;
    out_.upright.assign(surface_.points.size(), Vec3::Zero());
    folded_.assign(surface_.points.size(), 0);
    std::vector<std::uint8_t> mitred(surface_.points.size(), 0);
    parallel_blocks(surface_.points.size(), [&](std::size_t begin, std::size_t end) {
      for (std::size_t n = begin; n < end; ++n) {
        std::vector<Vec3> apart;  // normals that stand at 20 degrees and more to each other
        for (std::uint32_t k = first[n]; k < first[n + 1]; ++k) {
          const Vec3& own = normals[uses[k]];
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
        const Eigen::SelfAdjointEigenSolver<Eigen::Matrix3d> solver(squares);
        Vec3 d = Vec3::Zero();
        for (int k = 0; k < 3; ++k)
          if (solver.eigenvalues()[k] > 1e-6 * solver.eigenvalues()[2])
            d += solver.eigenvectors().col(k).dot(sum) / solver.eigenvalues()[k] * solver.eigenvectors().col(k);
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
    constexpr std::size_t block = 4096;
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
            for (const PlyId p : plies_of(e)) {
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

  // --- materials

  void give_materials() {
    // Per section and group one material; what is added to an element makes it heavier.
    std::map<std::string, std::uint32_t> known;
    std::map<std::tuple<SectionId, std::uint32_t, double>, std::pair<std::uint32_t, Angle>> of;
    const std::vector<double>& added = model_.layup->added_mass;
    out_.material.resize(out_.count());
    out_.turn.resize(out_.count());
    for (std::size_t s = 0; s < out_.count(); ++s) {
      const ElementIndex e = out_.element[s];
      const SectionId section = sections_.section_of[e];
      const double extra = added.empty() ? 0.0 : static_cast<double>(static_cast<float>(added[e] / heights_[e]));
      const auto key = std::tuple(section, out_.group[s], extra);
      auto found = of.find(key);
      if (found == of.end()) found = of.emplace(key, material_of(e, section, out_.group[s], extra, known)).first;
      out_.material[s] = found->second.first;
      out_.turn[s] = found->second.second;
    }
  }

  /// The layers of a group on an element of a section, by their places.
  std::vector<std::size_t> layers_of(ElementIndex e, std::uint32_t group) const {
    std::vector<std::size_t> out;
    for (std::size_t k = 0; k < plies_of(e).size(); ++k)
      if (out_.group_of[plies_of(e)[k]] == group) out.push_back(k);
    return out;
  }

  std::pair<std::uint32_t, Angle> material_of(ElementIndex e, SectionId section, std::uint32_t group, double extra,
                                              std::map<std::string, std::uint32_t>& known) {
    const auto laid = sections_.layers_of(section);
    const std::vector<std::size_t> own = layers_of(e, group);
    const std::vector<laminate::Layer> all = section::laminate_of(part_, sections_, section);
    std::string key;
    for (const std::size_t k : own) {
      const section::LaidLayer& layer = laid[k];
      key += own.size() == 1 ? fmt::format("{};", index(layer.material))
                             : fmt::format("{} {:.12g} {:.12g};", index(layer.material), layer.thickness,
                                           section::axes_of(part_, sections_, layer).degrees());
    }
    key += fmt::format("{:.7g}", extra);
    const Angle turn = own.size() == 1 ? section::axes_of(part_, sections_, laid[own.front()]) : Angle();
    const auto [at, is_new] = known.emplace(key, static_cast<std::uint32_t>(out_.materials.size()));
    if (!is_new) return {at->second, turn};
    material::Material made;
    if (own.size() == 1) {
      made = section::material_of(part_, sections_, laid[own.front()].material);
      out_.made_of.push_back({laid[own.front()].ply});
    } else {
      std::vector<laminate::Layer> layers;
      std::vector<PlyId> plies;
      std::set<std::optional<double>> stress_free;
      for (const std::size_t k : own) {
        layers.push_back(all[k]);
        plies.push_back(laid[k].ply);
        stress_free.insert(section::material_of(part_, sections_, laid[k].material).stress_free_temperature);
      }
      const laminate::Equivalent equivalent = laminate::equivalent(layers);
      made.name = fmt::format("{} of section {}", out_.groups[group], index(section) + 1);
      made.elastic = equivalent.elastic;
      made.density = equivalent.density;
      // 11 22 33 23 13 12: the last two of shear are nought of a laminate.
      made.thermal.along = equivalent.thermal[0];
      made.thermal.across = equivalent.thermal[1];
      made.thermal.through = equivalent.thermal[2];
      if (equivalent.thermal[5] != 0.0) made.thermal.shear = equivalent.thermal[5];
      if (stress_free.size() == 1) made.stress_free_temperature = *stress_free.begin();
      out_.made_of.push_back(std::move(plies));
    }
    if (extra > 0.0) {
      made.density = made.density.value_or(0.0) + extra;
      made.name += " and what it carries";
    }
    out_.materials.push_back(std::move(made));
    return {at->second, turn};
  }

  // --- what it costs

  void measure() {
    if (out_.options.per != SolidOptions::Per::ply)
      out_.error = grouping_error(of_each_section(sections_.count()), out_.group_of);
    const std::size_t count = out_.count();
    constexpr std::size_t block = 2048;
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
            surface_.element_ids[e], heights_[e], part_.units.unit(Dimension::length), shortest_side(e)),
        surface_.place_of(e),
        fold ? "the surface folds back on itself there: round the fold, or use shells"
             : "columns on the inner side of a bend cross: mesh coarser along it, round it, or use shells there");
  }

  double shortest_side(ElementIndex e) const {
    const auto corners = surface_.corners_of(e);
    double out = std::numeric_limits<double>::infinity();
    for (std::size_t i = 0; i < corners.size(); ++i)
      out = std::min(out, (surface_.points[corners[(i + 1) % corners.size()]] - surface_.points[corners[i]]).norm());
    return out;
  }

  /// What grouping changes of the sections of some elements.
  GroupingError grouping_error(std::span<const ElementIndex> elements,
                               const List<PlyId, std::uint32_t>& group_of) const {
    GroupingError out;
    for (const ElementIndex e : elements) {
      const std::vector<laminate::Layer> all = section::laminate_of(part_, sections_, sections_.section_of[e]);
      std::vector<laminate::Layer> grouped;
      const auto plies = plies_of(e);
      for (std::size_t k = 0; k < plies.size();) {
        std::size_t end = k + 1;
        while (end < plies.size() && group_of[plies[end]] == group_of[plies[k]]) ++end;
        const std::span<const laminate::Layer> own(all.data() + k, end - k);
        grouped.push_back(own.front());
        if (own.size() > 1) {
          grouped.back() = {};
          grouped.back().elastic = laminate::equivalent(own).elastic;
          grouped.back().thickness = laminate::thickness(own);
        }
        k = end;
      }
      const double h = laminate::thickness(all);
      const laminate::Stiffness real = laminate::stiffness(all, -0.5 * h),
                                made = laminate::stiffness(grouped, -0.5 * h);
      out.A = std::max(out.A, (made.A - real.A).norm() / real.A.norm());
      out.B = std::max(out.B, (made.B - real.B).norm() / (0.5 * h * real.A.norm()));
      out.D = std::max(out.D, (made.D - real.D).norm() / real.D.norm());
      out.H = std::max(out.H, (made.H - real.H).norm() / real.H.norm());
    }
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
      text += fmt::format("; grouping changes A by {}, B {}, D {}, H {} at most", share(out_.error.A),
                          share(out_.error.B), share(out_.error.D), share(out_.error.H));
    findings_.note("solid.made", text, place);
    if (out_.error.D > 0.02 || out_.error.A > 0.02)
      findings_.warning(
          "solid.grouped",
          fmt::format("grouping plies changes the bending stiffness by up to {} and the stiffness in the plane by {}",
                      share(out_.error.D), share(out_.error.A)),
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
  const section::Sections& sections_;
  Findings& findings_;
  Findings errors_;
  Solids out_;
  std::vector<std::uint32_t> first_layer_;
  std::vector<PlyId> plies_;
  std::vector<double> thicknesses_, heights_;
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
                   Place::in(model.part->file), "1 to 1000"});
  return Extruder(model, options, findings).run();
}

}  // namespace bordado::deck
