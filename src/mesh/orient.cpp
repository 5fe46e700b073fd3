#include <bordado/mesh/care.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace bordado::mesh {

namespace {

/// Across each side of each element: the neighbour that shares it with nobody else, or no_index.
struct Neighbours {
  std::vector<ElementIndex> across;  ///< 4 per element
  std::vector<std::uint8_t> agrees;  ///< 1 where the two run the shared edge in opposite senses
  std::vector<ElementIndex> junction;
};

Neighbours neighbours(const Surface& surface) {
  const EdgeTable table = edges(surface);
  Neighbours out;
  out.across.assign(4 * surface.element_count(), no_index);
  out.agrees.assign(4 * surface.element_count(), 1);
  for (std::size_t j = 0; j < table.size(); ++j) {
    const std::uint32_t begin = table.first[j], end = table.first[j + 1];
    if (end - begin == 2) {
      const auto &a = table.uses[begin], &b = table.uses[begin + 1];
      const std::size_t at_a = 4 * std::size_t{a.element} + a.side, at_b = 4 * std::size_t{b.element} + b.side;
      out.across[at_a] = b.element;
      out.across[at_b] = a.element;
      out.agrees[at_a] = out.agrees[at_b] = a.forward != b.forward;
    }
    if (end - begin > 2)
      for (std::uint32_t k = begin; k < end; ++k) out.junction.push_back(table.uses[k].element);
  }
  std::sort(out.junction.begin(), out.junction.end());
  out.junction.erase(std::unique(out.junction.begin(), out.junction.end()), out.junction.end());
  return out;
}

void turn_round(Surface& surface, ElementIndex element) {
  const auto begin = surface.nodes.begin() + surface.first[element];
  const unsigned corners = corner_count(surface.shapes[element]);
  // Side 1-2 stays side 1-2: 2 1 3 and 2 1 4 3, with the middles of 2-1, 1-3, 3-2 and 2-1, 1-4, 4-3, 3-2.
  std::iter_swap(begin, begin + 1);
  if (corners == 4) std::iter_swap(begin + 2, begin + 3);
  if (is_quadratic(surface.shapes[element])) std::iter_swap(begin + corners + 1, begin + corners + corners - 1);
  if (surface.turned.empty()) surface.turned.assign(surface.element_count(), 0);
  surface.turned[element] ^= 1;
}

std::vector<std::int64_t> ids_of(const Surface& surface, std::span<const ElementIndex> elements) {
  std::vector<std::int64_t> ids;
  ids.reserve(elements.size());
  for (const ElementIndex element : elements) ids.push_back(surface.element_ids[element]);
  return ids;
}

/// How much of an element's area faces the declared side: positive where it does. Of bodies by what they enclose.
/// \param middle of the piece.
double facing(const Side& side, const Vec3& middle, const Vec3& centre, const Vec3& normal, double area) {
  struct Visitor {
    const Vec3 &middle, &centre, &normal;
    double operator()(const AsMeshed&) const { return 0.0; }
    double operator()(const Towards& s) const { return normal.dot((s.point - centre).normalized()); }
    double operator()(const AwayFrom& s) const { return normal.dot((centre - s.point).normalized()); }
    double operator()(const Along& s) const { return normal.dot(s.direction.normalized()); }
    double operator()(const Outwards& s) const { return (s.inwards ? -1.0 : 1.0) * normal.dot(centre - middle); }
  };
  return area * std::visit(Visitor{middle, centre, normal}, side);
}

Vec3 middle_of(std::span<const ElementIndex> piece, const Geometry& faces) {
  Vec3 sum = Vec3::Zero();
  double area = 0.0;
  for (const ElementIndex e : piece) {
    sum += faces.areas[e] * faces.centres[e];
    area += faces.areas[e];
  }
  return sum / area;
}

/// Bodies are closed: an error that says where the first piece is not.
void check_closed(const Surface& surface, const Neighbours& near, std::span<const std::vector<ElementIndex>> pieces,
                  Findings& findings) {
  for (const auto& piece : pieces) {
    std::size_t open = 0;
    std::optional<ElementIndex> first;
    for (const ElementIndex e : piece)
      for (std::size_t s = 0; s < corner_count(surface.shapes[e]); ++s)
        if (near.across[4 * std::size_t{e} + s] == no_index) {
          ++open;
          if (!first) first = e;
        }
    if (open == 0) continue;
    findings.error(
        "mesh.side-open",
        fmt::format("the declared side is that of a closed body, and a piece of the surface has {} edges with "
                    "no neighbour, or several",
                    open),
        surface.place_of(*first), "close it, or declare a point or a direction that it faces");
    return;
  }
}

}  // namespace

OrientReport orient(Surface& surface, const Side& side, Findings& findings) {
  const std::size_t count = surface.element_count();
  const Neighbours near = neighbours(surface);
  const Geometry faces = geometry(surface);
  OrientReport report;
  report.junction = near.junction;

  constexpr std::uint8_t unseen = 2;
  std::vector<std::uint8_t> turned(count, unseen);
  std::vector<std::vector<ElementIndex>> pieces;
  for (ElementIndex start = 0; start < count; ++start) {
    if (turned[start] != unseen) continue;
    std::vector<ElementIndex>& piece = pieces.emplace_back();
    piece.push_back(start);
    turned[start] = 0;
    for (std::size_t next = 0; next < piece.size(); ++next) {
      const ElementIndex element = piece[next];
      for (std::size_t s = 0; s < corner_count(surface.shapes[element]); ++s) {
        const ElementIndex other = near.across[4 * std::size_t{element} + s];
        if (other == no_index) continue;
        const auto wanted =
            static_cast<std::uint8_t>(turned[element] ^ (near.agrees[4 * std::size_t{element} + s] ? 0 : 1));
        if (turned[other] == unseen) {
          turned[other] = wanted;
          piece.push_back(other);
        } else if (turned[other] != wanted) {
          report.conflicting.push_back(std::min(element, other));
        }
      }
    }
  }
  std::sort(report.conflicting.begin(), report.conflicting.end());
  report.conflicting.erase(std::unique(report.conflicting.begin(), report.conflicting.end()), report.conflicting.end());

  report.pieces = pieces.size();
  const auto* const body = std::get_if<Outwards>(&side);
  if (body) check_closed(surface, near, pieces, findings);
  for (const auto& piece : pieces) {
    if (std::holds_alternative<AsMeshed>(side)) break;
    const Vec3 middle = middle_of(piece, faces);
    double sum = 0.0, most = 0.0;
    for (const ElementIndex e : piece) {
      const double part =
          (turned[e] ? -1.0 : 1.0) * facing(side, middle, faces.centres[e], faces.normals[e], faces.areas[e]);
      if (!std::isfinite(part)) continue;  // the declared point lies on the element's centre
      sum += part;
      most += std::abs(part);
    }
    // What encloses anything has a clear outside, however it is shaped.
    const bool clear = body && std::abs(sum) > 1e-9 * most;
    report.agreement = std::min(report.agreement, clear ? 1.0 : most > 0.0 ? std::abs(sum) / most : 0.0);
    if (sum < 0.0)
      for (const ElementIndex e : piece) turned[e] ^= 1;
  }
  for (ElementIndex e = 0; e < count; ++e)
    if (turned[e] == 1) {
      turn_round(surface, e);
      ++report.flipped;
    }

  const Place file = Place::in(surface.file);
  if (report.flipped > 0)
    findings.note("mesh.turned",
                  fmt::format("{} of {} elements were turned round so that all normals agree with the declared side",
                              report.flipped, count),
                  file);
  if (!report.conflicting.empty())
    findings.error(
        "mesh.not-orientable",
        fmt::format("the sides of the surface cannot agree: going round it, side turns to other side (a Möbius strip); "
                    "met at elements {}",
                    listed(ids_of(surface, report.conflicting))),
        surface.place_of(report.conflicting.front()), "cut the surface open at one line of elements");
  if (!report.junction.empty())
    findings.warning(
        "mesh.junction",
        fmt::format("{} elements meet at edges that three or more share (a T-junction): elements {}; sides are not "
                    "carried across such an edge, each piece takes the declared side by itself",
                    report.junction.size(), listed(ids_of(surface, report.junction))),
        surface.place_of(report.junction.front()), "look at the normals of each piece");
  if (report.pieces > 1 && report.junction.empty())
    findings.warning("mesh.pieces",
                     fmt::format("the surface is {} pieces that share no edge; each takes the declared side by itself; "
                                 "they begin at elements {}",
                                 report.pieces,
                                 [&] {
                                   std::vector<ElementIndex> starts;
                                   starts.reserve(pieces.size());
                                   for (const auto& piece : pieces) starts.push_back(piece.front());
                                   return listed(ids_of(surface, starts));
                                 }()),
                     file, "if it should be one surface, merge coincident nodes in the mesher");
  if (report.agreement < 0.2)
    findings.warning(
        "mesh.side-unclear",
        fmt::format("the declared side is unclear: only {:.0f} % more of the area faces it than faces away",
                    100.0 * report.agreement),
        file, "declare a point or direction that the whole surface faces");
  return report;
}

}  // namespace bordado::mesh
