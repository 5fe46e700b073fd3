// bordado stress: every ply's stress and what fails first, from answers that are there.
#include "answers.hpp"
#include "reserve_text.hpp"

#include <bordado/drawing.hpp>
#include <bordado/review/profile.hpp>
#include <bordado/review/results.hpp>

#include <fmt/format.h>

#include <memory>

namespace bordado::cli {

namespace stress_command {

struct Choices {
  std::string axes = "ply";
  PartChoice part;
  SectionChoice sections;
  PlaceChoice place;
  AnswerPlace answers;
  ModelChoice model;
  std::vector<std::string> cases, criteria, plies;
  std::string from, write, draw, blank;
  std::size_t most = 20;
  bool json = false;
};

/// The plies whose stresses are written. \throws Failure "stress.ply-unknown".
std::vector<part::PlyId> plies_named(const Choices& choices, const Design& design) {
  std::vector<part::PlyId> out;
  std::vector<std::string> known;
  for (const part::PlyId p : design.part.plies.ids()) known.push_back(design.part.plies[p].id);
  for (const std::string& name : choices.plies) {
    const auto found = std::find(known.begin(), known.end(), name);
    if (found == known.end()) {
      const auto near = nearest_name(name, known);
      throw Failure({Severity::error, "stress.ply-unknown", fmt::format("there is no ply '{}'", plain_text(name)),
                     Place::in(design.part.file),
                     near ? fmt::format("did you mean '{}'?", *near) : fmt::format("plies: {}", listed(known, 20))});
    }
    out.push_back(part::PlyId{static_cast<std::uint32_t>(found - known.begin())});
  }
  return out;
}

/// The case of least reserve at a place.
std::size_t worst_case(const result::Recovery& recovery, const Answers& answers, mesh::ElementIndex e) {
  std::size_t worst = 0;
  double least = std::numeric_limits<double>::infinity();
  for (std::size_t c = 0; c < answers.fields.size(); ++c) {
    const auto failing = recovery.failing(answers.fields[c], answers.cases[c], e);
    if (!failing.empty() && failing.front().factor < least) least = failing.front().factor, worst = c;
  }
  return worst;
}

/// The element of least reserve.
mesh::ElementIndex first_to_fail(const result::Reserves& reserves) {
  const auto least =
      std::min_element(reserves.of_elements.begin(), reserves.of_elements.end(),
                       [](const result::Critical& a, const result::Critical& b) { return a.factor < b.factor; });
  return static_cast<mesh::ElementIndex>(least - reserves.of_elements.begin());
}

constexpr std::string_view places[] = {"bottom", "middle", "top"};

void print_place(const Design& design, const model::Model& model, const result::Recovery& recovery,
                 const Answers& answers, std::size_t c, mesh::ElementIndex e, std::string_view axes) {
  const UnitSystem& units = design.part.units;
  const std::string length = units.unit(Dimension::length), force = units.unit(Dimension::force),
                    stress = units.unit(Dimension::stress);
  const model::CaseFields& fields = answers.fields[c];
  result::SectionResultants carried = recovery.carried(fields, answers.cases[c])[e];
  model::SectionState state = fields.sections[e];
  // The solver prints seven figures: what is smaller beside the largest is none.
  const double h = design.sections.thickness[design.sections.section_of[e]];
  const double size = std::max({carried.N.norm(), carried.M.norm() / h, carried.Q.norm()});
  const auto plain = [](auto& values, double least) {
    for (double& v : values)
      if (std::abs(v) < least) v = 0.0;
  };
  plain(carried.N, 1e-7 * size), plain(carried.M, 1e-7 * size * h), plain(carried.Q, 1e-7 * size);
  const double strain = std::max(state.deformation.strain.norm(), state.deformation.curvature.norm() * h);
  plain(state.deformation.strain, 1e-7 * strain), plain(state.deformation.curvature, 1e-7 * strain / h);
  fmt::print(
      "{}, element {} at {} {}, case {}{}\n", styled(plain_text(design.part.name), Style::bold, fileno(stdout)),
      design.surface.element_ids[e], point_text(design.geometry.centres[e]), length, model.cases[answers.cases[c]].name,
      recovery.doubtful(e) ? fmt::format("; {}: stresses of plies do not hold here", result::words(recovery.doubt(e)))
                           : "");
  fmt::print("in the section's axes, x = {}, about the mesh:\n", point_text(design.sections.references[e]));
  const auto three = [](const laminate::Vector3& v) {
    return fmt::format("{} {} {}", number(v[0]), number(v[1]), number(v[2]));
  };
  fmt::print("  N  {} {}/{}   M  {} {}   Q  {} {} {}/{}\n", three(carried.N), force, length, three(carried.M), force,
             number(carried.Q[0]), number(carried.Q[1]), force, length);
  if (!model.solids) {
    const auto listed_numbers = [](const auto& v) { return fmt::format("{:.6g}", fmt::join(v.begin(), v.end(), ",")); };
    const double warmed = recovery.warmed(answers.cases[c], e);
    fmt::print("  by hand: bordado at {} --element {} --force {} --moment {} --shear {}{}{}\n",
               plain_text(design.part.file), design.surface.element_ids[e], listed_numbers(carried.N),
               listed_numbers(carried.M), listed_numbers(carried.Q),
               std::isfinite(warmed) && warmed != 0.0 ? fmt::format(" --warmed {:.6g}", warmed) : "",
               std::isfinite(warmed) ? "" : " (its layers are warmed by different amounts, which that does not say)");
  }
  fmt::print("  strain  {} 1e-6   curvature  {} 1e-6/{}\n\n", three(1e6 * state.deformation.strain),
             three(1e6 * state.deformation.curvature), length);
  const auto states = recovery.at(fields, answers.cases[c], e);
  const bool held = std::any_of(states.begin(), states.end(),
                                [](const result::PlyState& s) { return s.ply_held.squaredNorm() > 0.0; });
  const bool of_plies = axes == "ply", of_part = axes == "part";
  fmt::print("stresses in {}: {}{}\n\n", stress,
             of_plies  ? "1, 2 along and across the fibres; x, y of the section"
             : of_part ? "all six, in the axes of the part"
                       : "all six, in the axes of the section: x its 0°, z its normal",
             of_plies && held ? "; held: what temperature leaves, in s1, s2, t12" : "");
  std::vector<double> heights;
  for (const result::PlyState& s : states) heights.push_back(std::abs(s.z) < 1e-12 ? 0.0 : s.z);
  const auto z = column(heights);
  double most = 0.0;
  for (const result::PlyState& s : states) most = std::max(most, s.ply_stress.cwiseAbs().maxCoeff());
  const auto value = [&](double v) { return number(std::abs(v) < 1e-7 * most ? 0.0 : v, 3); };
  const std::size_t pieces = states.empty() ? 0 : states.back().piece + 1u;
  for (std::size_t piece = 0; piece < pieces; ++piece) {
    if (pieces > 1)
      fmt::print("{}piece {} of {} that edges of plies leave of this element:\n", piece > 0 ? "\n" : "", piece + 1,
                 pieces);
    std::vector<std::string> head = {"ply", "angle", "at", "z " + length};
    if (of_plies) {
      head.insert(head.end(), {"s1", "s2", "t12", "t13", "t23"});
      if (model.solids) head.push_back("s3");
      head.insert(head.end(), {"sx", "sy", "txy"});
      if (held) head.insert(head.end(), {"held s1", "s2", "t12"});
    } else {
      head.insert(head.end(), {"xx", "yy", "zz", "yz", "xz", "xy"});
    }
    TableText table(std::move(head));
    for (std::size_t i = 0; i < states.size(); ++i) {
      const result::PlyState& s = states[i];
      if (s.piece != piece) continue;
      std::vector<std::string> row = {
          s.place == 0 ? design.part.plies[s.ply].id : "",
          s.place == 0 ? fmt::format("{:g}°", design.layup.plies[s.ply].angle.degrees()) : "",
          std::string(places[s.place]), z[i]};
      const auto put = [&](const auto& values) {
        for (const double v : values) row.push_back(value(v));
      };
      if (of_plies) {
        put(s.ply_stress), put(s.ply_shear);
        if (model.solids) put(std::array{s.ply_through});
        put(s.stress);
        if (held) put(s.ply_held);
      } else {
        put(of_part ? result::stress_in_part(design, e, s) : result::stress_in_section(s));
      }
      table.add(std::move(row));
    }
    table.print(stdout);
  }
  const auto failing = recovery.failing(fields, answers.cases[c], e);
  if (failing.empty()) return fmt::print("\n{}\n", no_reserves);
  fmt::print("\nreserve: times the loads until\n\n");
  TableText reserves({"reserve", "fails", "by", "ply", "at", pieces > 1 ? "piece" : ""});
  const std::size_t shown = std::min<std::size_t>(failing.size(), 12);
  for (const result::Critical& one : std::span(failing).first(shown)) {
    reserves.add({number(one.factor), std::string(laminate::words(one.mode)),
                  std::string(laminate::name_of(one.criterion)), design.part.plies[one.ply].id,
                  std::string(laminate::words(one.criterion, one.place)),
                  pieces > 1 ? fmt::format("{}", one.piece + 1) : ""});
  }
  reserves.print(stdout);
  if (shown < failing.size())
    fmt::print("  and {} more, of larger reserves: --json has them all\n", failing.size() - shown);
}

Json place_json(const Design& design, const model::Model& model, const result::Recovery& recovery,
                const Answers& answers, std::size_t c, mesh::ElementIndex e) {
  const auto list = [](const auto& values) {
    Json out = Json::array();
    for (const double value : values) out.push_back(value);
    return out;
  };
  const model::CaseFields& fields = answers.fields[c];
  const result::SectionResultants carried = recovery.carried(fields, answers.cases[c])[e];
  Json layers = Json::array();
  for (const result::PlyState& s : recovery.at(fields, answers.cases[c], e))
    layers.push_back({{"layer", s.layer + 1},
                      {"ply", design.part.plies[s.ply].id},
                      {"piece", s.piece + 1},
                      {"place", places[s.place]},
                      {"z", s.z},
                      {"ply_stress", list(s.ply_stress)},
                      {"ply_held", list(s.ply_held)},
                      {"ply_shear", list(s.ply_shear)},
                      {"ply_through", s.ply_through},
                      {"ply_strain", list(s.ply_strain)},
                      {"section_stress", list(s.stress)},
                      {"six_in_section", list(result::stress_in_section(s))},
                      {"six_in_part", list(result::stress_in_part(design, e, s))},
                      {"section_strain", list(s.strain)}});
  Json failing = Json::array();
  for (const result::Critical& one : recovery.failing(fields, answers.cases[c], e))
    failing.push_back(critical_json(design, model, one));
  return {{"element", design.surface.element_ids[e]},
          {"case", model.cases[answers.cases[c]].name},
          {"reference", to_json(design.sections.references[e])},
          {"normal", to_json(design.geometry.normals[e])},
          {"N", list(carried.N)},
          {"M", list(carried.M)},
          {"Q", list(carried.Q)},
          {"strain", list(fields.sections[e].deformation.strain)},
          {"curvature", list(fields.sections[e].deformation.curvature)},
          {"doubtful", recovery.doubtful(e)},
          {"doubt", result::words(recovery.doubt(e))},
          {"layers", layers},
          {"failing", failing}};
}

void draw_place(const Choices& choices, const Design& design, const model::Model& model,
                const result::Recovery& recovery, const Answers& answers, std::size_t c, mesh::ElementIndex e) {
  const UnitSystem& units = design.part.units;
  const result::SectionResultants carried = recovery.carried(answers.fields[c], answers.cases[c])[e];
  drawing::StressProfile profile;
  const auto failing = recovery.failing(answers.fields[c], answers.cases[c], e);
  const std::uint8_t piece = failing.empty() ? 0 : failing.front().piece;
  profile.title = fmt::format("{}, element {}: case {}", design.part.name, design.surface.element_ids[e],
                              model.cases[answers.cases[c]].name);
  for (const result::PlyState& s : recovery.at(answers.fields[c], answers.cases[c], e))
    if (s.piece == piece) profile.states.push_back(s);
  profile.stack = drawing::stack_at(design, e, profile.states);
  profile.least.resize(profile.states.size() / 3);
  for (std::size_t i = 0; i < profile.least.size(); ++i)
    for (const result::Critical& one : failing)
      if (one.piece == piece && one.ply == profile.states[3 * i].ply && one.factor < profile.least[i].factor)
        profile.least[i] = one;
  const std::string force = units.unit(Dimension::force), length = units.unit(Dimension::length);
  profile.subtitle = fmt::format(
      "N {:.4g} {:.4g} {:.4g} {}/{}, M {:.4g} {:.4g} {:.4g} {}, Q {:.4g} {:.4g} {}/{}, about the mesh, x along {}",
      carried.N[0], carried.N[1], carried.N[2], force, length, carried.M[0], carried.M[1], carried.M[2], force,
      carried.Q[0], carried.Q[1], force, length, point_text(design.sections.references[e]));
  if (recovery.doubtful(e))
    profile.subtitle += fmt::format("; {}: stresses of plies do not hold here", result::words(recovery.doubt(e)));
  drawing::draw(profile, units, choices.draw);
  fmt::print(stderr, "wrote {}\n", choices.draw);
}

int run(Choices choices) {
  return guarded({"stress", choices.json}, [&](Findings& findings) {
    choices.answers.part_file = choices.part.file;
    check_answer_options(choices.answers, choices.model);
    if (!choices.from.empty() && (choices.model.options() || !choices.answers.answer.empty()))
      throw Failure({Severity::error,
                     "deck.choices",
                     "--from goes together neither with --answer nor with --solids",
                     {},
                     "leave one of them out"});
    if (choices.from.empty() && choices.blank.empty())
      take_records(choices.answers, choices.part, choices.cases, choices.sections, choices.model);
    const Design design = open_part(choices.part, findings, choices.sections.options(), progress_line());
    const std::size_t opened = findings.all().size();
    if (!choices.blank.empty()) {
      result::write_template(design, choices.blank);
      fmt::print(stderr, "wrote {}\n", choices.blank);
      return 0;
    }
    const model::Model model =
        assemble(design, {.quadratic = true, .laminate_only = false, .solids = choices.model.options()}, findings);
    const auto criteria = criteria_named(choices.criteria, model.solids != nullptr);
    const auto plies = plies_named(choices, design);
    find_missing(design, criteria, findings);
    result::check_peel(model, criteria, findings);
    const Answers answers =
        section_answers(choices.answers, choices.from, model, choices.cases,
                        choices.write.ends_with(".vtu") ? Modes::where_there : Modes::passed_over, findings);
    const result::Recovery recovery(model, criteria);
    const bool at_place = choices.place.element || !choices.place.point.empty();
    std::optional<mesh::ElementIndex> place;
    std::optional<result::Reserves> reserves;
    if (at_place) place = element_at(design, choices.place, findings);
    if (!at_place || !choices.write.empty())
      reserves = recovery.reserves(answers.fields, answers.cases, progress_line());
    if (!place && !choices.draw.empty()) place = first_to_fail(*reserves);
    const std::size_t c = place ? worst_case(recovery, answers, *place) : 0;
    if (!choices.write.empty()) {
      review::write_results({design, model, recovery, answers.fields, answers.cases, *reserves}, choices.write,
                            progress_line(), {answers.modes, plies});
      fmt::print(stderr, "wrote {}\n", choices.write);
    }
    if (!choices.draw.empty()) draw_place(choices, design, model, recovery, answers, c, *place);
    if (choices.json) {
      Json out = {{"part", design.part.name}, {"criteria", Json::array()}, {"cases", Json::array()}};
      for (const laminate::Criterion criterion : criteria) out["criteria"].push_back(laminate::name_of(criterion));
      for (const std::size_t k : answers.cases) out["cases"].push_back(model.cases[k].name);
      if (at_place)
        out["place"] = place_json(design, model, recovery, answers, c, *place);
      else
        out["reserves"] = reserves_json(design, model, *reserves);
      print_document("stress", design.part.units, out, findings);
      return 0;
    }
    const std::vector<Finding> said = worth_saying(findings, opened);
    print_findings(said, stdout);
    if (!said.empty()) fmt::print("\n");
    if (at_place)
      print_place(design, model, recovery, answers, c, *place, choices.axes);
    else
      print_reserves(design, model, *reserves, choices.most);
    return 0;
  });
}

}  // namespace stress_command

void add_stress(CLI::App& program, int& exit_code) {
  using namespace stress_command;
  auto choices = std::make_shared<Choices>();
  CLI::App* const command = program.add_subcommand(
      "stress", "Stress in every ply and what fails first, from answers of solve or section forces of anyone");
  add_part_option(*command, choices->part);
  add_section_options(*command, choices->sections);
  add_place_options(*command, choices->place, Needed::no);
  command->add_option("--case", choices->cases, "Which load cases; all static ones when not given");
  add_answer_options(*command, choices->answers, choices->model);
  command->add_option("--answer", choices->answers.answer,
                      "One listing (.dat) instead, whatever its name: of a deck that deck or solve wrote");
  command->add_option("--from", choices->from,
                      "Section forces or strains of every element instead, .csv or .vtu, whoever computed them");
  add_output_option(*command, "--template", choices->blank,
                    "Write a table for --from and nothing else, .csv: every element, its axes, headings with units");
  add_criterion_option(*command, choices->criteria);
  command
      ->add_option("--axes", choices->axes,
                   "At a place: ply, as fibres lie; or all six components in those of the section or the part")
      ->check(CLI::IsMember({"ply", "section", "part"}))
      ->capture_default_str();
  command->add_option("--most", choices->most, "Lines of plies that are printed")
      ->check(CLI::Range(1, 1000000))
      ->capture_default_str();
  CLI::Option* const write = add_output_option(*command, "--write", choices->write,
                                               "Stresses of every ply, .csv, or fields for viewers, .vtu");
  command->add_option("--ply", choices->plies, "With --write, by id: in a .vtu its stresses, too; in a .csv no others")
      ->needs(write);
  add_output_option(*command, "--draw", choices->draw,
                    "Stresses through the thickness at the place, or where the part fails first, .svg or .pdf");
  command->add_flag("--json", choices->json, "Print JSON; values in the part's units");
  command->footer(
      "Examples:\n  bordado stress skiff.toml --folder out\n  bordado stress skiff.toml --folder out --element 812 "
      "--draw "
      "through.svg\n  bordado stress skiff.toml --from forces.csv --criterion tsai-wu");
  command->callback([choices, &exit_code] { exit_code = run(*choices); });
}

}  // namespace bordado::cli
