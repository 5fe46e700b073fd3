// bordado frames: what 0° is, frame by frame, and where it is doubtful.
#include "print.hpp"

#include <bordado/mesh/io.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <filesystem>
#include <memory>

namespace bordado::cli {

namespace frames_command {

struct Choices {
  PartChoice part;
  std::string write;
  bool json = false;
};

std::string_view kind_of(const part::Frame& frame) {
  constexpr std::string_view names[] = {"vector",       "axis",  "globe", "element side", "axis system",
                                        "along curves", "guide", "blend", "mapped"};
  return names[frame.kind.index()];
}

/// What a frame goes by, in a few words.
struct Source {
  std::string operator()(const part::ProjectedVector& kind) const { return point_text(kind.vector); }
  std::string operator()(const part::Cylindrical& kind) const {
    constexpr std::string_view takes[] = {"along", "round", "away from"};
    return fmt::format("{} {} through {}", takes[static_cast<int>(kind.take)], point_text(kind.along),
                       point_text(kind.through));
  }
  std::string operator()(const part::Spherical& kind) const { return "round " + point_text(kind.centre); }
  std::string operator()(const part::AsMeshedSide&) const { return "side 1-2"; }
  std::string operator()(const part::AxisSystem& kind) const { return fmt::format("its {}", "xyz"[kind.take]); }
  std::string operator()(const part::AlongCurves& kind) const {
    std::vector<std::string> names;
    for (const auto& name : kind.curves) names.push_back(name.value);
    return listed(names);
  }
  std::string operator()(const part::GuideSurface& kind) const {
    return fmt::format("{} of {}", kind.edge, std::filesystem::path(kind.file.value).filename().string());
  }
  std::string operator()(const part::Blend& kind) const {
    return fmt::format("{} to {}, over {:g}", kind.from.value, kind.to.value, kind.over);
  }
  std::string operator()(const part::Mapped& kind) const {
    const std::string file = std::filesystem::path(kind.file.value).filename().string();
    return kind.field.empty() ? file : fmt::format("{} of {}", kind.field, file);
  }
};

struct Summary {
  const part::Frame* frame;
  const frame::Field* field;
  std::size_t elements, plies;
  double distance, doubt;  ///< the largest
};

std::vector<Summary> summaries(const Design& design) {
  std::vector<Summary> out;
  for (const part::FrameId f : design.part.frames.ids()) {
    const frame::Field& field = design.layup.frames[f];
    Summary summary{&design.part.frames[f], &field, 0, 0, 0.0, 0.0};
    for (const part::PlyId p : design.layup.plies.ids()) summary.plies += design.layup.frame_of(p) == f;
    List<layup::StackId, std::uint8_t> uses(design.layup.stack_count(), 0);
    for (const layup::StackId s : uses.ids())
      for (const part::PlyId p : design.layup.plies_of(s)) uses[s] |= design.layup.frame_of(p) == f;
    for (const layup::StackId s : design.layup.stack_of) summary.elements += uses[s];
    for (const double d : field.distance) summary.distance = std::max(summary.distance, d);
    for (const double d : field.doubt) summary.doubt = std::max(summary.doubt, d);
    out.push_back(summary);
  }
  return out;
}

Json as_json(const Design& design, const std::vector<Summary>& all) {
  Json out = Json::array();
  for (const Summary& s : all) {
    Json one = {{"frame", s.frame->name},
                {"kind", kind_of(*s.frame)},
                {"plies", s.plies},
                {"elements", s.elements},
                {"fallen_back", s.field->fallen_back.size()}};
    if (!s.field->distance.empty()) one["largest_distance"] = s.distance;
    if (!s.field->doubt.empty()) one["largest_doubt"] = s.doubt;
    if (s.field->fit) one["fit"] = *s.field->fit;
    out.push_back(one);
  }
  return {{"part", design.part.name}, {"frames", out}};
}

/// Directions of 0°, distances and doubts of every frame that plies use.
std::vector<mesh::Array> arrays_of(const std::vector<Summary>& all) {
  std::vector<mesh::Array> out;
  for (const Summary& s : all) {
    if (s.field->directions.empty()) continue;
    mesh::Array directions{s.frame->name, false, 3, {}};
    for (const Vec3& d : s.field->directions) directions.values.insert(directions.values.end(), d.begin(), d.end());
    out.push_back(std::move(directions));
    if (!s.field->distance.empty()) out.push_back({s.frame->name + " distance", false, 1, s.field->distance});
    if (!s.field->doubt.empty()) out.push_back({s.frame->name + " doubt", false, 1, s.field->doubt});
  }
  return out;
}

int run(const Choices& choices) {
  return guarded({"frames", choices.json}, [&](Findings& findings) {
    const Design design = open_part(choices.part, findings, {}, progress_line());
    const std::vector<Summary> all = summaries(design);
    if (!choices.write.empty()) mesh::write(design.surface, choices.write, arrays_of(all));
    if (choices.json) {
      print_document("frames", design.part.units, as_json(design, all), findings);
      return 0;
    }
    const std::string length = design.part.units.unit(Dimension::length);
    fmt::print("{}: {}\n\n", styled(design.part.name, Style::bold, fileno(stdout)), counted(all.size(), "frame"));
    TableText table({"frame", "kind", "by", "plies", "elements", "fallback", "furthest " + length, "doubt"});
    for (const Summary& s : all)
      table.add({s.frame->name, std::string(kind_of(*s.frame)), std::visit(Source{}, s.frame->kind),
                 fmt::format("{}", s.plies), fmt::format("{}", s.elements),
                 fmt::format("{}", s.field->fallen_back.size()), s.field->distance.empty() ? "" : number(s.distance, 3),
                 s.field->doubt.empty() ? "" : fmt::format("{:.3f}", s.doubt)});
    table.print(stdout);
    std::vector<Finding> about;
    for (const Finding& finding : findings.all())
      if (finding.severity != Severity::note || finding.code.starts_with("frame.")) about.push_back(finding);
    if (!about.empty()) fmt::print("\n");
    print_findings(about, stdout);
    if (!choices.write.empty())
      fmt::print("\n{}: the surface with every frame's 0°, distance and doubt\n", choices.write);
    return 0;
  });
}

}  // namespace frames_command

void add_frames(CLI::App& program, int& exit_code) {
  using namespace frames_command;
  auto choices = std::make_shared<Choices>();
  CLI::App* const command = program.add_subcommand(
      "frames", "List what 0° is, frame by frame, with distance and doubt; write them to look at");
  add_part_option(*command, choices->part);
  add_output_option(*command, "--write", choices->write, "A .vtu file for the directions, distances and doubts");
  command->add_flag("--json", choices->json, "Print JSON; values in the part's units");
  command->footer(
      "Furthest: along the surface to the curves, or through space to the other mesh. Doubt: 0 where directions agree, "
      "1 "
      "where they cancel out.\nExample:\n  bordado frames rudder.toml --write frames.vtu");
  command->callback([choices, &exit_code] { exit_code = run(*choices); });
}

}  // namespace bordado::cli
