// The least reserves of plies, criteria, cases, materials and zones.
#include "element_judge.hpp"

namespace bordado::result {

void Least::take(const Critical& one) { keep_worse(one.doubtful() ? doubtful : clear, one); }

void Reserves::take_criterion(const Critical& one) {
  const auto k = static_cast<std::size_t>(one.criterion);
  Critical& first = of_criteria[k].clear;
  Critical& next = next_of_criteria[k];
  if (one.doubtful() || !first.any() || one.ply == first.ply) {
    of_criteria[k].take(one);
  } else if (one.factor < first.factor) {
    next = first;
    first = one;
  } else {
    keep_worse(next, one);
  }
}

void Least::take(const Least& other) {
  keep_worse(clear, other.clear);
  keep_worse(doubtful, other.doubtful);
}

std::vector<NamedLeast> least_of_materials(const Design& design, const Reserves& reserves) {
  std::vector<NamedLeast> out;
  for (const part::MaterialId m : design.part.materials.ids()) {
    NamedLeast one{{}, design.part.materials[m].name};
    bool laid = false;
    for (const part::PlyId p : design.layup.plies.ids()) {
      if (design.layup.plies[p].material != m) continue;
      laid = true;
      one.take(reserves.of_plies[p]);
    }
    if (laid) out.push_back(std::move(one));
  }
  return out;
}

std::vector<NamedLeast> least_of_zones(const Design& design, const Reserves& reserves) {
  const zone::ZoneSets& zones = design.layup.zones;
  List<zone::ZoneId, NamedLeast> all(zones.names.size());
  for (const zone::ZoneId z : zones.declared()) all[z].name = zones.names[z];
  for (const Critical& one : reserves.of_elements)
    if (one.any()) zones.for_each_of(one.element, [&](zone::ZoneId z) { all[z].take(one); });
  std::vector<NamedLeast> out;
  for (const zone::ZoneId z : zones.declared())
    if (zones.counts[z] > 0) out.push_back(std::move(all[z]));
  return out;
}

}  // namespace bordado::result
