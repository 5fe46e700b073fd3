// What a deck that was written says of the faces of the laminate.
#include <bordado/deck.hpp>

#include <algorithm>
#include <charconv>
#include <cmath>

namespace bordado::deck {

namespace {

std::optional<double> number(std::string_view text) {
  while (!text.empty() && text.front() == ' ') text.remove_prefix(1);
  while (!text.empty() && text.back() == ' ') text.remove_suffix(1);
  if (text.empty()) return std::nullopt;
  std::string filled;  // bulk data writes 1.5-3 for 1.5e-3
  for (std::size_t i = 0; i < text.size(); ++i) {
    const bool exponent = i > 0 && (text[i] == '+' || text[i] == '-') && text[i - 1] != 'e' && text[i - 1] != 'E';
    if (exponent) filled += 'e';
    if (text[i] != '+' || i > 0) filled += text[i];
  }
  double out = 0.0;
  const auto [end, error] = std::from_chars(filled.data(), filled.data() + filled.size(), out);
  if (error != std::errc() || end != filled.data() + filled.size()) return std::nullopt;
  return out;
}

class Faces {
 public:
  explicit Faces(part::Flush face) : face_(face) {}

  /// A section from its bottom on.
  void add(double bottom, double thickness) {
    const double share = face_ == part::Flush::bottom ? 0.0 : face_ == part::Flush::middle ? 0.5 : 1.0;
    const double z = bottom + share * thickness;
    out_.lowest = out_.sections == 0 ? z : std::min(out_.lowest, z);
    out_.highest = out_.sections == 0 ? z : std::max(out_.highest, z);
    ++out_.sections;
  }
  std::optional<FlushFace> found() const { return out_.sections > 0 ? std::optional(out_) : std::nullopt; }

 private:
  part::Flush face_;
  FlushFace out_;
};

/// Lines of a text, one after the other.
class Lines {
 public:
  explicit Lines(std::string_view text) : rest_(text) {}
  bool next(std::string_view& line) {
    if (rest_.empty()) return false;
    const auto end = rest_.find('\n');
    line = rest_.substr(0, end);
    rest_.remove_prefix(end == std::string_view::npos ? rest_.size() : end + 1);
    if (line.ends_with('\r')) line.remove_suffix(1);
    return true;
  }

 private:
  std::string_view rest_;
};

}  // namespace

std::optional<FlushFace> flush_face(std::string_view deck, part::Flush face) {
  Faces faces(face);
  Lines lines(deck);
  std::string_view line;
  // CalculiX: the middle lies at -OFFSET times the thickness; a layer's line begins with its thickness.
  double offset = 0.0, thickness = 0.0;
  bool in_section = false;
  // Bulk data, large fields: z of the bottom in the third field, then four fields a layer on lines of its own.
  std::vector<std::string_view> fields;
  const auto end_section = [&] {
    if (in_section && thickness > 0.0) faces.add((-offset - 0.5) * thickness, thickness);
    in_section = false;
    thickness = 0.0;
  };
  const auto end_card = [&] {
    if (fields.size() >= 12) {
      double sum = 0.0;
      for (std::size_t k = 9; k < fields.size(); k += 4) sum += number(fields[k]).value_or(0.0);
      faces.add(number(fields[1]).value_or(-0.5 * sum), sum);
    }
    fields.clear();
  };
  bool in_card = false;
  while (lines.next(line)) {
    if (line.starts_with("PCOMP")) {
      if (in_card) end_card();
      in_card = true;
      line.remove_prefix(std::min<std::size_t>(8, line.size()));
    } else if (in_card && (line.starts_with('*') || line.starts_with(' ') || line.starts_with('+'))) {
      line.remove_prefix(std::min<std::size_t>(8, line.size()));
    } else {
      if (in_card) end_card();
      in_card = false;
    }
    if (in_card) {
      for (std::size_t k = 0; k < 4; ++k) {
        fields.push_back(line.substr(0, 16));
        line.remove_prefix(std::min<std::size_t>(16, line.size()));
      }
      continue;
    }
    if (line.starts_with("**")) continue;
    if (line.starts_with('*')) {
      end_section();
      if (!line.starts_with("*SHELL SECTION") || line.find("COMPOSITE") == std::string_view::npos) continue;
      in_section = true;
      const auto at = line.find("OFFSET=");
      offset =
          at == std::string_view::npos ? 0.0 : number(line.substr(at + 7, line.find(',', at) - at - 7)).value_or(0.0);
    } else if (in_section) {
      thickness += number(line.substr(0, line.find(','))).value_or(0.0);
    }
  }
  end_section();
  if (in_card) end_card();
  return faces.found();
}

}  // namespace bordado::deck
