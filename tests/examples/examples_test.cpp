// Everything shown to users is built and run: the examples, the installed package, and what the documents say.
#include "support.hpp"

#include <bordado/base/files.hpp>
#include <bordado/base/text.hpp>
#include <bordado/calculix.hpp>
#include <bordado/design.hpp>

#include <fmt/format.h>

#include <filesystem>
#include <regex>
#include <set>

namespace of_examples_examples {

using namespace bordado;
namespace fs = std::filesystem;

namespace {

bool has(const std::string& text, const std::string& part) { return text.find(part) != std::string::npos; }

std::set<std::string> matches(const std::string& text, const std::string& pattern) {
  std::set<std::string> out;
  const std::regex regex(pattern);
  for (std::sregex_iterator at(text.begin(), text.end(), regex), end; at != end; ++at) out.insert((*at)[1]);
  return out;
}

/// The same in the order of the text.
std::vector<std::string> in_order(const std::string& text, const std::string& pattern) {
  std::vector<std::string> out;
  const std::regex regex(pattern);
  for (std::sregex_iterator at(text.begin(), text.end(), regex), end; at != end; ++at) out.push_back((*at)[1]);
  return out;
}

std::string sources(std::initializer_list<const char*> folders) {
  std::string out;
  for (const char* folder : folders)
    for (const auto& entry : fs::recursive_directory_iterator(test::source(folder)))
      if (entry.path().extension() == ".cpp") out += read_file(entry.path().string());
  return out;
}

}  // namespace

TEST_CASE("the skiff: the demo has what it is meant to show") {
  Findings findings;
  const Design d = open(test::source("examples/skiff/skiff.toml"), findings);
  CHECK(d.part.plies.size() >= 24);
  CHECK(d.part.frames.size() >= 2);
  CHECK(d.part.zones.size() >= 6);
  for (const char* group : {"bottom", "topsides", "transom", "keel-line", "sheer-edge", "mast-step", "chainplates"})
    CHECK_MESSAGE(d.surface.group(group) != nullptr, group);
  std::set<material::Kind> kinds;
  for (const auto& material : d.part.materials) kinds.insert(material.kind);
  CHECK(kinds.size() >= 3);
  CHECK(findings.count(Severity::warning) == 0);
  // Every normal of the bottom looks up into the hull.
  for (const mesh::ElementIndex e : d.surface.group("bottom")->elements) CHECK(d.geometry.normals[e].z() > 0);
  CHECK(d.orientation.pieces == 1);
}

TEST_CASE("the skiff is symmetric: so are its mass and its answer") {
  const test::Folder folder;
  Findings findings;
  const Design d = open(test::source("examples/skiff/skiff.toml"), findings);
  const layup::Mass mass = layup::mass(d);
  CHECK(std::abs(mass.centre->y()) < 1.0);  // mm; the mesh is not quite the same on both sides
  const test::Run solve = test::run(fmt::format("'{}' solve '{}' --folder '{}'", test::program(),
                                                test::source("examples/skiff/skiff.toml"), folder.path()));
  INFO(solve.err);
  REQUIRE(solve.status == 0);
  CHECK(has(solve.out, "largest deflection"));
  const calculix::Answer answer = calculix::read_answer(folder / "skiff.dat");
  // Sideways displacement along the keel stays small against the largest one.
  const double largest = answer.largest()->value.norm();
  CHECK(largest > 1.0);
  CHECK(largest < 30.0);
  const mesh::Group* const keel = d.surface.group("keel-line");
  std::set<std::int64_t> keel_ids;
  for (const mesh::Edge& edge : keel->edges) keel_ids.insert(d.surface.node_ids[edge.first]);
  for (const auto& row : answer.displacements)
    if (keel_ids.count(row.id)) CHECK(std::abs(row.value.y()) < 0.05 * largest);
}

TEST_CASE("the rudder blade and the tube spar: the commands of their walks work as written there") {
  for (const std::string name : {"rudder", "spar"}) {
    const std::string folder = test::source("examples/" + name);
    const test::Folder scratch;
    for (const auto& entry : fs::directory_iterator(folder))
      fs::copy(entry.path(), scratch / entry.path().filename().string());
    fs::create_directory(scratch / "out");
    std::set<std::string> verbs;
    for (const std::string& command : in_order(read_file(folder + "/README.md"), "\n    (bordado [^\n#]*)")) {
      const test::Run run = test::run(
          fmt::format("PATH='{}':$PATH {}", fs::path(test::program()).parent_path().string(), command), scratch.path());
      INFO(command << "\n" << run.out << run.err);
      CHECK(run.status == 0);
      verbs.insert(command.substr(8, command.find(' ', 8) - 8));
    }
    CHECK(verbs.size() >= 5);
  }
}

TEST_CASE("the rudder blade: bands round the nose, polygons through one skin or both, fibres along the leading edge") {
  Findings findings;
  const Design d = open(test::source("examples/rudder/rudder.toml"), findings);
  CHECK(findings.count(Severity::warning) == 0);
  const auto& zones = d.layup.zones;
  const auto id = [&](std::string_view name) { return *zones.find(name); };
  const auto exact = [&](std::string_view name) { return zones.exact_areas[id(name)]; };
  // Both skins alike, to what their meshes differ.
  double port = 0.0, starboard = 0.0;
  for (const mesh::ElementIndex e : zones.elements(id("nose")))
    (zones.contains(id("port"), e) ? port : starboard) += d.geometry.areas[e];
  CHECK(test::near(port, starboard, 0.01));
  // A band of 30 mm on each side of an edge 905 mm long; the head and tip cut it off askew.
  CHECK(test::near(exact("nose"), 2 * 30 * 905, 0.01));
  CHECK(test::near(exact("tail"), 2 * 18 * 901, 0.01));
  // The polygon's area seen from the side, twice; the skins lie nearly flat to that view.
  CHECK(test::near(exact("stock-field"), 2 * 0.5 * (85 + 55) * 300 + 55 * 40, 0.02));
  for (const mesh::ElementIndex e : zones.elements(id("patch"))) CHECK(zones.contains(id("port"), e));
  // Along the leading edge the frame is its tangent.
  const mesh::Group* const edge = d.surface.group("leading-edge", 1);
  const mesh::NodeTable at_nodes = mesh::elements_at_nodes(d.surface);
  const part::FrameId span = d.layup.frame_of(part::PlyId{0});
  for (const mesh::Edge& e : edge->edges)
    for (const mesh::ElementIndex element : at_nodes.of(e.first)) {
      const Vec3 tangent = (d.surface.points[e.second] - d.surface.points[e.first]).normalized();
      CHECK(std::abs(tangent.dot(d.layup.frames[span].directions[element])) > std::cos(3 * std::numbers::pi / 180));
    }
}

TEST_CASE("the tube spar: axial and hoop are square to each other, patches are discs when rolled out") {
  Findings findings;
  const Design d = open(test::source("examples/spar/spar.toml"), findings);
  CHECK(findings.all().empty());
  const auto& frames = d.layup.frames.all();
  for (mesh::ElementIndex e = 0; e < d.surface.element_count(); ++e) {
    if (!frames[1].directions.empty()) CHECK(std::abs(frames[0].directions[e].dot(frames[1].directions[e])) < 1e-3);
    CHECK(frames[0].directions[e].z() > 0.99);
  }
  const auto exact = [&](std::string_view name) { return d.layup.zones.exact_areas[*d.layup.zones.find(name)]; };
  // Elements are 10 mm wide, and twenty flats go round the tube.
  CHECK(test::near(exact("spreader"), std::numbers::pi * 45 * 45, 0.02));
  CHECK(test::near(exact("foot-sleeve"), 2 * std::numbers::pi * 32 * 160, 0.005));
}

TEST_CASE("the panel of the README: its commands work as written there") {
  const std::string readme = read_file(test::source("README.md"));
  CHECK(has(readme, read_file(test::source("examples/panel/panel.toml"))));  // the part file is shown whole
  const test::Folder folder;
  for (const char* file : {"panel.toml", "panel.msh"})
    fs::copy(test::source(std::string("examples/panel/") + file), folder / file);
  int commands = 0;
  for (const std::string& command : in_order(readme, "\n    (bordado [a-z]+ panel.toml[^\n#]*)")) {
    const test::Run run = test::run(
        fmt::format("PATH='{}':$PATH {}", fs::path(test::program()).parent_path().string(), command), folder.path());
    INFO(command << "\n" << run.out << run.err);
    CHECK(run.status == 0);
    ++commands;
  }
  CHECK(commands >= 4);
}

TEST_CASE("the example program runs") {
  const test::Run run =
      test::run(fmt::format("'{}' '{}'", test::example_program(), test::source("examples/skiff/skiff.toml")));
  INFO(run.err);
  CHECK(run.status == 0);
  CHECK(has(run.out, "heaviest laminate: [45W/0T/0C"));
  CHECK(has(run.out, "without the rim plies"));
}

TEST_CASE("somebody else's program finds the installed package, and is the one the README shows") {
  CHECK(has(read_file(test::source("README.md")), read_file(test::source("tests/examples/consumer/main.cpp"))));
  const test::Folder folder;
  const std::string flags = BORDADO_SANITIZED ? "-DCMAKE_CXX_FLAGS=-fsanitize=address,undefined" : "";
  const test::Run build =
      test::run(fmt::format("cmake --install '{0}' --prefix '{1}/installed' && cmake -G Ninja -S '{2}' -B '{1}/build' "
                            "-DCMAKE_PREFIX_PATH='{1}/installed' {3} && cmake --build '{1}/build'",
                            test::build_folder(), folder.path(), test::source("tests/examples/consumer"), flags));
  INFO(build.out << build.err);
  REQUIRE(build.status == 0);
  const test::Run run = test::run(
      fmt::format("'{}' '{}'", folder / "build/consumer", test::source("examples/panel/panel.toml")), folder.path());
  CHECK(run.status == 0);
  CHECK(has(run.out, "A11 of the first section: "));
  CHECK(fs::exists(folder / "panel.inp"));
  CHECK(test::run(fmt::format("'{}' --version", folder / "installed/bin/bordado")).out ==
        fmt::format("bordado {}\n", version()));
}

TEST_CASE("every code of a finding is in docs/findings.md, and none that is not used") {
  const std::string code_form = "([a-z]+\\.[a-z0-9]+(?:-[a-z0-9]+)*)";
  const std::set<std::string> told = matches(read_file(test::source("docs/findings.md")), "\n\\| `" + code_form + "`");
  CHECK(told.size() > 300);
  // What a finding is made of, wherever it is made, and whatever else looks like the codes that are told.
  const std::string all = sources({"src", "cli"});
  std::set<std::string> used =
      matches(all, "(?:Severity::[a-z]+, *\n? *|(?:error|warning|note|refuse|fail)\\( *\n? *)\"" + code_form + "\"");
  std::set<std::string> rooms;
  for (const std::string& code : told) rooms.insert(code.substr(0, code.find('.')));
  for (const std::string& text : matches(all, "\"" + code_form + "\""))
    if (const std::size_t point = text.find('.');
        rooms.count(text.substr(0, point)) == 1 && !has(text, ".hpp") && !has(text, ".vtu"))
      used.insert(text);
  used.insert({"part.material-unknown", "part.frame-unknown"});  // put together from the kind of name
  for (const std::string& code : used) CHECK_MESSAGE(told.count(code) == 1, code);
  for (const std::string& code : told) CHECK_MESSAGE(used.count(code) == 1, code);
}

TEST_CASE("no test compares with a tolerance that has a hidden absolute part") {
  const std::string hidden = std::string("App") + "rox";
  for (const auto& entry : fs::recursive_directory_iterator(test::source("tests")))
    if (const auto kind = entry.path().extension(); kind == ".cpp" || kind == ".hpp")
      CHECK_MESSAGE(!has(read_file(entry.path().string()), hidden), entry.path().string() << ": use test::near()");
}

TEST_CASE("every key of a part file is in docs/part-file.md") {
  std::set<std::string> keys =
      matches(read_file(test::source("src/part/read.cpp")) + read_file(test::source("src/part/kinds.cpp")),
              "(?:(?:\\.|->)(?:text|number|positive|vector|texts|table|array|node|choice|inner|vectors|whole)\\(|"
              "spot\\(\\*?[a-z]+, |"
              "direction\\(\\*?[a-"
              "z]+, )\"([A-Za-z0-9-]+)\"");
  CHECK(keys.size() > 25);
  std::string reference = read_file(test::source("docs/part-file.md")) + read_file(test::source("docs/materials.md"));
  keys.merge(matches(read_file(test::source("src/material/read.cpp")),
                     "(?:table_?(?:\\.|->)[a-z]+|maybe)\\(\"([A-Za-z0-9-]+)\""));
  for (const material::Quantity& q : material::quantities()) keys.insert(std::string(q.key));
  for (const std::string& key : keys)
    CHECK_MESSAGE((has(reference, fmt::format("`{}`", key)) || has(reference, fmt::format("`[{}]`", key))), key);
}

TEST_CASE("links of the documents lead somewhere, and every picture is linked from the README") {
  std::set<std::string> linked;
  std::vector<std::string> pages = {"README.md"};
  for (const auto& page : fs::directory_iterator(test::source("docs")))
    if (page.path().extension() == ".md") pages.push_back("docs/" + page.path().filename().string());
  for (const auto& example : fs::directory_iterator(test::source("examples")))
    if (fs::exists(example.path() / "README.md"))
      pages.push_back("examples/" + example.path().filename().string() + "/README.md");
  CHECK(pages.size() > 15);
  for (const std::string& page : pages) {
    const fs::path folder = fs::path(test::source(page)).parent_path();
    for (const std::string& link : matches(read_file(test::source(page)), "\\]\\(([^)#:]+)[^)]*\\)")) {
      CHECK_MESSAGE(fs::exists(folder / link), page << ": " << link);
      if (page == "README.md") linked.insert(fs::path(link).filename().string());
    }
  }
  for (const auto& picture : fs::directory_iterator(test::source("docs/screenshots")))
    CHECK_MESSAGE(linked.count(picture.path().filename().string()) == 1, picture.path().string());
}

TEST_CASE("code fragments of the part-file reference are read as written") {
  // The whole part shown at the top of the reference.
  const std::string reference = read_file(test::source("docs/part-file.md"));
  const auto begin = reference.find("```toml\n") + 8;
  Findings findings;
  CHECK(test::failure([&] {
          part::read_text(reference.substr(begin, reference.find("```", begin) - begin), "docs/part-file.md", findings);
        }) == "");
}

}  // namespace of_examples_examples
