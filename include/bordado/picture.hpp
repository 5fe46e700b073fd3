/// \file picture.hpp
/// Still pictures of a part: seen from somewhere, coloured by a field, moved; several on a sheet, on one scale.
#ifndef BORDADO_PICTURE_HPP
#define BORDADO_PICTURE_HPP

#include <bordado/mesh/curves.hpp>
#include <bordado/review/colouring.hpp>

#include <array>
#include <optional>
#include <string>
#include <vector>

namespace bordado::drawing {

/// From far away: where the eye is, seen from the part, and what stands upright on the picture.
struct View {
  Vec3 towards_eye = Vec3(1.0, -1.2, 0.8);
  Vec3 up = Vec3::UnitZ();
};
/// "above", "below", "ahead" (the eye at +x), "behind", "left" (at +y), "right", "corner". \returns nothing for other words.
std::optional<View> view_named(std::string_view name);
std::vector<std::string> view_names();

struct PictureFrame {
  std::string title, note;  ///< over it; a single one has no title but the legend's
  const mesh::Surface* surface = nullptr;
  std::vector<Vec3> points;         ///< where nodes are drawn; empty: where they are
  std::vector<std::uint8_t> shown;  ///< elements that are drawn, 0 or 1 for each; empty: all
  review::Colouring colouring;
  std::vector<review::Stroke> strokes;  ///< those that are seen, a few of many
  std::vector<mesh::Curve> over;        ///< lines over the surface, where they are seen
  double moved = 0.0;                   ///< how many times as far as what it shows moves; told, not drawn by
  std::size_t scale = 0;                ///< frames of the same number have the same colours
};

/// The least and the largest number that is drawn; nothing where there is none.
std::optional<std::array<double, 2>> range_of(const PictureFrame& frame);
/// The values that are drawn, one for each element or for each node.
std::vector<double> values_of(const PictureFrame& frame);

/// How many times as far as it moves a part is drawn so that it is seen: round, a fifteenth of its size or a little less.
double visible_factor(const mesh::Surface& surface, std::span<const Vec3> moved);
/// What is shown of a part, as a frame. \param factor of what moves; nothing: visible_factor()
/// \throws Failure "picture.moved" where nodes go beyond all numbers.
PictureFrame frame_of(const mesh::Surface& surface, review::Shown shown, std::optional<double> factor = {});

enum class Lines : std::uint8_t { none, borders, mesh };

struct PictureSheet {
  std::string title, subtitle;
  std::vector<PictureFrame> frames;
  View view;
  Lines lines = Lines::borders;
  /// Of colours; nothing: what the frames have.
  std::optional<std::array<double, 2>> range;
  std::string length_unit;  ///< of the bar that shows how large things are
};

/// One sheet, .svg, .pdf or .png (1684 x 1190). All frames are drawn to one scale of lengths. The part is an image within the
/// sheet. Reserves have the darkest colour where they are least; those below one are red and counted.
/// \throws Failure "drawing.ending-unknown", "picture.nothing" where there is no frame, a frame without elements or one that is seen
/// from its edge, "file.*"; std::invalid_argument where values or points are not as many as elements or nodes, or places no numbers.
void draw(const PictureSheet& sheet, const std::string& path);

}  // namespace bordado::drawing

#endif
