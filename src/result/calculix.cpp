#include <bordado/result.hpp>

#include <fmt/format.h>

#include <charconv>
#include <cmath>

namespace bordado::result {

namespace {

/// Up to four numbers of a line.
std::vector<double> numbers(std::string_view line) {
  std::vector<double> out;
  const char* at = line.data();
  const char* const end = at + line.size();
  while (out.size() < 8) {
    while (at != end && (*at == ' ' || *at == '\t' || *at == '\r')) ++at;
    if (at == end) break;
    double value = 0.0;
    const auto [next, error] = std::from_chars(at, end, value);
    if (error != std::errc{}) break;
    out.push_back(value);
    at = next;
  }
  return out;
}

}  // namespace

std::optional<Row> Answer::largest() const {
  std::optional<Row> out;
  for (const Row& row : displacements)
    if (!out || row.value.norm() > out->value.norm()) out = row;
  return out;
}

Answer read_calculix(const std::string& path) {
  const std::string text = read_file(path);
  Answer out;
  enum class Block { none, displacements, forces } block = Block::none;
  std::size_t at = 0;
  while (at < text.size()) {
    const std::size_t stop = std::min(text.find('\n', at), text.size());
    const std::string_view line = std::string_view(text).substr(at, stop - at);
    at = stop + 1;
    if (line.find_first_not_of(" \r") == std::string_view::npos) continue;
    if (line.find(" for set ") != std::string_view::npos) {
      const bool displacements = line.find("displacements (vx,vy,vz)") != std::string_view::npos;
      block = displacements ? Block::displacements
              : line.find("total force") != std::string_view::npos && line.find(" SUPPORTED ") != std::string_view::npos
                  ? Block::forces
                  : Block::none;
      if (displacements) out.displacements.clear();
      continue;
    }
    const std::vector<double> row = block == Block::none ? std::vector<double>{} : numbers(line);
    if (block == Block::displacements && row.size() == 4)
      out.displacements.push_back({static_cast<std::int64_t>(row[0]), {row[1], row[2], row[3]}});
    if (block == Block::forces && row.size() == 3) out.reaction = Vec3(row[0], row[1], row[2]);
  }
  const Place place = Place::in(path);
  if (out.displacements.empty())
    throw Failure({Severity::error, "result.empty", "the solver wrote no displacements", place,
                   "look at what it printed; a deck without a load has no step"});
  for (const Row& row : out.displacements)
    if (!row.value.allFinite())
      throw Failure({Severity::error, "result.not-finite",
                     fmt::format("the displacement of node {} is not a number", row.id), place,
                     "check that the supports hold the part"});
  return out;
}

std::optional<std::string> calculix_trouble(int exit_status, std::string_view printed) {
  if (const std::size_t error = printed.find("*ERROR"); error != std::string_view::npos) {
    std::string_view message = printed.substr(error, printed.find("\n\n", error) - error);
    return std::string(message.substr(0, 400));
  }
  if (exit_status != 0) return fmt::format("the solver ended with status {}", exit_status);
  if (printed.find("Job finished") == std::string_view::npos)
    return "the solver stopped without saying that the job finished";
  return std::nullopt;
}

}  // namespace bordado::result
