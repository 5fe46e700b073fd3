#include <bordado/base/text.hpp>
#include <bordado/frame.hpp>
#include <bordado/mesh/care.hpp>
#include <bordado/review/first_part.hpp>

#include "../base/toml_table.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <filesystem>

namespace bordado::review {

namespace {

/// A number of a drawing: four digits.
double rounded(double value) {
  if (value == 0.0) return 0.0;
  const double step = std::pow(10.0, std::floor(std::log10(std::abs(value))) - 3.0);
  return std::abs(value) < 1e-9 ? 0.0 : std::round(value / step) * step;
}
std::string text(double value) { return fmt::format("{:.6g}", rounded(value) + 0.0); }
std::string text(const Vec3& v) { return fmt::format("[{}, {}, {}]", text(v.x()), text(v.y()), text(v.z())); }

struct LengthUnit {
  std::string name;
  bool guessed = false;
};

/// Parts are meshed in millimetres or metres: what is longer than 30 of its units is in the first.
LengthUnit length_unit(const FirstPartOptions& options, double longest) {
  if (options.length) return {*options.length, false};
  return {longest > 30.0 ? "mm" : "m", true};
}

class Composer {
 public:
  Composer(mesh::Surface surface, const FirstPartOptions& options, Findings& findings)
      : surface_(std::move(surface)), options_(options), findings_(findings) {
    Findings told;  // the part file's own side is another matter
    mesh::orient(surface_, mesh::AsMeshed{}, told);
    geometry_ = mesh::geometry(surface_);
    const Extent box = extent(surface_.points);
    low_ = box.low, high_ = box.high;
  }

  std::string compose() {
    const LengthUnit length = length_unit(options_, (high_ - low_).maxCoeff());
    unit_ = length.name;
    const std::string units = options_.units ? *options_.units : unit_ == "m" ? "m, kg, s" : "mm, t, s";
    const UnitSystem system = parsed(units);
    if (length.guessed)
      findings_.warning("begin.length-guessed",
                        fmt::format("the mesh is {} long, so its length unit is taken to be {}",
                                    text((high_ - low_).maxCoeff()), unit_),
                        Place::in(surface_.file), "give --length, or correct 'mesh' in the part file");
    for (const std::string& path : {surface_.file, options_.mesh_as_seen})
      if (!is_utf8(path))
        throw Failure({Severity::error,
                       "begin.name",
                       fmt::format("the mesh's name '{}' is not UTF-8, as all names in a part file are",
                                   plain_text(to_utf8(path), 60)),
                       {},
                       "rename the file"});
    const std::string stem = std::filesystem::path(surface_.file).stem().string();
    std::string out = fmt::format(
        "# A first part file, begun by Bordado from {}. Change what is not so; bordado check tells what follows.\n"
        "# All keys: docs/part-file.md\n\n[part]\nname = {}\nunits = {}{}\nmesh = {{ file = {}, length = {} }}{}\n",
        plain_text(std::filesystem::path(surface_.file).filename().string()), toml_string(stem), toml_string(units),
        remark(fmt::format("what a bare number means: {}, {}", system.unit(Dimension::force),
                           system.unit(Dimension::stress))),
        toml_string(options_.mesh_as_seen.empty() ? surface_.file : options_.mesh_as_seen), toml_string(unit_),
        remark(fmt::format("{} {} x {} x {}", length.guessed ? "guessed from its size," : "so it measures",
                           text(high_.x() - low_.x()), text(high_.y() - low_.y()), text(high_.z() - low_.z()))));
    out += side();
    out += fmt::format("surface = \"bottom\"{}\n",
                       remark("the mesh is the face of the mould; \"middle\" or \"top\" otherwise"));
    out += names();
    out += frame();
    out += fmt::format(
        "\n[layup]\nmaterial = \"carbon-ud\"{}\nframe = \"length\"\nplies = [\n  {{ id = \"P1\", angle = 0 }},{}\n]\n",
        remark("of the shipped library: bordado material list"),
        remark("first laid first; zone = \"...\" where it lies on a part of the surface only"));
    return out + supports_and_loads();
  }

 private:
  UnitSystem parsed(const std::string& units) const {
    try {
      metres_in(unit_);
      return UnitSystem::parse(units);
    } catch (const std::invalid_argument& trouble) {
      throw Failure({Severity::error, "part.units", trouble.what(), {}, "write --length mm --units \"mm, t, s\""});
    }
  }

  static std::string remark(std::string_view text) { return fmt::format("  # {}", text); }

  /// The side that most of the mesh has already.
  std::string side() {
    Vec3 mean = Vec3::Zero(), centre = Vec3::Zero();
    double area = 0.0;
    for (mesh::ElementIndex e = 0; e < surface_.element_count(); ++e) {
      mean += geometry_.areas[e] * geometry_.normals[e];
      centre += geometry_.areas[e] * geometry_.centres[e];
      area += geometry_.areas[e];
    }
    centre /= area;
    const std::string why = remark("plies build up this way, as the elements' normals have it");
    if (const Vec3 along = main_direction(mean / area); keeps(mesh::Along{along}))
      return fmt::format("side = {{ along = {} }}{}\n", text(along), why);
    const Vec3 point(rounded(centre.x()), rounded(centre.y()), rounded(centre.z()));
    if (keeps(mesh::Outwards{})) return fmt::format("side = \"outwards\"{}\n", why);
    if (keeps(mesh::Outwards{true})) return fmt::format("side = \"inwards\"{}\n", why);
    if (keeps(mesh::AwayFrom{point})) return fmt::format("side = {{ away-from = {} }}{}\n", text(point), why);
    if (keeps(mesh::Towards{point})) return fmt::format("side = {{ towards = {} }}{}\n", text(point), why);
    return fmt::format("side = \"as-meshed\"{}\n",
                       remark("no direction or point says it clearly: the first element of each piece does"));
  }

  /// The axis that is nearest, with its sign, where it is near enough; the direction itself otherwise.
  static Vec3 main_direction(const Vec3& mean) {
    if (!(mean.norm() > 0.2)) return Vec3::Zero();
    Eigen::Index k = 0;
    mean.cwiseAbs().maxCoeff(&k);
    if (std::abs(mean[k]) > 0.8 * mean.norm()) return Vec3::Unit(k) * (mean[k] > 0.0 ? 1.0 : -1.0);
    return mean.normalized();
  }

  /// Whether a side is clear, and turns nothing round.
  bool keeps(const mesh::Side& side) const {
    if (const auto* const along = std::get_if<mesh::Along>(&side); along && along->direction.norm() == 0.0)
      return false;
    mesh::Surface copy = surface_;
    Findings told;
    const mesh::OrientReport report = mesh::orient(copy, side, told);
    return !told.has_errors() && report.flipped == 0 && report.agreement > 0.3;
  }

  double length_of(const mesh::Group& group) const {
    double out = 0.0;
    for (const mesh::Edge& edge : group.edges)
      for (const double share : mesh::nodal_lengths(surface_, edge)) out += share;
    return out;
  }

  /// The mesh's own groups: they are zones, curves and points by their names, without a word more.
  std::string names() const {
    std::string out;
    constexpr std::string_view kinds[] = {"point", "curve", "zone"};
    for (const int dimension : {2, 1, 0})
      for (const mesh::Group& group : surface_.groups) {
        if (group.dimension != dimension) continue;
        std::string size = counted(group.points.size(), "node");
        if (dimension == 1)
          size = fmt::format("{}, {} {} long", counted(group.edges.size(), "edge"), text(length_of(group)), unit_);
        if (dimension == 2) {
          double area = 0.0;
          for (const mesh::ElementIndex e : group.elements) area += geometry_.areas[e];
          size = fmt::format("{}, {} {}^2", counted(group.elements.size(), "element"), text(area), unit_);
        }
        out += fmt::format("#   {} {}: {}\n", kinds[dimension], toml_string(group.name), size);
      }
    if (out.empty())
      return "\n# The mesh has no named groups: zones are drawn by shapes, curves by borders and creases; see\n"
             "# docs/part-file.md, [zone.NAME] and [curve.NAME].\n";
    return "\n# The mesh's groups are there by their names:\n" + out;
  }

  std::string frame() const {
    Eigen::Index longest = 0;
    Vec3 extent = high_ - low_;
    extent.maxCoeff(&longest);
    const Vec3 along = Vec3::Unit(longest);
    std::string out = fmt::format("\n[frame.length]\nvector = {}{}\n", text(along),
                                  remark("0 degrees: along the part's longest side, laid onto the surface"));
    if (std::all_of(geometry_.normals.begin(), geometry_.normals.end(),
                    [&](const Vec3& n) { return frame::projected(along, n).has_value(); }))
      return out;
    Eigen::Index next = 0;
    extent[longest] = -1.0;
    extent.maxCoeff(&next);
    return out +
           fmt::format("fallback = {}{}\n", text(Vec3(Vec3::Unit(next))), remark("where that runs into the surface"));
  }

  std::string supports_and_loads() const {
    std::string held = "EDGE";
    for (const mesh::Group& group : surface_.groups)
      if (group.dimension == 1) {
        held = group.name;
        break;
      }
    return fmt::format(
        "\n# To solve it, hold it and load it:\n# [support.held]\n# on = {}\n# hold = \"clamped\"\n#\n# [load.push]\n# "
        "on "
        "= \"everything\"\n# pressure = \"1 kPa\"\n# face = \"tool\"\n",
        toml_string(held));
  }

  mesh::Surface surface_;
  const FirstPartOptions& options_;
  Findings& findings_;
  mesh::Geometry geometry_;
  Vec3 low_, high_;
  std::string unit_;
};

}  // namespace

std::string first_part(const mesh::Surface& surface, const FirstPartOptions& options, Findings& findings) {
  return Composer(surface, options, findings).compose();
}

}  // namespace bordado::review
