// ./run bench, sixth part: stress in 30 plies on a million elements and what fails first, beside one 3 x 3 multiply for each
// element and ply; the solver's text of strains read, beside parsing its numbers. Ratios are time over that of the floor in
// the same run. Panels by hand: every element of a zone under its own forces, beside judging those 30 plies there; one panel with
// 30 by 30 functions, beside a dense factorisation; walls of a section in 40 half waves, beside 40 such.
#include "measure.hpp"

#include <bordado/base/files.hpp>
#include <bordado/calculix.hpp>
#include <bordado/design.hpp>
#include <bordado/recovery.hpp>
#include <bordado/strips.hpp>
#include <bordado/zone_panels.hpp>

#include <Eigen/Cholesky>

#include <fmt/format.h>

#include <filesystem>

namespace {

using namespace bordado;
using namespace measure;

constexpr std::string_view text = R"(
[part]
name = "Panel"
units = "mm, t, s"
mesh = { file = "none.msh", length = "mm" }
side = { along = [0, 0, 1] }
surface = "bottom"
[material.carbon-ud]
from = "carbon-ud"
[frame.x]
vector = [1, 0, 0]
[zone.plate]
box = { from = [-1e6, -1e6, -1e6], to = [1e6, 1e6, 1e6] }
[layup]
plies = [ { id = "P", material = "carbon-ud", frame = "x", code = "[0/45/-45/90/0_2/45/-45/0_2/45/-45/90/0_2]s" } ]
)";

struct Judging {
  double seconds, floor, memory, least;
  double as_panels;  ///< every element of the plate as a panel of 300 x 200
};

Judging judging(int nx, int ny, bool as_panels) {
  Findings findings;
  const Design design = open(part::read_text(text, "panel.toml", findings), panel(nx, ny), findings);
  model::Model model = assemble(design, {.quadratic = false, .laminate_only = true, .solids = {}}, findings);
  model.cases.push_back({"press", part::Analysis::linear, {}, {}, {}});
  model::CaseFields fields;
  const std::size_t count = design.surface.element_count();
  fields.sections.resize(count);
  for (std::size_t e = 0; e < count; ++e) {
    const double x = std::sin(1e-3 * static_cast<double>(e)), y = std::cos(3e-4 * static_cast<double>(e));
    fields.sections[e].deformation = {{1e-3 * x, 2e-4 * y, 3e-4 * x * y}, {1e-4 * y, -2e-5 * x, 1e-5}};
    fields.sections[e].Q = {3.0 * x, 1.0 * y};
  }
  const result::Recovery recovery(model, {laminate::usual_criteria().begin(), laminate::usual_criteria().end()});
  const std::size_t cases[] = {0};
  Judging out{};
  out.memory = peak([&] {
    out.seconds = seconds([&] {
      const auto reserves = recovery.reserves(std::span(&fields, 1), cases);
      out.least = 1e300;
      for (const auto& one : reserves.of_elements) out.least = std::min(out.least, one.factor);
    });
  });
  if (as_panels) {
    result::ZonePanel whole = result::panel_under(design, "plate", {{300.0, 200.0}});
    out.as_panels = seconds([&] {
      const auto checks = result::check_panels(model, {&whole, 1}, {}, std::span(&fields, 1), cases);
      out.least = std::min(out.least, checks.front().things.front().factors.front());
    });
  }
  // The floor: as many products of a stiffness and a strain, on as many threads.
  std::vector<laminate::Matrix3> stiffness(30, laminate::Matrix3::Identity());
  std::vector<double> largest(count);
  out.floor = best(3, [&] {
    parallel_blocks(count, [&](std::size_t begin, std::size_t end) {
      for (std::size_t e = begin; e < end; ++e) {
        const auto& d = fields.sections[e].deformation;
        double most = 0.0;
        for (std::size_t ply = 0; ply < 30; ++ply)
          most = std::max(most, (stiffness[ply] * (d.strain + static_cast<double>(ply) * d.curvature)).maxCoeff());
        largest[e] = most;
      }
    });
    if (largest[0] < 0.0) std::abort();
  });
  return out;
}

/// One panel whose directions all go together, and the factorisation of a dense matrix.
std::array<double, 2> one_panel() {
  sizing::Panel panel{
      300.0, 200.0, {}, sizing::Edge::clamped, sizing::Edge::simple, sizing::Edge::simple, sizing::Edge::simple};
  panel.plate.D << 9e4, 3e4, 1e4, 3e4, 6e4, 8e3, 1e4, 8e3, 3e4;
  panel.plate.H = 6e3 * laminate::Matrix2::Identity();
  double sum = 0.0;
  const double one = best(5, [&] {
    sum += sizing::buckling_factors(panel, {-1.0, -0.3, 0.4}, {30, 30}).forward->value;
  });
  const Eigen::MatrixXd matrix = Eigen::MatrixXd::Ones(900, 900) + 900.0 * Eigen::MatrixXd::Identity(900, 900);
  const double dense = best(5, [&] { sum += Eigen::LLT<Eigen::MatrixXd>(matrix).matrixLLT()(0, 0); });
  if (sum == 1.2345) std::abort();
  return {one, dense};
}

/// Walls of a C whose directions go together, in 40 half waves, and 40 factorisations of a matrix of as many complex unknowns.
std::array<double, 2> walls_buckle() {
  const material::Elastic ply = material::transversely_isotropic(140e3, 9e3, 0.3, 5e3, 0.4, 3.2e3);
  const auto stack = [&](std::initializer_list<double> angles) {
    laminate::Stack out;
    for (const double angle : angles) out.layers.push_back({ply, 0.2, Angle::degrees(angle), 1.6e-9});
    return out;
  };
  const std::vector<sizing::Wall> walls =
      sizing::walls_of(sizing::Shape::C, std::vector<double>{62, 34}, stack({45, -45, 0, 0, -45, 45}),
                       stack({45, 0, 0, -45, -45, 0, 0, 45}));
  double sum = 0.0;
  const double all = best(5, [&] { sum += sizing::signature(walls, {}, 7.0, 500.0).local->factor; });
  const Eigen::MatrixXcd matrix = Eigen::MatrixXcd::Ones(97, 97) + 97.0 * Eigen::MatrixXcd::Identity(97, 97);
  const double dense = best(5, [&] {
    for (int k = 0; k < 40; ++k) sum += Eigen::LLT<Eigen::MatrixXcd>(matrix).matrixLLT()(0, 0).real();
  });
  if (sum == 1.2345) std::abort();
  return {all, dense};
}

struct Reading {
  double seconds, floor, bytes, memory;
};

/// Lines of strains as the solver prints them.
Reading reading(std::size_t elements) {
  const std::string path = (std::filesystem::temp_directory_path() / "bordado-bench.dat").string();
  {
    OutputFile file(path);
    file.write(
        "\n displacements (vx,vy,vz) for set D0 and time  0.1000000E+01\n\n         1  0.000000E+00  0.000000E+00  "
        "0.000000E+00\n");
    file.write("\n strains (elem, integ.pnt.,exx,eyy,ezz,exy,exz,eyz) for set EALL and time  0.1000000E+01\n\n");
    file.write_lines(24 * elements, [](std::size_t i, std::string& out) {
      const double x = 1e-3 * std::sin(0.1 * static_cast<double>(i));
      fmt::format_to(std::back_inserter(out), "{:10d}{:4d} {:13.6E} {:13.6E} {:13.6E} {:13.6E} {:13.6E} {:13.6E}\n",
                     i / 24 + 1, i % 24 + 1, x, 0.3 * x, 0.0, -0.1 * x, 0.02 * x, 0.7 * x);
    });
    file.commit();
  }
  Reading out{};
  double sum = 0.0;
  out.memory = peak([&] {
    out.seconds = best(2, [&] {
      calculix::ReadOptions options;
      options.strains = [&](std::int64_t, std::span<const double> strains) { sum += strains[0]; };
      sum += static_cast<double>(calculix::read_answer(path, options).strain_lines);
    });
  });
  const std::string whole = read_file(path);
  out.bytes = static_cast<double>(whole.size());
  // The floor: every number of the text parsed, in memory.
  out.floor = best(2, [&] {
    const std::size_t head = whole.find('\n', whole.find("strains (elem"));
    sum += parse_numbers(std::string_view(whole).substr(head + 2));
  });
  std::filesystem::remove(path);
  if (sum == 1.2345) std::abort();
  return out;
}

}  // namespace

int main(int count, char** arguments) {
  const bool small = count > 1 && std::string_view(arguments[1]) == "small";
  const int nx = small ? 20 : 1000, ny = small ? 10 : 1000;
  fmt::print("{:<58} {:>11}  {:>8}\n", "results", "time", "ratio");
  const Judging judged = judging(nx, ny, false);
  const double many = 30.0 * nx * ny;
  fmt::print("{:<58} {:9.3f} s  {:8.1f}  to one 3 x 3 multiply each\n",
             fmt::format("30 plies on {} elements judged at three places", nx * ny), judged.seconds,
             judged.seconds / judged.floor);
  fmt::print("{:<58} {:9.1f} ns, {:.1f} for the multiply\n", "  for each element and ply", 1e9 * judged.seconds / many,
             1e9 * judged.floor / many);
  fmt::print("{:<58} {:9.0f} bytes\n", "  memory at the peak, each element", judged.memory / (1.0 * nx * ny));
  const int side = small ? 10 : 316;
  const Judging panels = judging(side, side, true);
  fmt::print("{:<58} {:9.3f} s  {:8.2f}  to judging 30 plies there\n",
             fmt::format("{} elements, each as a panel under its forces", side * side), panels.as_panels,
             panels.as_panels / panels.seconds);
  const auto [one, dense] = one_panel();
  fmt::print("{:<58} {:9.1f} ms {:8.2f}  to a dense factorisation of 900 unknowns\n",
             "one panel buckles, 30 by 30 functions", 1e3 * one, one / dense);
  const auto [waves, factorised] = walls_buckle();
  fmt::print("{:<58} {:9.1f} ms {:8.2f}  to 40 dense factorisations of 97 complex unknowns\n",
             "walls of a C buckle, 40 half waves and the least", 1e3 * waves, waves / factorised);
  const Reading read = reading(small ? 100 : 400000);
  fmt::print("{:<58} {:9.3f} s  {:8.2f}  to parsing its numbers\n",
             fmt::format("{:.0f} MB of the solver's strains read", read.bytes / 1e6), read.seconds,
             read.seconds / read.floor);
  fmt::print("{:<58} {:9.1f} MB\n", "  memory at the peak", read.memory / 1e6);
  return 0;
}
