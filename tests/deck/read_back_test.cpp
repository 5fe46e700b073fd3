// A deck's text is read back at every run: here it is spoiled, one number at a time, and each spoiled text is refused.
#include "../../src/bulk_data/read_back.hpp"
#include "../../src/bulk_data/writers.hpp"
#include "../../src/calculix/materials.hpp"
#include "../../src/calculix/read_back.hpp"
#include "support.hpp"

#include <bordado/base/files.hpp>
#include <bordado/deck.hpp>
#include <bordado/deck/read_back.hpp>
#include <bordado/design.hpp>
#include <bordado/model.hpp>

#include <fmt/format.h>

namespace of_deck_read_back {

using namespace bordado;
using test::Grid;

namespace {

bool has(const std::string& text, const std::string& part) { return text.find(part) != std::string::npos; }

struct Written {
  Design design;
  std::string text;
};

/// A plate of one section, its bottom on the mesh, whose fibres run along its sides.
Written plate(const std::string& plies, const std::string& format) {
  const test::Folder folder;
  folder.write("grid.msh", test::msh(Grid::rectangle(2, 2, 10, 10)));
  Findings findings;
  Written out{
      open(folder.write("p.toml",
                        fmt::format("[part]\nname = \"P\"\nunits = \"mm, t, s\"\nmesh = {{ file = \"grid.msh\", length "
                                    "= \"mm\" }}\nside = {{ along = [0, 0, 1] }}\nsurface = \"bottom\"\n{}"
                                    "[material.warm]\nfrom = \"ud\"\nalpha1 = -1e-6\nalpha2 = 3e-5\nalpha3 = 3e-5\n"
                                    "[layup]\nmaterial = \"warm\"\nframe = \"x\"\nplies = [ {} ]\n",
                                    test::materials(), plies)),
           findings),
      {}};
  deck::WriteOptions options;
  options.layers = deck::LayersAs::plies;
  write_deck(out.design, format, folder / "deck", options, findings);
  out.text = read_file(folder / "deck");
  return out;
}

/// The text from a line that starts so to the next that starts so, or to the end of what goes on.
std::string from(const std::string& text, const std::string& start, const std::string& end) {
  const auto at = text.find("\n" + start) + 1;
  REQUIRE(at != 0);
  const auto stop = text.find("\n" + end, at);
  return text.substr(at, stop == std::string::npos ? stop : stop + 1 - at);
}

std::string with(std::string text, const std::string& was, const std::string& is) {
  const auto at = text.find(was);
  REQUIRE_MESSAGE(at != std::string::npos, was);
  return text.replace(at, was.size(), is);
}

/// What is said of a text; "" where it is as the layup.
template <class Read>
std::string said(const Written& of, const Read& read) {
  Findings findings;
  model::AssembleOptions options;
  const model::Model model = assemble(of.design, options, findings);
  try {
    deck::compare_read(model, section::SectionId{0}, read(), {.shear = false, .expansion = true, .added = 0.0}, 1e-6);
  } catch (const Failure& failure) {
    CHECK(failure.findings().front().code == "deck.read-back");
    return failure.findings().front().what;
  }
  return "";
}

}  // namespace

TEST_CASE("a CalculiX deck that says another laminate is refused") {
  const Written of = plate(R"({ id = "A", angle = 30 }, { id = "B", angle = 90, thickness = 0.5 })", "calculix");
  const auto read = [&](const std::string& text) {
    return said(of, [&] {
      calculix::TextRead reader;
      reader.take(text);
      return reader.section(from(text, "*SHELL SECTION, COMPOSITE", "*"), Vec3::UnitX(), Vec3::UnitZ());
    });
  };
  CHECK(read(of.text) == "");
  CHECK(has(read(with(of.text, "OFFSET=-0.5", "OFFSET=0.5")), "a B"));
  CHECK(has(read(with(of.text, "OFFSET=-0.5", "OFFSET=-0.49")), "a B"));
  CHECK(has(read(with(of.text, "0.25,,M", "0.2501,,M")), "an A"));
  CHECK(has(read(with(of.text, "0.866025403784,0.5,0.", "0.866025403784,-0.5,0.")), "an A"));
  CHECK(has(read(with(of.text, "135000", "135001")), "an A"));
  CHECK(has(read(with(of.text, "*DENSITY\n1.55e-9", "*DENSITY\n1.56e-9")), "a mass"));
  CHECK(has(read(with(of.text, "-1.e-6", "1.e-6")), "a thermal force"));
  // Layers the other way round: the same A.
  const std::string card = from(of.text, "*SHELL SECTION, COMPOSITE", "*");
  const auto head = card.find('\n') + 1, second = card.find('\n', head) + 1;
  CHECK(has(read(with(of.text, card, card.substr(0, head) + card.substr(second) + card.substr(head, second - head))),
            "a B"));
}

TEST_CASE("a bulk data deck that says another laminate is refused") {
  const Written of = plate(R"({ id = "A", angle = 30 }, { id = "B", angle = 90, thickness = 0.5 })", "bulk-data");
  const auto read = [&](const std::string& text) {
    return said(of, [&] {
      bulk_data::CardsRead reader;
      reader.take(text);
      return reader.section(from(text, "PCOMP", "$"));
    });
  };
  CHECK(read(of.text) == "");
  CHECK(has(read(with(of.text, "\nPCOMP*  1               0.", "\nPCOMP*  1               0.01")), "a B"));
  CHECK(has(read(with(of.text, "0.25            30.", "0.2501          30.")), "an A"));
  CHECK(has(read(with(of.text, "0.25            30.", "0.25            -30.")), "an A"));
  CHECK(has(read(with(of.text, "135000.", "135001.")), "an A"));
  CHECK(has(read(with(of.text, "1.55e-9", "1.56e-9")), "a mass"));
  CHECK(has(read(with(of.text, "-1.e-6", "1.e-6 ")), "a thermal force"));
  CHECK(has(read(with(of.text, "MAT8*   3 ", "MAT8*   4 ")), "material '3'"));
}

TEST_CASE("materials of solids are read back, constant by constant") {
  const Written plain = plate("{ id = \"A\", angle = 0 }", "bulk-data");
  Findings findings;
  const model::Model model = assemble(plain.design, {}, findings);
  material::Material m;
  m.name = "ply";
  m.elastic = test::carbon();
  m.density = 1.55e-9;
  m.thermal = {-0.3e-6, 30e-6, 28e-6};
  m.thermal.shear = 2e-6;
  calculix::TextRead ccx;
  ccx.take(calculix::material_text("PLY", m, calculix::MaterialUse::solid));
  const std::string bulk = bulk_data::solid_material(3, m);
  const auto refused = [&](const material::Material& wanted) {
    const std::string a = test::failure([&] { deck::compare_read(model, wanted, ccx.material("PLY"), 1e-6); }),
                      b = test::failure([&] { deck::compare_read(model, wanted, bulk_data::solid_read(bulk), 1e-6); });
    CHECK(a.empty() == b.empty());
    return has(a, "[deck.read-back]") && has(b, "[deck.read-back]");
  };
  CHECK(!refused(m));
  using E = material::Elastic;
  for (double E::*const constant : {&E::E1, &E::E2, &E::E3, &E::nu12, &E::nu13, &E::nu23, &E::G12, &E::G13, &E::G23}) {
    material::Material other = m;
    other.elastic.*constant *= 1.001;
    CHECK(refused(other));
  }
  material::Material other = m;
  *other.density *= 1.001;
  CHECK(refused(other));
  for (const auto& thermal : {material::Material{}.thermal, m.thermal}) {
    other = m;
    other.thermal = thermal;
    other.thermal.shear = -2e-6;
    CHECK(refused(other));
  }
}

}  // namespace of_deck_read_back
