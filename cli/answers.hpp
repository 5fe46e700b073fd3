// Answers of the solver that are there, for commands that look at them.
#pragma once

#include "print.hpp"

#include <bordado/calculix.hpp>

namespace bordado::cli {

/// A deck that the command of that name writes.
struct DeckFile {
  std::string path;
  std::vector<std::size_t> cases;  ///< in Model::cases
};
/// One or several of a format, with the cases that each holds. \param stem the part file's name without its ending
std::vector<DeckFile> deck_files(const deck::Format& format, const model::Model& model,
                                 std::span<const std::size_t> cases, const std::string& folder,
                                 const std::string& stem);

struct Answers {
  std::vector<model::CaseFields> fields;  ///< of static cases
  std::vector<std::size_t> cases;         ///< which of the model's these are
  std::vector<model::CaseFields> modes;   ///< of frequencies and buckling
};
/// Where the solver put them, and of what they are.
struct AnswerPlace {
  std::string part_file;
  std::string folder = ".";
  bool real_plies = false;
  std::string answer = {};  ///< one listing, of whatever deck; or empty
};
/// How the decks of those answers were made, from what stands beside them (deck::Record): put into choices that the command
/// line left as they are. \param cases that are asked for, or none
/// \throws Failure "result.made-otherwise" where decks were made in different ways.
void take_records(AnswerPlace& place, const PartChoice& part, const std::vector<std::string>& cases,
                  SectionChoice& sections, ModelChoice& model);
/// Options by which a command finds answers.
void add_answer_options(CLI::App& command, AnswerPlace& place, ModelChoice& model);
/// \throws Failure "deck.choices" where they do not go together.
void check_answer_options(const AnswerPlace& place, const ModelChoice& model);
/// Parts side by side, each with its variant, where its answers are, and the model they are of: one for all, or one for each.
struct SideBySide {
  std::vector<std::string> parts, folders, variants, solids;
  bool real_plies = false;
  struct One {
    PartChoice part;
    AnswerPlace answers;
    ModelChoice model;
  };
  One one(std::size_t i) const;
};
/// Options of those, the parts themselves left out.
void add_side_by_side_options(CLI::App& command, SideBySide& choice);
/// \throws Failure "runs.lists" where an option is given neither once nor once for each part.
void check_lists(const SideBySide& choice);
/// \throws Failure "runs.units" where two parts count in different units.
void check_units(const Design& first, const Design& other);

enum class Modes {
  passed_over,
  read,
  where_there  ///< passed over where they were not solved
};

/// The cases that are asked for; all where none is. \throws Failure "case.unknown".
std::vector<std::size_t> wanted_cases(const model::Model& model, const std::vector<std::string>& names);

/// Reads answers, each held against the deck as it would be written now: those that solve left, or, where a case has none,
/// that of the deck that the command `deck` writes of all cases; or one listing.
/// Findings: "result.strain-unlikely". \throws Failure "result.none" where one is missing, "result.other-deck",
/// "result.refused" where solve did not believe it, and as
/// calculix::read_case().
Answers read_answers(const AnswerPlace& place, const model::Model& model, const std::vector<std::string>& names,
                     Modes modes, Findings& findings);

/// The same of static cases, or a table of section forces of one case (result::read_sections()). \param from the table, or empty
/// Findings: "result.no-shear". \throws Failure "stress.one-case", "result.none" where no case is static, and as above.
Answers section_answers(const AnswerPlace& place, const std::string& from, const model::Model& model,
                        const std::vector<std::string>& names, Modes modes, Findings& findings);

}  // namespace bordado::cli
