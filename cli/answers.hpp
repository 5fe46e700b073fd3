// Answers of the solver that are there, for commands that look at them.
#pragma once

#include "print.hpp"

#include <bordado/recovery.hpp>

namespace bordado::cli {

struct Answers {
  std::vector<result::CaseFields> fields;  ///< of static cases
  std::vector<std::size_t> cases;          ///< which of the model's these are
  std::vector<result::CaseFields> modes;   ///< of frequencies and buckling
};
/// Where solve put them.
struct AnswerPlace {
  std::string part_file, folder;
  bool real_plies = false;
};
enum class Modes { passed_over, read };

/// The cases that are asked for; all where none is. \throws Failure "case.unknown".
std::vector<std::size_t> wanted_cases(const deck::Model& model, const std::vector<std::string>& names);

/// Reads the answers that solve left, each held against the deck as it would be written now.
/// Findings: "result.strain-unlikely". \throws Failure "result.none" where one is missing, and as result::read_case().
Answers read_answers(const AnswerPlace& place, const deck::Model& model, const std::vector<std::string>& names,
                     Modes modes, Findings& findings);

}  // namespace bordado::cli
