// Triangles seen from far away, the nearest in front, as an image.
#pragma once

#include <array>
#include <cstdint>
#include <span>
#include <vector>

namespace bordado::drawing {

/// A corner on the image: pixels from its left and upper edge, and how near it is to the eye.
struct RasterPoint {
  float x = 0.0f, y = 0.0f, near = 0.0f;
};

/// A triangle, with what is told of it.
struct RasterTriangle {
  std::array<std::uint32_t, 3> points;
  /// 0 to 1, place in the colours, straight in between; NaN: the first of them; special: the second.
  std::array<float, 3> values;
  static constexpr float special = -1.0f;
  float light = 1.0f;  ///< its colour is darkened by it
};

/// A line between two points, where no triangle lies before it.
struct RasterLine {
  std::array<std::uint32_t, 2> points;
  bool bold = false;
};

/// Red, green, blue, and whether anything is there; 0 to 255.
using Pixel = std::array<std::uint8_t, 4>;

struct RasterLook {
  std::vector<Pixel> colours;      ///< where there is no value; special ones; then from 0 to 1, at least one
  bool steps = false;              ///< values are whole: no colours between
  float thin = 1.0f, bold = 1.8f;  ///< half widths of lines, pixels
  Pixel line{60, 62, 66, 255};
};

struct Raster {
  int width = 0, height = 0;
  std::vector<Pixel> pixels;  ///< row by row from the top
  std::vector<float> near;    ///< likewise; lowest where nothing is
};

/// Lines are drawn last, bold ones over thin ones. On all cores; the same whatever their number.
Raster rasterized(int width, int height, std::span<const RasterPoint> points, std::span<const RasterTriangle> triangles,
                  std::span<const RasterLine> lines, const RasterLook& look);

/// Half as wide and high, each pixel the mean of four. \throws nothing; an odd last row or column is left out.
Raster halved(const Raster& raster);

}  // namespace bordado::drawing
