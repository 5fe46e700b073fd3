#include "answers.hpp"

#include <bordado/deck/record.hpp>
#include <bordado/recovery.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <filesystem>
#include <map>

namespace bordado::cli {

namespace fs = std::filesystem;

namespace {

/// A name as a part of a file's.
std::string file_word(const std::string& name) {
  std::string out;
  for (const char c : name) out += std::isalnum(static_cast<unsigned char>(c)) != 0 || c == '-' ? c : '_';
  return out;
}

std::string with_ending(const std::string& path, std::string_view ending) {
  return fs::path(path).replace_extension(ending).string();
}

/// Finds which deck an answer is of: decks are written nowhere, and their marks compared.
class Finder {
 public:
  Finder(const AnswerPlace& place, const model::Model& model) : place_(place), model_(model) {}

  deck::WriteOptions options_for(const std::vector<std::size_t>& cases) const {
    deck::WriteOptions out;
    out.cases = cases;
    out.nowhere = true;
    if (place_.real_plies) out.layers = deck::LayersAs::plies;
    return out;
  }
  const std::vector<deck::Mark>& marks_of(const std::vector<std::size_t>& cases) {
    const auto known = marks_.find(cases);
    if (known != marks_.end()) return known->second;
    Findings unheard;
    deck::Written written = deck::find_format("calculix")->write(model_, "nowhere.inp", options_for(cases), unheard);
    return marks_.emplace(cases, std::move(written.marks)).first->second;
  }

  /// Where the answer to a case is, and the cases of its deck; nothing where there is none.
  std::optional<DeckFile> find(std::size_t k, std::span<const std::size_t> wanted) {
    if (!place_.answer.empty()) return within(k, wanted);
    const std::string stem = fs::path(place_.part_file).stem().string();
    const std::string own = own_path(k);
    if (fs::exists(own)) return DeckFile{own, {k}};
    for (const DeckFile& file : deck_files(*deck::find_format("calculix"), model_, {}, place_.folder, stem))
      if (const std::string dat = with_ending(file.path, ".dat");
          std::find(file.cases.begin(), file.cases.end(), k) != file.cases.end() && fs::exists(dat))
        return DeckFile{dat, file.cases};
    return std::nullopt;
  }
  Failure missing(std::size_t k) const {
    return Failure({Severity::error, "result.none",
                    fmt::format("case '{}' has no answer '{}'", model_.cases[k].name, own_path(k)),
                    Place::in(own_path(k)),
                    fmt::format("solve it first: bordado solve {} --folder {}", place_.part_file, place_.folder)});
  }

 private:
  /// Of the deck that solve writes for the case.
  std::string own_path(std::size_t k) const {
    const std::string stem = fs::path(place_.part_file).stem().string();
    const std::string deck = (fs::path(place_.folder) / stem).string() + ".inp";
    return with_ending(calculix::path_of_case(model_, deck, k), ".dat");
  }
  std::optional<DeckFile> within(std::size_t k, std::span<const std::size_t> wanted) {
    if (!deck_) {
      const Progress progress = progress_line();
      const std::vector<std::string> carried = calculix::marks_in(place_.answer, progress);
      // Of all cases, of those that are named, or of one.
      const deck::Format& format = *deck::find_format("calculix");
      std::vector<std::vector<std::size_t>> decks = decks_of(format, model_, {});
      for (auto& of_named : decks_of(format, model_, wanted)) decks.push_back(std::move(of_named));
      for (const std::size_t one : wanted) decks.push_back({one});
      for (auto& cases : decks) {
        const auto& marks = marks_of(cases);
        const bool all = std::all_of(marks.begin(), marks.end(), [&](const deck::Mark& mark) {
          return std::find(carried.begin(), carried.end(), mark.name) != carried.end();
        });
        if (!all) continue;
        deck_ = std::move(cases);
        break;
      }
      if (!deck_)
        throw Failure({Severity::error, "result.other-deck",
                       carried.empty() ? "the answer says of no deck whose it is"
                                       : fmt::format("the answer is of another deck: it carries {}", carried.front()),
                       Place::in(place_.answer),
                       "name with --case the cases that its deck holds, and say --solids or --real-plies if that was "
                       "written so; or the part has changed since: write the deck again and solve it"});
    }
    if (std::find(deck_->begin(), deck_->end(), k) == deck_->end()) return std::nullopt;
    return DeckFile{place_.answer, *deck_};
  }

  const AnswerPlace& place_;
  const model::Model& model_;
  std::map<std::vector<std::size_t>, std::vector<deck::Mark>> marks_;
  std::optional<std::vector<std::size_t>> deck_;  ///< of the one listing
};

}  // namespace

std::vector<DeckFile> deck_files(const deck::Format& format, const model::Model& model,
                                 std::span<const std::size_t> cases, const std::string& folder,
                                 const std::string& stem) {
  std::vector<DeckFile> out;
  const auto decks = decks_of(format, model, cases);
  for (const auto& own : decks) {
    // Decks of one kind of analysis each are told apart by it, others by their first case.
    const part::Analysis first = model.cases.empty() ? part::Analysis::linear : model.cases[own.front()].analysis;
    std::string kind;
    if (format.one_analysis && first != part::Analysis::linear)
      kind = "-" + std::string(part::analysis_names[static_cast<std::size_t>(first)]);
    else if (!format.one_analysis && decks.size() > 1)
      kind = "-" + file_word(model.cases[own.front()].name);
    const auto path = [&] { return (fs::path(folder) / (stem + kind + std::string(format.extension))).string(); };
    if (std::any_of(out.begin(), out.end(), [&](const DeckFile& other) { return other.path == path(); }))
      kind += "-" + file_word(model.cases[own.front()].name);  // of one kind, but with other stiff links
    out.push_back({path(), own});
  }
  return out;
}

namespace {

bool made_alike(const deck::Record& a, const deck::Record& b) {
  return a.sections == b.sections && a.solids == b.solids && a.real_plies == b.real_plies;
}

std::string in_words(const model::SolidOptions& solids) {
  using Per = model::SolidOptions::Per;
  return solids.per == Per::ply ? "ply" : solids.per == Per::material ? "material" : fmt::format("{}", solids.most);
}

/// As options of the command line.
std::string how_made(const deck::Record& record) {
  std::string out = record.solids ? "--solids " + in_words(*record.solids) : "shells";
  if (record.solids && record.solids->rough) out += " --rough-solids";
  using Constants = model::SolidOptions::Constants;
  if (record.solids && record.solids->constants != Constants::as_they_are)
    out += record.solids->constants == Constants::nine ? " --constants 9" : " --constants 21";
  if (record.real_plies) out += " --real-plies";
  const section::Options usual;
  if (record.sections.angle_tolerance.degrees() != usual.angle_tolerance.degrees())
    out += fmt::format(" --angle-tolerance {:g}", record.sections.angle_tolerance.degrees());
  if (record.sections.thickness_tolerance != usual.thickness_tolerance)
    out += fmt::format(" --thickness-tolerance {:g}", 100.0 * record.sections.thickness_tolerance);
  if (record.sections.most_sections) out += fmt::format(" --most-sections {}", *record.sections.most_sections);
  return out;
}

/// Of the answers that are meant: beside the one that is named, or of those in the folder.
std::vector<deck::FoundRecord> records_of(const AnswerPlace& place, const PartChoice& part,
                                          const std::vector<std::string>& cases) {
  if (!place.answer.empty()) {
    const std::string deck = with_ending(place.answer, ".inp");
    auto own = deck::read_record(deck);
    if (!own) return {};
    return {{deck, std::move(*own)}};
  }
  std::vector<deck::FoundRecord> out = deck::records_in(place.folder, part.file, part.variant);
  std::erase_if(out, [&](const deck::FoundRecord& found) {
    const auto asked = [&](const std::string& name) {
      return std::find(cases.begin(), cases.end(), name) != cases.end();
    };
    return !fs::exists(with_ending(found.deck_path, ".dat")) ||
           (!cases.empty() && std::none_of(found.record.cases.begin(), found.record.cases.end(), asked));
  });
  // Where a case was solved by itself that answer is read, whatever deck holds it, too.
  const std::string stem = fs::path(part.file).stem().string();
  const auto alone = [&](const std::string& name) {
    return std::any_of(out.begin(), out.end(), [&](const deck::FoundRecord& other) {
      return other.record.cases.size() == 1 && other.record.cases.front() == name &&
             fs::path(other.deck_path).stem().string() != stem;
    });
  };
  std::erase_if(out, [&](const deck::FoundRecord& found) {
    return fs::path(found.deck_path).stem().string() == stem && !found.record.cases.empty() &&
           std::all_of(found.record.cases.begin(), found.record.cases.end(), alone);
  });
  return out;
}

}  // namespace

void take_records(AnswerPlace& place, const PartChoice& part, const std::vector<std::string>& cases,
                  SectionChoice& sections, ModelChoice& model) {
  const bool told_model = !model.solids.empty() || place.real_plies;
  std::vector<deck::FoundRecord> found = records_of(place, part, cases);
  if (told_model)  // of decks made in two ways those that are meant
    std::erase_if(found, [&](const deck::FoundRecord& one) {
      return one.record.real_plies != place.real_plies ||
             (one.record.solids ? in_words(*one.record.solids) : std::string()) != model.solids;
    });
  if (found.empty()) return;
  const deck::Record& first = found.front().record;
  for (const deck::FoundRecord& other : found)
    if (!made_alike(first, other.record))
      throw Failure({Severity::error, "result.made-otherwise",
                     fmt::format("decks of this part were made in different ways: '{}' ({}), '{}' ({})",
                                 found.front().deck_path, how_made(first), other.deck_path, how_made(other.record)),
                     Place::in(place.folder),
                     "say which is meant by its options, or with --case NAME, or solve all of them again"});
  if (!told_model) {
    if (first.solids) {
      model.solids = in_words(*first.solids);
      model.rough = first.solids->rough;
      using Constants = model::SolidOptions::Constants;
      model.constants = first.solids->constants == Constants::nine  ? 9
                        : first.solids->constants == Constants::all ? 21
                                                                    : 0;
    }
    place.real_plies = first.real_plies;
  }
  const SectionChoice usual;
  if (sections.angle_tolerance == usual.angle_tolerance)
    sections.angle_tolerance = first.sections.angle_tolerance.degrees();
  if (sections.thickness_tolerance == usual.thickness_tolerance)
    sections.recorded_thickness = first.sections.thickness_tolerance;
  if (!sections.most) sections.most = first.sections.most_sections;
}

void add_answer_options(CLI::App& command, AnswerPlace& place, ModelChoice& model) {
  command.add_option("--folder", place.folder, "Where the answers are: those of solve, or of the deck that deck wrote")
      ->capture_default_str();
  command.add_flag(
      "--real-plies", place.real_plies,
      "Of decks made in several ways those with real plies; otherwise what stands beside the answers says it");
  command.add_option("--solids", model.solids, "Of decks made in several ways those of solids; otherwise as above")
      ->type_name("ply|material|COUNT")
      ->check(solids_choice);
  add_rough_option(command, model);
}

namespace {

/// The i-th of a list that has one for each part, or one for all, or none.
std::string for_part(const std::vector<std::string>& list, std::size_t i, const std::string& otherwise) {
  return list.empty() ? otherwise : list.size() == 1 ? list.front() : list[i];
}

}  // namespace

SideBySide::One SideBySide::one(std::size_t i) const {
  One out;
  out.part.file = parts[i];
  if (const std::string variant = for_part(variants, i, "-"); variant != "-") out.part.variant = variant;
  if (const std::string as = for_part(solids, i, "-"); as != "-") out.model.solids = as;
  // Real plies are of shells.
  out.answers = {parts[i], for_part(folders, i, "."), real_plies && !out.model.options()};
  return out;
}

void add_side_by_side_options(CLI::App& command, SideBySide& choice) {
  command.add_option("--folder", choice.folders, "Where solve put the answers: one for all, or one for each part");
  command.add_option("--variant", choice.variants, "One for all, or one for each part; - is none");
  command
      .add_option("--solids", choice.solids,
                  "Decks were written with --solids, as said there: one for all, or one for each part; - is shells")
      ->type_name("ply|material|COUNT|-")
      ->check([](const std::string& text) { return text == "-" ? std::string() : solids_choice(text); });
  command.add_flag("--real-plies", choice.real_plies, "Of decks made in several ways those with real plies");
}

void check_lists(const SideBySide& choice) {
  const auto fits = [&](std::string_view option, const std::vector<std::string>& list) {
    if (list.size() > 1 && list.size() != choice.parts.size())
      throw Failure(
          {Severity::error,
           "runs.lists",
           fmt::format("{} is given {} times for {}", option, list.size(), counted(choice.parts.size(), "part")),
           {},
           "give it once for all, or once for each in the order of the parts"});
  };
  fits("--folder", choice.folders);
  fits("--variant", choice.variants);
  fits("--solids", choice.solids);
}

void check_units(const Design& first, const Design& other) {
  const std::string &one = first.part.units.name(), &two = other.part.units.name();
  if (one != two)
    throw Failure({Severity::error, "runs.units",
                   fmt::format("'{}' is in {}, '{}' in {}", first.part.file, one, other.part.file, two),
                   Place::in(other.part.file), "give both the same units"});
}

void check_answer_options(const AnswerPlace& place, const ModelChoice& model) {
  if (model.options() && place.real_plies)
    throw Failure(
        {Severity::error, "deck.choices", "--solids and --real-plies do not go together", {}, "leave one of them out"});
}

std::vector<std::size_t> wanted_cases(const model::Model& model, const std::vector<std::string>& names) {
  std::vector<std::size_t> out = cases_of(model, names);
  if (out.empty())
    for (std::size_t k = 0; k < model.cases.size(); ++k) out.push_back(k);
  return out;
}

namespace {

/// What solve refused stays refused, and the answer of another variant is told as that. \param dat the answer
void check_record(const std::string& dat, const std::string& name, const std::string& variant) {
  const auto record = deck::read_record(with_ending(dat, ".inp"));
  if (!record) return;
  const auto named = [](const std::string& one) {
    return one.empty() ? "no variant" : fmt::format("variant '{}'", one);
  };
  if (record->variant != variant)
    throw Failure({Severity::error, "result.other-deck",
                   fmt::format("the deck of this answer to case '{}' is of {}, and {} is asked for", name,
                               named(record->variant), named(variant)),
                   Place::in(dat), "ask for that one (--variant), or solve the case again"});
  if (!record->refused || record->refused->answer_print != deck::answer_print(dat)) return;
  throw Failure({Severity::error, "result.refused",
                 fmt::format("solve refused this answer to case '{}': {} [{}]", name, record->refused->what,
                             record->refused->code),
                 Place::in(dat), "mend what was wrong and solve it again"});
}

}  // namespace

Answers read_answers(const AnswerPlace& place, const model::Model& model, const std::vector<std::string>& names,
                     Modes modes, Findings& findings) {
  Answers out;
  const Progress progress = progress_line();
  Finder finder(place, model);
  const std::vector<std::size_t> wanted = wanted_cases(model, names);
  for (const std::size_t k : wanted) {
    const auto analysis = model.cases[k].analysis;
    const bool has_modes = analysis == part::Analysis::frequencies || analysis == part::Analysis::buckling;
    if (has_modes && modes == Modes::passed_over) continue;
    const auto found = finder.find(k, wanted);
    if (!found && place.answer.empty() && !(has_modes && modes == Modes::where_there)) throw finder.missing(k);
    if (!found) continue;
    check_record(found->path, model.cases[k].name, model.design->part.variant);
    auto fields = calculix::read_case(model, k, found->path, finder.marks_of(found->cases),
                                      finder.options_for(found->cases), progress);
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

Answers section_answers(const AnswerPlace& place, const std::string& from, const model::Model& model,
                        const std::vector<std::string>& names, Modes modes, Findings& findings) {
  const Design& design = *model.design;
  if (!from.empty()) {
    const auto cases = wanted_cases(model, names);
    const auto acts = [&](std::size_t k) {
      bool any = false;
      for (std::size_t i = 0; i < model.loads.size(); ++i)
        any =
            any || (model.cases[k].acts(i) && (std::holds_alternative<model::Model::Temperature>(model.loads[i].what) ||
                                               std::holds_alternative<model::Model::Pressure>(model.loads[i].what)));
      return any;
    };
    if (cases.size() > 1 && (!names.empty() || std::any_of(cases.begin(), cases.end(), acts)))
      throw Failure({Severity::error, "stress.one-case",
                     "the table is of one case, and temperature or pressure act in some of several", Place::in(from),
                     "say which with --case NAME"});
    result::GivenSections given = result::read_sections(design, from);
    if (!given.shear)
      findings.warning("result.no-shear",
                       "there are no columns Qx and Qy: shear between plies and of cores is not judged",
                       Place::in(from), "add them where they are known");
    Answers out{{result::with_temperature(std::move(given), design, model, cases.front())}, {cases.front()}, {}};
    result::check_plausible(out.fields.front(), design.surface, findings);
    return out;
  }
  Answers out = read_answers(place, model, names, modes, findings);
  if (out.fields.empty())
    throw Failure({Severity::error, "result.none", "there is no static case to tell stresses of",
                   Place::in(design.part.file), "name one with --case; frequencies and factors have none"});
  return out;
}

}  // namespace bordado::cli
