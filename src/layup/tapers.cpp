#include "tapers.hpp"

#include <bordado/base/text.hpp>
#include <bordado/mesh/io.hpp>
#include <bordado/mesh/locate.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>

namespace bordado::layup {

namespace {

class Tapers : Laying {
 public:
  explicit Tapers(const Laying& on) : Laying(on) {}

  /// Plies of one line vary alike.
  void vary() {
    std::map<std::size_t, TaperId> of_line;
    for (const PlyId p : layup.plies.ids()) {
      const part::Ply& declared = part.plies[p];
      if (!declared.varies) continue;
      const auto [found, is_new] = of_line.emplace(declared.line, layup.tapers.next());
      if (is_new)
        layup.tapers.push_back(
            {std::visit([&](const auto& kind) { return thickness_of(declared, kind); }, *declared.varies)});
      Ply& ply = layup.plies[p];
      const std::vector<double>& all = layup.tapers[found->second].thickness;
      if (all.empty()) continue;  // what is wrong is told
      for (const mesh::ElementIndex e : layup.zones.elements(layup.regions[ply.region].zone))
        ply.thickness = std::max(ply.thickness, all[e]);
      ply.taper = found->second;
      if (ply.thickness == 0.0)
        errors.error("layup.no-thickness", fmt::format("ply '{}' has no thickness on any element", declared.id),
                     declared.where, "check the distances and thicknesses of its table, or its field");
    }
  }

 private:
  /// The mean of what the table says at the corners.
  std::vector<double> thickness_of(const part::Ply& declared, const part::ThicknessByDistance& by) {
    const auto from = zone::sources(by.of, layup.curves, layup.zones, surface);
    if (!from) {
      const auto& name = std::get<std::string>(by.of.what);
      std::vector<std::string> known = layup.zones.names.all();
      for (const zone::NamedCurve& curve : layup.curves.all) known.push_back(curve.name);
      const auto near = nearest_name(name, known);
      errors.error("layup.of-unknown",
                   fmt::format("ply '{}': its thickness goes by the distance from '{}', but there is no such curve or "
                               "zone",
                               declared.id, name),
                   by.of.where,
                   near ? fmt::format("did you mean '{}'?", *near) : fmt::format("known: {}", listed(known, 20)));
      return {};
    }
    std::vector<double> at_nodes = mesh::distances(surface, *from);
    for (double& value : at_nodes) value = in_table(by.table, value);
    std::vector<double> out(surface.element_count(), 0.0);
    for (mesh::ElementIndex e = 0; e < out.size(); ++e) {
      const auto corners = surface.corners_of(e);
      for (const mesh::NodeIndex n : corners) out[e] += at_nodes[n] / static_cast<double>(corners.size());
    }
    return out;
  }

  std::vector<double> thickness_of(const part::Ply& declared, const part::ThicknessByField& by) {
    const auto fail = [&](std::string what, std::string remedy) {
      errors.error("layup.field", fmt::format("ply '{}': '{}' {}", declared.id, by.file.value, what), by.file.where,
                   std::move(remedy));
      return std::vector<double>();
    };
    const mesh::Sampled sampled = mesh::read_sampled(by.file.value, {.factor = by.factor}, findings);
    const auto array = std::find_if(sampled.arrays.begin(), sampled.arrays.end(), [&](const mesh::Array& one) {
      return one.name == by.field && one.components == 1;
    });
    if (array == sampled.arrays.end()) {
      std::vector<std::string> known;
      for (const mesh::Array& one : sampled.arrays)
        if (one.components == 1) known.push_back(one.name);
      return fail(fmt::format("holds no field '{}' of one number each", by.field),
                  fmt::format("fields that could be meant: {}", listed(known, 20)));
    }
    std::vector<double> out = mesh::values_at(sampled, *array, geometry.centres);
    for (mesh::ElementIndex e = 0; e < out.size(); ++e) {
      out[e] *= by.factor;
      if (!(out[e] >= 0.0 && std::isfinite(out[e])))
        return fail(fmt::format("has no thickness in '{}' where element {} lies", by.field, surface.element_ids[e]),
                    "a thickness is a number that is not negative: repair the field there");
    }
    return out;
  }
};

}  // namespace

void vary_thickness(const Laying& on) { Tapers(on).vary(); }

}  // namespace bordado::layup
