// bordado schema: what a part file may hold, for editors.
#include "print.hpp"

#include <bordado/base/files.hpp>

#include <fmt/format.h>

#include <memory>

namespace bordado::cli {

namespace schema_command {

int run(const std::string& output) {
  return guarded({"schema", false}, [&](Findings&) {
    OutputFile file(output);
    file.write(part::json_schema());
    file.commit();
    return 0;
  });
}

}  // namespace schema_command

void add_schema(CLI::App& program, int& exit_code) {
  auto output = std::make_shared<std::string>("-");
  CLI::App* const command =
      program.add_subcommand("schema", "Write the JSON Schema of part files, by which editors complete and mark keys");
  add_output_option(*command, "-o,--output", *output, "The file; the standard output if not given");
  command->footer("Example:\n  bordado schema -o part-file.schema.json");
  command->callback([output, &exit_code] { exit_code = schema_command::run(*output); });
}

}  // namespace bordado::cli
