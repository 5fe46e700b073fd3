// bordado: ply-based layups on shell meshes, from a part file to solver decks.
#include "print.hpp"

#include <bordado/base/files.hpp>

#include <fmt/format.h>

#include <charconv>
#include <cmath>
#include <csignal>

namespace {

/// Takes away what is half written, then ends as the signal would have ended us.
extern "C" void clean_up_and_end(int signal) {
  bordado::remove_temporaries();
  std::signal(signal, SIG_DFL);
  std::raise(signal);
}

/// Every option that takes a number takes one to work with.
void want_finite_numbers(CLI::App& app) {
  const CLI::Validator finite(
      [](std::string& text) -> std::string {
        double value = 0.0;
        const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), value);
        if (error == std::errc::result_out_of_range || (error == std::errc{} && !std::isfinite(value)))
          return fmt::format("'{}' is no number to work with", bordado::plain_text(text, 40));
        return {};
      },
      "");
  for (CLI::Option* const option : app.get_options())
    if (option->get_type_name().find("FLOAT") != std::string::npos) option->check(finite);
  for (CLI::App* const sub : app.get_subcommands({})) want_finite_numbers(*sub);
}

/// The command that was meant, where the first word is none.
std::optional<std::string> nearest_command(const CLI::App& program, std::span<char*> arguments) {
  if (arguments.size() < 2 || arguments[1][0] == '-') return std::nullopt;
  std::vector<std::string> names;
  for (const CLI::App* const sub : program.get_subcommands({})) names.push_back(sub->get_name());
  const std::string given = arguments[1];
  if (std::find(names.begin(), names.end(), given) != names.end()) return std::nullopt;
  const auto near = bordado::nearest_name(given, names);
  return fmt::format(
      "there is no command '{}'\n    {}", bordado::plain_text(given, 40),
      near ? fmt::format("did you mean '{}'?", *near) : fmt::format("commands: {}", fmt::join(names, ", ")));
}

/// Whatever file the command line names to be read is kept, whether it is read or not.
void keep_what_is_named(const CLI::App& program, std::span<char*> arguments) {
  const std::vector<std::string> outputs = bordado::cli::output_names(program);
  for (std::size_t i = 1; i < arguments.size(); ++i) {
    const std::string_view word = arguments[i];
    if (std::find(outputs.begin(), outputs.end(), word) != outputs.end()) {
      ++i;
      continue;
    }
    const auto in_one_word = [&](const std::string& name) {
      return word.starts_with(name) && (name.size() == 2 || word.substr(name.size()).starts_with('='));
    };
    if (std::any_of(outputs.begin(), outputs.end(), in_one_word)) continue;
    const std::size_t equals = word.starts_with("--") ? word.find('=') : std::string_view::npos;
    bordado::keep(std::string(equals == std::string_view::npos ? word : word.substr(equals + 1)));
  }
}

int run(int argc, char** argv) {
  CLI::App program("Bordado: ply-based layups on shell meshes, from a part file to sections and solver decks.",
                   "bordado");
  program.set_version_flag("--version", fmt::format("bordado {}", bordado::version()));
  program.require_subcommand(1);
  program.footer(
      "Begin with:\n  bordado check examples/skiff/skiff.toml\nManual: docs/, part files: docs/part-file.md, messages: "
      "docs/findings.md");
  program.fallthrough();
  program
      .add_option_function<std::size_t>(
          "--threads", [](std::size_t threads) { bordado::work_with(threads); },
          "How many threads work; as many as there are cores if not given")
      ->check(CLI::Range(1, 1024));
  program
      .add_option_function<std::size_t>(
          "--blocks", [](std::size_t most) { bordado::work_in_blocks(most); }, "For tests: loops in blocks of so many")
      ->check(CLI::Range(1, 1'000'000))
      ->group("");
  int exit_code = 0;
  for (const auto add : bordado::cli::commands) add(program, exit_code);
  want_finite_numbers(program);
  if (const auto said = nearest_command(program, {argv, static_cast<std::size_t>(argc)})) {
    fmt::print(stderr, "error: {}\n", *said);
    return 2;
  }
  keep_what_is_named(program, {argv, static_cast<std::size_t>(argc)});
  try {
    program.parse(argc, argv);
  } catch (const CLI::ParseError& trouble) {
    return program.exit(trouble) == 0 ? 0 : 2;
  }
  return exit_code;
}

}  // namespace

int main(int argc, char** argv) {
  for (const int signal : {SIGINT, SIGTERM, SIGHUP, SIGQUIT, SIGXFSZ, SIGXCPU}) std::signal(signal, clean_up_and_end);
  std::signal(SIGPIPE, SIG_IGN);  // a closed pipe is met where we write
  int exit_code = 1;
  try {
    exit_code = run(argc, argv);
  } catch (const std::exception& trouble) {
    std::fputs(fmt::format("error: {}\n", bordado::plain_text(trouble.what())).c_str(), stderr);
  }
  if (std::fflush(stdout) != 0 || std::ferror(stdout) != 0) {
    std::fputs("error: the output could not be written\n", stderr);
    return 1;
  }
  return exit_code;
}
