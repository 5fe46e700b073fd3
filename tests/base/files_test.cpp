#include "support.hpp"

#include <bordado/base/files.hpp>
#include <bordado/base/text.hpp>
#include <bordado/base/work.hpp>

#include <fmt/format.h>

#include <sys/stat.h>
#include <sys/wait.h>
#include <unistd.h>
#include <charconv>
#include <cmath>
#include <csignal>
#include <fstream>
#include <random>

namespace of_base_files {

using namespace bordado;

TEST_CASE("numbers in decks are right to 12 digits, short, and always look like reals") {
  std::string text;
  const auto written = [&](double value, std::size_t width = 19) {
    text.clear();
    append_real(text, value, width);
    return text;
  };
  CHECK(written(0.0) == "0.");
  CHECK(written(-0.0) == "0.");
  CHECK(written(1.0) == "1.");
  CHECK(written(-2.5) == "-2.5");
  CHECK(written(0.125) == "0.125");
  CHECK(written(1e-9) == "1.e-9");
  CHECK(written(135000.0) == "135000.");
  CHECK(written(1.0 / 3.0) == "0.333333333333");
  CHECK(written(999999999.9999999) == "1000000000.");
  CHECK(written(0.99999999999999) == "1.");
  CHECK(written(-123.456789, 8) == "-123.457");
  CHECK(written(-1.23456789e-5, 8) == "-1.23e-5");

  std::mt19937_64 random(7);
  std::uniform_real_distribution<double> exponent(-12, 12), sign(-1, 1);
  for (int i = 0; i < 20000; ++i) {
    const double value = std::copysign(std::pow(10.0, exponent(random)), sign(random));
    for (const std::size_t width : {std::size_t{8}, std::size_t{16}, std::size_t{19}}) {
      INFO(fmt::format("{:.17g} in {}", value, width));
      written(value, width);
      CHECK_MESSAGE(text.size() <= width, text);
      CHECK(text.find_first_of(".e") != std::string::npos);
      double back = 0.0;
      std::from_chars(text.data(), text.data() + text.size(), back);
      const double digits = width == 19 ? 12 : width == 16 ? 9 : 2;  // significant digits that always fit
      CHECK(std::abs(back - value) <= 0.5001 * std::pow(10.0, 1 - digits) * std::abs(value));
    }
  }
}

namespace {

std::string text_of(const std::string& path) {  // not by read_file(), which remembers
  std::ifstream in(path);
  return {std::istreambuf_iterator<char>(in), {}};
}

void write_file(const std::string& path, std::string_view text, MayReplace may = MayReplace::the_one_named) {
  OutputFile file(path, may);
  file.write(text);
  file.commit();
}

bool is_regular(const std::string& path) {
  return std::filesystem::is_regular_file(std::filesystem::symlink_status(path));
}

}  // namespace

TEST_CASE("a file is written whole or not at all") {
  const test::Folder folder;
  const std::string path = folder.write("deck.inp", "earlier");
  {
    OutputFile file(path);
    file.write("half");
    CHECK(text_of(path) == "earlier");
  }
  CHECK(text_of(path) == "earlier");
  CHECK(folder.file_count() == 1);
  {
    OutputFile file(path);
    file.write("whole");
    file.commit();
    CHECK(file.bytes() == 5);
  }
  CHECK(text_of(path) == "whole");
  CHECK(folder.file_count() == 1);
}

TEST_CASE("no output is a file that was read, whatever its name; what this process wrote it may write again") {
  const test::Folder folder;
  const std::string mesh = folder.write("panel.inp", "a mesh");
  std::filesystem::create_hard_link(mesh, folder / "hard.inp");
  std::filesystem::create_symlink("panel.inp", folder / "soft.inp");
  CHECK(read_file(mesh) == "a mesh");
  for (const std::string name : {"panel.inp", "hard.inp", "soft.inp", "./panel.inp"}) {
    const std::string path = folder / name;
    CHECK(test::failure([&] { write_file(path, "a deck"); }) ==
          fmt::format(
              "{0}: error: '{0}' would be overwritten, and it is a file that was read for this or is named by what was "
              "[file.was-read]\n    give another name or folder; nothing was changed",
              path));
    CHECK(text_of(path) == "a mesh");
  }
  write_file(mesh, "a mesh and more", MayReplace::the_one_read);
  CHECK(text_of(folder / "hard.inp") == "a mesh and more");
  const std::string own = folder / "own.inp";
  write_file(own, "one");
  CHECK(read_file(own) == "one");
  write_file(own, "two");
  CHECK(text_of(own) == "two");
}

TEST_CASE("a file whose name follows from another goes only where Bordado made it") {
  const test::Folder folder;
  const std::string path = folder.write("a.inp", "*HEADING\nsomebody's\n");
  CHECK(test::failure([&] { write_file(path, "x", MayReplace::only_our_own); }) ==
        fmt::format("{0}: error: '{0}' would be overwritten, and Bordado did not make it [file.not-ours]\n    move it "
                    "away, give another name or folder, or say --replace; nothing was changed",
                    path));
  write_file(path, "** P: CalculiX deck, written by Bordado 0.1.0\n");  // named by the user
  write_file(path, "again", MayReplace::only_our_own);
  CHECK(text_of(path) == "again");
}

TEST_CASE("links are written through, modes stay, devices take the bytes, pipes and folders are refused") {
  const test::Folder folder;
  const std::string real = folder.write("real", "old");
  std::filesystem::permissions(real, std::filesystem::perms(0640));
  std::filesystem::create_symlink("real", folder / "soft");
  std::filesystem::create_symlink("not-yet", folder / "dangling");
  std::filesystem::create_hard_link(real, folder / "hard");
  write_file(folder / "soft", "through the link");
  CHECK(std::filesystem::is_symlink(folder / "soft"));
  CHECK(text_of(folder / "hard") == "through the link");
  CHECK(std::filesystem::status(real).permissions() == std::filesystem::perms(0640));
  write_file(folder / "hard", "short");
  CHECK(text_of(real) == "short");
  CHECK(std::filesystem::hard_link_count(real) == 2);
  write_file(folder / "dangling", "made");
  CHECK(text_of(folder / "not-yet") == "made");
  write_file("/dev/null", "gone");
  CHECK(!is_regular("/dev/null"));
  REQUIRE(::mkfifo((folder / "pipe").c_str(), 0600) == 0);
  CHECK(test::failure([&] { write_file(folder / "pipe", "x"); }).find("is a pipe, not a file [file.not-regular]") !=
        std::string::npos);
  CHECK(test::failure([&] { read_file(folder / "pipe"); }).find("is a pipe, not a file [file.not-regular]") !=
        std::string::npos);
  CHECK(test::failure([&] { read_file("/dev/zero"); }).find("is a device, not a file [file.not-regular]") !=
        std::string::npos);
  CHECK(folder.file_count() == 6);
}

TEST_CASE("a killed process leaves nothing") {
  const test::Folder folder;
  for (const int signal : {SIGKILL, SIGTERM}) {
    const pid_t child = ::fork();
    if (child == 0) {
      ::signal(signal, SIG_DFL);  // not the test framework's
      OutputFile file(folder / "a");
      file.write(std::string(4 << 20, 'x'));
      ::raise(signal);
      ::_exit(0);
    }
    int status = 0;
    ::waitpid(child, &status, 0);
    CHECK(WIFSIGNALED(status));
    CHECK(folder.file_count() == 0);
  }
}

TEST_CASE("an error while writing lines in parallel reaches the caller and leaves nothing") {
  const test::Folder folder;
  for (int round = 0; round < 20; ++round)
    CHECK_THROWS_AS(
        [&] {
          OutputFile file(folder / "a");
          file.write_lines(100000, [](std::size_t i, std::string&) {
            if (i == 77777) throw std::runtime_error("no");
          });
        }(),
        std::runtime_error);
  CHECK(folder.file_count() == 0);
}

TEST_CASE("parallel lines come out in order") {
  const test::Folder folder;
  OutputFile file(folder / "a");
  file.write_lines(100000, [](std::size_t i, std::string& text) { text += fmt::format("{}\n", i); });
  file.commit();
  std::string expected;
  for (int i = 0; i < 100000; ++i) expected += fmt::format("{}\n", i);
  CHECK(read_file(folder / "a") == expected);
}

TEST_CASE("files that cannot be read or written say why") {
  const test::Folder folder;
  const std::string missing = folder / "none";
  CHECK(test::failure([&] { read_file(missing); }) ==
        fmt::format("{0}: error: there is no file '{0}' [file.missing]\n    check the name; a path in a part file "
                    "counts from the part file's folder",
                    missing));
  CHECK(test::failure([&] { read_file(folder.path()); }) ==
        fmt::format("{0}: error: file '{0}' cannot be read: Is a directory [file.unreadable]\n    check that it is a "
                    "file and that you may read it",
                    folder.path()));
  const std::string nowhere = folder / "no/such/deck.inp";
  CHECK(test::failure([&] { OutputFile file(nowhere); }) ==
        fmt::format("{0}: error: file '{0}' cannot be made: No such file or directory [file.not-writable]\n    name a "
                    "folder that exists and that you may write to",
                    nowhere));
  CHECK(test::failure([&] { OutputFile file(folder.path()); }).find("Is a directory") != std::string::npos);
}

TEST_CASE("blocks cover a range once, whatever its length") {
  for (const std::size_t count :
       {std::size_t{0}, std::size_t{1}, std::size_t{8192}, std::size_t{8193}, std::size_t{100001}}) {
    std::vector<int> met(count, 0);
    parallel_blocks(count, [&](std::size_t begin, std::size_t end) {
      for (std::size_t i = begin; i < end; ++i) ++met[i];
    });
    CHECK(std::all_of(met.begin(), met.end(), [](int times) { return times == 1; }));
  }
}

TEST_CASE("whole numbers stand with commas between, however many there are") {
  for (const std::size_t count : {0u, 1u, 2u, 15u, 16u, 17u, 32u, 33u, 100u}) {
    std::vector<std::int64_t> values;
    std::string wanted = "x", text = "x";
    for (std::size_t i = 0; i < count; ++i) {
      values.push_back(i % 3 == 0   ? std::numeric_limits<std::int64_t>::min()
                       : i % 3 == 1 ? std::numeric_limits<std::int64_t>::max()
                                    : static_cast<std::int64_t>(i));
      wanted += (i > 0 ? "," : "") + std::to_string(values.back());
    }
    append_integers(text, values);
    CHECK(text == wanted);
  }
}

}  // namespace of_base_files
