// What tests share: scratch folders, meshes made from a formula, running programs.
#pragma once

#include <bordado/material.hpp>
#include <bordado/mesh/surface.hpp>

#include <doctest/doctest.h>
#include <fmt/format.h>

#include <cmath>
#include <filesystem>
#include <ostream>
#include <random>
#include <string>

namespace test {

using bordado::Vec3;

/// By what share of the exact value a found one is off.
inline double off(double found, double exact) { return std::abs(found / exact - 1.0); }

/// Whether a number is the one wanted: off by no more than a share of that, or of `scale` where that is the larger.
/// Without a scale it is relative through and through, and nothing but nought is near nought. (doctest's own comparison
/// has an absolute part of one, for which small numbers are all alike.) What is not finite is near nothing.
struct Near {
  double found, wanted, share, scale;
  explicit operator bool() const {
    return std::abs(found - wanted) <= share * std::max(std::abs(wanted), std::abs(scale));
  }
  friend std::ostream& operator<<(std::ostream& out, const Near& n) {
    return out << fmt::format("found {:.12g}, wanted {:.12g}: off by {:.3g} of it, {:g} allowed", n.found, n.wanted,
                              (n.found - n.wanted) / std::max(std::abs(n.wanted), std::abs(n.scale)), n.share);
  }
};
inline Near near(double found, double wanted, double share = 1e-9, double scale = 0.0) {
  return {found, wanted, share, scale};
}

/// Conditions of a cantilever: "left" clamped, a force (as text, "[0, 0, 1]") on "right".
inline std::string cantilever(const std::string& force) {
  return "\n[support.left]\non = \"left\"\nhold = \"clamped\"\n[load.tip]\non = \"right\"\nforce = " + force + "\n";
}

/// A folder that is gone at the end of the test.
class Folder {
 public:
  Folder();
  ~Folder();
  Folder(const Folder&) = delete;
  Folder& operator=(const Folder&) = delete;
  std::string operator/(const std::string& name) const { return (path_ / name).string(); }
  std::string path() const { return path_.string(); }
  /// Writes a file and returns its path.
  std::string write(const std::string& name, std::string_view text) const;
  std::size_t file_count() const;

 private:
  std::filesystem::path path_;
};

/// A grid of nx by ny quadrilaterals (or twice as many triangles) on a map from the unit square. Edge groups: "left" u
/// = 0, "right" u = 1, "front" v = 0, "back" v = 1; element group "plate"; point group "corner" at u = v = 0.
struct Grid {
  int nx = 1, ny = 1;
  std::function<Vec3(double u, double v)> map;
  bool triangles = false;
  bool quadratic = false;  ///< 8-node quadrilaterals or 6-node triangles, middle nodes on the map
  bool closed_u = false;   ///< u = 1 is u = 0: a tube along v

  /// A flat rectangle in z = 0.
  static Grid rectangle(int nx, int ny, double length, double width) {
    return {.nx = nx, .ny = ny, .map = [=](double u, double v) { return Vec3(length * u, width * v, 0.0); }};
  }
};
/// The grid as Gmsh MSH 2.2 text.
std::string msh(const Grid& grid);
/// The grid as a Surface, read by the library.
bordado::mesh::Surface surface(const Grid& grid, bordado::Findings& findings);
bordado::mesh::Surface surface(const Grid& grid);

struct Run {
  int status;
  std::string out, err;
};
/// Runs a shell command in a folder.
Run run(const std::string& command, const std::string& folder = ".");
/// The bordado program that this build made.
std::string program();
/// Its commands, as its help lists them.
std::vector<std::string> commands();
/// Path of the example's program.
std::string example_program();
/// The folder that all is built in.
std::string build_folder();
/// A path in the source tree.
std::string source(const std::string& path);
bool have(const std::string& program);

/// The whole texts of the errors that the body fails with, "" where it does not fail.
std::string failure(const std::function<void()>& body);

/// Generic unidirectional carbon, in MPa.
bordado::material::Elastic carbon();
/// A material of any kind with any of the things that one may have, in mm, t, s.
bordado::material::Material random_material(std::mt19937& engine, const std::string& name);
/// Part file text of the same and of other materials used in tests: "ud" (0.25 mm), "foam" (10 mm).
std::string materials();

}  // namespace test
