#include "dxf.hpp"

#include <bordado/base/files.hpp>
#include <bordado/base/text.hpp>

#include <fmt/format.h>

#include <utf8cpp/utf8.h>

namespace bordado::drawing {

namespace {

/// Characters outside ASCII as the format writes them.
std::string escaped(std::string_view words) {
  const std::string plain = plain_text(words);
  std::string out;
  for (auto at = plain.begin(); at != plain.end();) {
    const std::uint32_t character = utf8::unchecked::next(at);
    if (character < 128)
      out += static_cast<char>(character);
    else
      out += fmt::format("\\U+{:04X}", character);
  }
  return out;
}

}  // namespace

void Dxf::line(std::string_view layer, std::span<const Point> points, bool closed) {
  entities_ += fmt::format("0\nPOLYLINE\n8\n{}\n66\n1\n70\n{}\n10\n0.0\n20\n0.0\n30\n0.0\n", layer, closed ? 1 : 0);
  for (const Point& p : points) {
    entities_ += fmt::format("0\nVERTEX\n8\n{}\n10\n{:.4f}\n20\n{:.4f}\n30\n0.0\n", layer, p.x(), p.y());
    reach({p.x(), p.y(), 0.0});
  }
  entities_ += fmt::format("0\nSEQEND\n8\n{}\n", layer);
}

void Dxf::line(std::string_view layer, std::span<const Vec3> points, bool closed) {
  // 8 and 32: a polyline in space, and its points.
  entities_ += fmt::format("0\nPOLYLINE\n8\n{}\n66\n1\n70\n{}\n10\n0.0\n20\n0.0\n30\n0.0\n", layer, closed ? 9 : 8);
  for (const Vec3& p : points) {
    entities_ +=
        fmt::format("0\nVERTEX\n8\n{}\n10\n{:.4f}\n20\n{:.4f}\n30\n{:.4f}\n70\n32\n", layer, p.x(), p.y(), p.z());
    reach(p);
  }
  entities_ += fmt::format("0\nSEQEND\n8\n{}\n", layer);
}

void Dxf::reach(const Vec3& point) { low_ = low_.cwiseMin(point), high_ = high_.cwiseMax(point); }

void Dxf::text(std::string_view layer, const Vec3& at, double height, std::string_view words) {
  entities_ += fmt::format("0\nTEXT\n8\n{}\n10\n{:.4f}\n20\n{:.4f}\n30\n{:.4f}\n40\n{:.4f}\n1\n{}\n", layer, at.x(),
                           at.y(), at.z(), height, escaped(words));
}
void Dxf::text(std::string_view layer, const Point& at, double height, std::string_view words) {
  text(layer, Vec3(at.x(), at.y(), 0.0), height, words);
}

void Dxf::write(const std::string& path) const {
  std::string out = fmt::format(
      "999\nwritten by Bordado {}, 1:1 in millimetres\n0\nSECTION\n2\nHEADER\n9\n$ACADVER\n1\nAC1009\n"
      "9\n$INSUNITS\n70\n4\n9\n$MEASUREMENT\n70\n1\n",
      version());
  const bool any = low_.x() <= high_.x();
  const Vec3 low = any ? low_ : Vec3::Zero(), high = any ? high_ : Vec3::Zero();
  out += fmt::format(
      "9\n$EXTMIN\n10\n{:.4f}\n20\n{:.4f}\n30\n{:.4f}\n9\n$EXTMAX\n10\n{:.4f}\n20\n{:.4f}\n30\n{:.4f}\n0\nENDSEC\n",
      low.x(), low.y(), low.z(), high.x(), high.y(), high.z());
  out += fmt::format("0\nSECTION\n2\nTABLES\n0\nTABLE\n2\nLAYER\n70\n{}\n", layers_.size());
  for (const auto& [name, colour] : layers_)
    out += fmt::format("0\nLAYER\n2\n{}\n70\n0\n62\n{}\n6\nCONTINUOUS\n", name, colour);
  out += "0\nENDTAB\n0\nENDSEC\n0\nSECTION\n2\nENTITIES\n" + entities_ + "0\nENDSEC\n0\nEOF\n";
  OutputFile file(path);
  file.write(out);
  file.commit();
}

}  // namespace bordado::drawing
