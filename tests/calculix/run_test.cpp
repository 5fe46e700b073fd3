// Running a solver and believing it: the real one once, then programs that pretend to be one and answer wrongly.
#include "cases.hpp"
#include "support.hpp"

#include <bordado/base/files.hpp>

#include <fmt/format.h>

#include <fstream>
#include <thread>

namespace of_calculix_run {

using namespace bordado;
using test::Grid;

namespace {

bool has(const std::string& text, const std::string& part) { return text.find(part) != std::string::npos; }

const std::string part_text =
    "[part]\nname = \"P\"\nunits = \"mm, t, s\"\nmesh = { file = \"grid.msh\", length = \"mm\" }\nside = { along = [0, "
    "0, 1] }\nsurface = \"bottom\"\n" +
    test::materials() +
    "[layup]\nmaterial = \"ud\"\nframe = \"x\"\nplies = [ { id = \"A\", code = \"[0/90]s\" } ]\n[support.s]\non = "
    "\"left\"\nhold = \"clamped\"\n";
const std::string pressed = "[load.p]\non = \"plate\"\npressure = \"1 kPa\"\nface = \"bag\"\n";
const std::string pulled = "[load.p]\non = \"right\"\nforce = [3, 0, -1]\n";

/// A part in a folder, solved once: what a fake has to spoil.
struct Case {
  test::Folder folder;
  Design design;
  Findings findings;
  explicit Case(const std::string& load = pressed) {
    folder.write("grid.msh", test::msh(Grid::rectangle(6, 4, 60, 40)));
    design = open(folder.write("p.toml", part_text + load), findings);
    solve_with("ccx");
    for (const std::string ending : {"dat", "log", "frd"})
      std::filesystem::copy_file(folder / ("p." + ending), folder / ("good." + ending));
  }
  calculix::Solved solve_with(const std::string& solver, const std::string& deck = "p.inp") {
    return solve(design, folder / deck, {.run = {.solver = solver}}, findings);
  }
  /// A program that answers as the real one did, changed by these lines of shell; $G is the folder of the good answer.
  std::string fake(const std::string& lines) {
    const std::string path = folder.write(
        "fake.sh",
        fmt::format("#!/bin/sh\nG='{}'\ncp $G/good.dat job.dat; cp $G/good.frd job.frd\n{}\ncat $G/good.log\n",
                    folder.path(), lines));
    std::filesystem::permissions(path, std::filesystem::perms::all);
    return path;
  }
  std::string refused(const std::string& lines) {
    const std::string solver = fake(lines);
    return test::failure([&] { solve_with(solver); });
  }
};

std::string text_of(const std::string& path) {
  std::ifstream in(path);
  return {std::istreambuf_iterator<char>(in), {}};
}

}  // namespace

TEST_CASE("of thirty-six solvers that answer wrongly none is believed") {
  Case part;
  CHECK(test::failure([&] { part.solve_with(part.fake("")); }).empty());  // the good answer passes
  const std::pair<std::string, std::string> fakes[] = {
      {"cat $G/good.log; exit 3", "the solver ended with status 3 [solve.failed]"},
      {"kill -SEGV $$", "the solver ended with status 139 [solve.failed]"},
      {"echo ' *ERROR in gen3dnor: increase nk_'", "*ERROR in gen3dnor: increase nk_"},
      {"echo hello; exit 0", "stopped without saying that the job finished [solve.failed]"},
      {"head -c -300 $G/good.frd > job.frd", "the answer stops before its last line [result.cut]"},
      {"rm job.frd", "the answer stops before its last line [result.cut]"},
      {"rm job.dat", "the solver ended well but wrote no answer [result.empty]"},
      {": > job.dat", "the solver wrote no displacements [result.empty]"},
      {"head -c 400 $G/good.dat > job.dat", "[result."},
      {"head -c 2000 $G/good.dat > job.dat", "[result."},
      {"head -n 40 $G/good.dat > job.dat", "the answer has displacements of 37 nodes; the deck has 93 [result.cut]"},
      {"head -n -1 $G/good.dat > job.dat", "lines of stress and"},
      {"sed '/strains (elem/,$d' $G/good.dat > job.dat", "0 of strain in plies"},
      {"sed '/internal energy/,$d' $G/good.dat > job.dat", "[result.cut]"},
      {"sed '10s/[-0-9.E+]*$/NaN/' $G/good.dat > job.dat", "is not a number [result.not-finite]"},
      {"sed '10s/[-0-9.E+]*$/inf/' $G/good.dat > job.dat", "is not a number [result.not-finite]"},
      {"sed '10s/[-0-9.E+]*$/**********/' $G/good.dat > job.dat", "stands where 4 numbers should [result.unreadable]"},
      {"sed '/total force.*FREE/{n;n;s/[-0-9.E+]*$/NaN/}' $G/good.dat > job.dat",
       "the force on the nodes of FREE is not a number [result.not-finite]"},
      {"sed '/total force.*FREE/{n;n;d}' $G/good.dat > job.dat", "totals of force on the nodes of FREE"},
      {"awk '/total force.*FREE/{f=NR} f&&NR==f+2{print 2*$1+5,2*$2,2*$3+5;next}{print}' $G/good.dat > job.dat",
       "[solve.unbalanced]"},
      {"sed '5d' $G/good.dat > job.dat", "displacements of 92 nodes; the deck has 93 [result.cut]"},
      {"sed '5s/^ *[0-9]*/  7777/' $G/good.dat > job.dat", "a displacement of node"},
      {"cat $G/good.dat $G/good.dat > job.dat", "the answer has 2 steps, not one [result.cut]"},
      {"sed '/internal energy/{n;n;s/[-0-9.E+]*$/NaN/}' $G/good.dat > job.dat",
       "the strain energy is not a number [result.not-finite]"},
      {"sed '/internal energy/{n;n;d}' $G/good.dat > job.dat", "the answer has no strain energy [result.cut]"},
      {"sed '/internal energy/{n;n;s/[-0-9.E+]*$/7/}' $G/good.dat > job.dat", "[result.energy]"},
      {"awk '/displacements/{d=1} /total force/{d=0} d&&NF==4{print $1,0,0,0;next}{print}' $G/good.dat > job.dat",
       "[solve.no-deflection]"},
      // Points that stand for others, lines that stand twice while their number is right.
      {"awk '/strains \\(elem/{s=1} s&&NF==8&&++n==1{$0=substr($0,1,10) \"   4\" substr($0,15)}{print}' $G/good.dat > "
       "job.dat",
       "says it is at point 4, where 1 should stand [result.cut]"},
      {"awk '/strains \\(elem/{s=1} s&&NF==8&&++n==3{print last;next}{last=$0;print}' $G/good.dat > job.dat",
       "says it is at point 2, where 3 should stand [result.cut]"},
      {"awk '/strains \\(elem/{s=1} {print} s&&NF==8&&++n==2{print}' $G/good.dat > job.dat",
       "says it is at point 2, where 3 should stand [result.cut]"},
      {"awk '/^ forces/{f=1} f&&NF==4&&++n==2{print last;next}{last=$0;print}' $G/good.dat > job.dat",
       "the answer has the force on node 1 twice [result.cut]"},
      {"awk '/internal energy .element/{f=1} f&&NF==2&&++n==2{print last;next}{last=$0;print}' $G/good.dat > job.dat",
       " twice [result.cut]"},
      {"awk '/displacements/{f=1} f&&NF==4&&++n==2{print last;next}{last=$0;print}' $G/good.dat > job.dat",
       "a displacement of node 1 where node 2 should stand [result.cut]"},
      // What a solver writes that gave up on the way.
      {"sed 's/time  0.1000000E+01/time  0.6250000E+00/' $G/good.dat > job.dat",
       "the answer is that of time 0.625, at which no step ends [result.cut]"},
      {"sed '/strains (elem/s/time .*/time  0.5000000E+00/' $G/good.dat > job.dat",
       "a table is of time 0.5 where the displacements are of time 1 [result.cut]"},
      {"sed '/strains (elem/s/and time .*/and time/' $G/good.dat > job.dat", " tells no time [result.unreadable]"},
  };
  for (const auto& [lines, wanted] : fakes) {
    const std::string said = part.refused(lines);
    INFO(lines << ": " << said);
    CHECK(said.find(wanted) != std::string::npos);
  }
}

TEST_CASE("forces beside the middle of the laminate: their work is held against the strain energy") {
  // The solver's sums of forces go wrong at these nodes, so reactions cannot tell.
  Case part(pulled);
  const calculix::Solved good = part.solve_with("ccx");
  CHECK(good.work > 0.0);
  CHECK(test::near(good.work, good.strain_energy, 1e-3));
  for (const std::string lines : {"awk '/displacements/{d=1} /total force/{d=0} d&&NF==4{print "
                                  "$1,2*$2,2*$3,2*$4;next}{print}' $G/good.dat > job.dat",
                                  "awk '/displacements/{d=1} /total force/{d=0} d&&NF==4{print "
                                  "$1,$2,$3,1.03*$4;next}{print}' $G/good.dat > job.dat"})
    CHECK(part.refused(lines).find("they should be equal [solve.unbalanced]") != std::string::npos);
  // And the energy of the strains against it, too: the solver's altered, strains halved, doubled and nought.
  CHECK(has(part.refused("sed '/internal energy/{n;n;s/[-0-9.E+]*$/1e-9/}' $G/good.dat > job.dat"), "[result.energy]"));
  for (const std::string by : {"0.5", "2", "0"})
    CHECK(
        has(part.refused("awk '/strains \\(elem/{s=1} /energy/{s=0} s&&NF==8{print $1,$2," + by + "*$3," + by + "*$4," +
                         by + "*$5," + by + "*$6," + by + "*$7," + by + "*$8;next}{print}' $G/good.dat > job.dat"),
            "[result.energy]"));
}

TEST_CASE("an answer of which one element's strains were changed is refused") {
  Case part(pulled);
  CHECK(part.solve_with("ccx").strain_energy > 0.0);
  // The first element alone; what all hold together moves by less than the bound on that.
  for (const std::string by : {"0.7", "1.4", "-0.5", "0"}) {
    const std::string said = part.refused(
        "awk '/strains \\(elem/{s=1} /energy/{s=0} s&&NF==8&&!i{i=$1} s&&NF==8&&$1==i{print $1,$2," + by + "*$3," + by +
        "*$4," + by + "*$5," + by + "*$6," + by + "*$7," + by + "*$8;next}{print}' $G/good.dat > job.dat");
    INFO(by << ": " << said);
    CHECK(has(said, "[result.energy]"));
  }
  // One energy less than there are elements.
  CHECK(has(
      part.refused("awk '/energy \\(element|internal energy \\(elem/{e=3} e>0&&NF==2{e=0;next}{print}' $G/good.dat > "
                   "job.dat"),
      "[result.cut]"));
}

TEST_CASE("a force on a corner of a sandwich, whose column turns otherwise than the surface, is believed") {
  // With the turn of the surface's normal instead, its work was 1.056 beside an energy of 0.722, and it was refused.
  for (const std::string surface : {"bottom", "middle", "top"})
    for (const deck::LayersAs layers : {deck::LayersAs::plies, deck::LayersAs::equivalents}) {
      INFO(surface);
      const test::Folder folder;
      const test::Cases solved = test::solve_cases(folder,
                                                   test::case_part("[0/90/0{foam}/90/0]", R"(
[support.left]
on = "left"
hold = "clamped"
[load.rope]
point = [200, 200, 0]
force = [10, 20, 5]
)",
                                                                   "", surface),
                                                   test::Grid::rectangle(8, 8, 200, 200), {.layers = layers});
      CHECK(test::near(solved.all[0].work, solved.all[0].strain_energy, 2e-3));
    }
}

TEST_CASE("answers of an earlier run stay until a solver has ended, and go then") {
  Case part;
  const std::string before = text_of(part.folder / "p.dat");
  CHECK(test::failure([&] {
          part.solve_with("no-such-solver");
        }).find("the solver 'no-such-solver' is not installed [solve.no-solver]") != std::string::npos);
  CHECK(text_of(part.folder / "p.dat") == before);
  part.refused("rm job.dat");
  CHECK(!std::filesystem::exists(part.folder / "p.dat"));  // no old answer beside a new deck
  CHECK(std::filesystem::exists(part.folder / "p.log"));
}

TEST_CASE("files of others are not taken for answers") {
  Case part;
  part.folder.write("other.log", "notes of somebody else\n");
  CHECK(test::failure([&] {
          part.solve_with("ccx", "other.inp");
        }).find("is no answer of this solver [file.not-ours]") != std::string::npos);
  CHECK(text_of(part.folder / "other.log") == "notes of somebody else\n");
}

TEST_CASE("files of others go where that was said") {
  Case part;
  part.folder.write("other.log", "notes of somebody else\n");
  Findings findings;
  solve(part.design, part.folder / "other.inp", {.run = {.may_replace = MayReplace::the_one_named}}, findings);
  CHECK(text_of(part.folder / "other.log") != "notes of somebody else\n");
  // A folder is no file that could go.
  std::filesystem::create_directory(part.folder / "third.frd");
  CHECK(has(test::failure([&] {
              solve(part.design, part.folder / "third.inp", {.run = {.may_replace = MayReplace::the_one_named}},
                    findings);
            }),
            "[file.not-ours]"));
}

TEST_CASE("a solver that writes without end, or prints, or hangs, is stopped at its bound, and says which") {
  Case part;
  const auto stopped = [&](const std::string& lines, const calculix::RunOptions& bounds) {
    calculix::RunOptions options = bounds;
    options.solver = part.fake(lines);
    return test::failure([&] { solve(part.design, part.folder / "p.inp", {.run = options}, part.findings); });
  };
  CHECK(has(stopped("while :; do cat $G/good.dat >> job.dat; done", {.most_answers = 3'000'000}),
            "MB, and 3 MB are the most for this deck [solve.stopped]"));
  CHECK(has(stopped("while :; do echo a line of which there are many, many; done", {.most_log = 2'000'000}),
            "and 2 MB are the most [solve.stopped]"));
  CHECK(has(text_of(part.folder / "p.log"), "** cut here by Bordado"));
  CHECK(has(stopped("sleep 100", {.longest_idle = 0.5}),
            "neither worked nor written anything for 0.5 s [solve.stopped]"));
  // One that works is not idle, whether it writes or not.
  CHECK(stopped("n=0; while [ $n -lt 300000 ]; do n=$((n+1)); done", {.longest_idle = 0.3}).empty());
}

TEST_CASE("a name with blanks is that of one job, and nothing else is touched") {
  Case part;
  part.folder.write("my.dat", "somebody's\n");
  const calculix::Solved solved = part.solve_with("ccx", "my part.inp");
  CHECK(solved.run.dat == part.folder / "my part.dat");
  CHECK(text_of(part.folder / "my.dat") == "somebody's\n");
  const std::size_t files = part.folder.file_count();
  std::filesystem::create_directory(part.folder / ".bordado-run-dead");  // of whoever: it does not say
  part.solve_with("ccx", "my part.inp");
  CHECK(part.folder.file_count() == files + 1);  // no folder of this run is left, and that one is not ours to clear
}

TEST_CASE("the place of the largest deflection is right where the deck numbers nodes anew") {
  const test::Folder folder;
  const std::string near = test::msh(Grid::rectangle(6, 4, 60, 40));
  // The same mesh with ids far apart: each times a million, plus one.
  std::string far;
  bool nodes = false, elements = false;
  std::istringstream lines(near);
  for (std::string line; std::getline(lines, line);) {
    if (line.starts_with('$')) nodes = line == "$Nodes", elements = line == "$Elements";
    std::istringstream words(line);
    std::vector<std::string> all;
    for (std::string word; words >> word;) all.push_back(word);
    const auto long_id = [](std::string& word) { word = fmt::format("{}", std::stoll(word) * 1'000'000 + 1); };
    if (nodes && all.size() == 4) long_id(all[0]);
    if (elements && all.size() > 4)
      for (std::size_t i = 3 + static_cast<std::size_t>(std::stoi(all[2])); i < all.size(); ++i) long_id(all[i]);
    far += fmt::format("{}\n", fmt::join(all, " "));
  }
  std::vector<calculix::Solved> answers;
  for (const std::string& mesh : {near, far}) {
    folder.write("grid.msh", mesh);
    Findings findings;
    const Design design = open(folder.write("p.toml", part_text + pressed), findings);
    answers.push_back(solve(design, folder / "p.inp", {}, findings));
  }
  CHECK(answers[0].largest.value == answers[1].largest.value);
  CHECK(answers[0].largest_at == answers[1].largest_at);
  CHECK(answers[0].largest_at.x() == 60.0);
  CHECK(answers[0].largest_mesh_id.has_value() == answers[1].largest_mesh_id.has_value());
  CHECK(answers[0].largest_mesh_id.has_value() == (answers[0].largest.id <= 35));  // beyond are those that were added
  if (answers[0].largest_mesh_id) CHECK(*answers[1].largest_mesh_id == *answers[0].largest_mesh_id * 1'000'000 + 1);
  CHECK(answers[1].deck.mesh_node_ids.size() == 35);
}

TEST_CASE("strains and energy belong together, whatever acts: beds, large displacements, temperatures, thick cores") {
  const std::string left = "[support.s]\non = \"left\"\nhold = \"clamped\"\n";
  const std::string pressed = "[load.p]\non = \"plate\"\nface = \"bag\"\npressure = 0.0001\n";
  const std::string warm = "[load.w]\ntemperature = 80\nstress-free = 20\n";
  const std::string uneven = "[load.w]\ntemperature = { tool = 80, bag = 20 }\nstress-free = 20\n";
  const std::string soft =
      "[material.soft]\nkind = \"foam\"\nE = 60\nnu = 0.3\ndensity = \"80 kg/m^3\"\nthickness = \"20 mm\"\n";
  struct Try {
    std::string name, code, conditions;
    bool core = false;
    std::optional<model::SolidOptions> solids = {};
  };
  const model::SolidOptions by_ply{model::SolidOptions::Per::ply, 0};
  const std::vector<Try> tries = {
      {"a bed", "[0/90/0]",
       "[support.bed]\non = \"plate\"\nbed = \"0.02 MPa/mm\"\n[support.s]\non = \"left\"\nhold = [\"x\", \"y\"]\n" +
           pressed},
      {"large displacements", "[0/90/0]",
       left + pressed + "[case.l]\nanalysis = \"large-displacements\"\nloads = [\"p\"]\n"},
      {"large displacements of solids", "[0/90/0]",
       left + pressed + "[case.l]\nanalysis = \"large-displacements\"\nloads = [\"p\"]\n", false, by_ply},
      {"warmed, free", "[0/90]", left + warm},
      {"warmed and pressed", "[0/90]", left + warm + pressed},
      {"warmed from face to face", "[0/45]", left + uneven},
      {"warmed solids", "[0/90]", left + warm, false, by_ply},
      {"a thick core", "", left + pressed, true},
  };
  for (const Try& one : tries)
    for (const auto layers : {deck::LayersAs::plies, deck::LayersAs::equivalents}) {
      if (one.solids && layers == deck::LayersAs::equivalents) continue;
      INFO(one.name << (layers == deck::LayersAs::plies ? ", plies" : ", three layers"));
      const test::Folder folder;
      std::string text = test::case_part(one.code.empty() ? "[0]" : one.code, one.conditions, soft);
      const std::string ud = "[material.ud]";
      text.insert(text.find(ud) + ud.size(), "\nalpha1 = -0.3e-6\nalpha2 = 30e-6\nalpha3 = 30e-6");
      if (one.core)
        text.replace(text.find("code = \"[0]\" }"), 14,
                     "angle = 0 }, { id = \"C\", material = \"soft\", frame = \"x\" }, { id = \"Q\", material = "
                     "\"ud\", frame = \"x\", angle = 0 }");
      const test::Cases solved = test::solve_cases(folder, text, test::Grid::rectangle(10, 3, 100, 30),
                                                   {.solids = one.solids, .layers = layers, .ply_results = true});
      deck::WriteOptions options;
      options.layers = layers;
      options.cases = {0};
      const auto& run = solved.all[0].run;
      const std::string listing = read_file(run.dat);
      const auto said = [&](double factor, bool all) {
        std::ofstream(run.dat) << test::with_strains(listing, factor, all);
        return test::failure([&] { calculix::read_case(solved.model, 0, run.dat, solved.all[0].deck.marks, options); });
      };
      CHECK(said(1.0, true) == "");
      for (const double factor : {0.0, 0.5, 2.0}) CHECK(has(said(factor, true), "[result.energy]"));
    }
}

}  // namespace of_calculix_run
