#include "answers.hpp"

#include <fmt/format.h>

#include <filesystem>

namespace bordado::cli {

std::vector<std::size_t> wanted_cases(const deck::Model& model, const std::vector<std::string>& names) {
  std::vector<std::size_t> out = cases_of(model, names);
  if (out.empty())
    for (std::size_t k = 0; k < model.cases.size(); ++k) out.push_back(k);
  return out;
}

Answers read_answers(const AnswerPlace& place, const deck::Model& model, const std::vector<std::string>& names,
                     Modes modes, Findings& findings) {
  Answers out;
  const std::string deck =
      (std::filesystem::path(place.folder) / std::filesystem::path(place.part_file).stem()).string() + ".inp";
  const Progress progress = progress_line();
  for (const std::size_t k : wanted_cases(model, names)) {
    const auto analysis = model.cases[k].analysis;
    const bool has_modes = analysis == part::Analysis::frequencies || analysis == part::Analysis::buckling;
    if (has_modes && modes == Modes::passed_over) continue;
    std::filesystem::path dat = result::path_of_case(model, deck, k);
    dat.replace_extension(".dat");
    if (!std::filesystem::exists(dat))
      throw Failure({Severity::error, "result.none",
                     fmt::format("case '{}' has no answer '{}'", model.cases[k].name, dat.string()),
                     Place::in(dat.string()),
                     fmt::format("solve it first: bordado solve {} --folder {}", place.part_file, place.folder)});
    // The deck as it would be written now tells whether the answer is of it.
    deck::WriteOptions options;
    options.cases = {k};
    options.nowhere = true;
    if (place.real_plies) options.layers = deck::LayersAs::plies;
    Findings unheard;
    const deck::Written written = deck::find_format("calculix")->write(model, dat.string(), options, unheard);
    auto fields = result::read_case(model, k, dat.string(), written.marks, options, progress);
    result::check_plausible(fields, model.surface, findings);
    if (has_modes) {
      out.modes.push_back(std::move(fields));
      continue;
    }
    out.fields.push_back(std::move(fields));
    out.cases.push_back(k);
  }
  if (progress) progress("", 1.0);
  return out;
}

}  // namespace bordado::cli
