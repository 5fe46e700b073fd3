// What a deck that was written says of the faces of the laminate.
#include <bordado/deck.hpp>

#include <algorithm>

namespace bordado::deck {

namespace {

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

}  // namespace

std::optional<FlushFace> flush_face(std::string_view deck, part::Flush face) {
  Faces faces(face);
  for (const Format& format : formats())
    format.for_each_section(deck, [&](double bottom, double thickness) { faces.add(bottom, thickness); });
  return faces.found();
}

}  // namespace bordado::deck
