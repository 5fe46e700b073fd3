// bordado material: what there is to lay, and what it is like.
#include "print.hpp"

#include <bordado/base/files.hpp>

#include <fmt/format.h>

#include <memory>

namespace bordado::cli {

namespace material_command {

using material::Material;

struct Choices {
  std::vector<std::string> libraries, names;
  std::string units = "mm, t, s", kind, part, path, fibre, matrix, format;
  double fibre_volume = 0.55, voids = 0.0;
  std::int64_t id = 1;
  bool sheared = false, append = false, json = false;
};

/// The library as a part sees it, or as it is without one.
material::Library library_of(const Choices& choices, UnitSystem& units, Findings& findings) {
  units = units_named(choices.units, findings);
  return open_library(units, choices.libraries, findings);
}

Json as_json(const Material& m) {
  Json out = {{"name", m.name}, {"kind", material::name_of(m.kind)}, {"from", m.where.file}};
  if (!m.mark.empty()) out["mark"] = m.mark;
  for (const material::Quantity& q : material::quantities())
    if (const auto value = q.get(m)) {
      std::string key(q.key);
      std::replace(key.begin(), key.end(), '-', '_');
      out[key] = *value;
    }
  if (m.elastic.full) {
    Json rows = Json::array();
    for (Eigen::Index i = 0; i < 6; ++i) {
      Json row = Json::array();
      for (Eigen::Index j = 0; j < 6; ++j) row.push_back((*m.elastic.full)(i, j));
      rows.push_back(row);
    }
    out["C"] = rows;
  }
  if (m.cost)
    out["cost"] = {{"value", m.cost->value},
                   {"currency", m.cost->currency},
                   {"per", m.cost->per == material::Cost::Per::mass ? "kg" : "m^2"}};
  for (const auto& [key, text] :
       {std::pair{"weave", &m.form.weave}, std::pair{"made_of", &m.made_of}, std::pair{"note", &m.note}})
    if (!text->empty()) out[key] = *text;
  return out;
}

std::string value_text(double value, Dimension dimension, const UnitSystem& units) {
  if (dimension == Dimension::expansion) return fmt::format("{} 1e-6/K", number(value * 1e6));
  if (dimension == Dimension::density) return fmt::format("{} kg/m^3", number(value * units.to_si(dimension)));
  if (dimension == Dimension::areal_mass) return fmt::format("{} g/m^2", number(1e3 * value * units.to_si(dimension)));
  const std::string unit = units.unit(dimension);
  return fmt::format("{}{}{}", number(value), unit.empty() ? "" : " ", unit);
}

int list(const Choices& choices) {
  return guarded({"material list", choices.json}, [&](Findings& findings) {
    UnitSystem units;
    const material::Library library = library_of(choices, units, findings);
    const std::string stress = units.unit(Dimension::stress);
    TableText table({"name", "kind", "mark", "E1 " + stress, "E2 " + stress, "G12 " + stress, "G13 " + stress, "kg/m^3",
                     "t " + units.unit(Dimension::length), "from"});
    Json all = Json::array();
    for (const std::string& name : library.names()) {
      Findings errors;
      const auto m = library.find(name, errors);
      for (const Finding& finding : errors.all()) findings.add(finding);
      if (!m || (!choices.kind.empty() && material::name_of(m->kind) != choices.kind)) continue;
      all.push_back(as_json(*m));
      table.add({name, std::string(material::name_of(m->kind)), m->mark, number(m->elastic.E1), number(m->elastic.E2),
                 number(m->elastic.G12), number(m->elastic.G13),
                 m->density ? number(*m->density * units.to_si(Dimension::density)) : "",
                 m->thickness ? number(*m->thickness) : "", *library.file_of(name)});
    }
    if (choices.json) {
      print_document("material list", units, {{"materials", all}}, findings);
    } else {
      table.print(stdout);
      print_findings(findings.all(), stderr);
    }
    return findings.has_errors() ? 1 : 0;
  });
}

void print_sheared(const Material& m, const UnitSystem& units) {
  const std::string stress = units.unit(Dimension::stress);
  fmt::print("\nsheared, along the longer diagonal of its cells (1) and the other (2); {}\n",
             m.sheared.empty() ? "crossed layers of its yarns" : "as measured");
  TableText table({"shear", "E1 " + stress, "E2 " + stress, "nu12", "G12 " + stress, "thickness"});
  for (int shear = 0; shear <= 60; shear += 5)
    if (const auto s = material::sheared(m, Angle::degrees(shear))) {
      const material::Elastic& e = s->along_diagonal;
      table.add({fmt::format("{}°", shear), number(e.E1), number(e.E2), number(e.nu12, 3), number(e.G12),
                 fmt::format("x {:.3f}", s->thickness_ratio)});
    }
  table.print(stdout);
}

Json sheared_json(const Material& m) {
  Json rows = Json::array();
  for (int shear = 0; shear <= 60; shear += 5)
    if (const auto s = material::sheared(m, Angle::degrees(shear))) {
      const material::Elastic& e = s->along_diagonal;
      rows.push_back({{"shear_deg", shear},
                      {"E1", e.E1},
                      {"E2", e.E2},
                      {"nu12", e.nu12},
                      {"G12", e.G12},
                      {"thickness_ratio", s->thickness_ratio},
                      {"measured", s->measured}});
    }
  return rows;
}

int show(const Choices& choices) {
  return guarded({"material show", choices.json}, [&](Findings& findings) {
    UnitSystem units;
    const material::Library library = library_of(choices, units, findings);
    const Material m = material_named(library, choices.names.at(0));
    check_plausible(m, units, findings);
    if (choices.json) {
      Json out = as_json(m);
      if (const Json rows = sheared_json(m); !rows.empty()) out["sheared"] = rows;
      print_document("material show", units, out, findings);
    } else {
      fmt::print("{}, {}, from {}\n", styled(m.name, Style::bold, fileno(stdout)), material::name_of(m.kind),
                 m.where.text());
      if (!m.made_of.empty()) fmt::print("made of {}\n", m.made_of);
      if (!m.note.empty()) fmt::print("{}\n", m.note);
      fmt::print("\n");
      TableText table({"", "", "", ""});
      for (const material::Quantity& q : material::quantities())
        if (const auto value = q.get(m)) {
          const std::string text = value_text(*value, q.dimension, units);
          const auto blank = text.find(' ');
          table.add({std::string(q.key), text.substr(0, blank),
                     blank == std::string::npos ? "" : text.substr(blank + 1), std::string(q.meaning)});
        }
      if (m.cost)
        table.add({"cost", number(m.cost->value),
                   fmt::format("{}/{}", m.cost->currency, m.cost->per == material::Cost::Per::mass ? "kg" : "m^2"),
                   ""});
      table.print(stdout);
      if (choices.sheared) print_sheared(m, units);
    }
    if (!choices.path.empty()) {
      std::string text = "shear,E1,E2,nu12,G12\n";
      for (const Json& row : sheared_json(m))
        text += fmt::format("{},{},{},{},{}\n", row["shear_deg"].get<int>(), row["E1"].get<double>(),
                            row["E2"].get<double>(), row["nu12"].get<double>(), row["G12"].get<double>());
      OutputFile file(choices.path);
      file.write(text);
      file.commit();
      fmt::print(stderr, "wrote {}; put measured values in their place and read it with sheared = \"{}\"\n",
                 choices.path, choices.path);
    }
    if (!choices.json) print_findings(findings.all(), stderr);
    return 0;
  });
}

/// Several materials side by side, a column each.
void print_side_by_side(std::span<const Material> materials, std::vector<std::string> heads, const UnitSystem& units) {
  heads.insert(heads.begin(), "");
  heads.push_back("");
  TableText table(heads);
  for (const material::Quantity& q : material::quantities()) {
    std::vector<std::string> row = {std::string(q.key)};
    std::string unit;
    bool any = false;
    for (const Material& m : materials) {
      const auto value = q.get(m);
      const std::string text = value ? value_text(*value, q.dimension, units) : "-";
      row.push_back(text.substr(0, text.find(' ')));
      if (value && text.find(' ') != std::string::npos) unit = text.substr(text.find(' ') + 1);
      any = any || value;
    }
    row.push_back(unit);
    if (any) table.add(std::move(row));
  }
  table.print(stdout);
}

int compare(const Choices& choices) {
  return guarded({"material compare", choices.json}, [&](Findings& findings) {
    UnitSystem units;
    const material::Library library = library_of(choices, units, findings);
    std::vector<Material> all;
    for (const std::string& name : choices.names) all.push_back(material_named(library, name));
    if (choices.json) {
      Json out = Json::array();
      for (const Material& m : all) out.push_back(as_json(m));
      print_document("material compare", units, {{"materials", out}}, findings);
    } else {
      print_side_by_side(all, choices.names, units);
    }
    return 0;
  });
}

int compute(const Choices& choices) {
  return guarded({"material compute", choices.json}, [&](Findings& findings) {
    UnitSystem units;
    const material::Library library = library_of(choices, units, findings);
    const Material fibre = material_named(library, choices.fibre), matrix = material_named(library, choices.matrix);
    std::vector<Material> all;
    std::vector<std::string> heads;
    for (const material::Theory theory : material::theories) {
      Material form;
      form.name = fmt::format("{}-{}", choices.fibre, choices.matrix);
      try {
        all.push_back(material::unidirectional(fibre, matrix, {theory, choices.fibre_volume, choices.voids}, form));
      } catch (const std::invalid_argument& trouble) {
        throw Failure({Severity::error, "material.cannot-mix", trouble.what(), {}, "see bordado material list"});
      }
      heads.emplace_back(name_of(theory));
    }
    if (choices.json) {
      Json out = Json::array();
      for (std::size_t i = 0; i < all.size(); ++i) {
        out.push_back(as_json(all[i]));
        out.back()["theory"] = heads[i];
      }
      print_document("material compute", units, {{"materials", out}}, findings);
    } else {
      fmt::print("{}\n\n", all[0].made_of.substr(0, all[0].made_of.rfind(" by ")));
      print_side_by_side(all, heads, units);
    }
    return 0;
  });
}

int write(const Choices& choices) {
  return guarded({"material write", false}, [&](Findings& findings) {
    UnitSystem units;
    const material::Library library = library_of(choices, units, findings);
    std::vector<Material> all;
    for (const std::string& name : choices.names) all.push_back(material_named(library, name));
    const Existing existing = choices.append ? Existing::added_to : Existing::replaced;
    if (choices.format.empty()) {
      material::write_materials(choices.path, all, units, existing);
    } else {
      std::int64_t id = choices.id;
      for (const Material& m : all) {
        deck::write_material(choices.path, m, units, choices.format, id, {},
                             &m == &all.front() ? existing : Existing::added_to);
        id += 2;
      }
    }
    fmt::print("{} {}: {}\n", choices.append ? "added to" : "wrote", choices.path, fmt::join(choices.names, ", "));
    return 0;
  });
}

}  // namespace material_command

void add_material(CLI::App& program, int& exit_code) {
  using namespace material_command;
  CLI::App* const command = program.add_subcommand("material", "List, show, compare, compute and write materials");
  command->require_subcommand(1);
  command->footer(
      "Materials come from the files given with --library, from those in BORDADO_MATERIALS (parted by colons), and "
      "from the "
      "shipped library.\nExamples:\n  bordado material list --kind foam\n  bordado material show carbon-twill-yarns "
      "--sheared\n  bordado material compute --fibre e-glass-fibre --matrix epoxy --fibre-volume 0.5");
  auto choices = std::make_shared<Choices>();
  const auto add = [&](const std::string& name, const std::string& about, int (*body)(const Choices&)) {
    CLI::App* const sub = command->add_subcommand(name, about);
    sub->add_option("--library", choices->libraries, "A file of materials, TOML or MatML, looked into first");
    sub->add_option("--units", choices->units, "Length, mass and time unit of values");
    sub->callback([choices, body, &exit_code] { exit_code = body(*choices); });
    return sub;
  };
  const auto json = [&](CLI::App* sub) { sub->add_flag("--json", choices->json, "Print JSON; values in the units"); };
  CLI::App* const listing = add("list", "All materials, a line each", list);
  listing->add_option("--kind", choices->kind, "Only of this kind: unidirectional, fabric, foam, ...");
  json(listing);
  CLI::App* const showing = add("show", "Everything that is known of one", show);
  showing->add_option("name", choices->names, "Its name")->required()->expected(1);
  showing->add_flag("--sheared", choices->sheared, "Of a cloth: properties by angle of shear");
  add_output_option(*showing, "--write", choices->path,
                    "Of a cloth: write properties by angle of shear to this CSV file", &choices->append);
  json(showing);
  CLI::App* const comparing = add("compare", "Several side by side", compare);
  comparing->add_option("names", choices->names, "Their names")->required()->expected(2, 8);
  json(comparing);
  CLI::App* const computing = add("compute", "A unidirectional ply from fibre and resin, by every theory", compute);
  computing->add_option("--fibre", choices->fibre, "A material of kind fibre")->required();
  computing->add_option("--matrix", choices->matrix, "A material of kind resin")->required();
  computing->add_option("--fibre-volume", choices->fibre_volume, "Share of the volume, 0 to 1");
  computing->add_option("--voids", choices->voids, "Share of the volume");
  json(computing);
  CLI::App* const writing = add("write", "To a library, MatML or a solver's file", write);
  writing->add_option("names", choices->names, "Their names")->required();
  add_output_option(*writing, "--to", choices->path, "The file: .toml for a library, .xml for MatML", &choices->append)
      ->required();
  writing->add_option("--format", choices->format, "A solver's instead: calculix or bulk-data")
      ->check(CLI::IsMember({"calculix", "bulk-data"}));
  writing->add_option("--number", choices->id, "First number of bulk data cards")->check(CLI::PositiveNumber);
  writing->add_flag("--append", choices->append, "Add to the file instead of writing it anew");
}

}  // namespace bordado::cli
