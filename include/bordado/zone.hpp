/// \file zone.hpp
/// Declared zones as sets of elements.
#pragma once

#include <bordado/mesh.hpp>
#include <bordado/part.hpp>

namespace bordado::zone {

/// Position of a zone in ZoneSets; 0 is always "everything".
using ZoneId = std::uint32_t;

/// All zones of a part: the declared ones, and each element group of the mesh under its own name unless a declared zone
/// has it. Membership is a bit per zone and element, zone z in word z / 64.
struct ZoneSets {
  std::vector<std::string> names;
  std::vector<std::vector<std::uint64_t>> words;  ///< words[w][element]
  std::vector<std::size_t> counts;                ///< elements per zone

  bool contains(ZoneId zone, mesh::ElementIndex element) const { return words[zone / 64][element] >> (zone % 64) & 1u; }
  std::optional<ZoneId> find(std::string_view name) const;
  /// Elements of a zone, ascending.
  std::vector<mesh::ElementIndex> elements(ZoneId zone) const;
};

/// Works out every zone. Findings: "zone.unknown", "zone.group-unknown", "zone.circular" (errors), "zone.empty"
/// (warning). \throws Failure with all errors.
ZoneSets zones(const part::Part& part, const mesh::Surface& surface, const mesh::Geometry& geometry,
               Findings& findings);

}  // namespace bordado::zone
