// A part as a part file that reads back as the same part.
#include "keys.hpp"

#include <bordado/base/files.hpp>
#include <bordado/part.hpp>

#include <fmt/format.h>

#include <cmath>
#include <filesystem>
#include <limits>

namespace bordado::part {

namespace {

/// What varies by distance or by a field of another mesh.
template <class ByDistance>
std::string by_distance(const ByDistance& by) {
  std::string table;
  for (const auto& [distance, value] : by.table)
    table += fmt::format("{}[{}, {}]", table.empty() ? "" : ", ", text(distance), text(value));
  return line().put("of", by.of).raw("table", "[" + table + "]").inline_table();
}
template <class ByField>
std::string by_field(const ByField& by, const std::string& path, const UnitSystem& units) {
  return line()
      .put("file", seen_from(path, by.file.value))
      .put("field", by.field)
      .put("length", length_in(units, by.factor))
      .inline_table();
}

class PartWriter {
 public:
  PartWriter(const Part& part, const std::string& path) : part_(part), path_(path) {}

  std::string write() {
    head();
    for (const material::Material& material : part_.materials) out_ += "\n" + material::toml_text(material);
    for (const Laminate& laminate : part_.laminates) write(laminate);
    for (const Curve& curve : part_.curves) write(curve);
    for (const Frame& frame : part_.frames) write(frame);
    for (const Zone& zone : part_.zones) write(zone);
    layup();
    for (const Ramp& ramp : part_.ramps) write(ramp);
    for (const Drape& drape : part_.drapes) write(drape);
    for (const Variant& variant : part_.variants) {
      Keys keys("\n");
      if (!variant.on.empty()) keys.put("on", variant.on);
      if (!variant.off.empty()) keys.put("off", variant.off);
      section("variant", variant.name, keys);
    }
    checks();
    for (const Support& support : part_.supports) section("support", support.name, keys_of(support));
    for (const Load& load : part_.loads) section("load", load.name, keys_of(load, path_, part_.units));
    for (const Mass& mass : part_.masses) section("mass", mass.name, keys_of(mass));
    for (const Case& load_case : part_.cases) section("case", load_case.name, keys_of(load_case));
    return std::move(out_);
  }

 private:
  void section(std::string_view kind, const std::string& name, const Keys& keys) {
    out_ += fmt::format("\n[{}.{}]\n{}\n", kind, toml_key(name), keys.lines());
  }

  std::string seen(const std::string& file) const { return seen_from(path_, file); }

  void head() {
    const std::string length = part_.units.unit(Dimension::length);
    Keys mesh = line();
    mesh.put("file", seen(part_.mesh_path())).put("length", length);
    if (part_.mesh_factor != 1.0) mesh.put("scale", part_.mesh_factor);
    mesh.maybe("weld", part_.mesh_weld);
    if (part_.mesh_includes_anywhere) mesh.put("includes", std::string("anywhere"));
    std::string side = "\"as-meshed\"";
    if (const auto* const to = std::get_if<mesh::Towards>(&part_.side))
      side = line().put("towards", to->point).inline_table();
    if (const auto* const from = std::get_if<mesh::AwayFrom>(&part_.side))
      side = line().put("away-from", from->point).inline_table();
    if (const auto* const along = std::get_if<mesh::Along>(&part_.side))
      side = line().put("along", along->direction).inline_table();
    if (const auto* const body = std::get_if<mesh::Outwards>(&part_.side))
      side = body->inwards ? "\"inwards\"" : "\"outwards\"";
    Keys keys("\n");
    keys.put("name", part_.name).put("units", part_.units.name()).raw("mesh", mesh.inline_table()).raw("side", side);
    keys.put("surface", std::string(name_of(part_.flush)));
    if (part_.offset != 0.0) keys.put("offset", part_.offset);
    if (!part_.material_files.empty()) {
      std::vector<std::string> files;
      for (const auto& file : part_.material_files)
        files.push_back(seen((std::filesystem::path(part_.file).parent_path() / file.value).string()));
      keys.put("materials", files);
    }
    keys.word("variant", part_.variant);
    out_ = "[part]\n" + keys.lines() + "\n";
  }

  void write(const Laminate& laminate) {
    Keys keys("\n");
    keys.maybe("material", laminate.material).maybe("frame", laminate.frame).maybe("code", laminate.code);
    if (!laminate.lines.empty()) {
      std::string plies;
      for (const LaminateLine& layer : laminate.lines)
        plies += "  " +
                 line()
                     .maybe("angle", layer.angle)
                     .maybe("thickness", layer.thickness)
                     .maybe("material", layer.material)
                     .maybe("frame", layer.frame)
                     .inline_table() +
                 ",\n";
      keys.raw("plies", "[\n" + plies + "]");
    }
    if (laminate.mirror != Mirror::none)
      keys.put("symmetric", std::string(laminate.mirror == Mirror::even ? "even" : "odd"));
    if (laminate.repeat != 1) keys.put("repeat", laminate.repeat);
    section("laminate", laminate.name, keys);
  }

  void write(const Curve& curve) {
    Keys keys("\n");
    struct Kind {
      Keys& keys;
      void operator()(const Polyline& k) const {
        keys.put("points", k.points);
        if (k.closed) keys.raw("closed", "true");
      }
      void operator()(const EdgeGroup& k) const { keys.put("edges", k.group); }
      void operator()(const Crease& k) const {
        keys.raw("crease", line().put("turn", k.turn).put("near", k.near).inline_table());
      }
      void operator()(const Border& k) const {
        keys.raw("border", line().put("from", k.from).put("to", k.to).maybe("through", k.through).inline_table());
      }
      void operator()(const Opening& k) const { keys.put("opening", k.near); }
    };
    std::visit(Kind{keys}, curve.kind);
    section("curve", curve.name, keys.maybe("from", curve.from));
  }

  std::string length_of(double factor) const { return length_in(part_.units, factor); }

  void write(const Frame& frame) {
    Keys keys("\n");
    struct Kind {
      const PartWriter& writer;
      Keys& keys;
      void operator()(const ProjectedVector& k) const { keys.put("vector", k.vector); }
      void operator()(const Cylindrical& k) const {
        constexpr const char* takes[] = {"axial", "hoop", "radial"};
        keys.raw("axis", line()
                             .put("through", k.through)
                             .put("along", k.along)
                             .put("take", std::string(takes[static_cast<int>(k.take)]))
                             .inline_table());
      }
      void operator()(const Spherical& k) const {
        constexpr const char* takes[] = {"meridian", "parallel", "radial"};
        keys.raw("globe", line()
                              .put("centre", k.centre)
                              .put("pole", k.pole)
                              .put("take", std::string(takes[static_cast<int>(k.take)]))
                              .inline_table());
      }
      void operator()(const AsMeshedSide&) const { keys.put("element", std::string("side 1-2")); }
      void operator()(const AxisSystem& k) const {
        constexpr const char* takes[] = {"x", "y", "z"};
        keys.raw("axes", line().put("x", k.x).put("y", k.y).put("take", std::string(takes[k.take])).inline_table());
      }
      void operator()(const AlongCurves& k) const { keys.put("along", k.curves); }
      void operator()(const GuideSurface& k) const {
        keys.raw("guide", line()
                              .put("file", writer.seen(k.file.value))
                              .put("edge", k.edge)
                              .put("length", writer.length_of(k.factor))
                              .inline_table());
      }
      void operator()(const Blend& k) const {
        keys.raw("blend",
                 line().put("from", k.from).put("to", k.to).put("start", k.start).put("over", k.over).inline_table());
      }
      void operator()(const Mapped& k) const {
        Keys mapped = line();
        mapped.put("file", writer.seen(k.file.value)).word("field", k.field).put("length", writer.length_of(k.factor));
        if (const auto* const rigid = std::get_if<Rigid>(&k.position))
          mapped.put("about", rigid->about).put("axis", rigid->axis).put("angle", rigid->turn).put("move", rigid->move);
        if (const auto* const pairs = std::get_if<PointPairs>(&k.position)) {
          std::vector<std::vector<Vec3>> list;
          for (const auto& pair : pairs->pairs) list.push_back({pair[0], pair[1]});
          mapped.put("pairs", list);
        }
        if (std::holds_alternative<BestFit>(k.position)) mapped.raw("fit", "true");
        keys.raw("mapped", mapped.inline_table());
      }
    };
    std::visit(Kind{*this, keys}, frame.kind);
    if (frame.turn.degrees() != 0.0) keys.put("turn", frame.turn);
    if (const auto* const by = std::get_if<TurnByDistance>(&frame.turns)) keys.raw("turn", by_distance(*by));
    if (const auto* const by = std::get_if<TurnByField>(&frame.turns))
      keys.raw("turn", by_field(*by, path_, part_.units));
    section("frame", frame.name, keys.maybe("fallback", frame.fallback));
  }

  void write(const Zone& zone) {
    Keys keys("\n");
    struct Kind {
      Keys& keys;
      void operator()(const MeshGroup& k) const { keys.put("group", k.group); }
      void operator()(const Box& k) const {
        keys.raw("box", line().put("from", k.low).put("to", k.high).inline_table());
      }
      void operator()(const Ball& k) const {
        keys.raw("sphere", line().put("centre", k.centre).put("radius", k.radius).inline_table());
      }
      void operator()(const Cylinder& k) const {
        keys.raw("cylinder",
                 line().put("through", k.through).put("along", k.along).put("radius", k.radius).inline_table());
      }
      void operator()(const HalfSpace& k) const {
        keys.raw("beyond", line().put("point", k.point).put("along", k.along).inline_table());
      }
      void operator()(const Facing& k) const {
        keys.raw("facing", line().put("along", k.along).put("within", k.within).inline_table());
      }
      void operator()(const Polygon& k) const {
        Keys polygon = line();
        if (const auto* const corners = std::get_if<std::vector<Vec3>>(&k.outline))
          polygon.put("corners", *corners);
        else
          polygon.put("curve", std::get<Declared<std::string>>(k.outline));
        polygon.put("along", k.along);
        if (std::isfinite(k.low) && k.low > -std::numeric_limits<double>::max()) polygon.put("low", k.low);
        if (std::isfinite(k.high) && k.high < std::numeric_limits<double>::max()) polygon.put("high", k.high);
        keys.raw("polygon", polygon.inline_table());
      }
      void operator()(const Near& k) const {
        keys.raw("near", line().put("of", k.of).put("within", k.within).inline_table());
      }
      void operator()(const Rows& k) const {
        keys.raw("rows", line().put("of", k.of).put("count", k.count).inline_table());
      }
      void operator()(const HangingTogether& k) const { keys.put("piece", k.near); }
      void operator()(const Grown& k) const {
        keys.raw(k.by < 0.0 ? "shrunk" : "grown", line().put("zone", k.zone).put("by", std::abs(k.by)).inline_table());
      }
      void operator()(const ElementIds& k) const { keys.put("elements", k.ids); }
      void operator()(const Union& k) const { keys.put("union", k.zones); }
      void operator()(const Common& k) const { keys.put("common", k.zones); }
      void operator()(const Opposite& k) const { keys.put("opposite", k.zone); }
      void operator()(const Minus& k) const { keys.put("from", k.from).put("minus", k.without); }
    };
    std::visit(Kind{keys}, zone.kind);
    if (zone.share != 0.5) keys.put("share", zone.share);
    section("zone", zone.name, keys);
  }

  void layup() {
    const PlyList& list = part_.list;
    Keys keys("\n");
    keys.maybe("material", list.material).maybe("frame", list.frame).maybe("zone", list.zone);
    if (list.listed == Listed::last_laid_first) keys.put("listed", std::string("last-laid-first"));
    if (list.edges != Covered::smeared)
      keys.put("edges", std::string(covered_names[static_cast<std::size_t>(list.edges)]));
    if (!list.off.empty()) keys.put("off", list.off);
    std::string plies;
    for (const PlyLine& ply : list.lines) {
      Keys one = line();
      one.put("id", ply.id).maybe("follows", ply.follows).maybe("material", ply.material);
      one.maybe("angle", ply.angle).maybe("code", ply.code).maybe("laminate", ply.laminate).maybe("turned", ply.turned);
      one.maybe("frame", ply.frame).maybe("zone", ply.zone).maybe("edge", ply.edge).maybe("thickness", ply.thickness);
      if (ply.corners) one.put("corners", std::string(corners_names[static_cast<std::size_t>(*ply.corners)]));
      if (ply.scallop) one.raw("scallop", part::toml_text(*ply.scallop));
      if (ply.chamfer) one.raw("chamfer", part::toml_text(*ply.chamfer));
      one.maybe("drape", ply.drape);
      if (ply.varies) one.raw("thickness", part::toml_text(*ply.varies, path_, part_.units));
      if (ply.repeat != 1) one.put("repeat", ply.repeat);
      plies += "  " + one.word("group", ply.group).word("note", ply.note).inline_table() + ",\n";
    }
    out_ += "\n[layup]\n" + keys.raw("plies", "[\n" + plies + "]").lines() + "\n";
  }

  void write(const Drape& drape) {
    Keys keys("\n");
    if (!drape.pieces.empty()) {
      keys.put("pieces", drape.pieces);
      if (drape.angles_only) keys.put("takes", std::string("angles"));
      section("drape", drape.name, keys);
      return;
    }
    keys.put("seed", drape.seed).maybe("direction", drape.direction);
    if (drape.lay != Lay::straight) keys.put("lay", std::string(lay_names[static_cast<std::size_t>(drape.lay)]));
    keys.maybe("along", drape.along).maybe("cell", drape.cell).maybe("zone", drape.zone);
    if (!drape.darts.empty()) keys.put("darts", drape.darts);
    if (drape.angles_only) keys.put("takes", std::string("angles"));
    section("drape", drape.name, keys);
  }

  static std::string slope(double run) { return "1:" + toml_number(run); }

  void write(const Ramp& ramp) {
    const Ramp usual;
    Keys keys("\n");
    keys.maybe("from", ramp.from).maybe("to", ramp.to).maybe("jump", ramp.jump);
    if (ramp.slope) keys.put("slope", slope(*ramp.slope));
    keys.maybe("step", ramp.step);
    if (ramp.least_step > 0.0) keys.put("least-step", ramp.least_step);
    if (!ramp.order.empty())
      keys.put("first", ramp.order);
    else if (ramp.first != usual.first)
      keys.put("first", std::string(ends_first_names[static_cast<std::size_t>(ramp.first)]));
    if (ramp.together != usual.together) keys.put("together", ramp.together);
    if (ramp.covers != usual.covers) keys.put("covers", ramp.covers);
    if (!ramp.pairs) keys.put("pairs", std::string("single"));
    if (ramp.side != usual.side) keys.put("side", std::string(ramp_side_names[static_cast<std::size_t>(ramp.side)]));
    section("ramp", ramp.name, keys);
  }

  void checks() {
    const Checks& c = part_.checks;
    const Checks usual;
    Keys keys("\n");
    if (!c.off.empty()) keys.put("off", c.off);
    if (c.least_share != usual.least_share) keys.put("least-share", c.least_share);
    if (c.most_in_a_row != usual.most_in_a_row) keys.put("most-in-a-row", c.most_in_a_row);
    if (!(c.largest_jump == usual.largest_jump)) keys.put("largest-jump", c.largest_jump);
    if (c.most_ends != usual.most_ends) keys.put("most-ends", c.most_ends);
    keys.maybe("most-ended", c.most_ended).maybe("edge-distance", c.edge_distance);
    if (c.steepest != usual.steepest) keys.put("steepest", c.steepest);
    if (!keys.lines().empty()) out_ += "\n[checks]\n" + keys.lines() + "\n";
  }

  const Part& part_;
  const std::string& path_;
  std::string out_;
};

}  // namespace

std::string toml_text(const VaryingThickness& varies, const std::string& path, const UnitSystem& units) {
  if (const auto* const by = std::get_if<ThicknessByDistance>(&varies)) return by_distance(*by);
  return by_field(std::get<ThicknessByField>(varies), path, units);
}

std::string toml_text(const Part& part, const std::string& path) { return PartWriter(part, path).write(); }

void write(const Part& part, const std::string& path) {
  const std::string all = toml_text(part, path);
  OutputFile file(path);
  file.write(all);
  file.commit();
}

}  // namespace bordado::part
