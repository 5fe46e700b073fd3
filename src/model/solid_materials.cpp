#include "solid_groups.hpp"

#include <bordado/design.hpp>

#include <fmt/format.h>

#include <map>
#include <set>

namespace bordado::model {

namespace {

using mesh::ElementIndex;
using part::PlyId;
using section::SectionId;

class Materials {
 public:
  Materials(const Model& model, const PliesOn& on, Solids& out)
      : model_(model), part_(model.design->part), sections_(model.design->sections), on_(on), out_(out) {}

  void give() {
    // Per section and group one material; what is added to an element makes it heavier.
    std::map<std::string, std::uint32_t> known;
    std::map<std::tuple<SectionId, std::uint32_t, double>, std::pair<std::uint32_t, Angle>> of;
    const std::vector<double>& added = model_.design->layup.added_mass;
    out_.material.resize(out_.count());
    out_.turn.resize(out_.count());
    for (std::size_t s = 0; s < out_.count(); ++s) {
      const ElementIndex e = out_.element[s];
      const SectionId section = sections_.section_of[e];
      const double extra = added.empty() ? 0.0 : static_cast<double>(static_cast<float>(added[e] / on_.heights[e]));
      const auto key = std::tuple(section, out_.group[s], extra);
      auto found = of.find(key);
      if (found == of.end()) found = of.emplace(key, material_of(e, section, out_.group[s], extra, known)).first;
      out_.material[s] = found->second.first;
      out_.turn[s] = found->second.second;
    }
  }

 private:
  /// The layers of a group on an element of a section, by their places.
  std::vector<std::size_t> layers_of(ElementIndex e, std::uint32_t group) const {
    std::vector<std::size_t> out;
    for (std::size_t k = 0; k < on_.of(e).size(); ++k)
      if (out_.group_of[on_.of(e)[k]] == group) out.push_back(k);
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

  const Model& model_;
  const part::Part& part_;
  const section::Sections& sections_;
  const PliesOn& on_;
  Solids& out_;
};

}  // namespace

void give_materials(const Model& model, const PliesOn& on, Solids& solids) { Materials(model, on, solids).give(); }

}  // namespace bordado::model
