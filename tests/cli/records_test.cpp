// What stands beside a deck of how it was made: no option is told twice, and what solve refused stays refused.
#include "cases.hpp"

#include <bordado/base/files.hpp>
#include <bordado/deck/record.hpp>

#include <nlohmann/json.hpp>

#include <filesystem>
#include <utility>
#include <vector>

namespace of_cli_records {

using namespace bordado;
using Json = nlohmann::json;
using test::Folder;
using test::Grid;

namespace {

struct Plate {
  Folder folder;
  Plate() {
    folder.write("grid.msh", test::msh(Grid::rectangle(6, 2, 60, 20)));
    folder.write("plate.toml", test::known_part("[0/90/0]", R"(
[support.left]
on = "left"
hold = "clamped"
[load.tip]
on = "right"
force = [0, 0, 5]
[load.pull]
on = "right"
force = [100, 0, 0]
[case.bent]
loads = ["tip"]
[case.pulled]
loads = ["pull"]
)"));
  }
  test::Run run(const std::string& what) const {
    return test::run(fmt::format("'{}' {}", test::program(), what), folder.path());
  }
  Json json(const std::string& what) const {
    const test::Run run = this->run(what + " --json");
    INFO(what << "\n" << run.out << run.err);
    REQUIRE(run.status == 0);
    return Json::parse(run.out);
  }
};

bool has(const std::string& text, const std::string& what) { return text.find(what) != std::string::npos; }

}  // namespace

TEST_CASE("whatever decks were made with, what reads their answers needs no option") {
  const Plate plate;
  for (const std::string how : {"", "--real-plies", "--solids ply", "--solids 2 --rough-solids",
                                "--most-sections 1 --angle-tolerance 2 --thickness-tolerance 7"}) {
    INFO(how);
    const Json solved = plate.json("solve plate.toml " + how);
    const Json told = plate.json("stress plate.toml");
    CHECK(solved["reserves"] == told["reserves"]);
    CHECK(plate.json("summary plate.toml")["reserves"] == told["reserves"]);
    CHECK(plate.json("runs plate.toml plate.toml")["runs"].size() == 2);
    CHECK(plate.run("review plate.toml --results . -o page.html").status == 0);
    // Told, too, it is the same.
    if (how.find("sections") == std::string::npos)
      CHECK(plate.json("stress plate.toml " + how)["reserves"] == told["reserves"]);
  }
  // A listing of any name, where its deck's record lies beside it; and the deck of all cases.
  std::filesystem::create_directory(plate.folder / "all");
  plate.json("deck plate.toml --format calculix --solids ply --folder all");
  CHECK(test::run("cd all && ccx plate >/dev/null", plate.folder.path()).status == 0);
  const Json all = plate.json("stress plate.toml --folder all");
  CHECK(plate.json("stress plate.toml --answer all/plate.dat")["reserves"] == all["reserves"]);
}

TEST_CASE("decks made in different ways: it is asked which") {
  const Plate plate;
  plate.json("solve plate.toml --case bent");
  plate.json("solve plate.toml --case pulled --solids ply");
  const test::Run both = plate.run("stress plate.toml");
  CHECK(both.status == 1);
  CHECK(has(both.err, "'./plate-bent.inp' (shells), './plate-pulled.inp' (--solids ply) [result.made-otherwise]"));
  CHECK(plate.json("stress plate.toml --case bent")["cases"] == Json({"bent"}));
  CHECK(plate.json("stress plate.toml --case pulled")["cases"] == Json({"pulled"}));
  CHECK(plate.run("stress plate.toml --solids ply --case pulled").status == 0);
}

TEST_CASE("an answer of another variant is told as that") {
  const Plate plate;
  plate.folder.write("plate.toml", read_file(plate.folder / "plate.toml") + "[variant.thin]\noff = [\"pair\"]\n");
  std::string text = read_file(plate.folder / "plate.toml");
  const std::size_t plies = text.find("plies = [");
  REQUIRE(plies != std::string::npos);
  text.insert(plies + 9, " { id = \"Z\", angle = 0, material = \"known\", frame = \"x\", group = \"pair\" }, ");
  plate.folder.write("plate.toml", text);
  plate.json("solve plate.toml --variant thin");
  plate.json("stress plate.toml --variant thin");
  const test::Run other = plate.run("stress plate.toml");
  CHECK(other.status == 1);
  CHECK(has(other.err, "is of variant 'thin', and no variant is asked for [result.other-deck]"));
}

TEST_CASE("what solve refused stays refused, until it is solved again") {
  const Plate plate;
  // A solver whose answer does not balance.
  const std::string solver = plate.folder.write("lying", R"(#!/bin/sh
ccx "$@" || exit 1
awk '/total force.*FREE/{f=NR} f&&NR==f+2{print 2*$1+5,2*$2,2*$3+5;next}{print}' job.dat > other && mv other job.dat
)");
  std::filesystem::permissions(solver, std::filesystem::perms::owner_all);
  const test::Run solved = plate.run("solve plate.toml --case bent --solver " + solver);
  CHECK(solved.status == 1);
  INFO(solved.out << solved.err);
  REQUIRE(has(solved.err, "[solve.unbalanced]"));
  for (const std::string command :
       {"stress plate.toml --case bent", "summary plate.toml --case bent --json",
        "runs plate.toml plate.toml --case bent", "review plate.toml --results . --case bent -o page.html",
        "stress plate.toml --case bent --answer plate-bent.dat"}) {
    INFO(command);
    const test::Run read = plate.run(command);
    CHECK(read.status == 1);
    CHECK(has(read.out + read.err, "solve refused this answer to case 'bent'"));
    CHECK(has(read.out + read.err, "result.refused"));
  }
  // The deck written again by itself changes nothing of that; solved well it is believed.
  plate.json("solve plate.toml --case bent");
  CHECK(plate.run("stress plate.toml --case bent").status == 0);
}

TEST_CASE("a record comes back as it was, and one that is spoilt is none") {
  const Folder folder;
  deck::Record record;
  record.deck = "p.inp";
  record.part = "p.toml";
  record.variant = "other";
  record.sections.angle_tolerance = Angle::degrees(0.1 + 0.2);
  record.sections.thickness_tolerance = 0.01 * 7.0;
  record.sections.most_sections = 12;
  record.solids = model::SolidOptions{model::SolidOptions::Per::count, 3, true};
  record.real_plies = true;
  record.cases = {"a \"quoted\" one", "b"};
  record.marks = {"D0", "D1"};
  record.refused = deck::Refused{"solve.unbalanced", "reactions do not balance", "12:00ff"};
  const std::string deck = folder / "p.inp";
  deck::write_record(record, deck, MayReplace::only_our_own);
  const auto back = deck::read_record(deck);
  REQUIRE(back);
  CHECK(back->sections == record.sections);
  CHECK(back->solids == record.solids);
  CHECK(back->real_plies);
  CHECK(back->cases == record.cases);
  CHECK(back->marks == record.marks);
  CHECK(back->refused->what == record.refused->what);
  CHECK(back->refused->answer_print == "12:00ff");
  CHECK(deck::records_in(folder.path(), "elsewhere/p.toml", "other").size() == 1);
  CHECK(deck::records_in(folder.path(), "p.toml", std::nullopt).size() == 1);
  CHECK(deck::records_in(folder.path(), "p.toml", "").empty());
  CHECK(deck::records_in(folder.path(), "q.toml", std::nullopt).empty());
  CHECK(deck::records_in(folder / "nowhere", "p.toml", std::nullopt).empty());
  // That it was refused goes on with the same deck, and not with another.
  deck::Record again = record;
  again.refused.reset();
  deck::keep_refusal(again, deck);
  CHECK(again.refused);
  again.refused.reset();
  again.marks = {"D2"};
  deck::keep_refusal(again, deck);
  CHECK(!again.refused);
  const std::string text = read_file(deck::record_path(deck));
  for (std::size_t at = 0; at + 2 < text.size(); at += 3) {
    folder.write("p-inp-run.json", text.substr(0, at));
    CHECK(!deck::read_record(deck));
  }
  // Nor is one that holds what no run was made with.
  for (const auto& [from, to] : std::vector<std::pair<std::string, std::string>>{
           {"\"most\": 12", "\"most\": 0"},
           {"\"most\": 3", "\"most\": 100000"},
           {"\"most\": 3", "\"most\": -3"},
           {"\"angle_tolerance_deg\": 0.3", "\"angle_tolerance_deg\": 1e9"},
           {"\"thickness_tolerance\": 0.0", "\"thickness_tolerance\": -0.0"}}) {
    std::string spoilt = text;
    REQUIRE(spoilt.find(from) != std::string::npos);
    spoilt.replace(spoilt.find(from), from.size(), to);
    folder.write("p-inp-run.json", spoilt);
    CHECK_MESSAGE(!deck::read_record(deck), to);
  }
  CHECK(!deck::read_record(folder / "q.inp"));
}

}  // namespace of_cli_records
