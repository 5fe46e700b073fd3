// Sections without layers, read field by field from their cards: with T the thickness A = T G1, D = T³/12 G2, H = T G3 and, since
// a strain on these cards is that of the mesh less z times the curvature, B = -T² G4. And what a solver is told of strength.
#include "bulk_cards.hpp"

#include <bordado/base/files.hpp>
#include <bordado/deck/into.hpp>
#include <bordado/deck/writing.hpp>
#include <bordado/design.hpp>
#include <bordado/strength.hpp>

#include <fmt/format.h>
#include <Eigen/LU>

#include <cmath>
#include <map>

namespace of_bulk_data_without_layers {

using namespace bordado;
using test::Card;
using test::cards;
using test::Grid;
using test::near;

namespace {

constexpr std::string_view more_materials = R"([material.hot]
from = "ud"
alpha1 = -0.3e-6
alpha2 = 30e-6
Xt = 2000
Xc = 1200
Yt = 60
Yc = 200
S12 = 80
S13 = 70
S23 = 50
[material.cold]
from = "ud"
alpha1 = 1e-6
alpha2 = 10e-6
[material.metal]
kind = "isotropic"
E = 70000
nu = 0.33
density = 2.7e-9
thickness = 0.4
alpha = 23e-6
Xt = 300
S12 = 160
[material.skewed]
kind = "anisotropic"
C = [[20000, 5000, 4000, 0, 0, 1500], [12000, 4500, 0, 0, -800], [9000, 0, 0, 200], [3000, 400, 0], [3500, 0], [4200]]
density = 1.4e-9
thickness = 0.3
alpha1 = 10e-6
alpha2 = 30e-6
alpha12 = 5e-6
)";

Design design_of(const std::string& plies, const test::Folder& folder, const std::string& surface,
                 const std::string& conditions, Findings& findings, const Grid& grid) {
  folder.write("grid.msh", test::msh(grid));
  return open(
      folder.write(
          "p.toml",
          fmt::format(
              "[part]\nname = \"P\"\nunits = \"mm, t, s\"\nmesh = {{ file = \"grid.msh\", length = \"mm\" "
              "}}\nside = {{ along = [0, 0, 1] }}\nsurface = \"{}\"\n{}{}"
              "[frame.skew]\nvector = [1, 2, 0.3]\n[layup]\nmaterial = \"ud\"\nframe = \"x\"\nplies = [ {} ]\n{}",
              surface, test::materials(), more_materials, plies, conditions)),
      findings);
}

const Grid flat = Grid::rectangle(4, 3, 40, 30);

double number(const Card& card, std::size_t k) {
  return k < card.size() && !card[k].empty() ? deck::number_in(card[k]).value_or(1e99) : 0.0;
}

laminate::Matrix3 of(const Card& m) {
  laminate::Matrix3 out;
  out << number(m, 1), number(m, 2), number(m, 3), number(m, 2), number(m, 4), number(m, 5), number(m, 3), number(m, 5),
      number(m, 6);
  return out;
}

struct Rebuilt {
  laminate::Stiffness stiffness;
  double mass = 0.0;
  laminate::Resultants expansion;
};

/// A property's physics from its card and those of its materials.
std::map<std::string, Rebuilt> rebuilt(const std::string& deck) {
  const auto all = cards(deck.find("BEGIN BULK") == std::string::npos ? "BEGIN BULK\n" + deck : deck);
  std::map<std::string, const Card*> materials;
  for (const Card& m : all.at("MAT2")) materials[m[0]] = &m;
  CHECK(all.count("PCOMP") == 0);
  std::map<std::string, Rebuilt> out;
  for (const Card& p : all.at("PSHELL")) {
    Rebuilt& r = out[p[0]];
    const double T = number(p, 2);
    const Card &stretching = *materials.at(p[1]), &bending = *materials.at(p[3]), &shear = *materials.at(p[5]);
    r.stiffness.A = T * of(stretching);
    r.stiffness.D = number(p, 4) * T * T * T / 12.0 * of(bending);
    r.stiffness.H = number(p, 6) * T * of(shear).topLeftCorner<2, 2>();
    CHECK(shear.size() >= 7);
    CHECK((number(shear, 3) == 0.0 && number(shear, 5) == 0.0 && number(shear, 6) == 0.0));
    r.mass = T * number(stretching, 7) + number(p, 7);
    CHECK((number(bending, 7) == 0.0 && number(shear, 7) == 0.0));
    CHECK(near(number(p, 9) - number(p, 8), T, 1e-9));
    r.expansion.N =
        r.stiffness.A * laminate::Vector3(number(stretching, 8), number(stretching, 9), number(stretching, 10));
    if (p.size() > 10 && !p[10].empty()) {
      const Card& coupling = *materials.at(p[10]);
      r.stiffness.B = -T * T * of(coupling);
      r.expansion.M = r.stiffness.B * laminate::Vector3(number(coupling, 8), number(coupling, 9), number(coupling, 10));
    }
  }
  return out;
}

bool told(const Findings& findings, std::string_view code) {
  return std::any_of(findings.all().begin(), findings.all().end(), [&](const Finding& f) { return f.code == code; });
}

const deck::WriteOptions without{.layers = deck::LayersAs::equivalents};

}  // namespace

TEST_CASE("every section's A, B, D, H, mass and expansion stand on its cards, about the mesh") {
  struct Try {
    std::string plies, surface;
    bool expansion;  ///< whether cards can say all of it
  };
  const std::string conditions =
      "[mass.paint]\non = \"left-half\"\nper-area = 1e-9\n[zone.left-half]\nbox = { from = [-1, -1, -1], "
      "to = [20, 31, 1] }\n";
  for (
      const Try& one :
      {Try{R"({ id = "A", code = "[0/45/-45/90]s", material = "hot" })", "middle", true},
       Try{R"({ id = "A", code = "[0/45/-45/90]s", material = "hot" })", "bottom", true},
       Try{R"({ id = "A", code = "[0_2/30/90]", material = "hot" })", "top", true},
       Try{R"({ id = "A", code = "[0/90]", material = "hot" })", "middle", true},
       Try{R"({ id = "A", angle = 20, material = "hot" }, { id = "F", material = "foam" }, { id = "B", angle = -70, frame = "skew", material = "hot" })",
           "bottom", true},
       Try{R"({ id = "A", material = "metal" }, { id = "B", angle = 0, material = "hot" })", "middle", true},
       Try{R"({ id = "A", angle = 0, material = "cold" }, { id = "B", angle = 0, material = "hot" })", "middle", false},
       Try{R"({ id = "A", angle = 15, material = "skewed" }, { id = "B", angle = 0, material = "hot" })", "bottom",
           true},
       Try{R"({ id = "A", angle = 10, material = "hot", thickness = { of = "left", table = [[0, 0.3], [40, 0.9]] } })",
           "bottom", true}}) {
    INFO(one.plies << " " << one.surface);
    const test::Folder folder;
    Findings findings;
    const Design design = design_of(one.plies, folder, one.surface, conditions, findings, flat);
    write_deck(design, "bulk-data", folder / "p.bdf", without, findings);
    const auto sections = rebuilt(read_file(folder / "p.bdf"));
    const auto all = cards(read_file(folder / "p.bdf"));
    REQUIRE(all.at("CQUAD4").size() == design.surface.element_count());
    bool painted = false;
    for (mesh::ElementIndex e = 0; e < design.surface.element_count(); ++e) {
      const section::SectionId s = design.sections.section_of[e];
      const auto layers = section::laminate_of(design.part, design.sections, s);
      const double z0 = design.sections.bottom[s], h = design.sections.thickness[s];
      const laminate::Stiffness wanted = laminate::stiffness(layers, z0);
      const Rebuilt& r = sections.at(all.at("CQUAD4")[e][1]);
      const double A = wanted.A.norm();
      CHECK((r.stiffness.A - wanted.A).norm() < 1e-8 * A);
      CHECK((r.stiffness.B - wanted.B).norm() < 1e-8 * A * h);
      CHECK((r.stiffness.D - wanted.D).norm() < 1e-8 * wanted.D.norm());
      CHECK((r.stiffness.H - wanted.H).norm() < 1e-8 * wanted.H.norm());
      const double added = design.layup.added_mass.empty() ? 0.0 : design.layup.added_mass[e];
      painted = painted || added > 0.0;
      CHECK(near(r.mass, laminate::areal_mass(layers) + added, 1e-8));
      const auto expands = laminate::held_expansion(layers, z0, laminate::Expands::by_temperature);
      CHECK((r.expansion.N - expands.N).norm() < 1e-7 * expands.N.norm());
      if (one.expansion) CHECK((r.expansion.M - expands.M).norm() < 1e-6 * expands.N.norm() * h);
    }
    CHECK(painted);
    CHECK(told(findings, "deck.without-layers"));
    CHECK(told(findings, "deck.bends-when-warmed") == !one.expansion);
    CHECK(!told(findings, "deck.shear-unsaid"));
  }
}

TEST_CASE("a laminate alone without layers takes numbers behind those of a deck that exists") {
  const test::Folder folder;
  Findings findings;
  const Design design = design_of(R"({ id = "A", code = "[0/90]" })", folder, "middle", "", findings, flat);
  deck::WriteOptions only = without;
  only.laminate_only = true;
  write_deck(design, "bulk-data", folder / "p.bdf", only, findings);
  CHECK(rebuilt(read_file(folder / "p.bdf")).size() == 1);
  std::string theirs = "BEGIN BULK\nMAT1    7       70000.          0.3\nPSHELL  5       7       1.\n";
  for (std::size_t n = 0; n < design.surface.points.size(); ++n) {
    const Vec3& p = design.surface.points[n];
    theirs += fmt::format("GRID,{},,{:.5f},{:.5f},{:.5f}\n", design.surface.node_ids[n], p.x(), p.y(), p.z());
  }
  for (mesh::ElementIndex e = 0; e < design.surface.element_count(); ++e) {
    theirs += fmt::format("CQUAD4,{},5", design.surface.element_ids[e]);
    for (const auto n : design.surface.nodes_of(e)) theirs += fmt::format(",{}", design.surface.node_ids[n]);
    theirs += "\n";
  }
  folder.write("theirs.bdf", theirs + "ENDDATA\n");
  const model::Model model = assemble(design, {.quadratic = false, .laminate_only = true, .solids = {}}, findings);
  write_into(*deck::find_format("bulk-data"), model, folder / "theirs.bdf", folder / "out.bdf", without, findings);
  const std::string text = read_file(folder / "out.bdf");
  const auto all = cards("BEGIN BULK\n" + text.substr(text.find("MAT1")));
  REQUIRE(all.at("PSHELL").size() == 1);
  CHECK(all.at("PSHELL")[0][0] == "6");
  CHECK(all.at("PSHELL")[0][1] == "8");
  CHECK(all.at("MAT2").front()[0] == "8");
}

TEST_CASE("layers are judged by what was asked, where every layer has the strengths for it") {
  const test::Folder folder;
  for (const auto& [criterion, word] :
       {std::pair{laminate::Criterion::tsai_hill, "HILL"}, std::pair{laminate::Criterion::hoffman, "HOFF"},
        std::pair{laminate::Criterion::tsai_wu, "TSAI"}, std::pair{laminate::Criterion::maximum_strain, "STRN"}}) {
    Findings findings;
    const Design design = design_of(R"({ id = "A", angle = 0, material = "hot" }, { id = "M", material = "metal" })",
                                    folder, "middle", "", findings, flat);
    write_deck(design, "bulk-data", folder / "p.bdf", {.judged_by = criterion}, findings);
    const auto all = cards(read_file(folder / "p.bdf"));
    const Card& property = all.at("PCOMP")[0];
    CHECK(property[3] == "50.");  // the least of what bonds bear
    CHECK(property[4] == word);
    const Card& ply = all.at("MAT8")[0];
    CHECK(Card(ply.begin() + 8, ply.begin() + 10) == Card{"-3.e-7", "3.e-5"});
    CHECK(Card(ply.begin() + 11, ply.begin() + 16) == Card{"2000.", "1200.", "60.", "200.", "80."});
    CHECK(near(number(ply, 17), -0.5 / std::sqrt(2000.0 * 1200 * 60 * 200), 1e-9));
    const Card& metal = all.at("MAT1")[0];
    CHECK(Card(metal.begin() + 8, metal.begin() + 11) == Card{"300.", "300.", "160."});
    CHECK(told(findings, "deck.judged"));
  }
  // Where a layer has none its property says nothing, and others do.
  Findings findings;
  const Design design =
      design_of(R"({ id = "A", angle = 0, material = "hot" }, { id = "F", material = "foam", zone = "half" })", folder,
                "middle", "[zone.half]\nbox = { from = [-1, -1, -1], to = [20, 31, 1] }\n", findings, flat);
  write_deck(design, "bulk-data", folder / "p.bdf", {.judged_by = laminate::Criterion::tsai_wu}, findings);
  std::size_t said = 0, silent = 0;
  const auto some = cards(read_file(folder / "p.bdf"));
  for (const Card& property : some.at("PCOMP")) (property[4].empty() ? silent : said)++;
  CHECK(said == 1);
  CHECK(silent == 1);
  const auto& all = findings.all();
  CHECK(std::any_of(all.begin(), all.end(), [](const Finding& f) {
    return f.code == "deck.judged" && f.severity == Severity::warning && f.what.find("foam (Xt)") != std::string::npos;
  }));
  // Asked for nothing, it says nothing.
  write_deck(design, "bulk-data", folder / "p.bdf", {}, findings);
  const auto none = cards(read_file(folder / "p.bdf"));
  for (const Card& property : none.at("PCOMP")) CHECK((property[3].empty() && property[4].empty()));
}

TEST_CASE(
    "sheared cloth has no strengths on its card: these are along warp and weft, the card along the diagonal of its "
    "cells") {
  const test::Folder folder;
  Findings findings;
  const Grid cap{.nx = 12, .ny = 12, .map = [](double u, double v) {
                   const double x = 120 * u - 60, y = 120 * v - 60;
                   return Vec3(x, y, std::sqrt(100.0 * 100.0 - x * x - y * y));
                 }};
  const Design design = design_of(R"({ id = "A", angle = 0, material = "cloth", drape = "net" })", folder, "middle",
                                  "[material.cloth]\nfrom = \"glass-plain-yarns\"\nthickness = 0.3\nXt = 400\nXc = "
                                  "300\nYt = 400\nYc = 300\nS12 = 60\nS13 = "
                                  "40\n[drape.net]\nseed = [0, 0, 100]\ndirection = [1, 0, 0]\n",
                                  findings, cap);
  REQUIRE(design.sections.sheared.size() > 3);
  write_deck(design, "bulk-data", folder / "p.bdf", {.judged_by = laminate::Criterion::tsai_wu}, findings);
  const auto all = cards(read_file(folder / "p.bdf"));
  std::size_t strong = 0, judged = 0;
  for (const Card& card : all.at("MAT8")) {
    const bool at_rest = card[0] == "1" || std::stoul(card[0]) <= design.part.materials.size();
    const bool has = card.size() > 11 && !card[11].empty();
    CHECK(has == at_rest);
    strong += has;
  }
  for (const Card& card : all.at("PCOMP")) judged += !card[4].empty();
  CHECK(strong <= 1);
  CHECK(judged <= 1);
  const auto& told_all = findings.all();
  CHECK(std::any_of(told_all.begin(), told_all.end(), [](const Finding& f) {
    return f.code == "deck.judged" && f.what.find("cloth (along the axes of its sheared cells)") != std::string::npos;
  }));
}

TEST_CASE("strain limits stand as strains where layers are judged by them") {
  const test::Folder folder;
  Findings findings;
  const Design design = design_of(R"({ id = "A", angle = 0, material = "limited" })", folder, "middle",
                                  "[material.limited]\nfrom = \"ud\"\ne1t = 0.012\ne1c = 0.009\ne2t = 0.004\ne2c = "
                                  "0.015\ng12 = 0.02\nS13 = 60\n",
                                  findings, flat);
  write_deck(design, "bulk-data", folder / "p.bdf", {.judged_by = laminate::Criterion::maximum_strain}, findings);
  const auto all = cards(read_file(folder / "p.bdf"));
  const Card& ply = all.at("MAT8")[0];
  CHECK(Card(ply.begin() + 11, ply.begin() + 19) == Card{"0.012", "0.009", "0.004", "0.015", "0.02", "", "", "1."});
  CHECK(all.at("PCOMP")[0][4] == "STRN");
}

TEST_CASE("zones are numbered sets above the bulk data") {
  const test::Folder folder;
  Findings findings;
  const Grid large = Grid::rectangle(40, 30, 40, 30);
  const Design design =
      design_of(R"({ id = "A", angle = 0 })", folder, "middle",
                "[zone.round]\nsphere = { centre = [20, 15, 0], radius = 9 }\n[zone.half]\nbox = { from = "
                "[-1, -1, -1], to = [20, 31, 1] }\n",
                findings, large);
  write_deck(design, "bulk-data", folder / "p.bdf", {}, findings);
  const std::string text = read_file(folder / "p.bdf");
  const std::string control = text.substr(text.find("CEND"), text.find("BEGIN BULK") - text.find("CEND"));
  std::map<std::string, std::vector<std::int64_t>> sets;
  std::istringstream lines(control);
  std::string name;
  std::vector<std::int64_t>* set = nullptr;
  for (std::string line; std::getline(lines, line);) {
    CHECK(line.size() <= 72);
    if (line.rfind("$ set ", 0) == 0) name = line.substr(line.find("zone ") + 5);
    if (line.rfind("SET ", 0) == 0) {
      set = &sets[name];
      line = line.substr(line.find('=') + 1);
    } else if (line[0] != ' ') {
      set = nullptr;
    }
    if (!set) continue;
    std::istringstream items(line);
    for (std::string item; std::getline(items, item, ',');) {
      if (test::trimmed(item).empty()) continue;
      const auto thru = item.find(" THRU ");
      const long from = std::stol(item), to = thru == std::string::npos ? from : std::stol(item.substr(thru + 6));
      for (long id = from; id <= to; ++id) set->push_back(id);
    }
  }
  const zone::ZoneSets& zones = design.layup.zones;
  for (const zone::ZoneId z : zones.declared()) {
    std::vector<std::int64_t> wanted;
    for (const mesh::ElementIndex e : zones.elements(z)) wanted.push_back(design.surface.element_ids[e]);
    std::sort(wanted.begin(), wanted.end());
    INFO(zones.names[z]);
    CHECK(wanted.size() > 3);
    CHECK(sets[zones.names[z]] == wanted);
  }
}

}  // namespace of_bulk_data_without_layers
