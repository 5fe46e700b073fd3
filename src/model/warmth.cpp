#include <bordado/design.hpp>
#include <bordado/warmth.hpp>

#include <algorithm>
#include <cmath>

namespace bordado::model {

namespace {

/// The mean of a load's values over an element, as its nodes interpolate; nothing where the load is not there.
template <class Load, class Value>
std::optional<double> mean_at(const mesh::Surface& surface, const Load& load, mesh::ElementIndex e, Value value) {
  if (!std::binary_search(load.elements.begin(), load.elements.end(), e)) return std::nullopt;
  double sum = 0.0, area = 0.0;
  const auto nodes = surface.nodes_of(e);
  const auto shares = mesh::nodal_areas(surface, e);
  for (std::size_t i = 0; i < nodes.size(); ++i) {
    const auto found = std::lower_bound(load.nodes.begin(), load.nodes.end(), nodes[i]);
    if (found == load.nodes.end() || *found != nodes[i]) return std::nullopt;
    sum += shares[i] * value(static_cast<std::size_t>(found - load.nodes.begin()));
    area += shares[i];
  }
  return area > 0.0 ? std::optional(sum / area) : std::nullopt;
}

}  // namespace

double Warmth::above(const material::Material& material, double share) const {
  return factor * (tool + share * (bag - tool) - material.stress_free_temperature.value_or(from));
}

std::optional<Warmth> warmth_by(const mesh::Surface& surface, const Model::Temperature& load, double factor,
                                mesh::ElementIndex element) {
  const auto tool = mean_at(surface, load, element, [&](std::size_t i) { return load.tool[i]; }),
             bag = mean_at(surface, load, element, [&](std::size_t i) { return load.bag[i]; });
  if (!tool || !bag) return std::nullopt;
  return Warmth{factor, *tool, *bag, load.from.value_or(0.0)};
}

Warmth warmth(const Model& model, const Model::Case& load_case, mesh::ElementIndex element) {
  Warmth out;
  for_each_load<Model::Temperature>(model, load_case, [&](const Model::Temperature& load, double factor) {
    out = warmth_by(model.surface, load, factor, element).value_or(out);
  });
  return out;
}

double pressure_on(const Model& model, const Model::Case& load_case, mesh::ElementIndex element) {
  double out = 0.0;
  for_each_load<Model::Pressure>(model, load_case, [&](const Model::Pressure& load, double factor) {
    std::optional<double> here;
    if (!load.along_normal)
      here = mean_at(model.surface, load, element, [&](std::size_t i) { return load.at_nodes[i]; });
    else if (std::binary_search(load.elements.begin(), load.elements.end(), element))
      here = load.along_normal;
    if (here) out = std::max(out, std::abs(factor * *here));
  });
  return out;
}

std::set<double> stress_free_temperatures(const Model& model, std::span<const std::size_t> cases) {
  std::set<double> out;
  for (const std::size_t k : cases)
    for_each_load<Model::Temperature>(model, model.cases[k], [&](const Model::Temperature& heat, double) {
      for (const section::LaidLayer& layer : model.design->sections.layers) {
        const auto own =
            section::material_of(model.design->part, model.design->sections, layer.material).stress_free_temperature;
        if (own || heat.from) out.insert(own ? *own : *heat.from);
      }
    });
  return out;
}

}  // namespace bordado::model
