// All six components of a ply's stress, in the axes of the section and of the part: by the fibre's own direction in space.
#include "cases.hpp"

#include <bordado/base/files.hpp>
#include <bordado/recovery.hpp>
#include <bordado/review/results.hpp>

#include <random>
#include <sstream>

namespace of_result_axes {

using namespace bordado;
using test::Grid;
using test::near;

namespace {

Eigen::Matrix3d matrix(const std::array<double, 6>& six) {
  const auto& [xx, yy, zz, yz, xz, xy] = six;
  Eigen::Matrix3d out;
  out << xx, xy, xz, xy, yy, yz, xz, yz, zz;
  return out;
}

}  // namespace

TEST_CASE(
    "stress in the part's axes, pulled at along the fibres and across them, is the ply's own; tables and fields have "
    "it") {
  const test::Folder folder;
  // A patch of a barrel that lies askew in space.
  const Eigen::AngleAxisd turn(0.7, Vec3(1, 2, 0.5).normalized());
  Grid grid = Grid::rectangle(5, 4, 300, 200);
  grid.map = [=](double u, double v) {
    return Vec3(turn * Vec3(300 * u, 200 * v, 30 * std::sin(2 * v) * std::cos(u)) + Vec3(50, 60, 70));
  };
  const Vec3 up = turn * Vec3::UnitZ(), along = turn * Vec3(1, 0.3, 0);
  std::string text = test::known_part("[0/30/-70]", R"(
[support.left]
on = "left"
hold = "clamped"
[load.tip]
on = "right"
edge-force = [1, 0, 0]
)");
  const auto replace = [&](const std::string& from, const std::string& to) {
    REQUIRE(text.find(from) != std::string::npos);
    text.replace(text.find(from), from.size(), to);
  };
  replace("along = [0, 0, 1]", fmt::format("along = [{}, {}, {}]", up[0], up[1], up[2]));
  replace("vector = [1, 0, 0]", fmt::format("vector = [{}, {}, {}]", along[0], along[1], along[2]));
  Findings findings;
  const Design design = test::open_on(folder, text, grid, findings);
  const model::Model model = assemble(design, {.quadratic = true}, findings);
  std::mt19937 engine(30);
  std::normal_distribution<double> normal;
  std::string table = "element,Nx,Ny,Nxy,Mx,My,Mxy,Qx,Qy\n";
  for (const std::int64_t id : design.surface.element_ids) {
    table += fmt::format("{}", id);
    for (int k = 0; k < 8; ++k) table += fmt::format(",{:.9g}", 10 * normal(engine));
    table += "\n";
  }
  const std::vector fields{result::read_sections(design, folder.write("forces.csv", table)).fields};
  const result::Recovery recovery(model, {laminate::Criterion::tsai_wu});
  const std::vector<std::size_t> cases{0};
  double most_across = 0.0;
  std::size_t count = 0;
  for (mesh::ElementIndex e = 0; e < design.surface.element_count(); ++e)
    for (const result::PlyState& s : recovery.at(fields[0], 0, e)) {
      const Vec3 &n = design.geometry.normals[e], a = design.layup.fibre(s.ply, e, n), b = n.cross(a);
      const Eigen::Matrix3d part = matrix(result::stress_in_part(design, e, s)),
                            section = matrix(result::stress_in_section(s));
      const double scale = part.norm();
      CHECK(near(a.dot(part * a), s.ply_stress[0], 1e-9, scale));
      CHECK(near(b.dot(part * b), s.ply_stress[1], 1e-9, scale));
      CHECK(near(a.dot(part * b), s.ply_stress[2], 1e-9, scale));
      CHECK(near(a.dot(part * n), s.ply_shear[0], 1e-9, scale));
      CHECK(near(b.dot(part * n), s.ply_shear[1], 1e-9, scale));
      CHECK(near(n.dot(part * n), 0.0, 1e-9, scale));
      CHECK(near(part.trace(), section.trace(), 1e-9, scale));
      CHECK(near(part.norm(), section.norm(), 1e-9));
      most_across = std::max(most_across, std::abs(s.ply_shear[0]) / scale);
      ++count;
    }
  CHECK(count == 20 * 3 * 3);
  CHECK(most_across > 0.01);

  // The table and the fields for viewers tell the same numbers.
  const result::Reserves reserves = recovery.reserves(fields, cases);
  const review::Results results{design, model, recovery, fields, cases, reserves};
  review::write_results(results, folder / "r.csv");
  std::istringstream lines(read_file(folder / "r.csv"));
  std::string head, line;
  std::getline(lines, head);
  const auto cells = [](const std::string& text_of) {
    std::vector<std::string> out;
    std::istringstream in(text_of);
    for (std::string cell; std::getline(in, cell, ',');) out.push_back(cell);
    return out;
  };
  const auto names = cells(head);
  const auto column = [&](const std::string& name) {
    const auto found = std::find(names.begin(), names.end(), name);
    REQUIRE_MESSAGE(found != names.end(), name);
    return static_cast<std::size_t>(found - names.begin());
  };
  const std::vector<part::PlyId> plies{part::PlyId{1}};
  const auto arrays = review::result_fields(results, {{}, plies});
  const std::string id = design.part.plies[plies[0]].id;
  for (mesh::ElementIndex e = 0; e < design.surface.element_count(); ++e)
    for (const result::PlyState& s : recovery.at(fields[0], 0, e)) {
      REQUIRE(std::getline(lines, line));
      const auto values = cells(line);
      REQUIRE(values.size() == names.size());
      const auto part = result::stress_in_part(design, e, s), section = result::stress_in_section(s);
      const char* const six[] = {"xx", "yy", "zz", "yz", "xz", "xy"};
      double scale = 0.0;
      for (const double v : part) scale = std::max(scale, std::abs(v));
      for (std::size_t k = 0; k < 6; ++k) {
        CHECK(near(std::stod(values[column(fmt::format("{} part MPa", six[k]))]), part[k], 1e-5, scale));
        if (s.ply != plies[0]) continue;
        for (const auto& [axes, wanted] : {std::pair{"part", part[k]}, {"section", section[k]}}) {
          const std::string name =
              fmt::format("{} {}: {} {} MPa", id, std::array{"bottom", "middle", "top"}[s.place], six[k], axes);
          const auto found =
              std::find_if(arrays.begin(), arrays.end(), [&](const auto& array) { return array.name == name; });
          REQUIRE_MESSAGE(found != arrays.end(), name);
          CHECK(near(found->values[e], wanted, 1e-12, scale));
        }
      }
      CHECK(near(std::stod(values[column("txz section MPa")]), section[4], 1e-5, scale));
    }
}

}  // namespace of_result_axes
