// Drawings: what a reader of PDF finds in them, and what becomes of bad names.
#include "support.hpp"

#include <bordado/base/files.hpp>
#include <bordado/design.hpp>
#include <bordado/drawing.hpp>
#include <bordado/review/book.hpp>
#include <bordado/review/drapes.hpp>
#include <bordado/review/profile.hpp>

#include <fmt/format.h>
#include <pugixml.hpp>

#include <cmath>

namespace of_drawing_sheets {

using namespace bordado;

namespace {

bool has(const std::string& text, const std::string& part) { return text.find(part) != std::string::npos; }

std::string pdf_text(const std::string& path) {
  REQUIRE(test::have("pdftotext"));
  const test::Run run = test::run("pdftotext -layout '" + path + "' -");
  INFO(run.err);
  REQUIRE(run.status == 0);
  return run.out;
}

Design rudder() {
  Findings findings;
  return open(test::source("examples/rudder/rudder.toml"), findings);
}

}  // namespace

TEST_CASE("the drawing of a stack says every layer from the top down, and A, B and D") {
  const Design d = rudder();
  const auto e = static_cast<mesh::ElementIndex>(d.surface.element_count() / 2);
  const drawing::StackDrawing stack = drawing::stack_at(d, e);
  const auto plies = d.layup.plies_of(d.layup.stack_of[e]);
  REQUIRE(stack.layers.size() == plies.size());
  const test::Folder folder;
  drawing::draw(stack, d.part.units, folder / "s.pdf");
  const std::string text = pdf_text(folder / "s.pdf");
  CHECK(has(text, fmt::format("Rudder blade, element {}", d.surface.element_ids[e])));
  CHECK(has(text, layup::code(d.part, d.layup, d.layup.stack_of[e])));
  std::size_t at = text.size();
  for (std::size_t i = 0; i < plies.size(); ++i) {  // first laid: lowest on the sheet
    CHECK(stack.plies[i] == d.part.plies[plies[i]].id);
    const std::size_t found = text.rfind(fmt::format(" {} ", stack.plies[i]), at);
    CHECK_MESSAGE(found != std::string::npos, stack.plies[i]);
    at = std::min(at, found);
  }
  const laminate::Stiffness k = laminate::stiffness(stack.layers, stack.z0);
  CHECK(has(text, fmt::format("{:.0f}", k.A(0, 0))));
  CHECK(has(text, "pulled along x, it "));
  CHECK(has(text, "Stiffness against direction, MPa"));
}

TEST_CASE("a drawing as SVG is well-formed and gives the same bytes twice; as PDF, too") {
  const Design d = rudder();
  const test::Folder folder;
  for (const std::string ending : {"svg", "pdf"}) {
    for (const std::string name : {"a.", "b."}) {
      drawing::draw(drawing::stack_at(d, 100), d.part.units, folder / (name + ending));
      drawing::draw_flat(d, folder / ("flat-" + name + ending));
    }
    CHECK(read_file(folder / ("a." + ending)) == read_file(folder / ("b." + ending)));
    CHECK(read_file(folder / ("flat-a." + ending)) == read_file(folder / ("flat-b." + ending)));
  }
  pugi::xml_document svg;
  REQUIRE(svg.load_file((folder / "a.svg").c_str()));
  CHECK(std::string(svg.child("svg").attribute("viewBox").value()) == "0 0 842 595");
}

TEST_CASE("layers of a hundred plies, one thick core and one ply alone can be drawn") {
  const test::Folder folder;
  const material::Elastic carbon = test::carbon();
  for (const std::size_t count : {1u, 3u, 100u}) {
    drawing::StackDrawing stack;
    stack.title = "T";
    for (std::size_t i = 0; i < count; ++i) {
      stack.layers.push_back(
          {carbon, count == 3 && i == 1 ? 40.0 : 0.1, Angle::degrees(static_cast<double>(i) * 45.0), {}});
      stack.materials.push_back(fmt::format("m{}m", i));
      stack.cores.push_back(count == 3 && i == 1);
    }
    drawing::draw(stack, UnitSystem(), folder / "t.pdf");
    const std::string text = pdf_text(folder / "t.pdf");
    for (std::size_t i = 0; i < count; ++i) CHECK_MESSAGE(has(text, fmt::format("m{}m", i)), "layer ", i);
  }
}

TEST_CASE("flat plies: every ply that lies somewhere, its rectangle, on one round scale") {
  const Design d = rudder();
  const test::Folder folder;
  drawing::draw_flat(d, folder / "flat.pdf");
  const std::string text = pdf_text(folder / "flat.pdf");
  for (const review::PlyEntry& entry : review::ply_book(d).plies) {
    if (entry.elements == 0) continue;
    const part::Ply& ply = d.part.plies[entry.ply];
    CHECK_MESSAGE(
        has(text, fmt::format("{:g}° in frame {}, zone {}", ply.angle.degrees(), ply.frame.value, ply.zone.value)),
        ply.id);
    CHECK_MESSAGE(has(text, fmt::format("{:.4g} mm", entry.along)), ply.id);
  }
  CHECK(has(text, "scale 1 : 5"));  // a blade of 900 mm on a sheet of 250 mm
}

TEST_CASE("a drawing needs a name that says what it is, and leaves nothing behind where it cannot be made") {
  const Design d = rudder();
  const test::Folder folder;
  CHECK(test::failure([&] { drawing::draw(drawing::stack_at(d, 0), d.part.units, folder / "s.png"); }) ==
        fmt::format("{0}: error: the name of drawing '{0}' ends neither in .svg nor in .pdf [drawing.ending-unknown]\n"
                    "    end it in .svg or .pdf",
                    folder / "s.png"));
  CHECK(has(test::failure([&] { drawing::draw_flat(d, folder / "none/s.pdf"); }), "[file.not-writable]"));
  CHECK(folder.file_count() == 0);
}

TEST_CASE("a ply beyond 90 degrees of the reference keeps its direction in the stack of a place") {
  const test::Folder folder;
  folder.write("grid.msh", test::msh(test::Grid::rectangle(2, 2, 2, 2)));
  Findings findings;
  const Design design =
      open(folder.write("p.toml",
                        "[part]\nname = \"P\"\nunits = \"mm, t, s\"\nmesh = { file = \"grid.msh\", length = \"mm\" "
                        "}\nside = { along = [0, 0, 1] }\nsurface = \"bottom\"\n" +
                            test::materials() +
                            "[layup]\nmaterial = \"ud\"\nframe = \"x\"\nplies = [ { id = \"A\", angle = 0 }, { id = "
                            "\"B\", angle = 135 }, { id = \"C\", angle = -100 } ]\n"),
           findings);
  const drawing::StackDrawing stack = drawing::stack_at(design, 0);
  CHECK(test::near(stack.layers[1].angle.degrees(), 135, 1e-9));
  CHECK(test::near(stack.layers[2].angle.degrees(), -100, 1e-9));
}

}  // namespace of_drawing_sheets
