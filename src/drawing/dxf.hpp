// Drawings for cutters and CAD: DXF, release 12, in ASCII.
#pragma once

#include <bordado/base/vector.hpp>

#include <span>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

namespace bordado::drawing {

/// What stands in a DXF file: closed and open lines, marks of text, on named layers; millimetres.
class Dxf {
 public:
  using Point = Eigen::Vector2d;
  /// \param layers every layer that is used, with its colour number.
  explicit Dxf(std::vector<std::pair<std::string, int>> layers) : layers_(std::move(layers)) {}
  void line(std::string_view layer, std::span<const Point> points, bool closed);
  /// In space; a drawing has such lines or flat ones.
  void line(std::string_view layer, std::span<const Vec3> points, bool closed);
  void text(std::string_view layer, const Vec3& at, double height, std::string_view words);
  void text(std::string_view layer, const Point& at, double height, std::string_view words);
  /// \throws Failure "file.*".
  void write(const std::string& path) const;

 private:
  void reach(const Vec3& point);

  std::vector<std::pair<std::string, int>> layers_;
  std::string entities_;
  Vec3 low_ = Vec3::Constant(1e300), high_ = Vec3::Constant(-1e300);
};

}  // namespace bordado::drawing
