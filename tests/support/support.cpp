#include "solving.hpp"

#include <algorithm>
#include <bordado/base/files.hpp>
#include <bordado/mesh/io.hpp>

#include <fmt/format.h>

#include <sys/wait.h>
#include <unistd.h>
#include <array>
#include <cstdlib>
#include <fstream>
#include <map>
#include <sstream>

namespace test {

namespace fs = std::filesystem;

Folder::Folder() {
  std::string name = (fs::temp_directory_path() / "bordado-test-XXXXXX").string();
  REQUIRE(::mkdtemp(name.data()) != nullptr);
  path_ = name;
}

Folder::~Folder() {
  std::error_code ignored;
  fs::remove_all(path_, ignored);
}

std::string Folder::write(const std::string& name, std::string_view text) const {
  std::ofstream(path_ / name, std::ios::binary) << text;
  return *this / name;
}

std::size_t Folder::file_count() const {
  return static_cast<std::size_t>(std::distance(fs::directory_iterator(path_), fs::directory_iterator()));
}

std::string msh(const Grid& grid) {
  std::map<std::array<int, 2>, int> ids;  // grid points in half steps
  std::string nodes;
  const auto node = [&](int i, int j) {
    const int wrapped = grid.closed_u ? i % (2 * grid.nx) : i;
    const auto [found, is_new] = ids.emplace(std::array{wrapped, j}, static_cast<int>(ids.size()) + 1);
    if (is_new) {
      const Vec3 p = grid.map(0.5 * wrapped / grid.nx, 0.5 * j / grid.ny);
      nodes += fmt::format("{} {} {} {}\n", found->second, p.x(), p.y(), p.z());
    }
    return found->second;
  };
  int count = 0;
  std::string elements;
  const auto add = [&](int type, int group, std::initializer_list<std::array<int, 2>> corners) {
    const std::vector<std::array<int, 2>> c(corners);
    elements += fmt::format("{} {} 2 {} {}", ++count, type, group, group);
    for (const auto& [i, j] : c) elements += fmt::format(" {}", node(i, j));
    if (grid.quadratic && c.size() > 1)
      for (std::size_t k = 0; k < (c.size() == 2 ? 1 : c.size()); ++k) {
        const auto &a = c[k], &b = c[(k + 1) % c.size()];
        elements += fmt::format(" {}", node((a[0] + b[0]) / 2, (a[1] + b[1]) / 2));
      }
    elements += '\n';
  };
  const int line = grid.quadratic ? 8 : 1, triangle = grid.quadratic ? 9 : 2, quadrilateral = grid.quadratic ? 16 : 3;
  const int nx = 2 * grid.nx, ny = 2 * grid.ny;
  add(15, 6, {{0, 0}});
  for (int j = 0; j < ny && !grid.closed_u; j += 2) {
    add(line, 1, {{0, j}, {0, j + 2}});
    add(line, 2, {{nx, j}, {nx, j + 2}});
  }
  for (int i = 0; i < nx; i += 2) {
    add(line, 3, {{i, 0}, {i + 2, 0}});
    add(line, 4, {{i, ny}, {i + 2, ny}});
  }
  for (int j = 0; j < ny; j += 2)
    for (int i = 0; i < nx; i += 2) {
      if (!grid.triangles) {
        add(quadrilateral, 5, {{i, j}, {i + 2, j}, {i + 2, j + 2}, {i, j + 2}});
        continue;
      }
      add(triangle, 5, {{i, j}, {i + 2, j}, {i + 2, j + 2}});
      add(triangle, 5, {{i, j}, {i + 2, j + 2}, {i, j + 2}});
    }
  return fmt::format(
      "$MeshFormat\n2.2 0 8\n$EndMeshFormat\n$PhysicalNames\n6\n1 1 \"left\"\n1 2 \"right\"\n1 3 \"front\"\n1 4 "
      "\"back\"\n2 5 \"plate\"\n0 6 \"corner\"\n"
      "$EndPhysicalNames\n$Nodes\n{}\n{}$EndNodes\n$Elements\n{}\n{}$EndElements\n",
      ids.size(), nodes, count, elements);
}

bordado::mesh::Surface surface(const Grid& grid, bordado::Findings& findings) {
  return bordado::mesh::read_bytes(msh(grid), "grid.msh", {}, findings);
}

bordado::mesh::Surface surface(const Grid& grid) {
  bordado::Findings findings;
  return surface(grid, findings);
}

Run run(const std::string& command, const std::string& folder) {
  const Folder scratch;
  const int status = std::system(
      fmt::format("cd '{}' && {{ {}\n}} > '{}' 2> '{}' < /dev/null", folder, command, scratch / "out", scratch / "err")
          .c_str());
  return {WIFEXITED(status) ? WEXITSTATUS(status) : 128 + WTERMSIG(status), bordado::read_file(scratch / "out"),
          bordado::read_file(scratch / "err")};
}

std::string program() { return BORDADO_PROGRAM; }
std::vector<std::string> commands() {
  const Run help = run(fmt::format("'{}' --help", program()));
  std::vector<std::string> out;
  std::istringstream lines(help.out.substr(std::min(help.out.size(), help.out.find("Subcommands:"))));
  std::string line;
  std::getline(lines, line);
  while (std::getline(lines, line) && line.starts_with("  ")) {
    const std::string name = line.substr(2, line.find(' ', 2) - 2);
    if (!name.empty()) out.push_back(name);
  }
  REQUIRE(out.size() > 20);
  return out;
}
std::string example_program() { return BORDADO_EXAMPLE_SKIFF; }
std::string build_folder() { return BORDADO_BUILD; }
std::string source(const std::string& path) { return std::string(BORDADO_SOURCE) + "/" + path; }
bool have(const std::string& program) { return run("command -v " + program).status == 0; }

Vec3 Solved::at(const Vec3& point) const {
  const std::int64_t id = nodes.node_ids[bordado::mesh::nearest_node(nodes, point).index];
  for (const auto& row : answer.displacements)
    if (row.id == id) return row.value;
  FAIL("no displacement of node " << id);
  return Vec3::Zero();
}

Solved solve(const Folder& folder, const std::string& part_text, const Grid& grid,
             const bordado::calculix::SolveOptions& options) {
  Solved out;
  folder.write("grid.msh", msh(grid));
  out.design = bordado::open(folder.write("part.toml", part_text), out.findings);
  const bordado::model::Model model = bordado::assemble(out.design, {.quadratic = true}, out.findings);
  const auto solved = bordado::calculix::solve(model, folder / "part.inp", options, out.findings);
  out.answer = bordado::calculix::read_answer(solved.run.dat);
  out.reaction = solved.reaction;
  out.load = solved.deck.loads.front().second.force;
  out.nodes = model.surface;
  return out;
}

std::string failure(const std::function<void()>& body) {
  try {
    body();
  } catch (const bordado::Failure& failure) {
    return failure.what();
  }
  return "";
}

bordado::material::Elastic carbon() {
  return bordado::material::transversely_isotropic(135000, 9000, 0.3, 5000, 0.4, 3200);
}

std::string materials() {
  return R"(
[material.ud]
kind = "unidirectional"
E1 = "135 GPa"
E2 = "9 GPa"
nu12 = 0.3
G12 = "5 GPa"
G13 = "5 GPa"
G23 = "3.2 GPa"
nu23 = 0.4
density = "1550 kg/m^3"
thickness = "0.25 mm"

[material.foam]
kind = "foam"
mark = "F"
E = "70 MPa"
G = "25 MPa"
density = "80 kg/m^3"
thickness = "10 mm"

[frame.x]
vector = [1, 0, 0]
)";
}

bordado::material::Material random_material(std::mt19937& engine, const std::string& name) {
  using namespace bordado::material;
  const auto in = [&](double low, double high) { return std::uniform_real_distribution<double>(low, high)(engine); };
  const auto coin = [&] { return in(0, 1) < 0.5; };
  const auto any_elastic = [&] {
    for (;;) {
      const Elastic m{.E1 = in(5e3, 200e3),
                      .E2 = in(3e3, 50e3),
                      .E3 = in(3e3, 20e3),
                      .nu12 = in(0.05, 0.4),
                      .nu13 = in(0.05, 0.4),
                      .nu23 = in(0.05, 0.5),
                      .G12 = in(1e3, 9e3),
                      .G13 = in(1e3, 9e3),
                      .G23 = in(1e3, 9e3)};
      if (!not_positive_definite(m)) return m;
    }
  };
  Material out;
  out.name = name;
  out.kind = kinds[static_cast<std::size_t>(in(0, 8.999))];
  if (is_isotropic(out.kind)) {
    out.elastic = isotropic(in(50, 200e3), in(0.1, 0.45));
  } else if (out.kind == Kind::fibre) {
    const double E2 = in(5e3, 30e3), nu23 = in(0.1, 0.4);
    out.elastic = transversely_isotropic(in(50e3, 400e3), E2, in(0.1, 0.4), in(3e3, 20e3), nu23, E2 / (2 * (1 + nu23)));
  } else {
    out.elastic = any_elastic();
  }
  if (out.kind == Kind::anisotropic) {
    Matrix6 C = stiffness(out.elastic), noise = Matrix6::Zero();
    for (Eigen::Index i = 0; i < 6; ++i)
      for (Eigen::Index j = 0; j < i; ++j) noise(i, j) = noise(j, i) = in(-50, 50);
    out.elastic = from_stiffness(C + noise);
  }
  for (const Quantity& q : quantities()) {
    const bool elastic = q.key[0] == 'E' || q.key[0] == 'G' || q.key.starts_with("nu");
    if (!elastic && coin())
      q.set(out, q.key.starts_with("alpha") ? in(-5e-6, 60e-6)
                 : q.key == "tsai-wu-F12"   ? in(-0.9, 0.9)
                 : q.key == "rest-angle"    ? in(20, 160)
                 : q.key == "puck-p12c"     ? in(0.1, 0.9)
                                            : in(1e-9, 200));
  }
  if (out.interaction.p12t)
    out.interaction.p12t = in(0.1, 0.9) * std::min(1.0, out.strength.S12.value_or(1.0) / out.strength.Yt.value_or(1.0));
  if (coin()) out.mark = std::string(1, static_cast<char>('A' + static_cast<int>(in(0, 25))));
  if (coin()) out.form.weave = "2/2 \"twill\" \\ <ü>";
  if (coin()) out.note = "measured\tat 20 °C";
  if (coin()) out.made_of = "this & that";
  if (coin()) out.cost = Cost{in(1, 100), "EUR", coin() ? Cost::Per::area : Cost::Per::mass};
  if (out.kind == Kind::fabric && coin())
    for (double shear = in(0, 5); shear < 50; shear += in(5, 20))
      out.sheared.push_back({shear, in(5e3, 20e3), in(5e3, 20e3), in(0, 0.5), in(2e3, 20e3)});
  if (out.sheared.size() == 1) out.sheared.clear();
  if (out.kind == Kind::fabric && coin()) out.yarns = Yarns{any_elastic(), any_elastic(), in(0.2, 0.8)};
  return out;
}

}  // namespace test
