// Readers of what comes back or goes on, from files, under libFuzzer: answers of the solver, tables of sections, fields, decks
// that a laminate is put into. Any bytes give an answer or a Failure, never a crash.
#include <bordado/calculix.hpp>
#include <bordado/deck/into.hpp>
#include <bordado/design.hpp>
#include <bordado/mesh/io.hpp>
#include <bordado/recovery.hpp>

#include <fmt/format.h>

#include <unistd.h>
#include <cstdint>
#include <cstdlib>
#include <filesystem>
#include <fstream>

namespace {

using namespace bordado;

/// In memory, gone with the process.
struct Folder {
  std::string path = fmt::format("/dev/shm/bordado-fuzz-{}", ::getpid());
  Folder() { std::filesystem::create_directories(path); }
  ~Folder() { std::filesystem::remove_all(path); }
  std::string write(const std::string& name, std::string_view bytes) const {
    const std::string out = path + "/" + name;
    std::ofstream(out, std::ios::binary).write(bytes.data(), static_cast<std::streamsize>(bytes.size()));
    return out;
  }
};

const Folder& folder() {
  static const Folder folder;
  return folder;
}

/// A plate of two elements as a deck and as a part.
constexpr std::string_view deck =
    "*NODE\n1, 0, 0, 0\n2, 1, 0, 0\n3, 2, 0, 0\n4, 0, 1, 0\n5, 1, 1, 0\n6, 2, 1, 0\n*ELEMENT, TYPE=S4, ELSET=plate\n1, "
    "1, "
    "2, 5, 4\n2, 2, 3, 6, 5\n";
const Design& design() {
  static const Design design = [] {
    folder().write("plate.inp", deck);
    Findings findings;
    return open(
        folder().write("p.toml",
                       "[part]\nname = \"P\"\nunits = \"mm, t, s\"\nmesh = { file = \"plate.inp\", length = \"mm\" "
                       "}\nside = { along = [0, 0, 1] }\nsurface = \"bottom\"\n[frame.x]\nvector = [1, 0, "
                       "0]\n[layup]\nmaterial = \"carbon-ud\"\nframe = \"x\"\nplies = [ { id = \"A\", code = "
                       "\"[0/90]s\" } ]\n[support.s]\npoint = [0, 0, 0]\nhold = \"clamped\"\n[load.l]\npoint = [2, "
                       "1, 0]\nforce = [0, 0, 1]\n"),
        findings);
  }();
  return design;
}

void answer(std::string_view bytes) {
  const std::string path = folder().write("p.dat", bytes);
  calculix::marks_in(path);
  calculix::read_answer(path, {.strains = [](std::int64_t, std::span<const double>) {}});
}

void shape(std::string_view bytes) { calculix::check_whole_frd(folder().write("p.frd", bytes)); }

void sections(std::string_view bytes) {
  result::read_sections(design(), folder().write(bytes.starts_with('<') ? "s.vtu" : "s.csv", bytes));
}

void field(std::string_view bytes) {
  Findings findings;
  mesh::read_sampled(folder().write("f.vtu", bytes), {}, findings);
}

void into(std::string_view bytes) {
  Findings findings;
  const std::string existing = folder().write("e.inp", bytes);
  static const model::Model model = [] {
    Findings none;
    return assemble(design(), {.quadratic = false, .laminate_only = true}, none);
  }();
  for (const deck::Format& format : deck::formats())
    deck::write_into(format, model, existing, folder().path + "/out.inp", {}, findings);
}

}  // namespace

#include "entry.hpp"
