// What a laminate is declared to be, as a text that is the same where laminates are.
#include <bordado/layup.hpp>

#include <fmt/format.h>

namespace bordado::layup {

namespace {

/// Lengths in metres, whatever the part's unit.
class SignatureOfPly {
 public:
  SignatureOfPly(const Laid& laid, PlyId ply) : laid_(laid), ply_(ply) {}

  std::string text() const {
    const Layup& layup = laid_.layup;
    const part::Ply& declared = laid_.part.plies[ply_];
    const Ply& ply = layup.plies[ply_];
    const Region& region = layup.regions[ply.region];
    // What varies has no thickness that does not depend on the mesh.
    std::string out = fmt::format("{}|{}|{}|{}", laid_.part.materials[ply.material].name,
                                  declared.varies ? "varies" : length(part::full_thickness(laid_.part, ply_)),
                                  ply.angle.degrees(), laid_.part.frames[layup.frame_of(ply_)].name);
    if (declared.drape) out += "|draped " + declared.drape->value;
    if (declared.varies) out += "|" + std::visit([&](const auto& by) { return text(by); }, *declared.varies);
    if (region.edge) out += "|edge " + length(*region.edge);
    for (const Moved& moved : region.moved)
      out += fmt::format("|ramp {} {}", layup.ramps[moved.ramp].name, length(moved.by));
    if (region.has_edge() && region.corners == part::Corners::mitred) out += "|mitred";
    if (region.scallop)
      out += fmt::format("|scallop {} {}", length(region.scallop->pitch), length(region.scallop->depth));
    if (declared.chamfer) out += "|" + text(*declared.chamfer);
    if (declared.fills) out += "|fills";
    return out;
  }

 private:
  std::string length(double value) const {
    return fmt::format("{:.9g}", value * laid_.part.units.to_si(Dimension::length));
  }
  std::string text(const part::ThicknessByDistance& by) const {
    std::string out = "from ";
    if (const auto* const name = std::get_if<std::string>(&by.of.what)) out += *name;
    if (const auto* const point = std::get_if<Vec3>(&by.of.what))
      for (const double x : *point) out += length(x) + " ";
    for (const auto& [distance, thickness] : by.table)
      out += fmt::format(", {}: {}", length(distance), length(thickness));
    return out;
  }
  std::string text(const part::ThicknessByField& by) const {
    return fmt::format("field {} of {}, {}", by.field, by.file.value, length(by.factor));
  }
  std::string text(const part::Chamfer& chamfer) const {
    std::string out = "chamfer " + (chamfer.length ? length(*chamfer.length) : std::string());
    if (chamfer.angle) out += fmt::format("{} deg", chamfer.angle->degrees());
    out += " to " + length(chamfer.edge_thickness);
    return chamfer.fill ? out + " filled with " + chamfer.fill->value : out;
  }

  const Laid& laid_;
  PlyId ply_;
};

}  // namespace

std::string signature(const Laid& laid, StackId stack) {
  std::string out;
  for (const PlyId p : laid.layup.plies_of(stack)) out += SignatureOfPly(laid, p).text() + "\n";
  return out;
}

}  // namespace bordado::layup
