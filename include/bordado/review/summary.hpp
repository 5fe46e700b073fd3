/// \file summary.hpp
/// What came of a part, on one page.
#ifndef BORDADO_REVIEW_SUMMARY_HPP
#define BORDADO_REVIEW_SUMMARY_HPP

#include <bordado/review/results.hpp>

namespace bordado::review {

struct SummaryTable {
  std::string title;
  std::vector<std::string> head;
  std::vector<std::vector<std::string>> rows;
  std::string note = {};  ///< below it
};
/// A page of tables, as text.
struct Summary {
  std::string title, subtitle;
  std::vector<SummaryTable> tables;
  std::vector<std::string> assumptions, findings;
};
/// Cases with their loads and deflections, frequencies and factors; least reserves by material and by zone; what was
/// assumed; findings that are no notes. \param modes fields of frequencies and buckling
Summary summary(const Results& results, std::span<const model::CaseFields> modes, std::span<const Finding> findings);

}  // namespace bordado::review

#endif
