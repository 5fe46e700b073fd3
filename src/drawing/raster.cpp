#include "raster.hpp"

#include <bordado/base/work.hpp>

#include <algorithm>
#include <cmath>
#include <limits>

namespace bordado::drawing {

namespace {

constexpr int band_rows = 32;

Pixel mixed(const Pixel& a, const Pixel& b, float share) {
  Pixel out{};
  for (std::size_t k = 0; k < 3; ++k)
    out[k] = static_cast<std::uint8_t>(
        std::lround(static_cast<float>(a[k]) + share * (static_cast<float>(b[k]) - static_cast<float>(a[k]))));
  out[3] = 255;
  return out;
}

Pixel colour_of(const RasterLook& look, float value) {
  if (!std::isfinite(value)) return look.colours.front();
  if (value < 0.0f) return look.colours[1];
  const auto last = static_cast<float>(look.colours.size() - 3);
  const float place = std::clamp(value, 0.0f, 1.0f) * last;
  const auto k = static_cast<std::size_t>(std::min(std::floor(place + (look.steps ? 0.5f : 0.0f)), last));
  if (look.steps || k + 3 >= look.colours.size()) return look.colours[k + 2];
  return mixed(look.colours[k + 2], look.colours[k + 3], place - static_cast<float>(k));
}

/// One triangle in the rows of a band.
void fill(Raster& image, int first_row, int end_row, std::span<const RasterPoint> points,
          const RasterTriangle& triangle, const RasterLook& look) {
  const RasterPoint &a = points[triangle.points[0]], &b = points[triangle.points[1]], &c = points[triangle.points[2]];
  const float twice = (b.x - a.x) * (c.y - a.y) - (c.x - a.x) * (b.y - a.y);
  if (!(std::abs(twice) > 1e-12f)) return;
  const float low_x = std::min({a.x, b.x, c.x}), high_x = std::max({a.x, b.x, c.x}), low_y = std::min({a.y, b.y, c.y}),
              high_y = std::max({a.y, b.y, c.y});
  const int top = std::max(first_row, static_cast<int>(std::ceil(low_y - 0.5f))),
            bottom = std::min(end_row - 1, static_cast<int>(std::floor(high_y - 0.5f))),
            left = std::max(0, static_cast<int>(std::ceil(low_x - 0.5f))),
            right = std::min(image.width - 1, static_cast<int>(std::floor(high_x - 0.5f)));
  const float flat = triangle.values[0];
  const bool even = look.steps || (triangle.values[1] == flat && triangle.values[2] == flat);
  const Pixel own = even ? colour_of(look, flat) : Pixel{};
  for (int row = top; row <= bottom; ++row)
    for (int column = left; column <= right; ++column) {
      const float x = static_cast<float>(column) + 0.5f, y = static_cast<float>(row) + 0.5f;
      const float of_b = ((x - a.x) * (c.y - a.y) - (c.x - a.x) * (y - a.y)) / twice,
                  of_c = ((b.x - a.x) * (y - a.y) - (x - a.x) * (b.y - a.y)) / twice, of_a = 1.0f - of_b - of_c;
      constexpr float edge = -1e-5f;
      if (of_a < edge || of_b < edge || of_c < edge) continue;
      const float near = of_a * a.near + of_b * b.near + of_c * c.near;
      const std::size_t at =
          static_cast<std::size_t>(row) * static_cast<std::size_t>(image.width) + static_cast<std::size_t>(column);
      if (!(near > image.near[at])) continue;
      image.near[at] = near;
      const Pixel colour =
          even ? own : colour_of(look, of_a * flat + of_b * triangle.values[1] + of_c * triangle.values[2]);
      Pixel& pixel = image.pixels[at];
      for (std::size_t k = 0; k < 3; ++k)
        pixel[k] = static_cast<std::uint8_t>(std::lround(static_cast<float>(colour[k]) * triangle.light));
      pixel[3] = 255;
    }
}

/// Marks the pixels of a line that nothing lies before: 1 of a thin one, 2 of a bold one.
void mark(std::vector<std::uint8_t>& marks, const Raster& image, int first_row, int end_row, const RasterPoint& a,
          const RasterPoint& b, float half, std::uint8_t level) {
  const int top = std::max(first_row, static_cast<int>(std::floor(std::min(a.y, b.y) - half))),
            bottom = std::min(end_row - 1, static_cast<int>(std::ceil(std::max(a.y, b.y) + half))),
            left = std::max(0, static_cast<int>(std::floor(std::min(a.x, b.x) - half))),
            right = std::min(image.width - 1, static_cast<int>(std::ceil(std::max(a.x, b.x) + half)));
  const float along_x = b.x - a.x, along_y = b.y - a.y, square = along_x * along_x + along_y * along_y;
  // As far as the surface may fall away beside it.
  const float before = 2.0f + 3.0f * half;
  for (int row = top; row <= bottom; ++row)
    for (int column = left; column <= right; ++column) {
      const float x = static_cast<float>(column) + 0.5f - a.x, y = static_cast<float>(row) + 0.5f - a.y;
      const float share = square > 0.0f ? std::clamp((x * along_x + y * along_y) / square, 0.0f, 1.0f) : 0.0f;
      const float off_x = x - share * along_x, off_y = y - share * along_y;
      if (off_x * off_x + off_y * off_y > half * half) continue;
      const std::size_t at =
          static_cast<std::size_t>(row) * static_cast<std::size_t>(image.width) + static_cast<std::size_t>(column);
      if (a.near + share * (b.near - a.near) + before < image.near[at]) continue;
      marks[at] = std::max(marks[at], level);
    }
}

/// What crosses each band of rows, in its order.
struct Banded {
  std::vector<std::size_t> first;
  std::vector<std::uint32_t> order;
};
/// \param rows of thing i, lowest and highest
template <class Rows>
Banded banded(std::size_t count, int height, const Rows& rows) {
  const int bands = (height + band_rows - 1) / band_rows;
  const auto of = [&](std::size_t i) {
    const auto band = [&](float y) {
      return std::clamp(static_cast<int>(std::clamp(y, 0.0f, static_cast<float>(height))) / band_rows, 0, bands - 1);
    };
    const auto [low, high] = rows(i);
    return std::pair(static_cast<std::size_t>(band(low)), static_cast<std::size_t>(band(high)));
  };
  Banded out;
  out.first.assign(static_cast<std::size_t>(bands) + 1, 0);
  for (std::size_t i = 0; i < count; ++i)
    for (auto [k, last] = of(i); k <= last; ++k) ++out.first[k + 1];
  for (std::size_t k = 1; k < out.first.size(); ++k) out.first[k] += out.first[k - 1];
  out.order.resize(out.first.back());
  std::vector<std::size_t> next(out.first.begin(), out.first.end() - 1);
  for (std::size_t i = 0; i < count; ++i)
    for (auto [k, last] = of(i); k <= last; ++k) out.order[next[k]++] = static_cast<std::uint32_t>(i);
  return out;
}

}  // namespace

Raster rasterized(int width, int height, std::span<const RasterPoint> points, std::span<const RasterTriangle> triangles,
                  std::span<const RasterLine> lines, const RasterLook& look) {
  Raster out;
  out.width = width, out.height = height;
  const std::size_t count = static_cast<std::size_t>(width) * static_cast<std::size_t>(height);
  out.pixels.assign(count, Pixel{255, 255, 255, 0});
  out.near.assign(count, std::numeric_limits<float>::lowest());
  std::vector<std::uint8_t> marks(lines.empty() ? 0 : count, 0);
  const auto half = [&](const RasterLine& line) { return line.bold ? look.bold : look.thin; };
  const Banded filled = banded(triangles.size(), height, [&](std::size_t i) {
    const auto& [a, b, c] = triangles[i].points;
    return std::pair(std::min({points[a].y, points[b].y, points[c].y}),
                     std::max({points[a].y, points[b].y, points[c].y}));
  });
  const Banded lined = banded(lines.size(), height, [&](std::size_t i) {
    const auto& [a, b] = lines[i].points;
    return std::pair(std::min(points[a].y, points[b].y) - half(lines[i]) - 1.0f,
                     std::max(points[a].y, points[b].y) + half(lines[i]) + 1.0f);
  });
  parallel_blocks(
      filled.first.size() - 1,
      [&](std::size_t begin, std::size_t end) {
        for (std::size_t band = begin; band < end; ++band) {
          const int row = static_cast<int>(band) * band_rows, end_row = std::min(height, row + band_rows);
          for (std::size_t i = filled.first[band]; i < filled.first[band + 1]; ++i)
            fill(out, row, end_row, points, triangles[filled.order[i]], look);
          if (lines.empty()) continue;
          for (std::size_t i = lined.first[band]; i < lined.first[band + 1]; ++i) {
            const RasterLine& line = lines[lined.order[i]];
            mark(marks, out, row, end_row, points[line.points[0]], points[line.points[1]], half(line),
                 line.bold ? 2 : 1);
          }
          const std::size_t w = static_cast<std::size_t>(width);
          for (std::size_t at = static_cast<std::size_t>(row) * w; at < static_cast<std::size_t>(end_row) * w; ++at)
            if (marks[at] > 0) out.pixels[at] = mixed(out.pixels[at], look.line, marks[at] == 1 ? 0.55f : 1.0f);
        }
      },
      1);
  return out;
}

Raster halved(const Raster& raster) {
  Raster out;
  out.width = raster.width / 2, out.height = raster.height / 2;
  const auto w = static_cast<std::size_t>(raster.width);
  for (int row = 0; row < out.height; ++row)
    for (int column = 0; column < out.width; ++column) {
      const std::size_t at = 2 * static_cast<std::size_t>(row) * w + 2 * static_cast<std::size_t>(column);
      std::array<unsigned, 4> sum{};
      float near = std::numeric_limits<float>::lowest();
      for (const std::size_t k : {at, at + 1, at + w, at + w + 1}) {
        const unsigned there = raster.pixels[k][3];
        for (std::size_t c = 0; c < 3; ++c) sum[c] += raster.pixels[k][c] * there / 255u;
        sum[3] += there;
        near = std::max(near, raster.near[k]);
      }
      Pixel pixel{255, 255, 255, 0};
      if (sum[3] > 0)
        for (std::size_t c = 0; c < 3; ++c)
          pixel[c] = static_cast<std::uint8_t>(std::min(255u, sum[c] * 255u / sum[3]));
      pixel[3] = static_cast<std::uint8_t>(sum[3] / 4);
      out.pixels.push_back(pixel);
      out.near.push_back(near);
    }
  return out;
}

}  // namespace bordado::drawing
