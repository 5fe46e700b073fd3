// bordado explain: what a finding means.
#include "print.hpp"

#include <fmt/format.h>

#include <memory>

namespace bordado::cli {

namespace explain_command {

struct Choices {
  std::string code;
  bool json = false;
};

int run(const Choices& choices) {
  return guarded({"explain", choices.json}, [&](Findings& findings) {
    std::vector<std::string> names;
    Json all = Json::array();
    TableText table({"code", "severity", "why, and what helps"});
    for (const Explanation& e : explanations()) {
      names.emplace_back(e.code);
      const bool wanted = choices.code.empty() || e.code == choices.code ||
                          (e.code.starts_with(choices.code) && e.code[choices.code.size()] == '.');
      if (!wanted) continue;
      all.push_back({{"code", e.code}, {"severity", e.severity}, {"text", e.text}});
      table.add({std::string(e.code), std::string(e.severity), std::string(e.text)});
    }
    if (all.empty()) {
      const auto near = nearest_name(choices.code, names);
      throw Failure({Severity::error,
                     "part.check-unknown",
                     fmt::format("no finding has the code '{}'", choices.code),
                     {},
                     near ? fmt::format("did you mean '{}'?", *near) : "bordado explain lists them all"});
    }
    if (choices.json)
      print_document("explain", std::nullopt, {{"explanations", all}}, findings);
    else if (all.size() == 1)
      fmt::print("{} ({})\n{}\n", styled(all[0]["code"], Style::bold, fileno(stdout)),
                 all[0]["severity"].get<std::string>(), all[0]["text"].get<std::string>());
    else
      table.print(stdout);
    return 0;
  });
}

}  // namespace explain_command

void add_explain(CLI::App& program, int& exit_code) {
  using namespace explain_command;
  auto choices = std::make_shared<Choices>();
  CLI::App* const command =
      program.add_subcommand("explain", "What a finding means and what helps; all of them without a name");
  command->add_option("code", choices->code, "Its code, or a room: laminate.unsymmetric, or laminate");
  command->add_flag("--json", choices->json, "Print JSON");
  command->footer("Example:\n  bordado explain laminate.unsymmetric");
  command->callback([choices, &exit_code] { exit_code = run(*choices); });
}

}  // namespace bordado::cli
