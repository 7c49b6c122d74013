#include "session.hpp"

#include "print.hpp"

#include <algorithm>
#include <string_view>

namespace {

void add_common_options(CLI::App& app, cli::Session& session) {
  app.add_flag("--json", session.json, "print the result as JSON");
  app.add_flag("-v,--verbose", session.verbose, "tell more about what is done");
  app.add_option("-C", session.directory, "work in this folder")->check(CLI::ExistingDirectory);
  app.add_option("--shelf", session.shelf_folder, "use this folder as the shelf")->type_name("DIR");
}

constexpr const char* overview =
    "Fibula reads native libraries, says for every lane of a program whether they fit, and derives the link.\n"
    "  inspect a download, take it onto the shelf, attach it to a project; then fit, build and run.";

}  // namespace

int main(int argc, char** argv) {
  CLI::App app(overview, "fibula");
  cli::Session session;
  app.set_version_flag("--version", "fibula " FIBULA_VERSION);
  app.require_subcommand(1);
  app.fallthrough();
  app.failure_message(CLI::FailureMessage::simple);
  add_common_options(app, session);
  cli::add_inspect(app, session);
  cli::add_take(app, session);
  cli::add_shelf(app, session);
  cli::add_attach(app, session);
  cli::add_detach(app, session);
  cli::add_lanes(app, session);
  cli::add_fit(app, session);
  cli::add_build(app, session);
  cli::add_explain(app, session);
  // What stands behind `--` belongs to another program and is not ours to parse.
  char** const end = argv + argc;
  char** const divide = std::find_if(argv, end, [](const char* word) { return std::string_view(word) == "--"; });
  if (divide != end) session.trailing.assign(divide + 1, end);
  try {
    app.parse(static_cast<int>(divide - argv), argv);
  } catch (const CLI::ParseError& error) {
    if (error.get_exit_code() == static_cast<int>(CLI::ExitCodes::Success)) return app.exit(error);
    const auto unknown = app.remaining();
    const bool no_command = app.get_subcommands().empty() && !unknown.empty();
    const std::string what = no_command ? "no command " + unknown.front() : error.what();
    cli::complain(what, no_command ? "fibula --help lists the commands" : "--help behind the command tells what it takes");
    return cli::wrong_usage;
  }
  return session.run();
}
