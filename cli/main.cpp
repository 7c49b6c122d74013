#include "print.hpp"
#include "process_state.hpp"
#include "screen.hpp"
#include "session.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <exception>
#include <filesystem>
#include <new>
#include <string_view>
#include <utility>
#include <vector>

namespace {

constexpr const char* overview =
    "Fibula reads native libraries, says for every lane of a program whether they fit, and derives the link.\n"
    "  inspect a download, take it onto the shelf, attach it to a project; then fit, build and run.";

using AddCommand = void (*)(cli::Program&, cli::Session&);

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
      .flag("--trust", session.trust, "what the project here brings to be run may run, now and later")
      .folder("-C", session.directory, "work in this folder")
      .list("--shelf", "PLACE", session.shelves, "use this folder or address as the shelf; several in order");
  const std::pair<const char*, std::vector<AddCommand>> steps[] = {
      {"Get a library", {cli::add_inspect, cli::add_take, cli::add_shelf}},
      {"Use it", {cli::add_begin, cli::add_attach, cli::add_detach, cli::add_lanes, cli::add_fit, cli::add_trial}},
      {"Build and run", {cli::add_build, cli::add_stage}},
      {"When it does not work", {cli::add_check, cli::add_explain, cli::add_locate}},
      {"Change, hand on, look back", {cli::add_compare, cli::add_parcel, cli::add_report}},
      {"Learn", {cli::add_help}}};
  for (const auto& [step, commands] : steps) {
    program.step(step);
    for (const auto add : commands) add(program, session);
  }
  return program.run(static_cast<int>(divide - argv), argv);
}

}  // namespace

namespace {

/// Nothing of the library throws on input; what the standard library throws when memory ends is told too.
int guarded_run(int argc, char** argv) {
  std::error_code gone;
  (void)std::filesystem::current_path(gone);
  if (gone) {
    cli::complain("the working directory is gone", "go to a folder that is there");
    return cli::something_missing;
  }
  try {
    return run(argc, argv);
  } catch (const std::bad_alloc&) {
    cli::complain("out of memory", "close other programs, or look at fewer files at once");
  } catch (const std::exception& error) {
    cli::complain(fmt::format("internal error: {}", error.what()), "please report it with the command that was run");
  }
  return cli::something_missing;
}

}  // namespace

int main(int argc, char** argv) {
  cli::settle_process();
  // The most frequent question of scripts is answered before anything else is set up.
  const bool asks_version = argc == 2 && std::string_view(argv[1]) == "--version";
  if (asks_version) cli::print_line(fmt::format("fibula {}", fibula::version()));
  const int status = asks_version ? static_cast<int>(cli::all_good) : guarded_run(argc, argv);
  // Who has read enough is not told about the rest.
  if (cli::all_printed() || cli::reader_has_left()) return status;
  cli::complain("standard output: cannot be written", "make room on the disk, or write to another place");
  return cli::something_missing;
}
