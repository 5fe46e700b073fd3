#include "../base/arena.hpp"
#include "edge_checks.hpp"
#include "pieces.hpp"

#include <bordado/calculix/boxes.hpp>
#include <bordado/deck.hpp>
#include <bordado/mesh/care.hpp>
#include <bordado/review/check.hpp>
#include <bordado/review/drapes.hpp>

#include <fmt/format.h>
#include <tbb/parallel_invoke.h>
#include <Eigen/Geometry>

#include <algorithm>
#include <cmath>
#include <map>
#include <set>

namespace bordado::review {

namespace {

using laminate::Layer;
using laminate::Matrix3;

/// Angle between two fibre directions, 0 to 90 degrees.
double between(Angle a, Angle b) { return std::abs(std::remainder(a.degrees() - b.degrees(), 180.0)); }

class Checker {
 public:
  Checker(const Design& design, const mesh::EdgeTable& edges, Findings& findings)
      : design_(design),
        part_(design.part),
        layup_(design.layup),
        edges_(edges),
        findings_(findings),
        here_(Place::in(part_.file)) {
    section_areas_.assign(design.sections.count(), 0.0);
    for (mesh::ElementIndex e = 0; e < design.surface.element_count(); ++e) {
      section_areas_[design.sections.section_of[e]] += design.geometry.areas[e];
      area_ += design.geometry.areas[e];
    }
    for (const part::Ply& ply : part_.plies) materials_used_.insert(ply.material.value);
  }

  void check() {
    check_targets();
    check_laminates();
    check_ends();
    check_edges(design_, findings_);
    check_pieces();
    check_drapes();
    check_size();
    check_frames();
    check_zones();
    check_materials();
    check_thicknesses();
    check_list();
  }

  void check_mesh() {
    const mesh::Inspection found = mesh::inspect(design_.surface, design_.geometry, edges_);
    for (Finding& doubt : mesh::doubts(design_.surface, found))
      if (doubt.code != "mesh.junction") findings_.add(std::move(doubt));  // told when the sides were made to agree
    if (auto thick = calculix::thick_at_edge(design_.surface, design_.geometry, design_.sections))
      findings_.add(std::move(*thick));
  }

 private:
  /// What supports and loads act on, as a deck would look it up.
  void check_targets() {
    Findings found;
    model::check_targets(design_, found);
    for (const bool errors : {true, false})
      for (const Finding& finding : found.all())
        if ((finding.severity == Severity::error) == errors) findings_.add(finding);
  }

  /// Sections that something holds of, and the worst of them.
  struct Found {
    std::set<layup::StackId> stacks;
    std::set<section::SectionId> sections;
    std::optional<double> worst;
    std::string what;  ///< of the worst
    section::SectionId worst_of{};
    void add(layup::StackId stack, section::SectionId section, double amount, const std::string& text) {
      stacks.insert(stack);
      sections.insert(section);
      if (!worst || amount > *worst) worst = amount, what = text, worst_of = section;
    }
  };

  /// "laminates 1, 4 and 5 (62 % of the area)".
  std::string where(const Found& found) const {
    std::vector<std::int64_t> numbers;
    for (const layup::StackId s : found.stacks) numbers.push_back(index(s) + 1);
    double area = 0.0;
    for (const section::SectionId s : found.sections) area += section_areas_[s];
    return fmt::format("laminate{} {} ({:.0f} % of the area)", numbers.size() == 1 ? "" : "s", listed(numbers, 8),
                       100.0 * area / area_);
  }

  mesh::ElementIndex first_element(section::SectionId section) const {
    const auto& all = design_.sections.section_of;
    return static_cast<mesh::ElementIndex>(std::find(all.begin(), all.end(), section) - all.begin());
  }

  /// \param one what holds of one laminate; \param several of more.
  void tell(Severity severity, std::string code, const Found& found, std::string_view one, std::string_view several,
            std::string remedy) {
    if (found.stacks.empty()) return;
    tell(severity, std::move(code), found, found.stacks.size() == 1 ? one : several, std::move(remedy));
  }

  void tell(Severity severity, std::string code, const Found& found, std::string_view holds, std::string remedy) {
    if (found.stacks.empty()) return;
    findings_.add({severity, std::move(code), fmt::format("{}: {}; {}", where(found), holds, found.what),
                   design_.surface.place_of(first_element(found.worst_of)), std::move(remedy)});
  }

  const material::Material& material_of(const section::LaidLayer& layer) const {
    return section::material_of(part_, design_.sections, layer.material);
  }
  material::Kind kind(const section::LaidLayer& layer) const { return material_of(layer).kind; }

  void check_laminates() {
    Found unsymmetric, unbalanced, few, row, jump, outer, core;
    for (const section::SectionId s : design_.sections.ids()) {
      const auto layers = design_.sections.layers_of(s);
      const std::vector<Layer> stack = section::laminate_of(part_, design_.sections, s);
      const layup::StackId number = design_.sections.stack[s];
      const double h = design_.sections.thickness[s];
      const laminate::Stiffness k = laminate::stiffness(stack, -0.5 * h);
      const std::string name = fmt::format("laminate {}", index(number) + 1);
      // Half a percent is nobody's concern; angles between frames are rounded, and what that does is no fault either.
      const double noise = one_frame(number) ? 0.005 : 0.02;
      const double coupling = k.B.norm() / (0.5 * h * k.A.norm());
      if (coupling > noise)
        unsymmetric.add(number, s, coupling, fmt::format("most in {}, |B| = {:.0f} % of h|A|/2", name, 100 * coupling));
      const double shear = std::max(std::abs(k.A(0, 2)), std::abs(k.A(1, 2))) / k.A.norm();
      if (shear > noise)
        unbalanced.add(number, s, shear,
                       fmt::format("most in {}, A{}6 = {:.1f} % of |A|", name,
                                   std::abs(k.A(0, 2)) > std::abs(k.A(1, 2)) ? 1 : 2, 100 * shear));
      check_directions(layers, number, s, name, few);
      check_neighbours(layers, number, s, name, row, jump);
      for (const auto& [layer, face] : {std::pair{&layers.front(), "first"}, std::pair{&layers.back(), "last"}}) {
        if (material::is_core(kind(*layer)))
          core.add(number, s, 1.0, fmt::format("the {} ply of {} is {}", face, name, material_of(*layer).name));
        const double from_45 = std::abs(std::abs(same_fibre(layer->angle).degrees()) - 45.0);
        if (kind(*layer) == material::Kind::unidirectional && layers.size() > 2 && from_45 > 22.5)
          outer.add(number, s, from_45,
                    fmt::format("the {} ply of {} is unidirectional at {:g}°", face, name,
                                same_fibre(layer->angle).degrees()));
      }
    }
    tell(Severity::note, "laminate.unsymmetric", unsymmetric,
         "not symmetric, so it bends or twists when pulled or cooled",
         "not symmetric, so they bend or twist when pulled or cooled",
         "mirror the stack about its middle, or see what it does: bordado at ... --warmed -60");
    tell(Severity::warning, "laminate.unbalanced", unbalanced, "not balanced, so it shears when pulled",
         "not balanced, so they shear when pulled", "give every ply at an angle one of the opposite angle");
    tell(Severity::warning, "laminate.few-in-direction", few,
         fmt::format("less than {:g} % of the thickness in some direction", 100 * part_.checks.least_share),
         "add plies there, or set [checks] least-share");
    tell(Severity::warning, "laminate.row", row,
         fmt::format("more than {} plies of one angle in a row, which crack together", part_.checks.most_in_a_row),
         "put others between them, or set [checks] most-in-a-row");
    tell(Severity::note, "laminate.jump", jump,
         fmt::format("neighbours turn by more than {:g}°, which strains the resin between them",
                     part_.checks.largest_jump.degrees()),
         "put a ply of an angle between, or set [checks] largest-jump");
    tell(Severity::note, "laminate.outer-ply", outer, "an outer ply runs along or across",
         "a fabric or a ply at 45° outside stands knocks and holes better");
    tell(Severity::warning, "laminate.core-outside", core, "a core lies bare",
         "lay a skin over it, or correct its zone");
  }

  bool one_frame(layup::StackId stack) const {
    const auto plies = layup_.plies_of(stack);
    return std::all_of(plies.begin(), plies.end(),
                       [&](part::PlyId p) { return layup_.frame_of(p) == layup_.frame_of(plies[0]); });
  }

  /// Shares of the fibres' thickness along 0, 45, 90 and -45 degrees; a fabric counts half each way.
  void check_directions(std::span<const section::LaidLayer> layers, layup::StackId number, section::SectionId s,
                        const std::string& name, Found& few) const {
    double share[4] = {}, total = 0.0;
    int plies = 0;
    for (const section::LaidLayer& layer : layers) {
      const material::Kind k = kind(layer);
      if (k != material::Kind::unidirectional && k != material::Kind::fabric) continue;
      ++plies;
      total += layer.thickness;
      const auto sector = [](double degrees) {
        return static_cast<std::size_t>(std::lround((std::remainder(degrees, 180.0) + 180.0) / 45.0)) % 4;
      };
      const double half = k == material::Kind::fabric ? 0.5 : 1.0;
      share[sector(layer.angle.degrees())] += half * layer.thickness;
      if (k == material::Kind::fabric) share[sector(layer.angle.degrees() + 90.0)] += half * layer.thickness;
    }
    if (plies < 4) return;
    constexpr std::string_view names[] = {"0°", "45°", "90°", "-45°"};
    for (std::size_t i = 0; i < 4; ++i)
      if (share[i] < part_.checks.least_share * total - 1e-12 * total)
        few.add(number, s, -share[i] / total + 1.0,
                fmt::format("least in {}, {:.0f} % along {}", name, 100 * share[i] / total, names[i]));
  }

  void check_neighbours(std::span<const section::LaidLayer> layers, layup::StackId number, section::SectionId s,
                        const std::string& name, Found& row, Found& jump) const {
    int count = 1;
    for (std::size_t i = 1; i < layers.size(); ++i) {
      const bool both =
          kind(layers[i]) == material::Kind::unidirectional && kind(layers[i - 1]) == material::Kind::unidirectional;
      const double turn = between(layers[i].angle, layers[i - 1].angle);
      count = both && turn < 0.5 && layers[i].material == layers[i - 1].material ? count + 1 : 1;
      if (count > part_.checks.most_in_a_row)
        row.add(number, s, count, fmt::format("most in {}, {} at {:g}°", name, count, layers[i].angle.degrees()));
      if (both && turn > part_.checks.largest_jump.degrees() + 1e-9)
        jump.add(number, s, turn,
                 fmt::format("most in {}, {:g}° beside {:g}°", name, layers[i - 1].angle.degrees(),
                             layers[i].angle.degrees()));
    }
  }

  /// How far the edge of a ply is moved against its zone: plies that end between the same stacks and are moved alike end
  /// on one line.
  using Moved = std::vector<double>;
  Moved moved_by(part::PlyId p) const {
    const layup::Region& region = layup_.regions[layup_.plies[p].region];
    Moved out;
    if (region.edge && *region.edge != 0.0) out.push_back(*region.edge);
    for (const layup::Moved& moved : region.moved)
      if (moved.by != 0.0) out.push_back(moved.by);
    return out;
  }

  /// Of the plies of the first stack that the second has not, the largest number that ends on one line. A core that
  /// runs out to nothing ends nowhere; what a ramp lets end together it was told to.
  std::vector<part::PlyId> ending_together(const std::pair<layup::StackId, layup::StackId>& stacks) const {
    const auto here = layup_.plies_of(stacks.first), there = layup_.plies_of(stacks.second);
    std::vector<part::PlyId> all;
    std::set_difference(here.begin(), here.end(), there.begin(), there.end(), std::back_inserter(all));
    std::map<Moved, std::vector<part::PlyId>> at;
    for (const part::PlyId p : all) {
      const auto& chamfer = part_.plies[p].chamfer;
      if (!chamfer || chamfer->edge_thickness > 0.0) at[moved_by(p)].push_back(p);
    }
    std::vector<part::PlyId> most;
    for (const auto& [by, plies] : at)
      if (plies.size() > most.size() && !one_step(plies)) most = plies;
    return most;
  }
  bool one_step(const std::vector<part::PlyId>& plies) const {
    return std::any_of(layup_.ramps.begin(), layup_.ramps.end(), [&](const layup::Ramp& ramp) {
      return std::any_of(ramp.steps.begin(), ramp.steps.end(), [&](const layup::RampStep& step) {
        return std::includes(step.plies.begin(), step.plies.end(), plies.begin(), plies.end());
      });
    });
  }
  double ended(const std::vector<part::PlyId>& plies) const {
    double sum = 0.0;
    for (const part::PlyId p : plies) sum += layup_.plies[p].thickness;
    return sum;
  }
  bool too_thick(const std::vector<part::PlyId>& plies) const {
    return part_.checks.most_ended && ended(plies) > *part_.checks.most_ended * (1.0 + 1e-9);
  }

  /// Steps of ramps that end more than is allowed.
  void check_steps() {
    for (const layup::Ramp& ramp : layup_.ramps)
      for (const layup::RampStep& step : ramp.steps)
        if (too_thick(step.plies)) {
          std::vector<std::string> ids;
          for (const part::PlyId p : step.plies) ids.push_back(part_.plies[p].id);
          findings_.warning("layup.ends-much",
                            fmt::format("ramp '{}': {:.4g} {} end on one line: {}; [checks] most-ended is {:g}",
                                        ramp.name, step.thickness, part_.units.unit(Dimension::length), listed(ids, 8),
                                        *part_.checks.most_ended),
                            part_.ramps[ramp.declared].where, "let fewer plies end together");
        }
  }

  /// Plies that end on the same line.
  void check_ends() {
    check_steps();
    struct Line {
      double length = 0.0;
      mesh::ElementIndex element = 0;
      std::pair<layup::StackId, layup::StackId> stacks;
    };
    std::map<std::vector<part::PlyId>, Line> lines;
    std::map<std::pair<layup::StackId, layup::StackId>, std::vector<part::PlyId>> ending;
    const mesh::EdgeTable& edges = edges_;
    for (std::size_t j = 0; j < edges.size(); ++j) {
      if (edges.first[j + 1] - edges.first[j] != 2) continue;
      const mesh::ElementIndex a = edges.uses[edges.first[j]].element, b = edges.uses[edges.first[j] + 1].element;
      for (const auto& [from, to] : {std::pair{a, b}, std::pair{b, a}}) {
        const std::pair stacks{layup_.stack_of[from], layup_.stack_of[to]};
        if (stacks.first == stacks.second) continue;
        const auto [found, is_new] = ending.try_emplace(stacks);
        if (is_new) found->second = ending_together(stacks);
        if (static_cast<int>(found->second.size()) <= part_.checks.most_ends && !too_thick(found->second)) continue;
        Line& line = lines[found->second];
        if (line.length == 0.0) line.element = from, line.stacks = stacks;
        line.length += (design_.surface.points[edges.nodes[j][1]] - design_.surface.points[edges.nodes[j][0]]).norm();
      }
    }
    std::vector<std::pair<const std::vector<part::PlyId>*, const Line*>> worst;
    for (const auto& [plies, line] : lines) worst.emplace_back(&plies, &line);
    std::stable_sort(worst.begin(), worst.end(), [](const auto& x, const auto& y) {
      return std::pair(x.first->size(), x.second->length) > std::pair(y.first->size(), y.second->length);
    });
    if (worst.empty()) return;
    std::vector<std::string> ids;
    for (const part::PlyId p : *worst[0].first) ids.push_back(part_.plies[p].id);
    const Line& line = *worst[0].second;
    if (static_cast<int>(ids.size()) <= part_.checks.most_ends)
      findings_.warning("layup.ends-much",
                        fmt::format("{:.4g} {} end on one line: {}, over {:.4g} {}; [checks] most-ended is {:g}",
                                    ended(*worst[0].first), part_.units.unit(Dimension::length), listed(ids, 8),
                                    line.length, part_.units.unit(Dimension::length), *part_.checks.most_ended),
                        design_.surface.place_of(line.element), "let them end one after another: [ramp.NAME]");
    else
      findings_.warning(
          "layup.ends-together",
          fmt::format("{} plies end on one line: {}, over {:.4g} {} between laminates {} and {}{}", ids.size(),
                      listed(ids, 8), line.length, part_.units.unit(Dimension::length), index(line.stacks.first) + 1,
                      index(line.stacks.second) + 1,
                      worst.size() > 1
                          ? fmt::format("; {} more such {}", worst.size() - 1, worst.size() == 2 ? "line" : "lines")
                          : ""),
          design_.surface.place_of(line.element), "let them end one after another: [ramp.NAME], or move their edges");
  }

  void check_pieces() {
    const auto pieces = pieces_of_regions(design_, edges_);
    const std::size_t whole = design_.orientation.pieces;
    for (const part::PlyId p : layup_.plies.ids()) {
      const std::size_t count = pieces[layup_.plies[p].region];
      if (count > std::max<std::size_t>(1, whole)) told_pieces_[count].push_back(part_.plies[p].id);
    }
    for (const auto& [count, ids] : told_pieces_)
      findings_.note("layup.ply-pieces",
                     fmt::format("{} {} each in {} pieces that share no edge: {}",
                                 ids.size() == 1 ? "1 ply" : fmt::format("{} plies", ids.size()),
                                 ids.size() == 1 ? "lies" : "lie", count, listed(ids, 8)),
                     here_, "a piece that is cut by itself is a ply of its own in most shops");
  }

  void check_drapes() {
    std::vector<std::string> without;
    for (const PlyDrape& one : draped_plies(design_)) {
      const part::Ply& ply = part_.plies[one.ply];
      const material::Material& material = part_.materials[layup_.plies[one.ply].material];
      const auto& pieces = layup_.drapes[one.drape].pieces;
      if (std::all_of(pieces.begin(), pieces.end(),
                      [](const auto& piece) { return piece.laid.lay == part::Lay::strips; }))
        continue;  // tape does not shear
      if (!one.limit) {
        if (std::find(without.begin(), without.end(), material.name) != without.end()) continue;
        without.push_back(material.name);
        findings_.warning(
            "drape.no-limit",
            fmt::format("material '{}' is draped and has no shear-limit: nobody can say whether it can be laid",
                        material.name),
            material.where, "add shear-limit = \"... deg\", the shear past which it wrinkles");
        continue;
      }
      if (one.verdict.past.empty()) continue;
      const mesh::ElementIndex worst = one.verdict.past.front();
      findings_.warning(
          "drape.past-limit",
          fmt::format("ply '{}': {:.1f} % of its area is sheared past the {:g}° of '{}', up to {:.1f}° at element {}",
                      ply.id, 100.0 * one.verdict.past_limit / one.verdict.area, *one.limit, material.name,
                      std::abs(static_cast<double>(layup_.drapes[one.drape].shear[worst])),
                      design_.surface.element_ids[worst]),
          design_.surface.place_of(worst),
          "it would wrinkle there: try another seed or direction, lay = \"led\", a dart, "
          "or several pieces; bordado drape tells more");
    }
  }

  void check_size() {
    const mesh::Size size = mesh::size(design_.surface, design_.geometry, edges_);
    Vec3 extent = size.high - size.low;
    std::sort(extent.begin(), extent.end());
    const double metres = extent[2] * part_.units.to_si(Dimension::length);
    const std::string unit = part_.units.unit(Dimension::length);
    if (!(metres > 0.01 && metres < 100.0))
      findings_.warning("mesh.size-unlikely", fmt::format("the part is {:.3g} m long", metres), part_.mesh_file.where,
                        "check the length unit of the mesh: mesh = { file = \"...\", length = \"mm\" }");
    const double thickest = *std::max_element(design_.sections.thickness.begin(), design_.sections.thickness.end());
    if (thickest > 0.2 * extent[1])
      findings_.warning("layup.thick",
                        fmt::format("the laminate is up to {:.4g} {} thick on a part {:.4g} by {:.4g} {} in size",
                                    thickest, unit, extent[2], extent[1], unit),
                        here_, "check units of the thicknesses; a shell is no model of so thick a part");
  }

  /// The vector whose projection is 0°, where a frame is of a kind that projects one.
  std::optional<Vec3> projected(const part::Frame& frame, mesh::ElementIndex e) const {
    if (const auto* const k = std::get_if<part::ProjectedVector>(&frame.kind)) return k->vector;
    if (const auto* const k = std::get_if<part::AxisSystem>(&frame.kind))
      return k->take == 0 ? k->x : k->take == 1 ? k->y : Vec3(k->x.cross(k->y));
    if (const auto* const k = std::get_if<part::Cylindrical>(&frame.kind)) {
      if (k->take == part::Cylindrical::Take::axial) return k->along;
      const Vec3 out = design_.geometry.centres[e] - k->through, radial = out - out.dot(k->along) * k->along;
      return k->take == part::Cylindrical::Take::radial ? radial : Vec3(k->along.cross(radial));
    }
    return std::nullopt;
  }

  void check_frames() {
    constexpr double doubtful = 15.0;
    for (const part::FrameId f : part_.frames.ids()) {
      if (layup_.frames[f].directions.empty()) continue;
      List<layup::StackId, std::uint8_t> uses(layup_.stack_count(), 0);
      for (const layup::StackId s : layup_.stacks())
        for (const part::PlyId p : layup_.plies_of(s)) uses[s] |= layup_.frame_of(p) == f;
      const double near = Angle::degrees(doubtful).cos();
      std::vector<std::int64_t> ids;
      double least = 90.0;
      for (mesh::ElementIndex e = 0; e < design_.surface.element_count(); ++e) {
        if (!uses[layup_.stack_of[e]]) continue;
        const auto vector = projected(part_.frames[f], e);
        if (!vector) break;
        const double c = std::min(1.0, std::abs(vector->normalized().dot(design_.geometry.normals[e])));
        if (c < near) continue;
        const double angle = std::acos(c) * 180.0 / std::numbers::pi;
        if (angle >= doubtful || angle < frame::least_angle_to_normal.degrees()) continue;
        ids.push_back(design_.surface.element_ids[e]);
        least = std::min(least, angle);
      }
      if (!ids.empty())
        findings_.warning(
            "frame.near-degenerate",
            fmt::format("frame '{}': its direction lies within {:g}° of the normal on {}, {:.1f}° at the "
                        "least, so 0° turns quickly from one to the next: elements {}",
                        part_.frames[f].name, doubtful, counted(ids.size(), "element"), least, listed(ids)),
            part_.frames[f].where, "use another frame there, or blend from one to the other");
    }
  }

  void check_zones() {
    const zone::ZoneSets& zones = layup_.zones;
    for (const part::Zone& declared : part_.zones) {
      const auto z = zones.find(declared.name);
      if (z && zones.counts[*z] == 1 && design_.surface.element_count() > 1)
        findings_.warning("zone.one-element",
                          fmt::format("zone '{}' is one element: {}", declared.name,
                                      design_.surface.element_ids[zones.elements(*z).front()]),
                          declared.where, "check its shape, or refine the mesh there");
    }
    check_same_zones();
  }

  /// Zones of the same elements, told once for all that hold them.
  void check_same_zones() {
    const zone::ZoneSets& zones = layup_.zones;
    std::vector<zone::ZoneId> ids;
    for (const part::Zone& declared : part_.zones)
      if (const auto z = zones.find(declared.name); z && zones.counts[*z] > 0) ids.push_back(*z);
    // A sum over the members that two different zones hardly share: candidates, then compared in full.
    std::map<std::size_t, std::size_t> of_count;
    for (const zone::ZoneId z : ids) ++of_count[zones.counts[z]];
    if (std::all_of(of_count.begin(), of_count.end(), [](const auto& one) { return one.second == 1; })) return;
    List<zone::ZoneId, std::uint64_t> sums(zones.names.size(), 0);
    for (mesh::ElementIndex e = 0; e < layup_.stack_of.size(); ++e) {
      std::uint64_t h = (e + 1) * 0x9E3779B97F4A7C15ull;
      h = (h ^ (h >> 31)) * 0xBF58476D1CE4E5B9ull;
      zones.for_each_of(e, [&](zone::ZoneId z) { sums[z] += h; });
    }
    std::map<std::pair<std::size_t, std::uint64_t>, std::vector<zone::ZoneId>> alike;
    for (const zone::ZoneId z : ids) alike[{zones.counts[z], sums[z]}].push_back(z);
    for (const auto& [key, group] : alike) {
      if (group.size() < 2) continue;
      std::vector<std::string> names;
      const auto first = zones.elements(group.front());
      for (const zone::ZoneId z : group)
        if (z == group.front() || zones.elements(z) == first) names.push_back("'" + zones.names[z] + "'");
      if (names.size() < 2) continue;
      const auto declared =
          std::find_if(part_.zones.begin(), part_.zones.end(),
                       [&, &last = group.back()](const part::Zone& zone) { return zone.name == zones.names[last]; });
      findings_.note("zone.same",
                     fmt::format("zones {} hold the same {}", listed(names), counted(key.first, "element")),
                     declared->where, "plies over two of them cover the place twice");
    }
  }

  void check_materials() {
    std::vector<std::string> weightless, weak;
    for (const material::Material& m : part_.materials) {
      if (!materials_used_.count(m.name)) continue;
      if (!(m.density.value_or(0.0) > 0.0)) weightless.push_back(m.name);
      const material::Strength& s = m.strength;
      const bool enough = material::is_core(m.kind)             ? s.S12 || s.S13
                          : m.kind == material::Kind::isotropic ? s.Xt.has_value()
                                                                : s.Xt && s.Xc && s.Yt && s.Yc && s.S12;
      if (!enough) weak.push_back(m.name);
    }
    for (const material::Material& m : part_.materials)
      if (materials_used_.count(m.name) && m.elastic.full) check_coupling(m);
    if (!weightless.empty())
      findings_.warning("material.no-density", fmt::format("no density: {}", listed(weightless, 8)), here_,
                        "mass, centre of mass and loads by acceleration leave them out; add density = \"1550 kg/m^3\"");
    if (!weak.empty())
      findings_.note("material.no-strength", fmt::format("strengths are missing: {}", listed(weak, 8)), here_,
                     "stresses of these plies cannot be judged; add Xt, Xc, Yt, Yc and S12");
  }

  /// A shell has no place for what couples strains in the plane with shear through the thickness.
  void check_coupling(const material::Material& m) {
    const material::Matrix6 S = material::compliance(m.elastic);
    double coupling = 0.0;
    for (const int in_plane : {0, 1, 5})
      for (const int through : {3, 4})
        coupling =
            std::max(coupling, std::abs(S(in_plane, through)) / std::sqrt(S(in_plane, in_plane) * S(through, through)));
    if (coupling > 0.01)
      findings_.warning("material.coupling-left-out",
                        fmt::format("material '{}': strain in the plane and shear through the thickness are coupled by "
                                    "{:.0f} %; sections leave that out",
                                    m.name, 100.0 * coupling),
                        m.where, "turn the material so that 3 is a plane of symmetry, or model it with solids");
  }

  /// What a ply says of its own thickness; of materials it is told when they are read.
  void check_thicknesses() {
    const std::string length = part_.units.unit(Dimension::length);
    for (const part::PlyId p : layup_.plies.ids()) {
      const layup::Ply& ply = layup_.plies[p];
      const material::Material& m = part_.materials[ply.material];
      if (m.thickness && ply.thickness == *m.thickness) continue;
      const double metres = ply.thickness * part_.units.to_si(Dimension::length);
      const auto likely = material::likely_thickness(m.kind);
      if (metres >= likely[0] && metres <= likely[1]) continue;
      findings_.warning(
          "layup.thickness-unlikely",
          fmt::format("ply '{}': a thickness of {:g} {}{} is unlikely for a {} ply", part_.plies[p].id, ply.thickness,
                      length, length == "mm" ? "" : fmt::format(", {:.3g} mm,", 1e3 * metres),
                      material::name_of(m.kind)),
          part_.plies[p].where, "write the unit beside the value, as \"0.25 mm\"");
    }
  }

  void check_list() {
    std::map<std::string, std::vector<std::string>> groups;
    std::set<std::size_t> laid;
    for (const part::Ply& ply : part_.plies) laid.insert(ply.line);
    std::set<std::string> laminates;
    for (std::size_t i = 0; i < part_.list.lines.size(); ++i) {
      const part::PlyLine& line = part_.list.lines[i];
      if (!laid.count(i)) groups[line.group].push_back(line.id);
      if (line.laminate) laminates.insert(line.laminate->value);
    }
    for (const auto& [group, ids] : groups)
      findings_.note(
          "layup.group-off",
          fmt::format("group '{}' is off{}: not laid are {}", group,
                      part_.variant.empty() ? "" : fmt::format(" in variant '{}'", part_.variant), listed(ids, 8)),
          here_);
    for (const part::Laminate& laminate : part_.laminates)
      if (!laminates.count(laminate.name))
        findings_.note("layup.laminate-unused", fmt::format("laminate '{}' is used by no ply", laminate.name),
                       laminate.where);
  }

  const Design& design_;
  const part::Part& part_;
  const layup::Layup& layup_;
  const mesh::EdgeTable& edges_;
  Findings& findings_;
  Place here_;
  double area_ = 0.0;
  List<section::SectionId, double> section_areas_;
  std::set<std::string> materials_used_;
  std::map<std::size_t, std::vector<std::string>> told_pieces_;
};

}  // namespace

void check(const Design& design, Findings& findings) {
  const mesh::EdgeTable edges = mesh::edges(design.surface);
  // The mesh on one core, what lies on it on the other; told in this order whichever is done first.
  Findings of_mesh, of_part;
  in_arena([&] {
    tbb::parallel_invoke([&] { Checker(design, edges, of_mesh).check_mesh(); },
                         [&] { Checker(design, edges, of_part).check(); });
  });
  for (const Findings* const all : {&of_mesh, &of_part})
    for (const Finding& finding : all->all()) findings.add(finding);
}

}  // namespace bordado::review
