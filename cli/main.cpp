#include "print.hpp"
#include "session.hpp"

#include <algorithm>
#include <string_view>

namespace {

constexpr const char* version = "fibula " FIBULA_VERSION;

constexpr const char* overview =
    "Fibula reads native libraries, says for every lane of a program whether they fit, and derives the link.\n"
    "  inspect a download, take it onto the shelf, attach it to a project; then fit, build and run.";

int run(int argc, char** argv) {
  cli::Session session;
  cli::Program program("fibula", overview);
  // What stands behind `--` belongs to another program and is not ours to parse.
  char** const end = argv + argc;
  char** const divide = std::find_if(argv, end, [](const char* word) { return std::string_view(word) == "--"; });
  if (divide != end) session.trailing.assign(divide + 1, end);
  program.common()
      .flag("--json", session.json, "print the result as JSON")
      .flag("-v,--verbose", session.verbose, "tell more about what is done")
      .option("-C", "DIR", session.directory, "work in this folder")
      .list("--shelf", "PLACE", session.shelves, "use this folder or address as the shelf; several in order");
  for (const auto add : {cli::add_inspect, cli::add_take, cli::add_shelf, cli::add_attach, cli::add_detach,
                         cli::add_lanes, cli::add_fit, cli::add_build, cli::add_stage, cli::add_explain}) {
    add(program, session);
  }
  return program.run(static_cast<int>(divide - argv), argv);
}

}  // namespace

int main(int argc, char** argv) {
  // The most frequent question of scripts is answered before anything else is set up.
  if (argc == 2 && std::string_view(argv[1]) == "--version") {
    cli::print_line(version);
    return cli::all_good;
  }
  return run(argc, argv);
}
