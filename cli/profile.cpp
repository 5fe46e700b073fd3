// bordado profile: a cut through the laminate along a line.
#include "print.hpp"

#include <bordado/drawing.hpp>
#include <bordado/review/profile.hpp>

#include <fmt/format.h>

#include <cmath>
#include <memory>

namespace bordado::cli {

namespace profile_command {

struct Choices {
  PartChoice part;
  std::vector<double> from, to;
  std::string along, plane;
  std::string write;
  bool json = false;
};

/// "x=120", with a unit where that is said, or "a,b,c,d" for a x + b y + c z = d: a point of the plane and its normal.
/// \throws Failure "profile.plane".
std::pair<Vec3, Vec3> plane_of(const std::string& text, const UnitSystem& units) {
  Vec3 normal = Vec3::Zero();
  double at = 0.0;
  try {
    const auto axis = std::string_view("xyz").find(text.empty() ? ' ' : text[0]);
    if (axis != std::string_view::npos && text.size() > 2 && text[1] == '=') {
      normal[static_cast<Eigen::Index>(axis)] = 1.0;
      at = units.read(text.substr(2), Dimension::length);
    } else {
      std::vector<double> values;
      for (std::size_t from = 0; from <= text.size() && values.size() < 5;) {
        const std::size_t end = std::min(text.find(',', from), text.size());
        values.push_back(units.read(text.substr(from, end - from), Dimension::none));
        from = end + 1;
      }
      if (values.size() == 4) normal = Vec3(values[0], values[1], values[2]), at = values[3];
    }
  } catch (const std::invalid_argument&) {
    normal.setZero();
  }
  if (!(normal.norm() > 0.0) || !normal.allFinite() || !std::isfinite(at))
    throw Failure({Severity::error,
                   "profile.plane",
                   fmt::format("--plane '{}' is no plane", plain_text(text, 40)),
                   {},
                   "write x=120, or a,b,c,d for a x + b y + c z = d"});
  return {at / normal.squaredNorm() * normal, normal};
}

/// \throws Failure "profile.choices".
void check_choices(const Choices& choices) {
  const std::size_t ways =
      (choices.from.empty() && choices.to.empty() ? 0u : 1u) + !choices.along.empty() + !choices.plane.empty();
  if (ways != 1 || choices.from.empty() != choices.to.empty())
    throw Failure({Severity::error,
                   "profile.choices",
                   "a line is said in one way: by --from and --to, by --along, or by --plane",
                   {},
                   "bordado profile part.toml --plane x=120"});
}

review::Profile profile_of(const Choices& choices, const Design& design, Findings& findings) {
  const auto point = [](const std::vector<double>& xyz) { return Vec3(xyz[0], xyz[1], xyz[2]); };
  if (!choices.along.empty()) return review::profile_along(design, choices.along);
  if (!choices.plane.empty()) {
    const auto [at, normal] = plane_of(choices.plane, design.part.units);
    return review::profile_in_plane(design, at, normal);
  }
  review::Profile out = review::profile(design, point(choices.from), point(choices.to));
  const double far = 0.01 * extent(design.surface.points).diagonal();
  const auto tell = [&](std::string_view which, const Vec3& asked, const Vec3& found) {
    if ((asked - found).norm() > far)
      findings.warning(
          "profile.far",
          fmt::format("the line {} at {}, {:.4g} {} from the place that was given: that is the nearest of the part",
                      which, point_text(found), (asked - found).norm(), design.part.units.unit(Dimension::length)),
          Place::in(design.part.file), "check the place, its units and the part's axes");
  };
  tell("begins", point(choices.from), out.points.front());
  tell("ends", point(choices.to), out.points.back());
  return out;
}

int run(const Choices& choices) {
  return guarded({"profile", choices.json}, [&](Findings& findings) {
    check_choices(choices);
    const Design design = open_part(choices.part, findings, {}, progress_line());
    const std::size_t opened = findings.all().size();
    const review::Profile profile = profile_of(choices, design, findings);
    if (!choices.write.empty()) {
      drawing::draw(profile, design, choices.write);
      fmt::print(stderr, "wrote {}\n", choices.write);
    }
    const auto id = [&](part::PlyId p) { return design.part.plies[p].id; };
    const std::string unit = design.part.units.unit(Dimension::length);
    if (choices.json) {
      Json points = Json::array(), bands = Json::array(), edges = Json::array();
      for (std::size_t k = 0; k < profile.points.size(); ++k)
        points.push_back({{"at", profile.at[k]}, {"point", to_json(profile.points[k])}});
      for (const review::Profile::Band& band : profile.bands)
        bands.push_back({{"ply", id(band.ply)},
                         {"from", band.from},
                         {"to", band.to},
                         {"bottom", band.bottom},
                         {"thickness", band.thickness}});
      for (const review::Profile::Edge& edge : profile.edges)
        edges.push_back({{"ply", id(edge.ply)}, {"at", edge.at}, {"ends", edge.ends}});
      print_document("profile", design.part.units,
                     {{"length", profile.at.back()},
                      {"line", points},
                      {"layers", bands},
                      {"edges", edges},
                      {"openings", profile.openings},
                      {"loops_left_out", profile.loops}},
                     findings);
      return 0;
    }
    const std::vector<Finding> said = worth_saying(findings, opened);
    print_findings(said, stdout);
    if (!said.empty()) fmt::print("\n");
    fmt::print("{}: {} {} along the surface, {}\n", styled(design.part.name, Style::bold, fileno(stdout)),
               number(profile.at.back()), unit,
               profile.edges.empty() ? std::string("no ply ends on it")
                                     : fmt::format("{} of plies on it", counted(profile.edges.size(), "end")));
    for (const auto& [begin, end] : profile.openings)
      fmt::print("open from {} to {} {}\n", number(begin), number(end), unit);
    if (profile.loops > 0)
      fmt::print("{} of the plane {} left out\n", counted(profile.loops, "other closed cut"),
                 profile.loops == 1 ? "is" : "are");
    if (profile.edges.empty()) return 0;
    fmt::print("\n");
    std::vector<double> at, from_first, step;
    for (const review::Profile::Edge& edge : profile.edges) {
      step.push_back(at.empty() ? 0.0 : edge.at - at.back());
      at.push_back(edge.at);
      from_first.push_back(edge.at - at.front());
    }
    const auto a = column(at), f = column(from_first), s = column(step);
    TableText table({"ply", "", "at " + unit, "from the first " + unit, "step " + unit});
    for (std::size_t k = 0; k < at.size(); ++k)
      table.add({id(profile.edges[k].ply), profile.edges[k].ends ? "ends" : "begins", a[k], f[k], k > 0 ? s[k] : ""});
    table.print(stdout);
    return 0;
  });
}

}  // namespace profile_command

void add_profile(CLI::App& program, int& exit_code) {
  using namespace profile_command;
  auto choices = std::make_shared<Choices>();
  CLI::App* const command = program.add_subcommand(
      "profile", "Cut through the laminate along a line: where every ply ends, as a table or a drawing");
  add_part_option(*command, choices->part);
  command->add_option("--from", choices->from, "Where the line begins; the nearest place of the surface")
      ->delimiter(',')
      ->expected(3);
  command->add_option("--to", choices->to, "Where it ends")->delimiter(',')->expected(3);
  command->add_option("--along", choices->along, "A curve of the part, by its name, instead");
  command->add_option("--plane", choices->plane,
                      "The cut of a plane instead: x=120, or a,b,c,d for a x + b y + c z = d");
  add_output_option(*command, "-o,--write", choices->write, "A drawing for the shop, .svg or .pdf");
  command->add_flag("--json", choices->json, "Print JSON; values in the part's units");
  command->footer(
      "Example:\n  bordado profile rudder.toml --from 62,10,-250 --to 62,10,-420 -o profile.pdf\n  bordado profile "
      "skiff.toml "
      "--plane x=1800");
  command->callback([choices, &exit_code] { exit_code = run(*choices); });
}

}  // namespace bordado::cli
