// Runs side by side, what meshes tend to, and the summary of one.
#include "cases.hpp"

#include <bordado/base/files.hpp>
#include <bordado/review/runs.hpp>

#include <set>

namespace of_review_runs {

using namespace bordado;
using test::Folder;
using test::Grid;

TEST_CASE("three values that follow a power of the mesh's size tend to its limit, with its order") {
  for (const double order : {0.7, 1.0, 2.0, 4.0})
    for (const std::array<double, 3>& sizes : {std::array{4.0, 2.0, 1.0}, {1.0, 3.0, 2.2}, {0.5, 0.9, 0.11}}) {
      std::array<double, 3> values;
      for (std::size_t k = 0; k < 3; ++k) values[k] = 7.0 - 0.3 * std::pow(sizes[k], order);
      const auto found = review::extrapolated(sizes, values);
      REQUIRE(found);
      CHECK(test::off(found->value, 7.0) < 1e-9);
      CHECK(test::off(found->order, order) < 1e-6);
    }
  // Nothing to tend to: to and fro, away, no change, one mesh twice.
  CHECK(!review::extrapolated({4, 2, 1}, {1.0, 2.0, 1.5}));
  CHECK(!review::extrapolated({4, 2, 1}, {1.0, 2.0, 2.0}));
  CHECK(!review::extrapolated({4, 2, 1}, {1.0, 1.1, 5.0}));
  CHECK(!review::extrapolated({2, 2, 1}, {1.0, 1.5, 1.7}));
  CHECK(!review::extrapolated({4, 2, 1}, {1.0, std::nan(""), 1.7}));
}

TEST_CASE(
    "modes are matched by shape between meshes, whatever their order, size and sign; what is like nothing has no "
    "match") {
  const Folder one_folder, other_folder;
  Findings findings;
  const std::string text = test::case_part("[0/90]s", "");
  Grid triangles = Grid::rectangle(9, 11, 100, 80);
  triangles.triangles = true;
  const Design first = test::open_on(one_folder, text, Grid::rectangle(12, 10, 100, 80), findings),
               second = test::open_on(other_folder, text, triangles, findings);
  const auto mode = [](const Design& design, int m, int n, double size, double value, bool reversed = false) {
    model::ModeField out;
    out.value = value, out.reversed = reversed;
    for (const Vec3& p : design.surface.points)
      out.moved.emplace_back(
          0, 0, size * std::sin(m * 3.14159265358979 * p.x() / 100) * std::sin(n * 3.14159265358979 * p.y() / 80));
    return out;
  };
  model::CaseFields a, b, elsewhere;
  a.name = b.name = "hum", elsewhere.name = "other";
  a.modes = {mode(first, 1, 1, 1, 10), mode(first, 2, 1, 3, 20), mode(first, 1, 2, 1, 21), mode(first, 2, 2, 1, 40)};
  // The second and third change places; one under reversed loads lies before them; the last is another one.
  b.modes = {mode(second, 1, 1, -2, 10.1), mode(second, 2, 2, 5, 15, true), mode(second, 1, 2, 7, 20.5),
             mode(second, 2, 1, -0.1, 20.6), mode(second, 3, 1, 1, 41)};
  const std::vector<model::CaseFields> ours{a}, theirs{elsewhere, b};
  const auto matches = review::matched_modes(first, ours, second, theirs);
  REQUIRE(matches.size() == 3);
  const std::vector<std::pair<std::size_t, std::size_t>> wanted{{1, 1}, {2, 3}, {3, 2}};
  for (std::size_t i = 0; i < 3; ++i) {
    CHECK(matches[i].case_name == "hum");
    CHECK(matches[i].first == wanted[i].first);
    CHECK(matches[i].second == wanted[i].second);
    CHECK(matches[i].assurance > 0.99);
    CHECK(matches[i].assurance <= 1.0);
  }
  // Shapes on the first mesh are the first's, whatever their size and sign were.
  const auto fields = review::mode_fields(first, ours, second, theirs, matches, "third");
  REQUIRE(fields.size() == 3);
  CHECK(fields[1].name == "hum: mode 2, mode 3 of the third");
  double off = 0.0, most = 0.0;
  for (std::size_t n = 0; n < first.surface.points.size(); ++n) {
    off = std::max(off, std::abs(fields[1].values[3 * n + 2] - a.modes[1].moved[n].z()));
    most = std::max(most, std::abs(a.modes[1].moved[n].z()));
  }
  CHECK(off < 0.06 * most);  // of straight sides between nodes
  // A mode with itself: exactly one; other directions than its own: nothing.
  CHECK(test::near(review::matched_modes(first, ours, first, ours)[3].assurance, 1.0, 1e-12));
  for (Vec3& moved : b.modes[0].moved) moved = Vec3(moved.z(), 0, 0);
  const std::vector<model::CaseFields> turned{b};
  CHECK(review::matched_modes(first, ours, second, turned).size() == 2);
}

TEST_CASE("the program puts runs side by side, tells what meshes tend to, and sums up one") {
  const Folder folder;
  const auto run = [&](const std::string& what) {
    return test::run(fmt::format("'{}' {}", test::program(), what), folder.path());
  };
  std::string text = test::known_part("[0/90]s", test::knife_edges(100) + R"(
[load.p]
on = "plate"
face = "tool"
pressure = 0.01
[case.press]
loads = ["p"]
[case.hum]
analysis = "frequencies"
count = 2
)");
  for (const int n : {4, 8, 16}) {
    folder.write(fmt::format("g{}.msh", n), test::msh(Grid::rectangle(n, n, 100, 100)));
    std::string own = text;
    own.replace(own.find("grid.msh"), 8, fmt::format("g{}.msh", n));
    folder.write(fmt::format("p{}.toml", n), own);
    REQUIRE(run(fmt::format("solve p{}.toml", n)).status == 0);
  }
  const test::Run three = run("runs p4.toml p8.toml p16.toml --criterion tsai-wu");
  INFO(three.out << three.err);
  CHECK(three.status == 0);
  CHECK(three.out.find("deflection, press") != std::string::npos);
  CHECK(three.out.find("hum 1") != std::string::npos);
  CHECK(three.out.find("least reserve, press") != std::string::npos);
  CHECK(three.out.find("tends to") != std::string::npos);
  // The same part twice differs by nothing, and fields of both stand on its mesh.
  const test::Run two = run("runs p8.toml p8.toml --criterion tsai-wu --write differ.vtu");
  CHECK(two.status == 0);
  CHECK(two.out.find("+0.00 %") != std::string::npos);
  CHECK(two.out.find("no reserves") == std::string::npos);
  const test::Run unjudged = run("runs p8.toml p8.toml --criterion crimping");
  CHECK(unjudged.out.find("no reserves: nothing fails") != std::string::npos);
  CHECK(unjudged.out.find("fails   by") == std::string::npos);
  REQUIRE(run("runs p8.toml p16.toml --criterion tsai-wu --write differ.vtu").status == 0);
  Findings findings;
  const mesh::Sampled sampled = mesh::read_sampled(folder / "differ.vtu", {}, findings);
  double most = 0.0, largest = 0.0;
  for (const mesh::Array& array : sampled.arrays) {
    if (array.name.find("second less first") != std::string::npos)
      for (const double v : array.values) most = std::max(most, std::abs(v));
    if (array.name.find("of the second mm") != std::string::npos)
      for (const double v : array.values) largest = std::max(largest, std::abs(v));
  }
  CHECK(largest > 0.0);
  CHECK(most < 0.05 * largest);
  CHECK(run("runs p4.toml p8.toml p16.toml --folder a --folder b").err.find("[runs.lists]") != std::string::npos);
  const test::Run of_three = run("runs p4.toml p8.toml p16.toml --criterion tsai-wu --write three.vtu");
  CHECK(of_three.status == 0);
  CHECK(of_three.out.find("modes by their shape") != std::string::npos);
  std::set<std::string> names;
  for (const mesh::Array& array : mesh::read_sampled(folder / "three.vtu", {}, findings).arrays)
    names.insert(array.name);
  for (const char* const name :
       {"press: displacement, second less first mm", "press: displacement, third less first mm", "reserve",
        "reserve, third over first", "hum: mode 1, mode 1 of the third"})
    CHECK_MESSAGE(names.count(name) == 1, name);

  for (const std::string page : {"sum.html", "sum.pdf"}) {
    CHECK(run("summary p8.toml --criterion tsai-wu -o " + page).status == 0);
    CHECK(std::filesystem::file_size(folder / page) > 1500);
  }
  const std::string html = read_file(folder / "sum.html");
  for (const char* const part :
       {"Static cases", "Frequencies and buckling", "Least reserve by material", "known", "tsai-wu", "press"})
    CHECK_MESSAGE(html.find(part) != std::string::npos, part);
  CHECK(run("summary p8.toml -o sum.txt").err.find("[summary.ending-unknown]") != std::string::npos);
}

}  // namespace of_review_runs
