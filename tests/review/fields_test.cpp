// Field files: what an independent reader finds in them.
#include "support.hpp"

#include <bordado/design.hpp>
#include <bordado/review/book.hpp>
#include <bordado/review/fields.hpp>

#include <fmt/format.h>
#include <nlohmann/json.hpp>

namespace of_review_fields {

using namespace bordado;

TEST_CASE("fields of the hull, read by meshio: names, units, values, plies") {
  const test::Folder folder;
  Findings findings;
  const Design d = open(test::source("examples/skiff/skiff.toml"), findings);
  const auto arrays = review::fields(d, review::Plies::included);
  mesh::write(d.surface, folder / "f.vtu", arrays);
  const std::string script = R"(import json, sys, meshio, numpy
m = meshio.read(sys.argv[1])
out = {}
for name, blocks in m.cell_data.items():
    all = numpy.concatenate([b.reshape(len(b), -1) for c, b in zip(m.cells, blocks)
                             if c.type.startswith(("quad", "triangle"))])  # lines of edge groups have no values
    out[name] = [all.shape[0], all.shape[1], float(all.min()), float(all.max()), float((all ** 2).sum())]
print(json.dumps(out)))";
  folder.write("read.py", script);
  const test::Run run = test::run("/usr/bin/python3 read.py f.vtu", folder.path());
  INFO(run.err);
  REQUIRE(run.status == 0);
  const auto read = nlohmann::json::parse(run.out);
  for (const mesh::Array& array : arrays) {
    INFO(array.name);
    REQUIRE(read.contains(array.name));
    CHECK(read[array.name][0] == d.surface.element_count());
    CHECK(read[array.name][1] == array.components);
    double squares = 0.0;
    for (const double v : array.now()) squares += v * v;
    CHECK(test::near(read[array.name][4].get<double>(), squares, 1e-9));
  }
  CHECK(test::near(read["thickness mm"][2], 1.41));
  CHECK(read["mass per area kg/m^2"][3] > 1.0);
  const auto book = review::ply_book(d);
  CHECK(test::near(
      read["ply K1"][4],
      static_cast<double>(book.plies[static_cast<std::size_t>(std::find_if(d.part.plies.begin(), d.part.plies.end(),
                                                                           [](const auto& p) { return p.id == "K1"; }) -
                                                              d.part.plies.begin())]
                              .elements)));  // unit vectors where it lies, nought elsewhere
}

TEST_CASE("fields say what sections and the mass say") {
  Findings findings;
  const Design d = open(test::source("examples/rudder/rudder.toml"), findings);
  const auto arrays = review::fields(d, review::Plies::left_out);
  const auto find = [&](const std::string& name) -> const mesh::Array& {
    for (const mesh::Array& array : arrays)
      if (array.name == name) return array;
    FAIL(name);
    return arrays[0];
  };
  double mass = 0.0;
  const auto& per_area = find("mass per area kg/m^2").values;
  for (mesh::ElementIndex e = 0; e < per_area.size(); ++e) mass += per_area[e] * d.geometry.areas[e] * 1e-6;
  CHECK(test::near(mass, layup::mass(d).mass * 1e3, 1e-9));
  for (mesh::ElementIndex e = 0; e < 100; ++e)
    CHECK(find("plies").values[e] == d.sections.layers_of(d.sections.section_of[e]).size());
}

}  // namespace of_review_fields
