#include <bordado/design.hpp>
#include <bordado/review/colouring.hpp>
#include <bordado/strength.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>

namespace bordado::review {

namespace {

/// Numbers from 1, or from 0 where `from` says so, as names; only those that are there, in their order.
void name_numbers(Colouring& colouring, const std::function<std::string(std::size_t)>& name, std::size_t from = 1) {
  std::map<long, std::size_t> there;
  for (const double value : colouring.of_elements)
    if (std::isfinite(value)) there.try_emplace(std::lround(value), 0);
  for (auto& [value, place] : there) {
    place = colouring.categories.size();
    colouring.categories.push_back(name(static_cast<std::size_t>(value) - from));
  }
  for (double& value : colouring.of_elements)
    if (std::isfinite(value)) value = static_cast<double>(there.at(std::lround(value)));
}

/// Which zones lie on each element, as one of all combinations that there are, in the order of their first elements.
struct Combinations {
  std::vector<double> of_elements;
  std::vector<std::string> names;
};
Combinations combinations(const Design& design) {
  const zone::ZoneSets& zones = design.layup.zones;
  std::vector<std::string> words(design.surface.element_count());
  for (const zone::ZoneId z : zones.declared())
    for (const mesh::ElementIndex e : zones.elements(z)) words[e] += (words[e].empty() ? "" : " + ") + zones.names[z];
  Combinations out;
  std::map<std::string, std::size_t> known;
  for (const std::string& word : words) {
    const auto [found, is_new] = known.try_emplace(word, out.names.size());
    if (is_new) out.names.push_back(word.empty() ? "none" : word);
    out.of_elements.push_back(static_cast<double>(found->second));
  }
  return out;
}

/// No legend tells more apart.
constexpr std::size_t most_categories = 24;

}  // namespace

Shown shown(const Design& design, const mesh::Array& array, std::span<const std::string> cases,
            const mesh::Array* doubtful) {
  Shown out;
  out.name = array.name;
  Colouring& colouring = out.colouring;
  colouring.name = array.name;
  const std::vector<double> values = array.now();
  const part::Part& part = design.part;
  if (array.components == 1) {
    (array.on_nodes ? colouring.of_nodes : colouring.of_elements) = values;
    if (array.on_nodes) return out;
    if (array.name == "reserve") {
      colouring.reserve = true;
      for (std::size_t e = 0; doubtful && e < values.size(); ++e)
        if (doubtful->values[e] > 0.0) colouring.of_elements[e] = std::nan(""), colouring.none = "stress doubtful";
    }
    if (array.name == "critical criterion") {
      name_numbers(colouring,
                   [](std::size_t k) { return std::string(laminate::name_of(static_cast<laminate::Criterion>(k))); });
    } else if (array.name == "critical ply") {
      name_numbers(colouring, [&](std::size_t k) {
        return k < part.plies.size() ? part.plies[part::PlyId{static_cast<std::uint32_t>(k)}].id
                                     : fmt::format("ply {}", k + 1);
      });
    } else if (array.name == "critical case") {
      name_numbers(colouring,
                   [&](std::size_t k) { return k < cases.size() ? cases[k] : fmt::format("case {}", k + 1); });
    } else if (array.name == "bottom material" || array.name == "top material") {
      name_numbers(colouring, [&](std::size_t k) {
        return k < part.materials.size() ? part.materials[part::MaterialId{static_cast<std::uint32_t>(k)}].name
                                         : fmt::format("material {}", k + 1);
      });
    } else if (array.name.starts_with("zone ") || array.name == "stress doubtful" ||
               array.name.ends_with("led past the border")) {
      name_numbers(
          colouring, [](std::size_t k) { return k == 0 ? "no" : "yes"; }, 0);
    } else if (array.name == "zones") {
      name_numbers(
          colouring, [names = combinations(design).names](std::size_t k) { return names[k]; }, 0);
    } else if (array.name == "laminate" || array.name == "plies") {
      if (*std::max_element(values.begin(), values.end()) <= static_cast<double>(most_categories))
        name_numbers(colouring, [](std::size_t k) { return fmt::format("{}", k + 1); });
    }
    return out;
  }
  // Vectors: their length.
  const std::size_t count = values.size() / array.components;
  std::vector<double> lengths(count);
  for (std::size_t i = 0; i < count; ++i) {
    double square = 0.0;
    for (std::size_t k = 0; k < array.components; ++k)
      square += values[array.components * i + k] * values[array.components * i + k];
    lengths[i] = std::sqrt(square);
  }
  if (array.on_nodes) {
    const bool mode = array.name.find(": mode ") != std::string::npos;
    if (const double most = mode && count > 0 ? *std::max_element(lengths.begin(), lengths.end()) : 0.0; most > 0.0) {
      for (double& length : lengths) length /= most;
      colouring.name = "mode, of the most that it moves";
    }
    colouring.of_nodes = std::move(lengths);
    if (array.components == 3 && (mode || array.name.find("displacement ") != std::string::npos)) {
      out.of_any_size = mode;
      for (std::size_t i = 0; i < count; ++i)
        out.moved.emplace_back(values[3 * i], values[3 * i + 1], values[3 * i + 2]);
    }
    return out;
  }
  const bool unit = array.components == 3 && std::all_of(lengths.begin(), lengths.end(), [](double length) {
                      return !(length > 1e-9) || std::abs(length - 1.0) < 1e-6;
                    });
  if (!unit) {
    colouring.of_elements = std::move(lengths);
    return out;
  }
  for (std::size_t e = 0; e < count; ++e) {
    const bool lies = lengths[e] > 0.5;
    colouring.of_elements.push_back(lies ? 0.0 : std::nan(""));
    if (lies)
      out.strokes.push_back(
          {static_cast<mesh::ElementIndex>(e), Vec3(values[3 * e], values[3 * e + 1], values[3 * e + 2])});
  }
  colouring.categories = {array.name};
  colouring.none = "not there";
  return out;
}

mesh::Array zones_together(const Design& design) { return {"zones", false, 1, combinations(design).of_elements}; }

std::vector<const mesh::Array*> arrays_named(std::span<const mesh::Array> all, std::string_view name) {
  const auto begins = [&](std::string_view full) {
    return full.starts_with(name) &&
           (full.size() == name.size() || full[name.size()] == ' ' || full[name.size()] == ',');
  };
  std::vector<const mesh::Array*> out;
  for (const mesh::Array& array : all)
    if (array.name == name) return {&array};
  for (const mesh::Array& array : all)
    if (begins(array.name)) out.push_back(&array);
  if (!out.empty()) return out;
  for (const mesh::Array& array : all)
    for (std::size_t at = array.name.find(": "); at != std::string::npos; at = array.name.find(": ", at + 1))
      if (begins(std::string_view(array.name).substr(at + 2))) {
        out.push_back(&array);
        break;
      }
  return out;
}

}  // namespace bordado::review
