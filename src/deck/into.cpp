// A laminate put into a deck of somebody else's, of which all else stays byte for byte.
#include <bordado/deck/into.hpp>
#include <bordado/design.hpp>

#include <bordado/base/files.hpp>
#include <bordado/mesh/io.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <cctype>
#include <charconv>
#include <cmath>
#include <limits>

namespace bordado::deck {

using mesh::ElementIndex;

ExistingDeck::ExistingDeck(std::string path) : path_(std::move(path)), text_(read_file(path_)) {
  for (std::size_t at = 0; at < text_.size();) {
    const std::size_t end = std::min(text_.find('\n', at), text_.size() - 1) + 1;
    lines_.push_back({at, end});
    at = end;
  }
}

std::string_view ExistingDeck::lines(std::size_t first, std::size_t last) const {
  const std::size_t begin = first < lines_.size() ? lines_[first].begin : text_.size();
  const std::size_t end = last == 0 ? 0 : lines_[last - 1].end;
  return end <= begin ? std::string_view() : std::string_view(text_).substr(begin, end - begin);
}

std::string folded(std::string_view text) {
  std::string out;
  for (const char c : text)
    if (std::isspace(static_cast<unsigned char>(c)) == 0)
      out += static_cast<char>(std::toupper(static_cast<unsigned char>(c)));
  return out;
}

std::vector<std::string> parted(const std::string& text) {
  std::vector<std::string> out;
  for (std::size_t at = 0; at <= text.size();) {
    const std::size_t end = std::min(text.find(',', at), text.size());
    out.push_back(text.substr(at, end - at));
    at = end + 1;
  }
  return out;
}

std::optional<std::int64_t> whole(std::string_view text) {
  std::int64_t value = 0;
  const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), value);
  if (error != std::errc{} || end != text.data() + text.size()) return std::nullopt;
  return value;
}

namespace {

[[noreturn]] void fail(std::string code, std::string what, Place where, std::string remedy) {
  throw Failure({Severity::error, std::move(code), std::move(what), std::move(where), std::move(remedy)});
}

/// Whether the corners are the same; set `turned` where they run the other way round.
bool same_corners(std::span<const std::int64_t> theirs, std::span<const std::int64_t> ours, bool& turned) {
  const std::size_t count = ours.size();
  if (theirs.size() < count) return false;
  for (const bool back : {false, true})
    for (std::size_t shift = 0; shift < count; ++shift) {
      bool same = true;
      for (std::size_t i = 0; i < count && same; ++i)
        same = theirs[i] == ours[(back ? shift + count - i : shift + i) % count];
      if (!same) continue;
      turned = back;
      return true;
    }
  return false;
}

}  // namespace

std::vector<std::uint8_t> matched(const Model& model, const std::unordered_map<std::int64_t, FoundElement>& elements,
                                  const std::string& path, bool has_includes) {
  std::vector<std::uint8_t> turned(model.surface.element_count(), 0);
  for (ElementIndex e = 0; e < turned.size(); ++e) {
    const std::int64_t id = model.surface.element_ids[e];
    const auto found = elements.find(id);
    if (found == elements.end())
      fail(has_includes ? "into.include" : "into.element-missing",
           fmt::format("the deck has no shell element {}{}", id,
                       has_includes ? "; files that it includes are not looked into" : ""),
           Place::in(path), "the part's mesh has to be that of the deck: name it as [part] mesh");
    std::vector<std::int64_t> ours;
    for (const mesh::NodeIndex n : model.surface.corners_of(e)) ours.push_back(model.surface.node_ids[n]);
    bool back = false;
    if (!same_corners(found->second.nodes, ours, back))
      fail("into.nodes-differ", fmt::format("element {} has other nodes in the deck than in the part's mesh", id),
           {path, found->second.line, {}, {}}, "the part's mesh has to be that of the deck: name it as [part] mesh");
    turned[e] = back;
  }
  return turned;
}

namespace {

/// The deck's nodes lie where the part's do, in the same unit: thicknesses and stiffnesses are written in the part's.
void check_places(const Model& model, const std::string& existing, Findings& findings) {
  mesh::Surface there;
  try {
    Findings unheard;
    there = mesh::read(existing, {}, unheard);
  } catch (const Failure& trouble) {
    findings.warning("into.places-unknown",
                     fmt::format("where the nodes of '{}' lie cannot be read ({}), so that its unit of length is not "
                                 "compared with the part's",
                                 existing, trouble.findings().front().what),
                     Place::in(existing), "see that both are in the same units");
    return;
  }
  std::unordered_map<std::int64_t, Vec3> at;
  for (mesh::NodeIndex n = 0; n < there.points.size(); ++n) at.emplace(there.node_ids[n], there.points[n]);
  const mesh::Surface& ours = model.surface;
  Vec3 middle = Vec3::Zero(), their_middle = Vec3::Zero();
  std::vector<std::pair<mesh::NodeIndex, Vec3>> both;
  for (mesh::NodeIndex n = 0; n < ours.points.size(); ++n)
    if (const auto found = at.find(ours.node_ids[n]); found != at.end()) both.emplace_back(n, found->second);
  if (both.size() < 2) return;  // told where elements are matched
  for (const auto& [n, point] : both) {
    middle += ours.points[n] / static_cast<double>(both.size());
    their_middle += point / static_cast<double>(both.size());
  }
  double size = 0.0, their_size = 0.0;
  for (const auto& [n, point] : both) {
    size += (ours.points[n] - middle).squaredNorm();
    their_size += (point - their_middle).squaredNorm();
  }
  const std::string unit = model.design->part.units.unit(Dimension::length);
  double shortest = std::numeric_limits<double>::infinity();
  for (mesh::ElementIndex e = 0; e < ours.element_count(); ++e) {
    const auto c = ours.corners_of(e);
    for (std::size_t k = 0; k < c.size(); ++k)
      shortest = std::min(shortest, (ours.points[c[(k + 1) % c.size()]] - ours.points[c[k]]).norm());
  }
  // Another unit makes the same shape, larger or smaller.
  const double factor = std::sqrt(their_size / size);
  const bool same_shape = std::all_of(both.begin(), both.end(), [&](const auto& one) {
    const Vec3 grown = their_middle + factor * (ours.points[one.first] - middle);
    return (one.second - grown).norm() <= 1e-3 * factor * shortest;
  });
  if (same_shape && std::abs(factor - 1.0) > 1e-4)
    fail(
        "into.other-units",
        fmt::format("nodes of the deck lie {:.6g} times as far apart as those of the part, which is in {}: thicknesses "
                    "and stiffnesses would be in another unit than its coordinates",
                    factor, unit),
        Place::in(existing),
        "give [part] the units of the deck, and mesh = { length = ... } the same, without 'scale'");
  std::size_t off = 0;
  std::int64_t first = 0;
  for (const auto& [n, point] : both)
    if (!((point - ours.points[n]).norm() <= 1e-3 * shortest) && off++ == 0) first = ours.node_ids[n];
  if (off > 0)
    fail("into.nodes-moved",
         fmt::format("{} of the deck and of the part of one number lie apart, node {} first: this is not the mesh that "
                     "the part was laid on",
                     counted(off, "node"), first),
         Place::in(existing), "lay the part on the deck itself: mesh = { file = \"...\" }");
}

}  // namespace

Written write_into(const Format& format, const Model& model, const std::string& existing, const std::string& path,
                   const WriteOptions& options, Findings& findings) {
  const ExistingDeck there(existing);
  check_places(model, existing, findings);
  return format.write_into(there, model, path, options, findings);
}

}  // namespace bordado::deck
