#include "columns.hpp"

#include <bordado/base/files.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <limits>
#include <unordered_map>

namespace bordado::calculix {

namespace {

/// A line of a node: its number and three values, in columns of their own.
struct NodeLine {
  std::int64_t id;
  Vec3 value;
};

std::optional<NodeLine> node_line(std::string_view line) {
  if (!line.starts_with(" -1") || line.size() < 49) return std::nullopt;
  const auto part = [&](std::size_t from, std::size_t length, auto& value) {
    std::string_view text = line.substr(from, length);
    text.remove_prefix(std::min(text.find_first_not_of(' '), text.size()));
    return std::from_chars(text.data(), text.data() + text.size(), value).ec == std::errc{};
  };
  NodeLine out{};
  if (!part(3, 10, out.id) || !part(13, 12, out.value[0]) || !part(25, 12, out.value[1]) || !part(37, 12, out.value[2]))
    return std::nullopt;
  return out;
}

/// An end of a column, and the node that lies next to it.
struct End {
  Vec3 at;
  std::size_t place;  ///< twice the column's, and one for its top
  double off = std::numeric_limits<double>::infinity();
  std::int64_t id = -1;
};

}  // namespace

std::vector<Vec3> turns(std::span<const Column> columns, const std::string& frd) {
  std::vector<Vec3> out;
  if (columns.empty()) return out;
  std::vector<End> ends;
  double longest = 0.0, farthest = 0.0;
  for (std::size_t i = 0; i < columns.size(); ++i) {
    ends.push_back({columns[i].bottom, 2 * i});
    ends.push_back({columns[i].top, 2 * i + 1});
    longest = std::max(longest, (columns[i].top - columns[i].bottom).norm());
    farthest = std::max(farthest, columns[i].top.cwiseAbs().maxCoeff());
  }
  // Along the axis that they spread over most, so that few are looked at for each node.
  Vec3 low = ends.front().at, high = low;
  for (const End& end : ends) low = low.cwiseMin(end.at), high = high.cwiseMax(end.at);
  Eigen::Index axis = 0;
  (high - low).maxCoeff(&axis);
  std::sort(ends.begin(), ends.end(), [&](const End& a, const End& b) { return a.at[axis] < b.at[axis]; });
  const double reach = 0.25 * longest + 1e-5 * farthest;  // six digits are written of a coordinate
  enum class Block { none, nodes, displacements } block = Block::none;
  std::unordered_map<std::int64_t, std::vector<std::size_t>> places;
  std::vector<std::optional<Vec3>> moved(ends.size());
  InputFile file(frd);
  bool read = false;
  while (const auto line = file.line()) {
    if (line->starts_with("    2C")) {
      block = Block::nodes;
    } else if (line->starts_with(" -4  DISP")) {
      if (read) break;
      read = true;
      block = Block::displacements;
      for (const End& end : ends)
        if (end.id >= 0) places[end.id].push_back(end.place);
    } else if (line->starts_with(" -3")) {
      block = Block::none;
    } else if (block != Block::none) {
      const auto node = node_line(*line);
      if (!node) continue;
      if (block == Block::displacements) {
        if (const auto found = places.find(node->id); found != places.end())
          for (const std::size_t place : found->second) moved[place] = node->value;
        continue;
      }
      for (auto end = std::lower_bound(ends.begin(), ends.end(), node->value[axis] - reach,
                                       [&](const End&e, double x) { return e.at[axis] < x; });
           end != ends.end() && end->at[axis] <= node->value[axis] + reach; ++end)
        if (const double off = (end->at - node->value).norm(); off < end->off) end->off = off, end->id = node->id;
    }
  }
  for (std::size_t i = 0; i < columns.size(); ++i) {
    if (!moved[2 * i] || !moved[2 * i + 1])
      throw Failure({Severity::error, "result.cut", "the answer has not all nodes on which forces act", Place::in(frd),
                     "solve again; a full disk is one cause"});
    out.push_back((*moved[2 * i + 1] - *moved[2 * i]) / (columns[i].top - columns[i].bottom).norm());
  }
  return out;
}

}  // namespace bordado::calculix
