// CalculiX decks of solids. Numbers in brackets name rows of docs/calculix.md.
#include <bordado/deck/uses.hpp>
#include <bordado/deck/writing.hpp>
#include <bordado/design.hpp>
#include <bordado/warmth.hpp>
#include "materials.hpp"
#include "read_back.hpp"
#include "set_names.hpp"
#include "solid_requests.hpp"
#include "writers.hpp"

#include <bordado/base/text.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>

namespace bordado::calculix {

namespace {

using mesh::ElementIndex;
using mesh::NodeIndex;

class SolidsWriter {
 public:
  SolidsWriter(const Model& model, const std::string& path, const deck::WriteOptions& options, Findings& findings)
      : model_(model),
        part_(model.design->part),
        solids_(*model.solids),
        options_(options),
        findings_(findings),
        cases_(deck::wanted_cases(model, options)),
        file_(options.nowhere ? OutputFile(OutputFile::Nowhere{}) : OutputFile(path, options.may_replace)),
        path_(path) {}

  deck::Written write() {
    check_heat();
    write_head();
    file_.begin_fingerprint();  // what is said above changes with the version
    write_nodes();
    write_elements();
    write_sets();
    write_materials();
    write_axes();
    deck::SolidCarrier carrier(model_, deck::common_stress_free(model_, cases_));
    SolidRequests requests(model_, carrier, of_elements());
    if (!cases_.empty()) requests.write_beds(model_.cases[cases_.front()], carrier, file_, names_);
    std::vector<deck::Mark> marks = StepWriter(model_, cases_, carrier, requests, file_, names_).write();
    file_.commit();
    deck::Written out = deck::summary(model_, options_, file_, path_);
    out.nodes = solids_.points.size();
    out.solids = solids_.count();
    out.names = std::move(names_);
    out.marks = std::move(marks);
    return out;
  }

 private:
  void line(std::string_view text) {
    file_.write(text);
    file_.write("\n");
  }
  void comment(std::string_view text) { file_.write(comment_lines(text)); }

  void check_heat() const {
    if (stress_free_temperatures(model_, cases_).size() > 1)
      throw Failure({Severity::error, "solid.stress-free",
                     "materials are free of stress at different temperatures, which a deck of solids cannot say",
                     Place::in(part_.file), "give them one temperature, or write shells, which can"});
  }

  void write_head() {
    for (const std::string& text : deck::head_lines(model_, "CalculiX deck of solids", options_)) comment(text);
    if (options_.laminate_only) comment("to be included in a deck that has supports and loads");
    comment(fmt::format("{} solids stand on them, {}", solids_.count(),
                        solids_.options.per == model::SolidOptions::Per::ply
                            ? "one for each ply"
                            : fmt::format("in {} groups of plies", solids_.groups.size())));
    if (solids_.options.per != model::SolidOptions::Per::ply)
      comment(fmt::format("grouping changes A by {:.2g} %, B {:.2g} %, D {:.2g} %, H {:.2g} % at most",
                          100 * solids_.error.A, 100 * solids_.error.B, 100 * solids_.error.D, 100 * solids_.error.H));
  }

  void write_nodes() {
    line("*NODE, NSET=NALL");
    file_.write_lines(solids_.points.size(), [&](std::size_t i, std::string& text) {
      append_integer(text, static_cast<std::int64_t>(i) + 1);
      for (const double x : solids_.points[i]) {
        text += ',';
        append_real(text, x);
      }
      text += '\n';
    });
  }

  void write_elements() {
    const std::vector<std::uint8_t> full = fully_integrated(model_, cases_);
    for (const std::string_view type : {"C3D20R", "C3D20", "C3D15"}) {
      std::vector<std::uint32_t> own;
      for (std::uint32_t s = 0; s < solids_.count(); ++s)
        if (type == (solids_.nodes_of(s).size() == 15 ? "C3D15" : !full.empty() && full[s] != 0 ? "C3D20" : "C3D20R"))
          own.push_back(s);
      if (own.empty()) continue;
      line(fmt::format("*ELEMENT, TYPE={}, ELSET=EALL", type));
      file_.write_lines(own.size(), [&](std::size_t i, std::string& text) {
        append_integer(text, deck::id_of(own[i]));
        std::size_t on_line = 1;
        for (const std::uint32_t node : solids_.nodes_of(own[i])) {
          text += ',';
          if (on_line++ == 11) {
            text += '\n';
            on_line = 2;
          }
          append_integer(text, deck::id_of(node));
        }
        text += '\n';
      });
    }
  }

  /// Solids by ply or group, and those that stand on each zone.
  void write_sets() {
    std::vector<std::vector<std::int64_t>> of_group(solids_.groups.size());
    for (std::size_t s = 0; s < solids_.count(); ++s)
      of_group[solids_.group[s]].push_back(deck::id_of(static_cast<std::uint32_t>(s)));
    for (std::size_t g = 0; g < of_group.size(); ++g) {
      if (of_group[g].empty()) continue;
      comment(fmt::format("{} {}", solids_.groups[g].find(" to ") == std::string::npos ? "ply" : "plies",
                          plain_text(solids_.groups[g])));
      const std::string name = element_names_.fit("PLY_" + solids_.groups[g], "PLIES");
      file_.write(set_text("ELSET", name, of_group[g]));
      names_.push_back({name, "element set", fmt::format("plies {}", solids_.groups[g])});
    }
    const zone::ZoneSets& zones = model_.design->layup.zones;
    for (const zone::ZoneId z : zones.declared()) {
      std::vector<std::int64_t> ids;
      for (std::size_t s = 0; s < solids_.count(); ++s)
        if (zones.contains(z, solids_.element[s])) ids.push_back(deck::id_of(static_cast<std::uint32_t>(s)));
      if (ids.empty()) continue;
      comment(fmt::format("zone {}", plain_text(zones.names[z])));
      const std::string name = element_names_.fit(zones.names[z], "ZONE");
      file_.write(set_text("ELSET", name, ids));
      names_.push_back({name, "element set", fmt::format("zone {}", zones.names[z])});
    }
  }

  void write_materials() {
    std::vector<std::vector<std::int64_t>> of(solids_.materials.size());
    for (std::size_t s = 0; s < solids_.count(); ++s)
      of[solids_.material[s]].push_back(deck::id_of(static_cast<std::uint32_t>(s)));
    for (std::size_t m = 0; m < of.size(); ++m) {
      const material::Material& material = solids_.materials[m];
      const std::string name = fmt::format("M{}_{}", m + 1, deck::solver_name(material.name));
      comment(fmt::format("material {}", plain_text(material.name)));
      const std::string text = material_text(name, material, MaterialUse::solid);
      file_.write(text);
      TextRead read;
      read.take(text);
      compare_read(model_, material, read.material(name), 1e-6);
      names_.push_back({name, "material", material.name});
      const std::string set = fmt::format("G{}", m + 1);
      file_.write(set_text("ELSET", set, of[m]));
      cards_ += fmt::format("*SOLID SECTION, ELSET={}, MATERIAL={}, ORIENTATION=AXES\n", set, name);
      std::string plies;
      for (const part::PlyId p : solids_.made_of[m]) plies += (plies.empty() ? "" : " ") + part_.plies[p].id;
      names_.push_back({set, "section", fmt::format("plies {}", plies)});
    }
  }

  /// Directions by element [25].
  void write_axes() {
    line("*DISTRIBUTION, NAME=AXES_OF_SOLIDS");
    line(",1.,0.,0.,0.,1.,0.");
    file_.write_lines(solids_.count(), [&](std::size_t s, std::string& text) {
      const ElementIndex e = solids_.element[s];
      const Vec3& n = model_.design->geometry.normals[e];
      const Vec3 first = frame::turned(model_.design->sections.references[e], n, solids_.turn[s]);
      const Vec3 second = n.cross(first);
      append_integer(text, static_cast<std::int64_t>(s) + 1);
      for (int k = 0; k < 6; ++k) {
        text += ',';
        append_real(text, k < 3 ? first[k] : second[k - 3]);
      }
      text += '\n';
    });
    line("*ORIENTATION, NAME=AXES");
    line("AXES_OF_SOLIDS");
    file_.write(cards_);
  }

  std::string of_elements() const {
    if (!options_.ply_results) return {};
    return comment_lines("every solid: eight points (wedges: nine); global axes, shear strains tensorial") +
           "*EL PRINT, ELSET=EALL, GLOBAL=YES\nE\n";
  }

  const Model& model_;
  const part::Part& part_;
  const model::Solids& solids_;
  const deck::WriteOptions& options_;
  Findings& findings_;
  std::vector<std::size_t> cases_;
  OutputFile file_;
  std::string path_, cards_;
  std::vector<deck::Stands> names_;
  DeckNames element_names_{"EALL"};
};

}  // namespace

deck::Written write_solids(const Model& model, const std::string& path, const deck::WriteOptions& options,
                           Findings& findings) {
  return SolidsWriter(model, path, options, findings).write();
}

}  // namespace bordado::calculix
