// The review page: what is packed in it, read back by what its format says. How it looks and works in a browser:
// tests/web.
#include "support.hpp"

#include "../../src/base/base64.hpp"
#include "../../src/page/coarse.hpp"

#include <bordado/design.hpp>
#include <bordado/mesh/locate.hpp>
#include <bordado/page.hpp>
#include <bordado/review/check.hpp>

#include <zlib.h>

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include <cmath>
#include <cstring>
#include <map>
#include <numeric>

namespace of_page_page {

using namespace bordado;

namespace {

/// The head and the arrays of a page, unpacked by the description in src/review/page.cpp.
struct Unpacked {
  nlohmann::json head;
  std::string arrays;

  explicit Unpacked(const std::string& html) {
    const std::string mark = "id=\"data\">";
    const std::size_t at = html.find(mark) + mark.size();
    const auto packed = from_base64(std::string_view(html).substr(at, html.find('<', at) - at));
    REQUIRE(packed.has_value());
    std::string bytes(std::size_t{1} << 26, '\0');
    z_stream stream{};
    REQUIRE(::inflateInit2(&stream, 15 + 16) == Z_OK);
    stream.next_in = reinterpret_cast<Bytef*>(const_cast<char*>(packed->data()));
    stream.avail_in = static_cast<uInt>(packed->size());
    stream.next_out = reinterpret_cast<Bytef*>(bytes.data());
    stream.avail_out = static_cast<uInt>(bytes.size());
    REQUIRE(::inflate(&stream, Z_FINISH) == Z_STREAM_END);
    bytes.resize(stream.total_out);
    ::inflateEnd(&stream);
    std::uint64_t length = 0;
    std::memcpy(&length, bytes.data(), 8);
    head = nlohmann::json::parse(bytes.substr(8, length));
    arrays = bytes.substr(8 + length);
  }

  template <class Number>
  std::vector<Number> array(const nlohmann::json& block) const {
    const std::map<std::string, std::size_t> sizes = {{"f32", 4}, {"f64", 8}, {"i32", 4},
                                                      {"u32", 4}, {"i16", 2}, {"u8", 1}};
    REQUIRE(sizes.at(block["type"]) == sizeof(Number));
    const std::size_t count = block["count"], at = block["at"];
    REQUIRE(at % 4 == 0);
    REQUIRE(at + count * sizeof(Number) <= arrays.size());
    std::vector<Number> out(count);
    char* const to = reinterpret_cast<char*>(out.data());
    for (std::size_t b = 0; b < sizeof(Number); ++b)
      for (std::size_t i = 0; i < count; ++i) to[i * sizeof(Number) + b] = arrays[at + b * count + i];
    return out;
  }
};

Design opened(const std::string& example, Findings& findings, const std::optional<std::string>& variant = {}) {
  return open(part::read(test::source(fmt::format("examples/{0}/{0}.toml", example)), findings, {.variant = variant}),
              findings);
}

}  // namespace

TEST_CASE("the page of the hull holds the mesh, the directions, the stacks and the numbers of every section") {
  Findings findings;
  const Design d = opened("skiff", findings);
  review::check(d, findings);
  const page::PagePart part{&d, findings.all(), {}};
  const page::Page page = page::page({&part, 1});
  const Unpacked got(page.html);
  const auto& p = got.head["parts"][0];
  const std::size_t count = d.surface.element_count();
  CHECK(page.drawn == std::vector{count});
  CHECK(p["elements"] == count);
  CHECK(p["name"] == "Skiff hull");

  const auto points = got.array<float>(p["shape"]["points"]);
  auto corners = got.array<std::uint32_t>({{"at", p["shape"]["corners"]["at"]}, {"count", 4 * count}, {"type", "u32"}});
  for (std::size_t i = 4; i < corners.size(); ++i) corners[i] += corners[i - 4];
  const auto ids = got.array<double>(p["shape"]["ids"]);
  const auto stacks = got.array<std::uint32_t>(p["shape"]["stacks"]);
  const auto sections = got.array<std::uint32_t>(p["shape"]["sections"]);
  const auto point = [&](std::uint32_t n) { return Vec3(points[3 * n], points[3 * n + 1], points[3 * n + 2]); };
  const auto angles = got.array<std::int16_t>(p["frames"][index(d.layup.frame_of(part::PlyId{0}))]["angles"]);
  double furthest = 0.0, worst_angle = 0.0;
  for (mesh::ElementIndex e = 0; e < count; ++e) {
    CHECK_MESSAGE(ids[e] == static_cast<double>(d.surface.element_ids[e]), "element ", e);
    if (!d.layup.varies[d.layup.stack_of[e]])  // otherwise one for each section
      CHECK_MESSAGE(stacks[e] == index(d.layup.stack_of[e]), "element ", e);
    CHECK_MESSAGE(sections[e] == index(d.sections.section_of[e]), "element ", e);
    const auto real = d.surface.corners_of(e);
    for (std::size_t i = 0; i < 4; ++i) {
      const std::uint32_t n = corners[4 * e + i];
      furthest = std::max(furthest, (point(n) - d.surface.points[real[std::min(i, real.size() - 1)]]).norm());
    }
    // 0 degrees, turned from the element's first side about its normal.
    const Vec3& n = d.geometry.normals[e];
    const Vec3 side = point(corners[4 * e + 1]) - point(corners[4 * e]);
    const Vec3 along = (side - side.dot(n) * n).normalized();
    const double angle = angles[e] / 32767.0 * std::numbers::pi;
    const Vec3 zero = std::cos(angle) * along + std::sin(angle) * n.cross(along);
    const Vec3& wanted = d.layup.directions_of(part::PlyId{0})[e];
    worst_angle = std::max(worst_angle, std::acos(std::min(1.0, zero.dot(wanted))));
  }
  CHECK(furthest < 4200.0 * std::ldexp(1.0, -23));         // single precision of the hull's length
  CHECK(worst_angle < std::numbers::pi / 32767.0 + 2e-4);  // its rounding, and that of points and warped normals

  const auto numbers = got.array<float>(p["sections"]["numbers"]);
  REQUIRE(numbers.size() == 39 * d.sections.count());
  for (const section::SectionId s : d.sections.ids()) {
    const auto stack = section::laminate_of(d.part, d.sections, s);
    const laminate::Stiffness k = laminate::stiffness(stack, d.sections.bottom[s]);
    const float* const v = &numbers[39 * index(s)];
    CHECK(test::near(v[0], k.A(0, 0), 1e-6));
    CHECK(test::near(v[2], k.A(0, 2), 1e-6));
    CHECK(test::near(v[5], k.A(2, 2), 1e-6));
    CHECK(test::near(v[7], k.B(0, 1), 1e-6));
    CHECK(test::near(v[15], k.D(1, 1), 1e-6));
    CHECK(test::near(v[20], k.H(1, 1), 1e-6));
    // Ex of the plate that is free to bend, from the compliance.
    const double h = d.sections.thickness[s], middle = d.sections.bottom[s] + 0.5 * h;
    CHECK(test::near(1.0 / (h * v[21]), laminate::in_plane(k, h, middle).Ex, 1e-5));
    CHECK(test::near(12.0 / (h * h * h * v[27]), laminate::in_bending(k, h, middle).Ex, 1e-5));
    CHECK(test::near(1.0 / (h * v[33]), laminate::in_plane_constrained(k, h).Ex, 1e-5));
    CHECK(p["sections"]["list"][index(s)]["words"] == nlohmann::json(laminate::in_words(stack, d.part.units)));
    CHECK(p["sections"]["list"][index(s)]["angles"].size() == stack.size());
  }
  for (const layup::StackId s : d.layup.stacks())
    CHECK(p["stacks"][index(s)]["code"] == layup::code(d.part, d.layup, s));
  const layup::Mass mass = layup::mass(d);
  CHECK(test::near(p["mass"].get<double>(), mass.mass * 1000.0));  // tonnes to kilograms
}

TEST_CASE("findings lead to the element, ply or zone that they are about") {
  Findings findings;
  const Design d = opened("skiff", findings);
  findings.warning("mesh.test", "about an element", d.surface.place_of(17));
  findings.warning("part.test", "about a ply", d.part.plies.all()[5].where);
  const auto zone =
      std::find_if(d.part.zones.begin(), d.part.zones.end(), [](const auto& z) { return z.name == "core"; });
  findings.note("zone.test", "about a zone", zone->where);
  findings.note("file.test", "about nothing to see", Place::in("elsewhere.txt"));
  const page::PagePart part{&d, findings.all(), {}};
  const auto shown = Unpacked(page::page({&part, 1}).html).head["parts"][0]["findings"];
  const std::size_t n = shown.size();
  CHECK(shown[n - 4]["shows"] == nlohmann::json{{"element", 17}});
  // Plies of one code stand in one line: the first of them is shown.
  const std::size_t ply = shown[n - 3]["shows"]["ply"];
  CHECK(d.part.plies.all()[ply].where.line == d.part.plies.all()[5].where.line);
  CHECK(d.layup.zones.names.all()[shown[n - 2]["shows"]["zone"].get<std::size_t>()] == "core");
  CHECK(shown[n - 1]["shows"].is_null());
}

TEST_CASE("the same part gives the same page; its weight") {
  Findings findings;
  const Design d = opened("rudder", findings);
  const page::PagePart part{&d, {}, {}};
  const page::Page first = page::page({&part, 1});
  CHECK(first.html == page::page({&part, 1}).html);
  CHECK(first.program_bytes < 1'500'000);
  CHECK(static_cast<double>(first.data_bytes) < 60.0 * static_cast<double>(d.surface.element_count()));
  CHECK(first.html.size() < first.program_bytes + first.data_bytes + 200);
  CHECK(first.html.find("https://") == std::string::npos);  // nothing to fetch
  CHECK(first.html.find("default-src 'none'") != std::string::npos);
}

TEST_CASE("frames that are carried bring their distance and doubt") {
  Findings findings;
  const Design d = opened("rudder", findings);
  const page::PagePart part{&d, {}, {}};
  const Unpacked got(page::page({&part, 1}).html);
  std::map<std::string, std::vector<float>> fields;
  for (const auto& f : got.head["parts"][0]["fields"]) fields[f["name"]] = got.array<float>(f["values"]);
  const auto span =
      std::find_if(d.part.frames.begin(), d.part.frames.end(), [](const auto& f) { return f.name == "span"; });
  const auto& field = d.layup.frames.all()[static_cast<std::size_t>(span - d.part.frames.begin())];
  REQUIRE(fields.count("doubt of frame span") == 1);
  REQUIRE(!field.doubt.empty());
  for (mesh::ElementIndex e = 0; e < d.surface.element_count(); ++e) {
    CHECK_MESSAGE(fields["doubt of frame span"][e] == static_cast<float>(field.doubt[e]), "element ", e);
    CHECK_MESSAGE(fields["distance to what makes frame span"][e] == static_cast<float>(field.distance[e]), "element ",
                  e);
  }
}

TEST_CASE("a part's name cannot break out of the page") {
  Findings findings;
  Design d = opened("panel", findings);
  d.part.name = "</title><script>alert(1)</script> & co";
  const page::PagePart part{&d, {}, {}};
  const std::string html = page::page({&part, 1}).html;
  CHECK(html.find("<title>&lt;/title&gt;&lt;script&gt;alert(1)&lt;/script&gt; &amp; co</title>") != std::string::npos);
  CHECK(html.find("alert(1)</script>") == std::string::npos);
}

TEST_CASE("two variants: where they differ, and what changed") {
  Findings findings;
  const Design racing = opened("rudder", findings), training = opened("rudder", findings, "training");
  const std::vector<page::PagePart> parts{{&racing, {}, {}}, {&training, {}, {}}};
  const Unpacked got(page::page(parts).html);
  CHECK(got.head["comparison"]["changes"].size() == 3);
  const auto differs = got.array<std::uint8_t>(got.head["parts"][0]["differs"]);
  CHECK(differs == got.array<std::uint8_t>(got.head["parts"][1]["differs"]));  // one mesh: seen alike from both
  // G1 and P1 lie where the one or the other lies; nowhere else does anything change.
  const auto covers = [](const Design& d, mesh::ElementIndex e, const std::string& id) {
    for (const part::PlyId p : d.layup.plies_of(d.layup.stack_of[e]))
      if (d.part.plies[p].id == id) return true;
    return false;
  };
  for (mesh::ElementIndex e = 0; e < racing.surface.element_count(); ++e)
    CHECK_MESSAGE((differs[e] != 0) == (covers(racing, e, "P1") || covers(training, e, "G1")), "element ", e);
  CHECK(std::accumulate(differs.begin(), differs.end(), 0) > 0);
}

TEST_CASE("another angle, another mesh and a missing piece are differences") {
  const auto part_of = [](const std::string& angle) {
    return "[part]\nname = \"P\"\nunits = \"mm, t, s\"\nmesh = { file = \"p.msh\", length = \"mm\" }\nsurface = "
           "\"bottom\"\n"
           "side = { along = [0, 0, 1] }\n[material.c]\nkind = \"isotropic\"\nE = 70000\nnu = 0.3\ndensity = "
           "2.7e-9\nthickness = "
           "0.2\n[frame.x]\nvector = [1, 0, 0]\n[layup]\nmaterial = \"c\"\nframe = \"x\"\nplies = [ { id = \"A\", "
           "angle = " +
           angle + " } ]\n";
  };
  const auto designed = [&](const std::string& angle, int nx, double length) {
    const test::Folder folder;
    folder.write("p.msh", test::msh(test::Grid::rectangle(nx, 10, length, 100)));
    folder.write("p.toml", part_of(angle));
    Findings findings;
    return open(folder / "p.toml", findings);
  };
  const Design plain = designed("0", 10, 100), turned = designed("30", 10, 100), finer = designed("0", 25, 100),
               shorter = designed("0", 5, 50);
  const auto between = [](const Design& a, const Design& b) {
    const std::vector<page::PagePart> parts{{&a, {}, {}}, {&b, {}, {}}};
    const Unpacked got(page::page(parts).html);
    return got.array<std::uint8_t>(got.head["parts"][0]["differs"]);
  };
  const auto all = [](const std::vector<std::uint8_t>& v, int value) {
    return std::all_of(v.begin(), v.end(), [&](int x) { return x == value; });
  };
  CHECK(all(between(plain, turned), 1));
  CHECK(all(between(plain, finer), 0));
  const auto missing = between(plain, shorter);
  for (mesh::ElementIndex e = 0; e < missing.size(); ++e) {
    const double x = plain.geometry.centres[e].x();
    if (x < 50.0) CHECK(missing[e] == 0);
    if (x > 61.0) CHECK(missing[e] == 2);
  }
}

TEST_CASE(
    "a large mesh is drawn coarser: few enough elements, on the surface, its area kept, every kind of stack there") {
  const test::Grid dome{.nx = 120, .ny = 100, .map = [](double u, double v) {
                          return Vec3(100 * u, 80 * v, 20 * std::sin(3 * u) * std::cos(2 * v));
                        }};
  for (const bool triangles : {false, true}) {
    test::Grid grid = dome;
    grid.triangles = triangles;
    const mesh::Surface surface = test::surface(grid);
    const mesh::Geometry geometry = mesh::geometry(surface);
    const page::Drawn whole = page::drawn(surface, geometry, 100000);
    CHECK(whole.cell == 0.0);
    CHECK(whole.elements.size() == surface.element_count());
    const page::Drawn some = page::drawn(surface, geometry, 2000);
    CHECK(some.cell > 0.0);
    CHECK(some.elements.size() <= 2000);
    CHECK(some.elements.size() > 500);
    CHECK(std::is_sorted(some.elements.begin(), some.elements.end()));
    const mesh::Locator locator(surface);
    double area = 0.0;
    for (const auto& c : some.corners) {
      const auto p = [&](std::size_t i) { return some.points[c[i]]; };
      area += 0.5 * (p(1) - p(0)).cross(p(2) - p(0)).norm();
      if (c[3] != mesh::no_index) area += 0.5 * (p(2) - p(0)).cross(p(3) - p(0)).norm();
    }
    double off = 0.0, exact = 0.0;
    for (const Vec3& p : some.points) off = std::max(off, locator.nearest(p).distance);
    for (const double a : geometry.areas) exact += a;
    CHECK(off < some.cell * some.cell / 40.0);  // sagitta of a cube's side on the least radius here
    CHECK(test::near(area, exact, 0.08));       // the rim is drawn in by half a cube
  }
}

TEST_CASE("of quadratic elements the corners are drawn") {
  for (const bool triangles : {false, true}) {
    const mesh::Surface surface = test::surface({.nx = 6,
                                                 .ny = 5,
                                                 .map = [](double u, double v) { return Vec3(u, v, u * u); },
                                                 .triangles = triangles,
                                                 .quadratic = true});
    const page::Drawn drawn = page::drawn(surface, mesh::geometry(surface), 100000);
    CHECK(drawn.points.size() == 42);
    CHECK(drawn.elements.size() == surface.element_count());
    for (mesh::ElementIndex e = 0; e < surface.element_count(); ++e) {
      const auto corners = surface.corners_of(e);
      CHECK((drawn.corners[e][3] == mesh::no_index) == triangles);
      for (std::size_t i = 0; i < corners.size(); ++i)
        CHECK(drawn.points[drawn.corners[e][i]] == surface.points[corners[i]]);
    }
  }
}

TEST_CASE("a page of a coarser drawing keeps the numbers of the whole part") {
  Findings findings;
  const Design d = opened("skiff", findings);
  const page::PagePart part{&d, {}, {}};
  const page::Page page = page::page({&part, 1}, {.most_elements = 1000});
  CHECK(page.drawn[0] <= 1000);
  const Unpacked got(page.html);
  const auto& p = got.head["parts"][0];
  CHECK(p["elements"] == 2953);
  CHECK(p["cell"].get<double>() > 0.0);
  const auto areas = got.array<float>(p["shape"]["areas"]);
  const double sum = std::accumulate(areas.begin(), areas.end(), 0.0);
  CHECK(test::near(sum * 1e-6, p["area"].get<double>(), 0.01));
  std::size_t elements = 0;
  for (const auto& zone : p["zones"])
    if (zone["name"] == "everything") elements = zone["elements"];
  CHECK(elements == 2953);
  CHECK_THROWS_AS(page::page({&part, 1}, {.most_elements = 10}), std::invalid_argument);
  CHECK_THROWS_AS(page::page({}), std::invalid_argument);
}

TEST_CASE("fields of a file: on elements, on nodes, vectors, and none where the file has no place") {
  Findings findings;
  const Design d = opened("panel", findings);
  std::vector<mesh::Array> arrays{{"index", false, 1, {}}, {"height mm", true, 1, {}}, {"push", false, 3, {}}};
  for (mesh::ElementIndex e = 0; e < d.surface.element_count(); ++e) {
    arrays[0].values.push_back(e);
    arrays[2].values.insert(arrays[2].values.end(), {3.0, 0.0, 4.0});
  }
  for (const Vec3& p : d.surface.points) arrays[1].values.push_back(2.0 * p.x() - p.z());
  const test::Folder folder;
  mesh::write(d.surface, folder / "f.vtu", arrays);
  mesh::Sampled sampled = mesh::read_sampled(folder / "f.vtu", {}, findings);
  const auto fields = page::page_fields(sampled, d);
  const auto find = [&](const std::string& name) {
    const auto found = std::find_if(fields.begin(), fields.end(), [&](const auto& f) { return f.name == name; });
    REQUIRE(found != fields.end());
    return *found;
  };
  CHECK(find("height").unit == "mm");
  for (mesh::ElementIndex e = 0; e < d.surface.element_count(); ++e) {
    const Vec3& c = d.geometry.centres[e];
    CHECK(find("index").values[e] == e);
    CHECK(test::near(find("height").values[e], 2.0 * c.x() - c.z(), 0.002));  // the panel is curved
    CHECK(test::near(find("push").values[e], 5.0));
  }
  for (Vec3& p : sampled.surface.points) p.z() += 1e5;
  const auto far = page::page_fields(sampled, d);
  for (const double v : far[0].values) CHECK(std::isnan(v));
  const page::PagePart wrong{&d, {}, {{"short", "", {1.0, 2.0}}}};
  CHECK_THROWS_AS(page::page({&wrong, 1}), std::invalid_argument);
}

TEST_CASE("elements that the moved edge of a ply crosses have stacks of their own on the page") {
  Findings findings;
  const part::Part part = part::read_text(
      "[part]\nname = \"E\"\nunits = \"mm, t, s\"\nmesh = { file = \"g.msh\", length = \"mm\" }\nside = "
      "\"as-meshed\"\nsurface = \"bottom\"\n" +
          test::materials() +
          "[zone.z]\nbox = { from = [21.3, 11.7, -1], to = [71.3, 41.7, 1] }\n[layup]\nmaterial = \"ud\"\nframe = "
          "\"x\"\nplies = [ { id = \"A\", angle = 0 }, { id = \"B\", angle = 0, zone = \"z\", edge = -4.2 } ]\n",
      "e.toml", findings);
  const Design d = open(part, test::surface(test::Grid::rectangle(23, 17, 100, 60)), findings);
  const page::PagePart shown{&d, {}, {}};
  const Unpacked got(page::page({&shown, 1}).html);
  const auto& p = got.head["parts"][0];
  layup::LayersOn layers_on(d);
  const auto stacks = got.array<std::uint32_t>(p["shape"]["stacks"]);
  for (mesh::ElementIndex e = 0; e < stacks.size(); ++e) {
    REQUIRE(stacks[e] < p["stacks"].size());
    double h = 0.0;
    for (const layup::LaidLayer& layer : layers_on(e)) h += layer.thickness;
    CHECK(test::near(p["stacks"][stacks[e]]["thickness"].get<double>(), h, 0.01));
  }
}

TEST_CASE("a part differs where its layers do, though all plies are declared alike") {
  // The core's zone is 40 wide or 60: plies that run out from its border lie elsewhere, in the same stack.
  const auto designed = [](double end, int across) {
    const test::Folder folder;
    folder.write("p.msh", test::msh(test::Grid::rectangle(50, across, 100, 40)));
    folder.write("p.toml", fmt::format(R"([part]
name = "P"
units = "mm, t, s"
mesh = {{ file = "p.msh", length = "mm" }}
surface = "bottom"
side = {{ along = [0, 0, 1] }}
[material.c]
kind = "isotropic"
E = 70000
nu = 0.3
density = 2.7e-9
thickness = 1
[frame.x]
vector = [1, 0, 0]
[zone.thick]
box = {{ from = [-200, -1, -1], to = [{}, 50, 1] }}
[layup]
material = "c"
frame = "x"
plies = [ {{ id = "A", angle = 0 }}, {{ id = "B", angle = 0, zone = "thick", chamfer = {{ length = 30 }} }} ]
)",
                                       end));
    Findings findings;
    return open(folder / "p.toml", findings);
  };
  const auto between = [](const Design& a, const Design& b) {
    const std::vector<page::PagePart> parts{{&a, {}, {}}, {&b, {}, {}}};
    const Unpacked got(page::page(parts).html);
    return got.array<std::uint8_t>(got.head["parts"][0]["differs"]);
  };
  const Design forty = designed(40, 10), again = designed(40, 10), sixty = designed(60, 10), finer = designed(40, 12);
  for (const int x : between(forty, again)) CHECK(x == 0);
  const auto differs = between(forty, sixty);
  for (mesh::ElementIndex e = 0; e < differs.size(); ++e) {
    const double x = forty.geometry.centres[e].x();
    CHECK_MESSAGE((differs[e] != 0) == (x > 10.0 && x < 60.0), "at x = ", x);
  }
  for (const int x : between(forty, finer)) CHECK(x == 0);
}

TEST_CASE("of two skins that lie on each other the one that faces the same way is compared, on any mesh") {
  const auto designed = [](int n, const std::string& more) {
    // One skin faces up, the other down, at the same place.
    std::string nodes, elements;
    for (const int skin : {0, 1})
      for (int i = 0; i <= n; ++i)
        for (int j = 0; j <= n; ++j)
          nodes +=
              fmt::format("{} {} {} 0\n", skin * (n + 1) * (n + 1) + i * (n + 1) + j + 1, 100.0 * i / n, 100.0 * j / n);
    int id = 0;
    for (const int skin : {0, 1})
      for (int i = 0; i < n; ++i)
        for (int j = 0; j < n; ++j) {
          const int at = skin * (n + 1) * (n + 1) + i * (n + 1) + j + 1, up = at + n + 1;
          elements += skin == 0 ? fmt::format("{} 3 2 1 1 {} {} {} {}\n", ++id, at, up, up + 1, at + 1)
                                : fmt::format("{} 3 2 2 2 {} {} {} {}\n", ++id, at, at + 1, up + 1, up);
        }
    const test::Folder folder;
    folder.write("p.msh",
                 fmt::format("$MeshFormat\n2.2 0 8\n$EndMeshFormat\n$PhysicalNames\n2\n2 1 \"up\"\n2 2 \"down\"\n"
                             "$EndPhysicalNames\n$Nodes\n{}\n{}$EndNodes\n$Elements\n{}\n{}$EndElements\n",
                             2 * (n + 1) * (n + 1), nodes, id, elements));
    folder.write(
        "p.toml",
        "[part]\nname = \"P\"\nunits = \"mm, t, s\"\nmesh = { file = \"p.msh\", length = \"mm\" }\nsurface = "
        "\"bottom\"\nside = \"as-meshed\"\n[material.c]\nfrom = \"carbon-ud\"\n[material.g]\nfrom = "
        "\"glass-ud\"\n[frame.x]\nvector = [1, 0, 0]\n[zone.a]\ngroup = \"up\"\n[zone.b]\ngroup = "
        "\"down\"\n[layup]\nframe = \"x\"\nplies = [ { id = \"A\", material = \"c\", angle = 30, zone = \"a\" }, "
        "{ id = \"B\", material = \"g\", angle = 0, zone = \"b\" }" +
            more + " ]\n");
    Findings findings;
    return open(folder / "p.toml", findings);
  };
  const Design coarse = designed(8, ""), fine = designed(9, ""),
               more = designed(9, ", { id = \"C\", material = \"c\", angle = 0, zone = \"b\" }");
  const auto between = [](const Design& a, const Design& b) {
    const std::vector<page::PagePart> parts{{&a, {}, {}}, {&b, {}, {}}};
    const Unpacked got(page::page(parts).html);
    return got.array<std::uint8_t>(got.head["parts"][0]["differs"]);
  };
  for (const int x : between(coarse, fine)) CHECK(x == 0);
  const auto differs = between(coarse, more);
  for (mesh::ElementIndex e = 0; e < differs.size(); ++e)
    CHECK_MESSAGE((differs[e] != 0) == (coarse.geometry.normals[e].z() < 0.0), "element ", e);
}

TEST_CASE("a thickness that varies is the same on another mesh, and not where its table is another") {
  const auto designed = [](int n, const std::string& thickest) {
    const test::Folder folder;
    folder.write("p.msh", test::msh(test::Grid::rectangle(n, n, 100, 100)));
    folder.write(
        "p.toml",
        "[part]\nname = \"P\"\nunits = \"mm, t, s\"\nmesh = { file = \"p.msh\", length = \"mm\" }\nsurface = "
        "\"bottom\"\nside = { along = [0, 0, 1] }\n[material.c]\nfrom = \"carbon-ud\"\n[frame.x]\nvector = [1, 0, "
        "0]\n[layup]\nframe = \"x\"\nmaterial = \"c\"\nplies = [ { id = \"A\", angle = 0, thickness = { of = [0, 0, "
        "0], table = [[0, 0.2], [141, " +
            thickest + "]] } } ]\n");
    Findings findings;
    return open(folder / "p.toml", findings);
  };
  const auto between = [](const Design& a, const Design& b) {
    const std::vector<page::PagePart> parts{{&a, {}, {}}, {&b, {}, {}}};
    const Unpacked got(page::page(parts).html);
    return got.array<std::uint8_t>(got.head["parts"][0]["differs"]);
  };
  const Design coarse = designed(10, "1.0"), fine = designed(13, "1.0"), thicker = designed(13, "1.4");
  CHECK(layup::signature(coarse, coarse.layup.stack_of[0]) == layup::signature(fine, fine.layup.stack_of[0]));
  CHECK(layup::signature(fine, fine.layup.stack_of[0]) != layup::signature(thicker, thicker.layup.stack_of[0]));
  for (const int x : between(coarse, fine)) CHECK(x == 0);
  const auto differs = between(coarse, thicker);
  for (mesh::ElementIndex e = 0; e < differs.size(); ++e)
    if (coarse.geometry.centres[e].norm() > 70.0) CHECK(differs[e] == 1);
}

}  // namespace of_page_page
