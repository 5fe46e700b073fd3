#include "print.hpp"

#include <fmt/format.h>

#include <cmath>
#include <cstdio>
#include <cstdlib>
#include <unistd.h>

namespace bordado::cli {

namespace {

bool colours(int descriptor) {
  const char* const no_colour = std::getenv("NO_COLOR");
  const char* const terminal = std::getenv("TERM");
  return ::isatty(descriptor) == 1 && !(no_colour && *no_colour) && !(terminal && std::string_view(terminal) == "dumb");
}

/// Width on the screen: characters, not bytes.
std::size_t width(std::string_view text) {
  return static_cast<std::size_t>(std::count_if(text.begin(), text.end(), [](char c) { return (c & 0xC0) != 0x80; }));
}

bool is_number(std::string_view text) { return !text.empty() && (std::isdigit(static_cast<unsigned char>(text[0])) || (text[0] == '-' && text.size() > 1)); }

std::string counted(std::size_t count, std::string_view noun) { return fmt::format("{} {}{}", count, noun, count == 1 ? "" : "s"); }

}  // namespace

std::string styled(const std::string& text, Style style, int descriptor) {
  if (style == Style::plain || !colours(descriptor)) return text;
  constexpr std::string_view codes[] = {"0", "1", "2", "1;31", "1;33", "1;34"};
  return fmt::format("\033[{}m{}\033[0m", codes[static_cast<std::size_t>(style)], text);
}

void print_findings(const std::vector<Finding>& findings, std::FILE* stream) {
  const int descriptor = fileno(stream);
  for (const Finding& finding : findings) {
    const Style style = finding.severity == Severity::error ? Style::error : finding.severity == Severity::warning ? Style::warning : Style::note;
    const std::string_view name = finding.severity == Severity::error ? "error" : finding.severity == Severity::warning ? "warning" : "note";
    const std::string place = finding.where.text();
    fmt::print(stream, "{}: {} {}\n", styled(std::string(name), style, descriptor), finding.what, styled("[" + finding.code + "]", Style::dim, descriptor));
    if (!place.empty()) fmt::print(stream, "    at {}\n", place);
    if (!finding.remedy.empty()) fmt::print(stream, "    {}\n", finding.remedy);
  }
}

std::string tally(const Findings& findings) {
  return fmt::format("{}, {}, {}", counted(findings.count(Severity::error), "error"), counted(findings.count(Severity::warning), "warning"),
                     counted(findings.count(Severity::note), "note"));
}

Json to_json(const Vec3& vector) { return {vector.x(), vector.y(), vector.z()}; }

Json to_json(const Finding& finding) {
  constexpr std::string_view names[] = {"note", "warning", "error"};
  Json out{{"severity", names[static_cast<std::size_t>(finding.severity)]}, {"code", finding.code}, {"what", finding.what}};
  if (!finding.where.file.empty()) out["file"] = finding.where.file;
  if (finding.where.line) out["line"] = *finding.where.line;
  if (finding.where.column) out["column"] = *finding.where.column;
  if (finding.where.element) out["element"] = *finding.where.element;
  if (!finding.remedy.empty()) out["remedy"] = finding.remedy;
  return out;
}

Json to_json(const std::vector<Finding>& findings) {
  Json out = Json::array();
  for (const Finding& finding : findings) out.push_back(to_json(finding));
  return out;
}

void TableText::print(std::FILE* stream) const {
  std::vector<std::size_t> widths(rows_[0].size(), 0);
  std::vector<bool> right(rows_[0].size(), rows_.size() > 1);
  for (std::size_t r = 0; r < rows_.size(); ++r)
    for (std::size_t c = 0; c < rows_[r].size(); ++c) {
      widths[c] = std::max(widths[c], width(rows_[r][c]));
      if (r > 0 && !rows_[r][c].empty() && !is_number(rows_[r][c])) right[c] = false;
    }
  for (std::size_t r = 0; r < rows_.size(); ++r) {
    std::string line;
    for (std::size_t c = 0; c < rows_[r].size(); ++c) {
      const std::string gap(widths[c] - width(rows_[r][c]), ' ');
      line += (c == 0 ? "  " : "   ") + (right[c] ? gap + rows_[r][c] : rows_[r][c] + gap);
    }
    line.erase(line.find_last_not_of(' ') + 1);
    fmt::print(stream, "{}\n", r == 0 ? styled(line, Style::dim, fileno(stream)) : line);
  }
}

std::string number(double value, int digits) {
  if (value == 0.0 || !std::isfinite(value)) return fmt::format("{:g}", value);
  const int exponent = static_cast<int>(std::floor(std::log10(std::abs(value))));
  if (exponent < -4 || exponent > 6) return fmt::format("{:.{}e}", value, digits - 1);
  return fmt::format("{:.{}f}", value, std::max(0, digits - 1 - exponent));
}

std::string mass_text(const UnitSystem& units, double mass) { return number(mass * units.to_si(Dimension::mass)) + " kg"; }
std::string area_text(const UnitSystem& units, double area) { return number(area * units.to_si(Dimension::area)) + " m^2"; }
std::string areal_mass_text(const UnitSystem& units, double areal_mass) { return number(areal_mass * units.to_si(Dimension::areal_mass)) + " kg/m^2"; }
std::string length_text(const UnitSystem& units, double length) { return number(length) + " " + units.unit(Dimension::length); }
std::string point_text(const Vec3& point) { return fmt::format("({}, {}, {})", number(point.x()), number(point.y()), number(point.z())); }

std::vector<std::string> zones_of(const Design& design, layup::StackIndex stack) {
  const auto& zones = design.layup.zones;
  std::vector<std::uint64_t> common(zones.words.size(), ~std::uint64_t{0});
  for (std::size_t e = 0; e < design.layup.stack_of.size(); ++e)
    if (design.layup.stack_of[e] == stack)
      for (std::size_t w = 0; w < common.size(); ++w) common[w] &= zones.words[w][e];
  std::vector<zone::ZoneId> ids;
  for (zone::ZoneId z = 1; z < zones.names.size(); ++z)
    if (common[z / 64] >> (z % 64) & 1) ids.push_back(z);
  std::stable_sort(ids.begin(), ids.end(), [&](auto a, auto b) { return zones.counts[a] < zones.counts[b]; });
  std::vector<std::string> out;
  for (const zone::ZoneId z : ids) out.push_back(zones.names[z]);
  if (out.empty()) out.emplace_back(part::everything);
  return out;
}

Progress progress_line() {
  if (::isatty(STDERR_FILENO) != 1) return {};
  return [](std::string_view activity, double fraction) {
    if (fraction >= 1.0) fmt::print(stderr, "\r\033[K");
    else fmt::print(stderr, "\r\033[K{:3.0f} %  {}", 100.0 * fraction, activity);
    std::fflush(stderr);
  };
}

int guarded(bool json, const std::function<int(Findings&)>& body) {
  Findings findings;
  const auto clear_progress = [] {
    if (::isatty(STDERR_FILENO) == 1) fmt::print(stderr, "\r\033[K");
  };
  try {
    return body(findings);
  } catch (const Failure& failure) {
    clear_progress();
    Findings all = findings;
    for (const Finding& finding : failure.findings()) all.add(finding);
    if (json) {
      fmt::print("{}\n", Json{{"findings", to_json(all.all())}}.dump(2));
    } else {
      print_findings(all.all(), stderr);
      fmt::print(stderr, "{}\n", tally(all));
    }
    return 1;
  } catch (const std::bad_alloc&) {
    clear_progress();
    print_findings({{Severity::error, "base.memory", "there is not enough memory for this mesh", {}, "close other programs, or split the part"}}, stderr);
    return 1;
  }
}

}  // namespace bordado::cli
