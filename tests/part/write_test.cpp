// Parts written and read back: nothing is lost.
#include "support.hpp"

#include <bordado/base/files.hpp>
#include <bordado/deck.hpp>
#include <bordado/design.hpp>
#include <bordado/review/compare.hpp>

#include <fmt/format.h>
#include <Eigen/Geometry>

#include <filesystem>

namespace of_part_write {

using namespace bordado;

namespace {

struct Random {
  std::mt19937 engine;
  double operator()(double low, double high) { return std::uniform_real_distribution<double>(low, high)(engine); }
  bool coin() { return (*this)(0, 1) < 0.5; }
  int upto(int count) { return static_cast<int>((*this)(0, count - 1e-9)); }
  Vec3 point() { return {(*this)(-100, 100), (*this)(-100, 100), (*this)(-100, 100)}; }
  Vec3 direction() { return point().normalized(); }
  Declared<std::string> name(const std::string& stem, int count) {
    return {fmt::format("{} {}", stem, upto(count)), {}};
  }
  part::PointOrName spot() {
    if (coin()) return {point(), {}};
    return {std::string("curve 0"), {}};
  }
};

part::Frame random_frame(Random& r, const std::string& name) {
  part::Frame frame{name, {}, {}, {}, {}, {}};
  const Vec3 x = r.direction(), y = x.unitOrthogonal();
  part::Mapped mapped{{"maps/other.vtu", {}}, "fibre", r.coin() ? 1.0 : 1000.0, part::Rigid{}};
  if (r.coin()) mapped.position = part::Rigid{r.point(), r.direction(), Angle::degrees(r(-90, 90)), r.point()};
  if (r.coin())
    mapped.position = part::PointPairs{{{r.point(), r.point()}, {r.point(), r.point()}, {r.point(), r.point()}}};
  if (r.coin()) mapped.position = part::BestFit{};
  const decltype(frame.kind) all[] = {
      part::ProjectedVector{r.direction()},
      part::Cylindrical{r.point(), r.direction(), static_cast<part::Cylindrical::Take>(r.upto(3))},
      part::Spherical{r.point(), r.direction(), static_cast<part::Spherical::Take>(r.upto(3))},
      part::AsMeshedSide{},
      part::AxisSystem{x, y, r.upto(3)},
      part::AlongCurves{{r.name("curve", 3), {"other curve", {}}}},
      part::GuideSurface{{"guide.msh", {}}, r.coin() ? 1.0 : 25.0, "edge \"1\""},
      part::Blend{r.name("frame", 9), r.name("frame", 9), r.spot(), r(1, 100)},
      mapped};
  frame.kind = all[r.upto(9)];
  if (r.coin()) frame.turn = Angle::degrees(r(-90, 90));
  if (frame.turn.degrees() == 0.0 && r.coin())
    frame.turns =
        part::TurnByDistance{r.spot(), {{0.0, Angle::degrees(r(0, 9))}, {r(1, 50), Angle::degrees(r(0, 90))}}};
  else if (frame.turn.degrees() == 0.0 && r.coin())
    frame.turns = part::TurnByField{{"steer.vtu", {}}, "angle", 1.0};
  if (r.coin()) frame.fallback = r.point();
  return frame;
}

part::Zone random_zone(Random& r, const std::string& name) {
  const Vec3 a = r.point(), b = r.point();
  const double infinite = std::numeric_limits<double>::infinity();
  part::Polygon polygon{std::vector<Vec3>{r.point(), r.point(), r.point()}, r.direction(), -infinite, infinite};
  if (r.coin()) polygon.outline = r.name("curve", 3);
  if (r.coin()) polygon.low = r(-100, 0), polygon.high = r(0, 100);
  const decltype(part::Zone::kind) all[] = {part::MeshGroup{"group é"},
                                            part::Box{a.cwiseMin(b), a.cwiseMax(b)},
                                            part::Ball{r.point(), r(1, 50)},
                                            part::Cylinder{r.point(), r.direction(), r(1, 50)},
                                            part::HalfSpace{r.point(), r.direction()},
                                            part::Facing{r.direction(), Angle::degrees(r(1, 90))},
                                            polygon,
                                            part::Near{r.spot(), r(1, 30)},
                                            part::Rows{r.spot(), 1 + r.upto(5)},
                                            part::HangingTogether{r.point()},
                                            part::Grown{r.name("zone", 9), r.coin() ? r(1, 9) : -r(1, 9)},
                                            part::ElementIds{{1, 5, 123456789012}},
                                            part::Union{{r.name("zone", 9), {"other zone", {}}}},
                                            part::Common{{r.name("zone", 9)}},
                                            part::Opposite{r.name("zone", 9)},
                                            part::Minus{r.name("zone", 9), {r.name("zone", 9)}}};
  return {name, all[r.upto(16)], {}, r.coin() ? 0.5 : r(0.1, 1.0)};
}

part::Amount random_amount(Random& r);
void random_loads(part::Part& p, Random& r);

part::Part random_part(Random& r) {
  part::Part p;
  p.file = "made/p.toml";
  p.name = "Part \"" + std::to_string(r.upto(1000)) + "\"\twith \\ é";
  if (r.coin()) p.units = UnitSystem::parse("m, kg, s");
  p.mesh_file = {"mesh/m.msh", {}};
  p.mesh_factor = r.coin() ? 1.0 : r(0.1, 30);
  if (r.coin()) p.mesh_weld = r(0, 1);
  const mesh::Side sides[] = {mesh::Towards{r.point()}, mesh::AwayFrom{r.point()}, mesh::Along{r.point()}, mesh::Side{},
                              mesh::Outwards{},         mesh::Outwards{true}};
  p.side = sides[r.upto(6)];
  p.flush = static_cast<part::Flush>(r.upto(3));
  if (r.coin()) p.offset = r(-3, 3);
  for (int i = 0; i < 4; ++i) {
    p.materials.push_back(test::random_material(r.engine, fmt::format("material {}", i)));
    if (p.materials.back().kind == material::Kind::fibre)
      p.materials.back() = [&] {
        material::Material m;
        m.name = fmt::format("material {}", i);
        m.elastic = test::carbon();
        return m;
      }();
    p.materials.back().mark = std::string(1, static_cast<char>('A' + i));
  }
  const auto maybe = [&](const std::string& stem, int count) {
    return r.coin() ? std::optional(r.name(stem, count)) : std::nullopt;
  };
  for (int i = 0; i < 2; ++i) {
    part::Laminate l{.name = fmt::format("laminate {}", i)};
    l.material = maybe("material", 4);
    l.frame = maybe("frame", 9);
    if (r.coin())
      l.code = {"[0/±45/90_2]s", {}};
    else
      l.lines = {{maybe("material", 4), maybe("frame", 9), Angle::degrees(r(-90, 90)), r(0.1, 1)},
                 {{}, {}, Angle::degrees(r(-90, 90)), {}}};
    l.mirror = static_cast<part::Mirror>(r.upto(3));
    l.repeat = 1 + r.upto(3);
    p.laminates.push_back(l);
  }
  const decltype(part::Curve::kind) curves[] = {
      part::Polyline{{r.point(), r.point(), r.point()}, r.coin()}, part::EdgeGroup{"edge"},
      part::Crease{Angle::degrees(r(1, 90)), r.point()},
      part::Border{r.point(), r.point(), r.coin() ? std::optional(r.point()) : std::nullopt}, part::Opening{r.point()}};
  for (int i = 0; i < 3; ++i)
    p.curves.push_back(
        {fmt::format("curve {}", i), curves[r.upto(5)], r.coin() ? std::optional(r.point()) : std::nullopt, {}});
  for (int i = 0; i < 9; ++i) p.frames.push_back(random_frame(r, fmt::format("frame {}", i)));
  for (int i = 0; i < 9; ++i) p.zones.push_back(random_zone(r, fmt::format("zone {}", i)));
  p.list.material = r.name("material", 4);
  p.list.frame = r.name("frame", 9);
  p.list.zone = maybe("zone", 9);
  p.list.listed = static_cast<part::Listed>(r.upto(2));
  for (int i = 0; i < 20; ++i) {
    part::PlyLine line{.id = fmt::format("P, {};", i)};
    line.material = maybe("material", 4);
    line.frame = maybe("frame", 9);
    line.zone = maybe("zone", 9);
    line.thickness = r(0.1, 1);
    const int way = r.upto(i > 0 ? 4 : 3);
    if (way == 0) line.angle = Angle::degrees(r(-90, 90));
    if (way == 1) line.code = {"[0A/30B]s", {}};
    if (way == 2) line.laminate = r.name("laminate", 2);
    if (way == 3) {
      line.follows = {fmt::format("P, {};", r.upto(i)), {}};
      if (r.coin()) line.turned = Angle::degrees(r(-90, 90));
    }
    if (way < 3) line.repeat = 1 + r.upto(3);
    if (r.coin()) line.group = fmt::format("group {}", r.upto(3));
    if (r.coin()) line.note = "laid \"by hand\", twice; ü";
    p.list.lines.push_back(line);
  }
  p.list.lines[0].group = "group 0";
  p.variants = {{.name = "one", .off = {{"group 0", {}}}}, {.name = "two", .on = {{"group 0", {}}}}};
  if (r.coin()) p.list.off = {{"group 0", {}}};
  if (r.coin()) p.variant = "two";
  if (r.coin())
    p.checks = {.off = {{"laminate.row", {}}},
                .least_share = r(0, 0.2),
                .most_in_a_row = 7,
                .largest_jump = Angle::degrees(r(10, 90)),
                .most_ends = 3};
  p.supports = {{"s", {std::string("left"), {}}, static_cast<std::uint8_t>(1 + r.upto(63)), {}},
                {"t", {r.point(), {}}, part::x, {}}};
  p.supports.push_back({"u", {std::string("left"), {}}, part::x | part::ry, {}, {{"frame 0", {}}}, {}, {}});
  p.supports.push_back({"both", {{std::string("left"), {}}, {{"right", {}}, {"zone 0", {}}}}, part::z, {}, {}, {}, {}});
  p.supports.push_back({"v", {std::string("left"), {}}, part::x, {}, {}, Vec3(0.6, 0.8, 0.0), {}});
  p.supports.push_back({"w", {std::string("zone 0"), {}}, 0, {}, {}, {}, r(0.1, 2)});
  random_loads(p, r);
  return p;
}

part::Amount random_amount(Random& r) {
  const std::vector<std::pair<double, double>> table = {{0.0, r(-1, 1)}, {r(1, 50), r(-1, 1)}};
  switch (r.upto(5)) {
    case 1:
      return {part::Formula{{"1 + sin(pi*x/10) + \"y\"", {}}}, 0.001};
    case 2:
      return {part::AlongAxis{r.point(), Vec3(0.6, 0.0, 0.8), table}, 2.5};
    case 3:
      return {part::ByDistance{{std::string("left"), {}}, table}, 1.0};
    case 4:
      return {part::OfField{{"other.vtu", {}}, "p", 1000.0}, 1.0};
    default:
      return {r(-1, 1), 1.0};
  }
}

/// A load of every kind, masses, and cases that name them.
void random_loads(part::Part& p, Random& r) {
  const auto add = [&](const std::string& name, decltype(part::Load::kind) kind) {
    p.loads.push_back({name, {std::string("zone 0"), {}}, std::move(kind), {}});
  };
  add("l", part::Pressure{random_amount(r), r.coin()});
  add("water", part::Pressure{part::Hydrostatic{r(0, 9), Vec3(0, 0.6, 0.8), r(1e-9, 2e-9), r(9000, 9999)}, true});
  p.loads.push_back({"m", {r.point(), {}}, part::Force{r.point()}, {}});
  add("turn", part::Force{r.point(), r.point(), r.point(), r.coin() ? part::Reach::link : part::Reach::spread});
  add("edge", part::EdgeForce{r.point(), r.point(), r.coin()});
  add("rub", part::Traction{r.point()});
  add("weight", part::Gravity{r.point(), r.coin()});
  add("spin", part::Rotation{r.point(), Vec3(0.0, 1.0, 0.0), r(1, 100)});
  part::Displacement moved;
  moved.by[r.upto(3)] = r(-1, 1);
  add("moved", moved);
  part::Amount tool = random_amount(r), bag = random_amount(r);
  tool.scale = bag.scale = 1.0;  // degrees
  add("warm", part::Temperature{tool, bag, true, r(10, 100)});
  p.masses = {{"sand", {std::string("zone 0"), {}}, part::Mass::Per::area, r(1e-9, 1e-8), {}},
              {"bolt", {r.point(), {}}, part::Mass::Per::total, r(1e-6, 1e-5), {}}};
  p.cases = {{"a", part::Analysis::linear, {{{"l", {}}, 1.0}, {{"m", {}}, 1.0}}, {}, {}, 6, {}},
             {"b", part::Analysis::buckling, {{{"l", {}}, r(-2, 2)}}, {{{"a", {}}, 1.5}}, {{{"s", {}}}}, 9, {}}};
}

}  // namespace

TEST_CASE("random parts written as part files read back as they were") {
  Random r{std::mt19937(77)};
  for (int round = 0; round < 60; ++round) {
    const part::Part p = random_part(r);
    const std::string text = part::toml_text(p, p.file);
    INFO(text);
    Findings findings;
    const part::Part back = part::read_text(text, p.file, findings);
    CHECK(part::toml_text(back, p.file) == text);
    CHECK(back.name == p.name);
    CHECK(back.frames.size() == p.frames.size());
    for (std::size_t i = 0; i < p.frames.size(); ++i)
      CHECK(back.frames.all()[i].kind.index() == p.frames.all()[i].kind.index());
    for (std::size_t i = 0; i < p.zones.size(); ++i) CHECK(back.zones[i].kind.index() == p.zones[i].kind.index());
    for (std::size_t i = 0; i < p.materials.size(); ++i)
      CHECK(material::same(back.materials.all()[i], p.materials.all()[i]));
    CHECK(!back.plies.empty());
  }
}

TEST_CASE("random lists of plies go through CSV without a loss") {
  Random r{std::mt19937(78)};
  const test::Folder folder;
  for (int round = 0; round < 40; ++round) {
    part::Part p = random_part(r);
    p.file = folder / "p.toml";
    folder.write("plies.csv", part::plies_csv(p));
    std::string text = part::toml_text(p, p.file);
    const auto begin = text.find("plies = [\n", text.find("\n[layup]")), end = text.find("\n]\n", begin);
    text.replace(begin, end + 2 - begin, "plies = \"plies.csv\"");
    Findings findings;
    const part::Part back = part::read_text(text, p.file, findings);
    INFO(part::plies_csv(p));
    CHECK(part::plies_csv(back) == part::plies_csv(p));
    // And what they make, written out, is what the part file with the lines in it makes.
    const part::Part inside = part::read_text(part::toml_text(p, p.file), p.file, findings);
    REQUIRE(back.plies.size() == inside.plies.size());
    for (std::size_t i = 0; i < back.plies.size(); ++i) {
      const part::Ply &x = back.plies.all()[i], &y = inside.plies.all()[i];
      CHECK(x.id == y.id);
      CHECK(x.material.value == y.material.value);
      CHECK(x.frame.value == y.frame.value);
      CHECK(x.zone.value == y.zone.value);
      CHECK(x.angle == y.angle);
      CHECK(x.thickness == y.thickness);
    }
  }
}

TEST_CASE("the examples, written and read again, make the same decks") {
  for (const std::string name : {"skiff", "rudder", "spar", "panel", "hatch"}) {
    const std::string folder = test::source("examples/" + name);
    const test::Folder out;
    Findings findings;
    const Design first = open(folder + "/" + name + ".toml", findings);
    part::write(first.part, out / "again.toml");
    const Design second = open(out / "again.toml", findings);
    CHECK(review::compare(first, second).zones.empty());
    for (const std::string format : {"calculix", "bulk-data"}) {
      write_deck(first, format, out / "a", {}, findings);
      write_deck(second, format, out / "b", {}, findings);
      CHECK(read_file(out / "a") == read_file(out / "b"));
    }
  }
}

}  // namespace of_part_write
