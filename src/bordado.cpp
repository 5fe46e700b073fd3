#include <bordado/calculix.hpp>
#include <bordado/design.hpp>
#include <bordado/mesh/care.hpp>
#include <bordado/mesh/io.hpp>

#include <fmt/format.h>

namespace bordado {

namespace {

/// A mesh that is missing is told at the line that names it.
mesh::Surface read_mesh(const part::Part& part, Findings& findings) {
  try {
    return mesh::read(
        part.mesh_path(),
        {.factor = part.mesh_factor, .weld = part.mesh_weld, .includes_anywhere = part.mesh_includes_anywhere},
        findings);
  } catch (const Failure& failure) {
    std::vector<Finding> told = failure.findings();
    for (Finding& finding : told)
      if (finding.code.starts_with("file.") && part.mesh_file.where.line) finding.where = part.mesh_file.where;
    throw Failure(std::move(told));
  }
}

}  // namespace

Design::Design() = default;
Design::Design(Design&&) noexcept = default;
Design& Design::operator=(Design&&) noexcept = default;
Design::~Design() = default;

Design open(const std::string& part_file, Findings& findings, const section::Options& options,
            const Progress& progress) {
  return open(part::read(part_file, findings), findings, options, progress);
}

Design open(part::Part part, Findings& findings, const section::Options& options, const Progress& progress) {
  if (progress) progress("reading the mesh", 0.0);
  mesh::Surface surface = read_mesh(part, findings);
  return open(std::move(part), std::move(surface), findings, options, progress);
}

Design open(part::Part part, mesh::Surface surface, Findings& findings, const section::Options& options,
            const Progress& progress) {
  const auto tell = [&](std::string_view activity, double fraction) {
    if (progress) progress(activity, fraction);
  };
  Design out;
  out.part = std::move(part);
  out.surface = std::move(surface);
  tell("making the sides agree", 0.4);
  Findings orienting;
  out.orientation = mesh::orient(out.surface, out.part.side, orienting);
  orienting.throw_if_errors();
  for (const Finding& finding : orienting.all()) findings.add(finding);
  out.geometry = mesh::geometry(out.surface);
  tell("laying the plies", 0.7);
  out.layup = layup::lay(out.part, out.surface, out.geometry, findings, progress);
  tell("condensing the sections", 0.9);
  out.sections = section::condense(out, options);
  tell("done", 1.0);
  return out;
}

deck::Written write_deck(const Design& design, std::string_view format, const std::string& path,
                         const deck::WriteOptions& options, Findings& findings) {
  const deck::Format* const found = deck::find_format(format);
  if (!found) {
    std::vector<std::string> names;
    for (const deck::Format& known : deck::formats()) names.emplace_back(known.name);
    throw Failure({Severity::error,
                   "deck.format-unknown",
                   fmt::format("there is no deck format '{}'", format),
                   {},
                   fmt::format("formats: {}", listed(names))});
  }
  const model::Model model =
      assemble(design, {.quadratic = found->quadratic, .laminate_only = options.laminate_only, .solids = {}}, findings);
  deck::WriteOptions own = options;
  if (own.cases.empty()) own.cases = deck::decks_of(*found, model, {}).front();
  return found->write(model, path, own, findings);
}

model::Model assemble(const Design& design, const model::AssembleOptions& options, Findings& findings) {
  // Shares nothing: the design is its owner's.
  return model::assemble(std::shared_ptr<const Design>(std::shared_ptr<const Design>(), &design), options, findings);
}

calculix::Solved solve(const Design& design, const std::string& deck_path, const calculix::SolveOptions& options,
                       Findings& findings, const Progress& progress) {
  const model::Model model = assemble(
      design, {.quadratic = deck::find_format("calculix")->quadratic, .laminate_only = false, .solids = {}}, findings);
  return calculix::solve(model, deck_path, options, findings, progress);
}

}  // namespace bordado
