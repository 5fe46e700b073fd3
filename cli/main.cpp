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

/// An error in what was typed; as JSON where that was asked for.
int tell_arguments(const CLI::App& program, std::span<char*> arguments, std::string what, std::string remedy) {
  std::string command;
  bool json = false;
  const CLI::App* at = &program;
  for (std::size_t i = 1; i < arguments.size(); ++i) {
    const std::string word = arguments[i];
    if (word.empty()) continue;
    json = json || word == "--json";
    const auto subs = at->get_subcommands({});
    const auto sub =
        std::find_if(subs.begin(), subs.end(), [&](const CLI::App* one) { return one->get_name() == word; });
    if (sub == subs.end()) continue;
    at = *sub;
    command += (command.empty() ? "" : " ") + word;
  }
  if (remedy.empty())
    remedy = fmt::format("bordado{} --help tells what it takes", command.empty() ? "" : " " + command);
  bordado::Findings findings;
  findings.error("command.arguments", std::move(what), {}, std::move(remedy));
  if (json)
    bordado::cli::print_document(command, std::nullopt, bordado::cli::Json::object(), findings);
  else
    bordado::cli::print_findings(findings.all(), stderr);
  return 2;
}

/// The command that was meant, where the first word is none: what is said, and the remedy.
std::optional<std::pair<std::string, std::string>> nearest_command(const CLI::App& program,
                                                                   std::span<char*> arguments) {
  if (arguments.size() < 2 || arguments[1][0] == '-') return std::nullopt;
  std::vector<std::string> names;
  for (const CLI::App* const sub : program.get_subcommands({})) names.push_back(sub->get_name());
  const std::string given = arguments[1];
  if (std::find(names.begin(), names.end(), given) != names.end()) return std::nullopt;
  const auto near = bordado::nearest_name(given, names);
  return std::pair(
      fmt::format("there is no command '{}'", bordado::plain_text(given, 40)),
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
      "What commands share:\n"
      "  --variant NAME    the part file's variant of that name\n"
      "  --json            the answer as one JSON document, errors too (docs/json.md)\n"
      "  FILE              a file to write; one that Bordado did not make goes only with --replace\n"
      "  exit status       0 done, 1 an error in the work, 2 an error in what was typed\n\n"
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
  const std::span<char*> arguments{argv, static_cast<std::size_t>(argc)};
  if (const auto said = nearest_command(program, arguments))
    return tell_arguments(program, arguments, said->first, said->second);
  keep_what_is_named(program, arguments);
  try {
    program.parse(argc, argv);
  } catch (const CLI::ParseError& trouble) {
    if (trouble.get_exit_code() != 0) return tell_arguments(program, arguments, trouble.what(), {});
    program.exit(trouble);  // help or version
    return 0;
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
