// A reader of PNG files for tests: eight bits a colour, not interlaced (W3C, Portable Network Graphics).
#pragma once

#include <bordado/base/files.hpp>

#include <doctest/doctest.h>
#include <zlib.h>

#include <array>
#include <cstdlib>
#include <functional>
#include <string>
#include <vector>

namespace test {

using Colour = std::array<int, 3>;

struct Image {
  int width = 0, height = 0;
  std::vector<Colour> pixels;  ///< row by row from the top
  std::string says;            ///< all its text chunks
  const Colour& at(int column, int row) const {
    return pixels[static_cast<std::size_t>(row) * static_cast<std::size_t>(width) + static_cast<std::size_t>(column)];
  }
  /// Pixels of which something is true, in a part of the picture: columns and rows from, to.
  int count(std::array<int, 4> box, const std::function<bool(const Colour&)>& is) const {
    int out = 0;
    for (int row = box[1]; row < box[3]; ++row)
      for (int column = box[0]; column < box[2]; ++column) out += is(at(column, row));
    return out;
  }
};

inline bool is_white(const Colour& c) { return c[0] > 250 && c[1] > 250 && c[2] > 250; }

inline Image read_png(const std::string& path) {
  const std::string bytes = bordado::read_file(path);
  REQUIRE(bytes.starts_with("\x89PNG\r\n\x1a\n"));
  const auto number = [&](std::size_t at) {
    std::uint32_t out = 0;
    for (std::size_t k = 0; k < 4; ++k) out = out << 8 | static_cast<unsigned char>(bytes[at + k]);
    return out;
  };
  Image out;
  std::string packed;
  int channels = 0;
  for (std::size_t at = 8; at + 12 <= bytes.size();) {
    const std::size_t size = number(at);
    const std::string kind = bytes.substr(at + 4, 4), data = bytes.substr(at + 8, size);
    const std::string summed = kind + data;
    CHECK(number(at + 8 + size) ==
          crc32(0, reinterpret_cast<const Bytef*>(summed.data()), static_cast<uInt>(summed.size())));
    if (kind == "IHDR") {
      out.width = static_cast<int>(number(at + 8)), out.height = static_cast<int>(number(at + 12));
      REQUIRE(data[8] == 8);   // bits
      REQUIRE(data[12] == 0);  // not interlaced
      channels = data[9] == 2 ? 3 : 4;
    } else if (kind == "IDAT") {
      packed += data;
    } else if (kind == "tEXt") {
      out.says += data;
    }
    at += 12 + size;
  }
  const auto w = static_cast<std::size_t>(out.width), h = static_cast<std::size_t>(out.height),
             step = static_cast<std::size_t>(channels);
  std::vector<unsigned char> rows(h * (1 + w * step));
  uLongf length = rows.size();
  REQUIRE(uncompress(rows.data(), &length, reinterpret_cast<const Bytef*>(packed.data()), packed.size()) == Z_OK);
  REQUIRE(length == rows.size());
  std::vector<unsigned char> before(w * step, 0), now(w * step);
  for (std::size_t row = 0; row < h; ++row) {
    const unsigned char* const line = rows.data() + row * (1 + w * step);
    for (std::size_t i = 0; i < w * step; ++i) {
      const int left = i >= step ? now[i - step] : 0, up = before[i], corner = i >= step ? before[i - step] : 0;
      int guess = 0;
      if (line[0] == 1) guess = left;
      if (line[0] == 2) guess = up;
      if (line[0] == 3) guess = (left + up) / 2;
      if (line[0] == 4) {
        const int p = left + up - corner, a = std::abs(p - left), b = std::abs(p - up), c = std::abs(p - corner);
        guess = a <= b && a <= c ? left : b <= c ? up : corner;
      }
      now[i] = static_cast<unsigned char>(line[1 + i] + guess);
    }
    for (std::size_t i = 0; i < w; ++i) out.pixels.push_back({now[i * step], now[i * step + 1], now[i * step + 2]});
    std::swap(before, now);
  }
  return out;
}

}  // namespace test
