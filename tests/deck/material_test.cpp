// Materials as solvers read them.
#include "support.hpp"

#include <bordado/base/files.hpp>
#include <bordado/deck.hpp>

#include <fmt/format.h>
#include <Eigen/LU>

#include <sstream>

namespace of_deck_material {

using namespace bordado;

namespace {

/// Stresses of a unit cube that CalculiX strains by `strain` (order 11 22 33 23 13 12), all corners moved.
material::Vector6 solved(const test::Folder& folder, const std::string& material, const std::string& name,
                         const material::Vector6& strain) {
  std::string deck = "*NODE, NSET=N\n";
  const int corner[8][3] = {{0, 0, 0}, {1, 0, 0}, {1, 1, 0}, {0, 1, 0}, {0, 0, 1}, {1, 0, 1}, {1, 1, 1}, {0, 1, 1}};
  for (int i = 0; i < 8; ++i) deck += fmt::format("{},{},{},{}\n", i + 1, corner[i][0], corner[i][1], corner[i][2]);
  deck += "*ELEMENT, TYPE=C3D8, ELSET=E\n1,1,2,3,4,5,6,7,8\n" + material;
  deck += fmt::format("*SOLID SECTION, ELSET=E, MATERIAL={}\n*STEP\n*STATIC\n*BOUNDARY\n", name);
  Eigen::Matrix3d e;
  e << strain[0], strain[5] / 2, strain[4] / 2, strain[5] / 2, strain[1], strain[3] / 2, strain[4] / 2, strain[3] / 2,
      strain[2];
  for (int i = 0; i < 8; ++i) {
    const Vec3 u = e * Vec3(corner[i][0], corner[i][1], corner[i][2]);
    for (int k = 0; k < 3; ++k) deck += fmt::format("{},{},{},{}\n", i + 1, k + 1, k + 1, u[k]);
  }
  deck += "*EL PRINT, ELSET=E\nS\n*END STEP\n";
  folder.write("cube.inp", deck);
  const test::Run run = test::run("ccx cube", folder.path());
  INFO(run.out);
  REQUIRE(run.status == 0);
  std::istringstream dat(read_file(folder / "cube.dat"));
  for (std::string line; std::getline(dat, line);) {
    std::istringstream words(line);
    int element = 0, point = 0;
    double s[6];
    if (words >> element >> point >> s[0] >> s[1] >> s[2] >> s[3] >> s[4] >> s[5]) {
      material::Vector6 out;
      out << s[0], s[1], s[2], s[5], s[4], s[3];  // printed xx yy zz xy xz yz
      return out;
    }
  }
  FAIL("no stresses");
  return {};
}

}  // namespace

TEST_CASE("the solver feels nine constants and 21 as we do") {
  REQUIRE(test::have("ccx"));
  std::mt19937 engine(3);
  for (const material::Kind kind : {material::Kind::orthotropic, material::Kind::anisotropic}) {
    material::Material m;
    do m = test::random_material(engine, "odd one");
    while (m.kind != kind);
    m.thermal = {};
    const test::Folder folder;
    material::Vector6 strain;
    strain << 1e-3, -2e-3, 5e-4, 7e-4, -3e-4, 1.1e-3;
    const material::Vector6 ours = material::stiffness(m.elastic) * strain;
    const material::Vector6 theirs =
        solved(folder, deck::material_text(m, UnitSystem(), "calculix", 1), "ODD_ONE", strain);
    INFO("ours " << ours.transpose() << "\ntheirs " << theirs.transpose());
    CHECK((ours - theirs).norm() < 1e-5 * ours.norm());
  }
}

TEST_CASE("cards of a material: comment, constants, expansion, density") {
  material::Material m;
  m.name = "carbon ud";
  m.elastic = test::carbon();
  m.density = 1.55e-9;
  m.thermal = {0.2e-6, 30e-6, {}};
  m.stress_free_temperature = 120;
  m.made_of = "fibre in resin";
  const std::vector<std::string> remarks = {"a remark"};
  const std::string ccx = deck::material_text(m, UnitSystem(), "calculix", 1, remarks);
  CHECK(
      ccx.find("** material carbon ud: unidirectional\n** units: mm, t, s (stress MPa, density t/mm^3), temperature in "
               "degC\n** made of: fibre in resin\n** a remark\n*MATERIAL, NAME=CARBON_UD\n*ELASTIC, TYPE=ENGINEERING "
               "CONSTANTS\n") == 0);
  CHECK(ccx.find("*EXPANSION, TYPE=ORTHO, ZERO=120.\n2.e-7,3.e-5,3.e-5\n*DENSITY\n1.55e-9\n") != std::string::npos);
  const std::string bulk = deck::material_text(m, UnitSystem(), "bulk-data", 7);
  CHECK(bulk.find("\nMAT8*   7 ") != std::string::npos);
  CHECK(bulk.find("\nMAT9*   8 ") != std::string::npos);
  for (const std::string& line : {ccx, bulk}) CHECK(line.back() == '\n');
  CHECK(test::failure([&] { deck::material_text(m, UnitSystem(), "paper", 1); }) ==
        "error: there is no deck format 'paper' [deck.format-unknown]\n    formats: calculix, bulk-data");
}

TEST_CASE("21 constants whose axes are an orthotropic material's keep their shear moduli on a card of bulk data") {
  // Sheared cloth of equal yarns is such a one, along its longer diagonal.
  material::Material m;
  m.name = "cloth";
  m.elastic = test::carbon();
  m.density = 1.55e-9;
  const auto fields = [](const std::string& text) {
    const auto at = text.find("\nMAT8*");
    REQUIRE(at != std::string::npos);
    std::vector<double> out;
    for (std::size_t line = at + 1, k = 0; k < 2; ++k, line = text.find('\n', line) + 1)
      for (std::size_t f = 0; f < 4; ++f)
        out.push_back(std::strtod(text.substr(line + 8 + 16 * f, 16).c_str(), nullptr));
    return out;
  };
  const std::vector<double> plain = fields(deck::material_text(m, UnitSystem(), "bulk-data", 7));
  m.elastic.full = material::stiffness(test::carbon());
  const std::vector<double> full = fields(deck::material_text(m, UnitSystem(), "bulk-data", 7));
  for (std::size_t k = 0; k < 8; ++k) CHECK(test::near(full[k], plain[k], 1e-9));
  CHECK(full[5] > 0.0);  // G13
  CHECK(full[6] > 0.0);  // G23
  (*m.elastic.full)(0, 5) = (*m.elastic.full)(5, 0) = 2000.0;
  CHECK(deck::material_text(m, UnitSystem(), "bulk-data", 7).find("\nMAT2*") != std::string::npos);
}

TEST_CASE("a material is added to a file, but not twice") {
  const test::Folder folder;
  material::Material m;
  m.name = "a";
  m.elastic = test::carbon();
  for (const std::string format : {"calculix", "bulk-data"}) {
    const std::string path = folder.write("mats." + format, "** mine\n");
    deck::write_material(path, m, UnitSystem(), format, 5, {}, Existing::added_to);
    const std::string once = read_file(path);
    CHECK(once.find("** mine\n") == 0);
    CHECK(test::failure([&] {
            deck::write_material(path, m, UnitSystem(), format, 5, {}, Existing::added_to);
          }).find("[deck.material-taken]") != std::string::npos);
    CHECK(read_file(path) == once);
    m.name = "b";
    deck::write_material(path, m, UnitSystem(), format, 7, {}, Existing::added_to);
    CHECK(read_file(path).size() > 1.8 * static_cast<double>(once.size() - 8));
    deck::write_material(path, m, UnitSystem(), format, 7, {}, Existing::replaced);
    CHECK(read_file(path).find("mine") == std::string::npos);
    m.name = "a";
  }
}

}  // namespace of_deck_material
