#include "make_borders.hpp"

#include "tracing.hpp"

#include <bordado/base/work.hpp>
#include <bordado/mesh/divide.hpp>

#include <algorithm>
#include <cmath>

namespace bordado::zone {

namespace {

class Borders : Tracing {
 public:
  Borders(const part::Part& part, const mesh::Surface& surface, const List<ZoneId, Level>& levels, ZoneSets& sets)
      : Tracing(surface, levels, sets), part_(part) {}

  /// Of all zones whose edges plies move, and of those that end where a ramp runs.
  void make() {
    find_all();
    // Where elements are too large for them, all are traced again on smaller ones.
    const std::size_t most = 4 * surface_.element_count() + 200000;
    for (int round = 0; round < 6 && fine().element_count() < most; ++round) {
      const std::vector<std::uint8_t> large = too_large(part_, *this, traced_);
      if (large.empty()) break;
      sets_.divided = std::make_shared<const mesh::Divided>(sets_.divided ? mesh::divided(*sets_.divided, large)
                                                                          : mesh::divided(surface_, large));
      edges_ = {};
      traced_.clear();
      sets_.facing.clear();
      sets_.behind.clear();
      find_all();
    }
    for (auto& [zone, traced] : traced_) sets_.borders.emplace(zone, std::move(traced.border));
  }

 private:
  void find_all() {
    for (const part::Ply& ply : part_.plies)
      if (const auto id = ply.edge || ply.chamfer || ply.scallop ? sets_.find(ply.zone.value) : std::nullopt)
        border(*id);
    std::vector<ZoneId> of_plies;
    for (const part::Ply& ply : part_.plies)
      if (const auto id = sets_.find(ply.zone.value);
          id && *id != everything && std::find(of_plies.begin(), of_plies.end(), *id) == of_plies.end())
        of_plies.push_back(*id);
    for (const part::Ramp& ramp : part_.ramps) {
      if (!ramp.from)
        for (const ZoneId id : of_plies) {
          border(id);
          look_behind(id, of_plies);
        }
      const auto from = ramp.from ? sets_.find(ramp.from->value) : std::nullopt;
      if (!from) continue;  // told where ramps are made
      const Traced& of_from = border(*from);
      look_behind(*from, of_plies);
      const std::vector<std::uint8_t> near = round(of_from.border);
      for (const ZoneId id : of_plies) {
        bool in = false, out = false;
        for (mesh::ElementIndex e = 0; e < surface_.element_count() && !(in && out); ++e) {
          if (!near[e]) continue;
          for (mesh::ElementIndex f = sets_.pieces_of(e)[0]; f < sets_.pieces_of(e)[1]; ++f)
            for (std::size_t k = 0; k < fine().corners_of(f).size(); ++k)
              (level_at(id, corner(f, k)) <= 0.0 ? in : out) = true;
        }
        if (in && out) border(id);
      }
      const auto to = ramp.to ? sets_.find(ramp.to->value) : std::nullopt;
      if (!to) continue;
      std::vector<std::uint8_t> faces;
      for (const OnElement& place : of_from.beyond) faces.push_back(level_at(*to, place) <= 0.0);
      sets_.facing[{*from, *to}] = std::move(faces);
    }
  }

  const Traced& border(ZoneId id) {
    const auto found = traced_.find(id);
    return found != traced_.end() ? found->second : traced_.emplace(id, border_of(id)).first->second;
  }

  /// Elements that share a node with one that the border runs through or along.
  std::vector<std::uint8_t> round(const Border& border) const {
    std::vector<std::uint8_t> nodes(surface_.points.size(), 0), out(surface_.element_count(), 0);
    for (const Border::Piece& piece : border.pieces)
      for (const mesh::ElementIndex e : {piece.inside, piece.outside})
        for (const mesh::NodeIndex n : surface_.corners_of(e)) nodes[n] = 1;
    for (mesh::ElementIndex e = 0; e < surface_.element_count(); ++e)
      for (const mesh::NodeIndex n : surface_.corners_of(e)) out[e] |= nodes[n];
    return out;
  }

  /// Which of these zones hold what lies just within the border of one.
  void look_behind(ZoneId of, const std::vector<ZoneId>& zones) {
    const Traced& all = border(of);
    for (const ZoneId id : zones) {
      std::vector<std::uint8_t> held;
      for (const OnElement& place : all.within) held.push_back(level_at(id, place) <= 0.0);
      sets_.behind[{of, id}] = std::move(held);
    }
  }

  /// Where the zone's level passes through nought within elements, and sides of elements that it jumps across.
  Traced border_of(ZoneId id) {
    const mesh::Surface& surface = fine();
    const auto inside = [&](const OnElement& at) { return level_at(id, at) <= 0.0; };
    // Where a straight way from a place inside to one outside leaves the zone.
    const auto leaves = [&](OnElement in, OnElement out) {
      double low = 0.0, high = 1.0;
      for (int step = 0; step < 50; ++step)
        (inside(mixed(in, out, 0.5 * (low + high))) ? low : high) = 0.5 * (low + high);
      return mixed(in, out, 0.5 * (low + high)).point;
    };
    const std::size_t block = block_of(8192);
    std::vector<std::vector<Border::Piece>> of_block((surface.element_count() + block - 1) / block);
    std::vector<std::vector<std::pair<mesh::ElementIndex, double>>> shares_of_block(of_block.size());
    std::vector<std::uint8_t> which(surface.element_count(), 0);  // corners inside, as bits
    parallel_blocks(
        surface.element_count(),
        [&](std::size_t begin, std::size_t end) {
          for (mesh::ElementIndex e = static_cast<mesh::ElementIndex>(begin); e < end; ++e) {
            const std::size_t corners = surface.corners_of(e).size();
            std::array<std::uint8_t, 4> in{};
            for (std::size_t k = 0; k < corners; ++k) {
              in[k] = inside(corner(e, k));
              which[e] |= static_cast<std::uint8_t>(in[k] << k);
            }
            std::vector<Vec3> crossings;
            std::vector<mesh::NodeIndex> at_nodes;  // that they lie on, if any
            std::vector<Vec3> all, held_by;         // round the element, and round what lies inside
            for (std::size_t k = 0; k < corners; ++k) {
              const std::size_t next = (k + 1) % corners;
              all.push_back(surface.points[surface.corners_of(e)[k]]);
              if (in[k]) held_by.push_back(all.back());
              if (in[k] == in[next]) continue;
              const OnElement within = corner(e, in[k] ? k : next), without = corner(e, in[k] ? next : k);
              const Vec3 at = leaves(within, without);
              const bool at_node = (at - within.point).norm() <= 1e-9 * (without.point - within.point).norm();
              crossings.push_back(at_node ? within.point : at);
              held_by.push_back(crossings.back());
              at_nodes.push_back(at_node ? surface.corners_of(e)[in[k] ? k : next] : mesh::no_index);
            }
            if (crossings.empty()) continue;
            shares_of_block[begin / block].emplace_back(e, area_within(held_by) / area_within(all));
            Vec3 held = Vec3::Zero(), left = Vec3::Zero();  // the middles of the corners inside and outside
            int many_in = 0;
            for (std::size_t k = 0; k < corners; ++k) (in[k] ? held : left) += corner(e, k).point, many_in += in[k];
            const Vec3 inwards = held / many_in - left / (static_cast<double>(corners) - many_in);
            // Two crossings are one line. Of four, each line goes round a corner that the middle is not with.
            const std::size_t many = crossings.size();
            const std::size_t from = many == 4 && inside(middle(e)) != (in[0] != 0) ? 1 : 0;
            for (std::size_t k = from; k + 1 < many + from; k += 2) {
              const std::size_t next = (k + 1) % many;
              if (at_nodes[k] != mesh::no_index && at_nodes[k] == at_nodes[next]) continue;  // touches a corner
              Border::Piece piece{{crossings[k], crossings[next]}, e, e};
              piece.inwards = inwards;
              if (at_nodes[k] != mesh::no_index && at_nodes[next] != mesh::no_index &&
                  beside(e, at_nodes[k], at_nodes[next]))
                piece.side = {std::min(at_nodes[k], at_nodes[next]), std::max(at_nodes[k], at_nodes[next])};
              of_block[begin / block].push_back(piece);
            }
          }
        },
        block);
    if (edges_.size() == 0) edges_ = mesh::edges(surface);
    Traced out;
    Border& border = out.border;
    // A place beside a piece of the border: along a side in the middle of what lies there, as the surface may fold.
    const auto add = [&](Border::Piece piece) {
      const Vec3 half = 0.5 * (piece.ends[0] + piece.ends[1]);
      out.within.push_back(place(piece.inside, half + 1e-3 * piece.inwards));
      out.beyond.push_back(piece.is_side() ? middle(piece.outside) : place(piece.outside, half - 1e-3 * piece.inwards));
      out.on.push_back({piece.inside, piece.outside});
      piece.inside = of_mesh(piece.inside);
      piece.outside = of_mesh(piece.outside);
      border.pieces.push_back(piece);
    };
    for (const auto& pieces : of_block)
      for (Border::Piece piece : pieces) {
        // Along a side, the zone is what lies across it; at the part's own border there is nothing.
        if (piece.is_side()) {
          const auto other = across(piece.outside, piece.side);
          if (!other) continue;
          piece.inside = *other;
        }
        add(piece);
      }
    border.inside.assign(surface.points.size(), 0);
    for (mesh::ElementIndex e = 0; e < surface.element_count(); ++e)
      for (std::size_t k = 0; which[e] >> k != 0; ++k)
        if (which[e] >> k & 1) border.inside[surface.corners_of(e)[k]] = 1;
    // Sides of elements with the zone on one of their two sides only.
    const auto all_in = [&](mesh::ElementIndex e) { return which[e] == (1u << surface.corners_of(e).size()) - 1u; };
    for (std::size_t j = 0; j < edges_.size(); ++j) {
      const std::uint32_t begin = edges_.first[j], end = edges_.first[j + 1];
      bool same = true;  // nothing changes here
      for (std::uint32_t u = begin; u < end; ++u) {
        const mesh::ElementIndex e = edges_.uses[u].element, first = edges_.uses[begin].element;
        same = same && (which[e] == 0 || all_in(e)) && (which[e] == 0) == (which[first] == 0);
      }
      if (same) continue;
      mesh::ElementIndex with = mesh::no_index, without = mesh::no_index;
      for (std::uint32_t u = begin; u < end; ++u) {
        const auto& use = edges_.uses[u];
        const std::size_t corners = surface.corners_of(use.element).size();
        const bool in =
            inside(mixed(corner(use.element, use.side), corner(use.element, (use.side + 1u) % corners), 0.5));
        mesh::ElementIndex& kept = in ? with : without;
        if (kept == mesh::no_index) kept = use.element;
      }
      if (with == mesh::no_index || without == mesh::no_index) continue;
      const auto& [a, b] = edges_.nodes[j];
      Border::Piece piece{{surface.points[a], surface.points[b]}, with, without, {a, b}};
      piece.inwards = middle_of(surface, with).point - 0.5 * (piece.ends[0] + piece.ends[1]);
      add(piece);
    }
    for (const auto& shares : shares_of_block) out.shares.insert(out.shares.end(), shares.begin(), shares.end());
    return out;
  }

  /// Whether two corners of an element are the ends of a side.
  bool beside(mesh::ElementIndex e, mesh::NodeIndex a, mesh::NodeIndex b) const {
    const auto corners = fine().corners_of(e);
    for (std::size_t k = 0; k < corners.size(); ++k) {
      const mesh::NodeIndex c = corners[k], d = corners[(k + 1) % corners.size()];
      if ((c == a && d == b) || (c == b && d == a)) return true;
    }
    return false;
  }
  /// The first other element at a side.
  std::optional<mesh::ElementIndex> across(mesh::ElementIndex e, const std::array<mesh::NodeIndex, 2>& side) const {
    const auto found = std::lower_bound(edges_.nodes.begin(), edges_.nodes.end(), side);
    const auto j = static_cast<std::size_t>(found - edges_.nodes.begin());
    for (std::uint32_t u = edges_.first[j]; u < edges_.first[j + 1]; ++u)
      if (edges_.uses[u].element != e) return edges_.uses[u].element;
    return std::nullopt;
  }

  const part::Part& part_;
  std::map<ZoneId, Traced> traced_;
  mesh::EdgeTable edges_;  ///< of the surface that is traced on, made for the first border
};

}  // namespace

void make_borders(const part::Part& part, const mesh::Surface& surface, const List<ZoneId, Level>& levels,
                  ZoneSets& sets) {
  Borders(part, surface, levels, sets).make();
}

}  // namespace bordado::zone
