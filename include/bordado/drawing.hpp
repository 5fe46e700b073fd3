/// \file drawing.hpp
/// A laminate, its stresses and its envelopes, sections along lines, cloth, and what came of a part as drawings.
#ifndef BORDADO_DRAWING_HPP
#define BORDADO_DRAWING_HPP

#include <bordado/recovery.hpp>

#include <cstddef>
#include <span>
#include <string>
#include <vector>

namespace bordado {
struct Design;
}
namespace bordado::review {
struct PlyPattern;
struct Profile;
struct Results;
struct Roll;
struct Summary;
}  // namespace bordado::review

namespace bordado::drawing {

struct PictureSheet;

/// A stack to draw, bottom to top, first laid first.
struct StackDrawing {
  std::string title, subtitle;
  std::vector<laminate::Layer> layers;
  std::vector<std::string> plies;      ///< per layer; may be empty
  std::vector<std::string> materials;  ///< per layer
  std::vector<bool> cores;             ///< per layer: drawn as a core
  double z0 = 0.0;                     ///< bottom of the first layer, from the mesh along n
};

/// The laminate that lies on an element, exact at this element: angles of plies in other frames are not rounded as in
/// the sections.
StackDrawing stack_at(const Design& design, mesh::ElementIndex element);

/// One sheet: the stack to scale with ply, material, angle, thickness and z of every layer; stiffness against
/// direction; A, B and D with what they say in words. The ending says the format: .svg or .pdf.
/// \throws Failure "drawing.ending-unknown", "file.*".
void draw(const StackDrawing& stack, const UnitSystem& units, const std::string& path);

/// Failure envelopes of a stack in two components of its load, a curve for each criterion.
struct EnvelopeDrawing {
  std::string title, subtitle;
  std::vector<std::string> layers;    ///< their names, first laid first
  std::size_t first = 0, second = 1;  ///< components, as laminate::component_name()
  std::vector<laminate::Criterion> criteria;
  std::vector<std::vector<laminate::EnvelopePoint>> curves;  ///< beside `criteria`; as laminate::envelope()
};

/// One sheet, .svg or .pdf: the curves to scale, along each the ply and mode that decide, numbered, with a key; or the
/// points, .csv. \throws Failure as draw() of a stack.
void draw(const EnvelopeDrawing& envelopes, const UnitSystem& units, const std::string& path);

/// Stresses of every layer at one place, in one case.
struct StressProfile {
  std::string title, subtitle;
  StackDrawing stack;                    ///< what lies there
  std::vector<result::PlyState> states;  ///< bottom, middle and top of each layer
  /// The least reserve of each layer, where any is known; or empty.
  std::vector<result::Critical> least = {};
};

/// What lies on the piece of an element that the states are of.
StackDrawing stack_at(const Design& design, mesh::ElementIndex element, std::span<const result::PlyState> states);

/// One sheet: every stress component through the thickness, in ply axes, with the plies behind it and the reserve of each beside it.
/// Across the fibres and in shear stresses stand to one scale, and both shears through the thickness. \throws Failure as draw() of
/// a stack.
void draw(const StressProfile& profile, const UnitSystem& units, const std::string& path);

/// As a drawing for the shop: thickness larger than life, the end of every ply with its distance from the first.
/// \throws Failure as draw().
void draw(const review::Profile& profile, const Design& design, const std::string& path);

/// The cuts across all ramps, one after the other, each under the name of its ramp; on pages (.pdf), or on one long one
/// (.svg).
void draw_ramps(const Design& design, const std::string& path);

/// Every pattern with its name, its areas, the seed and 0°, notches where the yarns through the seed leave it, and which
/// face is seen. As .dxf (R12) at full size in millimetres: closed polylines on the layers OUTLINE and HOLE, marks on SEED,
/// ZERO, NOTCH and TEXT; as .svg at full size; as .pdf to scale, a page each, with a bar to check the scale by. \param shear
/// .svg and .pdf show it as colours. \throws Failure "drawing.ending-unknown", "drape.no-pattern", "file.*".
void draw_patterns(const Design& design, std::span<const review::PlyPattern> patterns, bool shear,
                   const std::string& path);

/// All rolls, one below the other: .dxf, .svg at full size, .pdf to scale. \throws Failure as above.
void draw_rolls(const Design& design, std::span<const review::PlyPattern> patterns, std::span<const review::Roll> rolls,
                const std::string& path);

/// Outlines of plies, each seen square to it, its mean fibre direction to the right, all on one scale; with its
/// rectangle, area, pieces and the roll's width. Curved plies need more cloth: nothing is draped. One ply after the
/// other on as many pages as it takes (.pdf), or on one long one (.svg).
/// \throws Failure as above.
void draw_flat(const Design& design, const std::string& path);

/// The edges of plies as curves in space: .dxf, in millimetres, a layer for each ply, named by its number in the ply book, its name at
/// the beginning of each line; or .vtu, with that number and with the ramp (from 1, in their order) and its line, nought where none.
/// \returns how many. \throws Failure "drawing.lines-ending", "file.*".
std::size_t write_ply_lines(const Design& design, const std::string& path);

/// What a summary shows of a part: the static case that moves it most, reserves, first modes. The results must outlive it.
PictureSheet summary_pictures(const review::Results& results, std::span<const model::CaseFields> modes);

/// One page, .html or .pdf (A4, upright; what does not fit is said), and the pictures below it: of a PDF on a second page where the
/// first has no room. \throws Failure "summary.ending-unknown", "file.*".
void write(const review::Summary& summary, const PictureSheet& pictures, const std::string& path);

}  // namespace bordado::drawing

#endif
