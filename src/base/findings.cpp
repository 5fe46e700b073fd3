#include <bordado/base/findings.hpp>
#include <bordado/base/text.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <numeric>

namespace bordado {

std::string_view version() { return BORDADO_VERSION; }

std::string Place::text() const {
  std::string out = file;
  if (line) out += fmt::format("{}{}", out.empty() ? "line " : ":", *line);
  if (line && column) out += fmt::format(":{}", *column);
  if (element) out += fmt::format("{}element {}", out.empty() ? "" : ": ", *element);
  return out;
}

namespace {

std::string_view name_of(Severity severity) {
  switch (severity) {
    case Severity::note:
      return "note";
    case Severity::warning:
      return "warning";
    case Severity::error:
      break;
  }
  return "error";
}

}  // namespace

std::string Finding::text() const {
  const std::string place = where.text();
  std::string out = fmt::format("{}{}{}: {} [{}]", place, place.empty() ? "" : ": ", name_of(severity), what, code);
  if (!remedy.empty()) out += "\n    " + remedy;
  return out;
}

Failure::Failure(Finding finding) : Failure(std::vector<Finding>{std::move(finding)}) {}

Failure::Failure(std::vector<Finding> findings) : findings_(std::move(findings)) {
  for (const Finding& finding : findings_) text_ += (text_.empty() ? "" : "\n") + finding.text();
}

void Findings::note(std::string code, std::string what, Place where, std::string remedy) {
  add({Severity::note, std::move(code), std::move(what), std::move(where), std::move(remedy)});
}

void Findings::warning(std::string code, std::string what, Place where, std::string remedy) {
  add({Severity::warning, std::move(code), std::move(what), std::move(where), std::move(remedy)});
}

void Findings::error(std::string code, std::string what, Place where, std::string remedy) {
  all_.push_back({Severity::error, std::move(code), std::move(what), std::move(where), std::move(remedy)});
}

void Findings::add(Finding finding) {
  const bool off = finding.severity != Severity::error &&
                   std::find(silenced_.begin(), silenced_.end(), finding.code) != silenced_.end();
  if (!off) all_.push_back(std::move(finding));
}

std::size_t Findings::count(Severity severity) const {
  return static_cast<std::size_t>(
      std::count_if(all_.begin(), all_.end(), [&](const Finding& finding) { return finding.severity == severity; }));
}

void Findings::throw_if_errors() const {
  std::vector<Finding> errors;
  std::copy_if(all_.begin(), all_.end(), std::back_inserter(errors),
               [](const Finding& finding) { return finding.severity == Severity::error; });
  if (!errors.empty()) throw Failure(std::move(errors));
}

std::string counted(std::size_t count, std::string_view noun) {
  return fmt::format("{} {}{}", count, noun, count == 1 ? "" : "s");
}

std::string listed(std::span<const std::string> items, std::size_t most) {
  const std::size_t shown = std::min(items.size(), most);
  std::string out = fmt::format("{}", fmt::join(items.first(shown), ", "));
  if (items.size() > shown) out += fmt::format(" and {} more", items.size() - shown);
  return out;
}

std::string listed(std::span<const std::int64_t> ids, std::size_t most) {
  const std::size_t shown = std::min(ids.size(), most);
  std::string out = fmt::format("{}", fmt::join(ids.first(shown), ", "));
  if (ids.size() > shown) out += fmt::format(" and {} more", ids.size() - shown);
  return out;
}

namespace {

/// Levenshtein distance: V. I. Levenshtein, Soviet Physics Doklady 10 (1966) 707.
std::size_t edit_distance(std::string_view a, std::string_view b) {
  std::vector<std::size_t> row(b.size() + 1);
  std::iota(row.begin(), row.end(), std::size_t{0});
  for (std::size_t i = 0; i < a.size(); ++i) {
    std::size_t diagonal = row[0]++;
    for (std::size_t j = 0; j < b.size(); ++j) {
      const std::size_t above = row[j + 1];
      row[j + 1] = std::min({above + 1, row[j] + 1, diagonal + (a[i] == b[j] ? 0 : 1)});
      diagonal = above;
    }
  }
  return row.back();
}

}  // namespace

std::optional<std::string> nearest_name(std::string_view given, std::span<const std::string> known) {
  std::optional<std::string> best;
  std::size_t best_distance = (given.size() < 4 ? 1 : std::max<std::size_t>(2, given.size() / 3)) + 1;
  for (const std::string& name : known) {
    const std::size_t distance = edit_distance(given, name);
    if (distance < best_distance) {
      best_distance = distance;
      best = name;
    }
  }
  return best;
}

}  // namespace bordado
