// Plies that end one after another on a strip, solved for real, against a beam of piecewise constant stiffness with its
// eccentricities. The beam knows nothing of layups, sections or decks: which plies there are at x follows from where
// each ends by hand.
#include "solving.hpp"

#include <bordado/base/files.hpp>
#include <bordado/mesh/care.hpp>
#include <bordado/mesh/io.hpp>
#include <bordado/review/book.hpp>
#include <bordado/review/profile.hpp>

#include <fmt/format.h>
#include <Eigen/Eigenvalues>

#include <cmath>
#include <fstream>
#include <map>

namespace of_calculix_ramp {

using namespace bordado;
using test::Grid;

namespace {

constexpr double length = 130.0, width = 8.0, ends_at = 104.0, ply = 0.125, force = 1.0;
constexpr int covers = 4, pairs = 8;  // covers on each face; between them pairs, the innermost ends first

struct Strip {
  double slope = 20.0;  ///< run per rise; a pair is two plies
  std::string edges = "smeared", surface = "bottom", first = "inner", more = "",
              load = fmt::format("[0, 0, {}]", force);
  double step() const { return slope * 2.0 * ply; }
};

std::string part_text(const Strip& strip, const std::string& mesh = "grid.msh") {
  return fmt::format(R"([part]
name = "Strip"
units = "mm, t, s"
mesh = {{ file = "{}", length = "mm" }}
side = {{ along = [0, 0, 1] }}
surface = "{}"
{}[zone.thick]
box = {{ from = [-1, -99, -1], to = [{}, 99, 1] }}
[layup]
material = "ud"
frame = "x"
edges = "{}"
plies = [
  {{ id = "L", code = "[0/90/0/90]", thickness = {} }},
  {{ id = "D", code = "[0/90/0/90/0/90/0/90]s", thickness = {}, zone = "thick" }},
  {{ id = "U", code = "[90/0/90/0]", thickness = {} }},
]
[ramp.end]
from = "thick"
slope = "1:{}"
first = "{}"
{}{})",
                     mesh, strip.surface, test::materials(), ends_at, strip.edges, ply, ply, ply, strip.slope,
                     strip.first, strip.more, test::cantilever(strip.load));
}

// --- the beam
// ---------------------------------------------------------------------------------------------------------

struct Piece {
  double from, to;
  laminate::Compliance compliance;  ///< about the mesh
  double shear, mass;               ///< flexibility xz, and mass per length; both of all the width
};

/// Pieces of constant laminate. \param place of the laminate over the mesh as a share of its thickness: 0, -1/2, -1.
std::vector<Piece> beam(double step, double place = 0.0) {
  std::vector<double> ends{length};
  for (int pair = 0; pair < pairs; ++pair) ends.push_back(ends_at - step * (pairs - 1 - pair));
  std::sort(ends.begin(), ends.end());
  std::vector<Piece> out;
  double from = 0.0;
  for (const double to : ends) {
    const double x = 0.5 * (from + to);
    std::vector<laminate::Layer> half;
    for (int k = 0; k < covers + pairs; ++k) {
      const int pair = covers + pairs - 1 - k;  // 0 in the middle
      if (k >= covers && x > ends_at - step * (pairs - 1 - pair)) continue;
      half.push_back({test::carbon(), ply, Angle::degrees(k % 2 == 0 ? 0.0 : 90.0), {}});
    }
    std::vector<laminate::Layer> all = half;
    all.insert(all.end(), half.rbegin(), half.rend());
    const double h = laminate::thickness(all);
    const laminate::Stiffness s = laminate::stiffness(all, place * h);
    out.push_back({from, to, laminate::compliance(s), s.H.inverse()(0, 0) / width, h * width * 1.55e-9});
    from = to;
  }
  return out;
}

/// Deflection at x under a force across the tip: unit loads (J. C. Maxwell, O. Mohr), bending about the mesh with no
/// force along it.
double bent(const std::vector<Piece>& pieces, double x) {
  double w = 0.0;
  for (const Piece& piece : pieces) {
    const double a = piece.from, b = std::min(piece.to, x);
    if (b <= a) break;
    // The moment of the force, (L - s), times that of a unit force at x, (x - s).
    const auto whole = [&](double s) { return length * x * s - 0.5 * (length + x) * s * s + s * s * s / 3.0; };
    w += force / width * piece.compliance.d(0, 0) * (whole(b) - whole(a)) + force * piece.shear * (b - a);
  }
  return w;
}

/// Deflection of the tip under a force along the mesh there: the curvature that goes with it, twice integrated.
double pulled(const std::vector<Piece>& pieces) {
  double w = 0.0;
  for (const Piece& piece : pieces)
    w -= force / width * piece.compliance.b(0, 0) *
         (0.5 * std::pow(length - piece.from, 2) - 0.5 * std::pow(length - piece.to, 2));
  return w;
}

/// The first frequency in hertz: cubic beam elements of the same pieces (O. C. Zienkiewicz), consistent masses.
double frequency(const std::vector<Piece>& pieces) {
  std::vector<std::array<double, 3>> elements;  // length, stiffness, mass per length
  for (const Piece& piece : pieces) {
    const int parts = std::max(2, static_cast<int>(std::ceil((piece.to - piece.from) / 2.0)));
    for (int k = 0; k < parts; ++k)
      elements.push_back({(piece.to - piece.from) / parts, width / piece.compliance.d(0, 0), piece.mass});
  }
  const auto n = static_cast<Eigen::Index>(2 * elements.size() + 2);
  Eigen::MatrixXd K = Eigen::MatrixXd::Zero(n, n), M = K;
  for (std::size_t i = 0; i < elements.size(); ++i) {
    const auto [l, EI, m] = elements[i];
    Eigen::Matrix4d k, c;
    k << 12, 6 * l, -12, 6 * l, 6 * l, 4 * l * l, -6 * l, 2 * l * l, -12, -6 * l, 12, -6 * l, 6 * l, 2 * l * l, -6 * l,
        4 * l * l;
    c << 156, 22 * l, 54, -13 * l, 22 * l, 4 * l * l, 13 * l, -3 * l * l, 54, 13 * l, 156, -22 * l, -13 * l, -3 * l * l,
        -22 * l, 4 * l * l;
    const auto at = static_cast<Eigen::Index>(2 * i);
    K.block<4, 4>(at, at) += EI / (l * l * l) * k;
    M.block<4, 4>(at, at) += m * l / 420.0 * c;
  }
  const Eigen::GeneralizedSelfAdjointEigenSolver<Eigen::MatrixXd> solver(
      K.bottomRightCorner(n - 2, n - 2), M.bottomRightCorner(n - 2, n - 2), Eigen::EigenvaluesOnly);
  return std::sqrt(solver.eigenvalues()[0]) / (2.0 * std::numbers::pi);
}

// --- the solver
// -------------------------------------------------------------------------------------------------------

struct Answers {
  double tip = 0.0, before = 0.0;  ///< deflection at the tip, and 20 mm before it
  std::optional<deck::FlushFace> flush;
};
constexpr double before = 20.0;

/// The strip on a mesh of the library; cut along its edges first where asked.
Answers solved(const Strip& strip, int along, bool cut = false, bool real_plies = false) {
  const test::Folder folder;
  folder.write("grid.msh", test::msh(Grid::rectangle(along, 2, length, width)));
  Findings findings;
  std::string path = folder.write("part.toml", part_text(strip));
  if (cut) {
    const Design whole = open(path, findings);
    mesh::CutReport report;
    mesh::write(layup::cut_at_edges(whole, {}, report, findings), folder / "cut.msh");
    Strip as_cut = strip;
    as_cut.edges = "whole";
    path = folder.write("cut.toml", part_text(as_cut, "cut.msh"));
  }
  const Design design = open(path, findings);
  const model::Model model = assemble(design, {.quadratic = true}, findings);
  calculix::SolveOptions options;
  options.deck.layers = real_plies ? deck::LayersAs::plies : deck::LayersAs::equivalents;
  options.deck.ply_results = false;
  const auto answer = calculix::solve(model, folder / "part.inp", options, findings);
  const auto rows = calculix::read_answer(answer.run.dat).displacements;
  const auto at = [&](double x) {
    const std::int64_t id = model.surface.node_ids[mesh::nearest_node(model.surface, Vec3(x, width / 2, 0)).index];
    const double real_x = model.surface.points[mesh::nearest_node(model.surface, Vec3(x, width / 2, 0)).index].x();
    for (const auto& row : rows)
      if (row.id == id) return std::pair(row.value.z(), real_x);
    return std::pair(0.0, 0.0);
  };
  Answers out;
  out.tip = at(length).first;
  // Brought to the very place by the slope there, which the beam knows well enough for half a millimetre.
  const auto [w, x] = at(length - before);
  const auto pieces = beam(strip.step());
  out.before = w + bent(pieces, length - before) - bent(pieces, x);
  out.flush = deck::flush_face(read_file(folder / "part.inp"), design.part.flush);
  return out;
}

double off(double value, double exact) { return 100.0 * (value / exact - 1.0); }

}  // namespace

TEST_CASE("slopes 1:10 to 1:50: deflection and rotation of the tip, whole, smeared and cut") {
  REQUIRE(test::have("ccx"));
  for (const double slope : {10.0, 20.0, 50.0}) {
    const Strip strip{.slope = slope};
    const auto pieces = beam(strip.step());
    const double w = bent(pieces, length), rotation = (w - bent(pieces, length - before)) / before;
    // Elements about as long as a step, and twice as long, that fit no step.
    for (const double size : {1.0, 2.0}) {
      int along = static_cast<int>(std::lround(length / (size * strip.step())));
      along += along % 2 == 0;
      Strip whole = strip;
      whole.edges = "whole";
      std::map<std::string, std::array<double, 2>> errors;
      for (const auto& [name, answers] : {std::pair{"smeared", solved(strip, along)},
                                          {"whole", solved(whole, along)},
                                          {"cut", solved(strip, along, true)}})
        errors[name] = {off(answers.tip, w), off((answers.tip - answers.before) / before, rotation)};
      MESSAGE("1:", slope, ", elements of ", length / along / strip.step(),
              " steps, % off in deflection and rotation: whole ", errors["whole"][0], " ", errors["whole"][1],
              ", smeared ", errors["smeared"][0], " ", errors["smeared"][1], ", cut ", errors["cut"][0], " ",
              errors["cut"][1]);
      CHECK(std::abs(errors["cut"][0]) < 0.2);
      CHECK(std::abs(errors["cut"][1]) < 0.3);
      CHECK(std::abs(errors["smeared"][0]) < 1.6);
      CHECK(std::abs(errors["smeared"][1]) < 2.0);
      CHECK(std::abs(errors["cut"][0]) < std::abs(errors["smeared"][0]));
      CHECK(std::abs(errors["whole"][0]) < 12.0);  // at 1:50 and two steps an element, 10 %
      CHECK(std::abs(errors["smeared"][0]) < 0.5 * std::abs(errors["whole"][0]));
    }
  }
}

TEST_CASE(
    "error against the element's size: smeared edges converge, whole elements only once they are smaller than a step") {
  REQUIRE(test::have("ccx"));
  const Strip strip{.slope = 50};
  Strip whole = strip;
  whole.edges = "whole";
  const double w = bent(beam(strip.step()), length);
  std::vector<double> smeared, all_or_nothing;
  std::string row;
  for (const int along : {5, 11, 21, 43}) {
    smeared.push_back(off(solved(strip, along).tip, w));
    all_or_nothing.push_back(off(solved(whole, along).tip, w));
    row += fmt::format(" h/s {:.2f}: smeared {:.2f}, whole {:.2f};", length / along / strip.step(), smeared.back(),
                       all_or_nothing.back());
  }
  MESSAGE(row);
  CHECK(std::abs(smeared.back()) < 0.25 * std::abs(smeared.front()));
  for (std::size_t i = 0; i < smeared.size(); ++i) CHECK(std::abs(smeared[i]) < 3.0);
  CHECK(std::abs(smeared[1]) < std::abs(all_or_nothing[1]));
}

TEST_CASE("bottom, middle and top flush: the same under a force across, as their eccentricities say under one along") {
  REQUIRE(test::have("ccx"));
  const double step = Strip{}.step();
  for (const auto& [surface, place] : {std::pair{"bottom", 0.0}, {"middle", -0.5}, {"top", -1.0}}) {
    Strip strip;
    strip.surface = surface;
    const Answers across = solved(strip, 52, true, true);
    CHECK(std::abs(off(across.tip, bent(beam(step), length))) < 0.3);
    strip.load = fmt::format("[{}, 0, 0]", force);
    const double exact = pulled(beam(step, place));
    const Answers along = solved(strip, 52, true, true);
    const double size = std::abs(pulled(beam(step, 0.0)));
    CHECK(test::near(along.tip, exact, 0.01, size));
    // The deck itself proves which face is flush.
    REQUIRE(along.flush);
    CHECK(along.flush->sections >= 9);
    CHECK(std::abs(along.flush->lowest) < 1e-9);
    CHECK(std::abs(along.flush->highest) < 1e-9);
    // And not the others.
    const auto other = deck::flush_face(  // of a deck whose sections are 1 and 2 thick on their bottoms
        "*SHELL SECTION, COMPOSITE, ELSET=A, OFFSET=-0.5\n1.,,M,O\n*SHELL SECTION, COMPOSITE, ELSET=B, "
        "OFFSET=-0.5\n1.,,M,O\n1.,,M,O\n*STEP\n",
        part::Flush::top);
    CHECK(other->lowest == 1.0);
    CHECK(other->highest == 2.0);
  }
  CHECK(test::near(pulled(beam(step, -0.5)), 0.0, 1e-9, std::abs(pulled(beam(step)))));
  CHECK(test::near(pulled(beam(step, -1.0)), -pulled(beam(step))));
}

TEST_CASE("the same part file on three meshes of a curved panel: areas, mass and deflection converge") {
  REQUIRE(test::have("ccx"));
  // A strip of a cylinder, 90 long, 40 round; a patch in its middle with plies that end round it.
  const std::string text = fmt::format(R"([part]
name = "Panel"
units = "mm, t, s"
mesh = {{ file = "grid.msh", length = "mm" }}
side = {{ away-from = [45, 0, -60] }}
surface = "bottom"
{}[zone.patch]
box = {{ from = [31, -14, -99], to = [99, 14, 99] }}
[layup]
material = "ud"
frame = "x"
plies = [
  {{ id = "L", code = "[0/90]" }},
  {{ id = "D", code = "[0/45/-45/90]s", zone = "patch" }},
  {{ id = "U", code = "[90/0]" }},
]
[ramp.patch]
from = "patch"
slope = "1:6"
together = 4
{})",
                                       test::materials(), test::cantilever("[0, 0, 5]"));
  std::vector<double> mass, exact, deflection;
  std::vector<std::vector<double>> areas;
  // Nodes on the crown where plies end: this solver would take ties there for singular.
  for (const int n : {1, 2, 4}) {
    const test::Folder folder;
    const Grid grid{.nx = 11 * n, .ny = 8 * n, .map = [](double u, double v) {
                      const double angle = (v - 0.5) * 40.0 / 60.0;
                      return Vec3(90 * u, 60 * std::sin(angle), 60 * std::cos(angle) - 60);
                    }};
    calculix::SolveOptions options;
    options.deck.layers = deck::LayersAs::equivalents;
    options.deck.ply_results = false;
    const test::Solved solved = test::solve(folder, text, grid, options);
    deflection.push_back(solved.at(Vec3(90, 0, 0)).z());
    mass.push_back(layup::mass(solved.design).mass);
    // Four plies over all, and those that end: at x = 90 with the part, elsewhere by so much further in.
    double area = 4.0 * 90.0 * 40.0;
    for (const layup::RampStep& step : solved.design.layup.ramps[layup::RampId{0}].steps)
      area += static_cast<double>(step.plies.size()) * (59.0 + step.by) *
              (2.0 * 60.0 * std::asin(14.0 / 60.0) + 2.0 * step.by);
    const material::Material& ud = solved.design.part.materials[part::MaterialId{0}];
    exact.push_back(area * *ud.thickness * *ud.density);
    areas.emplace_back();
    for (const review::PlyEntry& entry : review::ply_book(solved.design).plies) areas.back().push_back(entry.area);
  }
  const auto steps = [](double a, double b, double c) { return std::pair(std::abs(b - a), std::abs(c - b)); };
  const auto [first, second] = steps(deflection[0], deflection[1], deflection[2]);
  INFO(deflection[0], " ", deflection[1], " ", deflection[2]);
  CHECK(second < 0.6 * first);
  CHECK(second < 0.02 * std::abs(deflection[2]));
  for (std::size_t k = 0; k < 3; ++k) CHECK(test::near(mass[k], exact[k], 4e-3 / static_cast<double>(1 << k)));
  for (std::size_t p = 0; p < areas[0].size(); ++p) CHECK(test::near(areas[1][p], areas[2][p], 0.01));
}

TEST_CASE("the first natural frequency is the stepped beam's") {
  REQUIRE(test::have("ccx"));
  const Strip strip{.slope = 20};
  const double exact = frequency(beam(strip.step()));
  for (const std::string edges : {"smeared", "whole"}) {
    const test::Folder folder;
    Strip one = strip;
    one.edges = edges;
    folder.write("grid.msh", test::msh(Grid::rectangle(27, 2, length, width)));
    Findings findings;
    const Design design = open(folder.write("part.toml", part_text(one)), findings);
    const model::Model model = assemble(design, {.quadratic = true}, findings);
    deck::find_format("calculix")
        ->write(model, folder / "static.inp", {.ply_results = false, .layers = deck::LayersAs::equivalents}, findings);
    // The same model, its one step asked for frequencies.
    std::string text = read_file(folder / "static.inp");
    text.erase(text.find("*STEP"));
    std::ofstream(folder / "modes.inp") << text << "*STEP\n*FREQUENCY\n3\n*NODE FILE\nU\n*END STEP\n";
    const test::Run run = test::run("ccx modes", folder.path());
    const std::string dat = read_file(folder / "modes.dat");
    std::size_t at = dat.find("E I G E N V A L U E   O U T P U T");
    REQUIRE(at != std::string::npos);
    at = dat.find("\n      1 ", at);
    REQUIRE(at != std::string::npos);
    double mode, value, radians, hertz;
    REQUIRE(std::sscanf(dat.c_str() + at, "%lf %lf %lf %lf", &mode, &value, &radians, &hertz) == 4);
    MESSAGE(edges, ": ", hertz, " Hz, the beam ", exact, " Hz: ", off(hertz, exact), " %");
    CHECK(std::abs(off(hertz, exact)) < (edges == "smeared" ? 0.8 : 3.0));
  }
}

// --- what an order costs
// -----------------------------------------------------------------------------------------------------

namespace {

/// Along a cut of the design: deflection of the tip of a strip of unit width by its local stiffness, and the largest
/// coupling about the local middle.
struct Cost {
  double deflection = 0.0, coupling = 0.0, shear = 0.0;
};
Cost cost(const std::string& plies, const std::string& ramp) {
  Findings findings;
  const std::string text = fmt::format(
      "[part]\nname = \"O\"\nunits = \"mm, t, s\"\nmesh = {{ file = \"g.msh\", length = \"mm\" }}\nside = "
      "\"as-meshed\"\nsurface = \"bottom\"\n{}[zone.thick]\nbox = {{ from = [-1, -99, -1], to = [{}, 99, 1] "
      "}}\n[layup]\nmaterial = \"ud\"\nframe = \"x\"\nplies = [\n{}]\n[ramp.end]\nfrom = \"thick\"\nslope = "
      "\"1:20\"\n{}",
      test::materials(), ends_at, plies, ramp);
  const Design design =
      open(part::read_text(text, "o.toml", findings), test::surface(Grid::rectangle(52, 2, length, width)), findings);
  const review::Profile profile = review::profile(design, Vec3(0, 4, 0), Vec3(length, 4, 0));
  std::vector<double> stops;
  for (const auto& band : profile.bands) stops.insert(stops.end(), {band.from, band.to});
  std::sort(stops.begin(), stops.end());
  Cost out;
  for (std::size_t i = 1; i < stops.size(); ++i) {
    const double a = stops[i - 1], b = stops[i], x = 0.5 * (a + b);
    if (b - a < 1e-9) continue;
    std::vector<laminate::Layer> layers;
    for (const part::PlyId p : design.part.plies.ids())
      for (const auto& band : profile.bands)
        if (band.ply == p && band.from < x && x < band.to)
          layers.push_back({test::carbon(), band.thickness[0], design.part.plies[p].angle, {}});
    const laminate::Stiffness k = laminate::stiffness(layers, -0.5 * laminate::thickness(layers));
    const laminate::Compliance c = laminate::compliance(k);
    out.deflection += c.d(0, 0) * (std::pow(length - a, 3) - std::pow(length - b, 3)) / 3.0;
    out.coupling = std::max(out.coupling, std::abs(k.B(0, 0)) / std::sqrt(k.A(0, 0) * k.D(0, 0)));
    out.shear = std::max(out.shear, std::abs(k.A(0, 2)) / k.A(0, 0));
  }
  return out;
}

}  // namespace

TEST_CASE("which order of ending costs what: the table of the manual") {
  const std::string cross =
      "{ id = \"L\", code = \"[0/90/0/90]\", thickness = 0.125 },\n{ id = \"D\", code = "
      "\"[0/90/0/90/0/90/0/90]s\", thickness = 0.125, zone = \"thick\" },\n{ id = \"U\", code = "
      "\"[90/0/90/0]\", thickness = 0.125 },\n";
  const std::string quasi =
      "{ id = \"L\", code = \"[0/45/-45/90]\", thickness = 0.125 },\n{ id = \"D\", code = "
      "\"[0/45/-45/90/0/45/-45/90]s\", thickness = 0.125, zone = \"thick\" },\n{ id = \"U\", code = "
      "\"[90/-45/45/0]\", thickness = 0.125 },\n";
  struct Row {
    std::string stack, ends, ramp;
  };
  const std::vector<Row> rows = {
      {"0/90", "inner, pairs", ""},
      {"0/90", "outer, pairs", "first = \"outer\"\n"},
      {"0/90", "alternating, pairs", "first = \"alternating\"\n"},
      {"0/90", "inner, single", "pairs = \"single\"\n"},
      {"0/90", "outer, single", "first = \"outer\"\npairs = \"single\"\n"},
      {"0/45/-45/90", "inner, pairs", ""},
      {"0/45/-45/90", "inner, pairs, 4 together", "together = 4\n"},
      {"0/45/-45/90", "outer, pairs", "first = \"outer\"\n"},
      {"0/45/-45/90", "outer, single", "first = \"outer\"\npairs = \"single\"\n"},
  };
  const std::string manual = read_file(test::source("docs/ramps.md"));
  std::map<std::string, double> first;
  for (const Row& row : rows) {
    const Cost c = cost(row.stack == "0/90" ? cross : quasi, row.ramp);
    first.try_emplace(row.stack, c.deflection);
    const std::string line = fmt::format("| {} | {} | {:.3f} | {:.3f} | {:.3f} |", row.stack, row.ends,
                                         c.deflection / first[row.stack], c.coupling, c.shear);
    INFO(line);
    CHECK(manual.find(line) != std::string::npos);
    const bool paired = row.ends.find("pairs") != std::string::npos;
    CHECK((c.coupling < 1e-9) == (paired || row.ends == "inner, single"));  // from the middle, what is left stays even
    if (row.ends.find("4 together") != std::string::npos || row.stack == "0/90") CHECK(c.shear < 1e-9);
  }
}

}  // namespace of_calculix_ramp
