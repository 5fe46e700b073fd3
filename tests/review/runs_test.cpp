// Runs side by side, what meshes tend to, and the summary of one.
#include "cases.hpp"

#include <bordado/base/files.hpp>
#include <bordado/review/runs.hpp>

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
  CHECK(run("runs p4.toml p8.toml p16.toml --write a.vtu").err.find("[runs.lists]") != std::string::npos);

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
