// What happens to a run from outside: killed, starved, hung, flooded, begun twice, begun elsewhere.
#include "support.hpp"

#include <bordado/base/files.hpp>

#include <fmt/format.h>

#include <unistd.h>
#include <random>
#include <set>

namespace of_cli_faults {

using namespace bordado;
using test::Grid;

namespace {

bool has(const std::string& text, const std::string& part) { return text.find(part) != std::string::npos; }

/// A part with four cases, and a place to run.
struct Here {
  test::Folder folder;
  Here() {
    folder.write("grid.msh", test::msh(Grid::rectangle(6, 4, 60, 40)));
    std::string text =
        "[part]\nname = \"P\"\nunits = \"mm, t, s\"\nmesh = { file = \"grid.msh\", length = \"mm\" }\nside = { along = "
        "[0, 0, 1] }\nsurface = \"bottom\"\n" +
        test::materials() +
        "[layup]\nmaterial = \"ud\"\nframe = \"x\"\nplies = [ { id = \"A\", code = \"[0/90]s\" } ]\n[support.s]\non = "
        "\"left\"\nhold = \"clamped\"\n";
    for (const std::string name : {"a", "b", "c", "d"})
      text += fmt::format("[load.{0}]\non = \"right\"\nforce = [3, 0, -1]\n[case.{0}]\nloads = [\"{0}\"]\n", name);
    folder.write("p.toml", text);
  }
  test::Run run(const std::string& command) const { return test::run(command, folder.path()); }
  test::Run bordado(const std::string& arguments) const {
    return run(fmt::format("timeout 120 '{}' {}", test::program(), arguments));
  }
  /// A program that stands in for the solver.
  void solver(const std::string& lines) const {
    const std::string path = folder.write("solver.sh", "#!/bin/sh\n" + lines + "\n");
    std::filesystem::permissions(path, std::filesystem::perms::all);
  }
  std::set<std::string> hidden() const {
    std::set<std::string> out;
    for (const auto& entry : std::filesystem::directory_iterator(folder.path()))
      if (const std::string name = entry.path().filename().string();
          name.starts_with('.') && !std::filesystem::is_empty(entry.path()))
        out.insert(name);
    return out;
  }
  std::string text(const std::string& name) const { return read_file(folder / name); }
};

/// Shell that waits until so many folders of runs are there.
std::string until_running(std::size_t count) {
  return fmt::format(
      "n=0; while [ $(ls -d .bordado-run-*/began 2> /dev/null | wc -l) -lt {} ] && [ $n -lt 600 ]; do "
      "sleep 0.1; n=$((n+1)); done; ",
      count);
}

}  // namespace

TEST_CASE("killed at fifty times: decks are whole or not there, the next run clears up, SIGTERM leaves nothing") {
  const Here here;
  std::mt19937 random(28);
  for (int i = 0; i < 50; ++i) {
    const std::string signal = i % 2 == 0 ? "KILL" : i % 4 == 1 ? "TERM" : "INT";
    // Most of the time is the solver's; a sanitized program ends within three seconds.
    const double delay = 0.02 + 1.6 * static_cast<double>(random() % 1000) / 1000.0;
    // An interrupt is not passed to what a script runs behind '&'.
    here.run(fmt::format("timeout -s {} {:.3f} '{}' solve p.toml", signal, delay, test::program()));
    INFO(signal << " after " << delay);
    for (const std::string name : {"a", "b", "c", "d"}) {
      const std::string deck = here.folder / fmt::format("p-{}.inp", name);
      if (std::filesystem::exists(deck)) CHECK(has(read_file(deck), "*END STEP\n"));
    }
    if (signal != "KILL" && i > 0) CHECK(here.hidden().empty());
    for (const auto& entry : std::filesystem::directory_iterator(here.folder.path()))
      if (has(entry.path().filename().string(), ".part-")) {
        CHECK(signal == "KILL");  // in the very instant between two names
        std::filesystem::remove(entry.path());
      }
    if (signal == "KILL") here.bordado("solve p.toml --case a");  // clears what that left, of all cases
    if (signal == "KILL") CHECK(here.hidden().empty());
  }
  const test::Run last = here.bordado("solve p.toml");
  INFO(last.err);
  CHECK(last.status == 0);
  CHECK(here.hidden().empty());
  CHECK(here.bordado("stress p.toml").status == 0);
}

TEST_CASE("ended while cases are solved side by side: solvers end, their folders go, earlier answers stay") {
  const Here here;
  REQUIRE(here.bordado("solve p.toml").status == 0);
  const std::string before = here.text("p-a.dat");
  here.solver("touch began; for i in 1 2 3 4 5 6 7 8 9; do echo $$ > more-$i; done; sleep 300");
  for (const std::string signal : {"TERM", "INT", "HUP"}) {
    const test::Run run = here.run(fmt::format(
        "setsid '{}' solve p.toml --solver ./solver.sh --side-by-side 4 & pid=$!; {}cat .bordado-run-*/more-1 "
        "> pids; kill -{} $pid; wait $pid; for p in $(cat pids); do kill -0 $p 2> /dev/null && echo lives; "
        "done; wc -l < pids",
        test::program(), until_running(4), signal));
    INFO(signal << run.err);
    CHECK(run.out == "4\n");
    CHECK(here.hidden().empty());
    CHECK(here.text("p-a.dat") == before);
  }
}

TEST_CASE("what a killed run of four cases left, the next four clear away without being in each other's way") {
  const Here here;
  for (int i = 0; i < 4; ++i) {
    here.solver("touch began; sleep 300");
    here.run(
        fmt::format("'{}' solve p.toml --solver ./solver.sh --side-by-side 4 & pid=$!; {}kill -KILL $pid; wait $pid",
                    test::program(), until_running(4)));
    CHECK(here.hidden().size() == 4);
    const test::Run next = here.bordado("solve p.toml --side-by-side 4");
    INFO(next.err);
    CHECK(next.status == 0);
    CHECK(here.hidden().empty());
  }
}

TEST_CASE("two runs of one deck: the second is told, and changes nothing") {
  const Here here;
  here.solver("touch began; sleep 2; exec ccx \"$@\"");
  const test::Run both = here.run(fmt::format(
      "'{0}' solve p.toml --case a --solver ./solver.sh > first & {1}'{0}' solve p.toml --case a 2> second; echo $?; "
      "wait; grep -c reserve first",
      test::program(), until_running(1)));
  CHECK(both.out.starts_with("1\n"));
  CHECK(has(here.text("second"), "case a: another run works on this: process "));
  CHECK(has(here.text("second"), "[file.in-use]"));
  CHECK(!both.out.ends_with("\n0\n"));
  CHECK(here.hidden().empty());
  CHECK(here.bordado("stress p.toml --case a").status == 0);
}

TEST_CASE("what another machine began is not cleared away, what this one left is") {
  const Here here;
  const std::string folder = here.folder / ".bordado-run-p-a";
  std::filesystem::create_directory(folder);
  here.folder.write(".bordado-run-p-a/owner",
                    "written by Bordado: a run is under way\nmachine elsewhere, started 1, pid:[1]\nprocess 7\n");
  const test::Run other = here.bordado("solve p.toml --case a");
  CHECK(other.status == 1);
  CHECK(has(other.err, "another run works on this: process 7, of machine elsewhere [file.in-use]"));
  CHECK(std::filesystem::exists(folder));
  CHECK(!std::filesystem::exists(here.folder / "p-a.inp"));
  // Others of it do not care.
  CHECK(here.bordado("solve p.toml --case b").status == 0);
  CHECK(std::filesystem::exists(folder));
  std::filesystem::remove_all(folder);
  // Killed so that nothing could be cleared: by the next run, whatever it solves.
  here.solver("touch began; sleep 300");
  here.run(fmt::format("'{}' solve p.toml --case a --solver ./solver.sh & pid=$!; {}kill -KILL $pid; wait $pid",
                       test::program(), until_running(1)));
  CHECK(here.hidden() == std::set<std::string>{".bordado-run-p-a"});
  CHECK(here.bordado("solve p.toml --case b").status == 0);
  CHECK(here.hidden().empty());
}

TEST_CASE("no solver, one that hangs, one that floods: a message, and earlier answers or none") {
  const Here here;
  REQUIRE(here.bordado("solve p.toml --case a").status == 0);
  const std::string before = here.text("p-a.dat");
  const test::Run none = here.run(fmt::format("PATH=/nowhere '{}' solve p.toml --case a", test::program()));
  CHECK(none.status == 1);
  CHECK(has(none.err, "the solver 'ccx' is not installed [solve.no-solver]"));
  CHECK(here.text("p-a.dat") == before);
  here.solver("echo begun; sleep 300");
  const test::Run hung = here.bordado("solve p.toml --case a --solver ./solver.sh --idle 1");
  CHECK(hung.status == 1);
  CHECK(has(hung.err, "the solver was stopped: it had neither worked nor written anything for 1 s [solve.stopped]"));
  CHECK(has(here.text("p-a.log"), "begun\n"));
  CHECK(!std::filesystem::exists(here.folder / "p-a.dat"));  // no old answer beside a new deck
  here.solver("yes 'all is well'");
  const test::Run flooded = here.bordado("solve p.toml --case a --solver ./solver.sh");
  CHECK(flooded.status == 1);
  CHECK(has(flooded.err, "and 256 MB are the most [solve.stopped]"));
  CHECK(std::filesystem::file_size(here.folder / "p-a.log") < 1'100'000);
  CHECK(here.hidden().empty());
}

TEST_CASE("a full disk and a folder that may not be written to, while solving") {
  if (::geteuid() != 0) return;  // only root may mount
  const Here here;
  std::filesystem::create_directory(here.folder / "disk");
  for (const std::string how : {"size=60k", "size=200k", "ro"}) {
    if (here.run(fmt::format("mount -t tmpfs -o {} none disk", how)).status != 0) {
      MESSAGE("mounting is not allowed here; the full disk was not tried");
      return;
    }
    const test::Run run = here.run(
        fmt::format("'{}' solve p.toml --case a --folder disk; echo $?; ls -A disk | grep '^[.]'", test::program()));
    here.run("umount disk");
    INFO(how << run.err);
    CHECK(run.out == "1\n");
    CHECK(has(run.err, "error: "));
    CHECK(!has(run.err, "should not"));
  }
}

}  // namespace of_cli_faults
