/// What every command shares: the options before the command, where to print, and how to end.
#pragma once

#include <fibula/fibula.hpp>

#include <CLI/CLI.hpp>
#include <functional>
#include <string>
#include <vector>

namespace cli {

/// Exit statuses, as documented.
enum Exit { all_good = 0, answer_is_no = 1, wrong_usage = 2, bad_input = 3, something_missing = 4 };

struct Session {
  bool json = false;
  bool verbose = false;
  std::string directory = ".";
  std::string shelf_folder;
  std::vector<std::string> trailing;  ///< what stands behind `--`: another program's words
  std::function<int()> run;  ///< set by the command that was named

  fibula::Result<fibula::Shelf> shelf() const;
  fibula::Result<fibula::Project> project() const { return fibula::Project::open(directory); }
};

/// Says on standard error what is wrong and what to do (or as JSON on standard output), and gives the exit status.
int report(const Session& session, const fibula::Error& error);

// One function a command: adds it with its options and example, and sets `run` when it is named.
void add_inspect(CLI::App& app, Session& session);
void add_take(CLI::App& app, Session& session);
void add_shelf(CLI::App& app, Session& session);
void add_attach(CLI::App& app, Session& session);
void add_detach(CLI::App& app, Session& session);
void add_lanes(CLI::App& app, Session& session);
void add_fit(CLI::App& app, Session& session);
void add_build(CLI::App& app, Session& session);
void add_explain(CLI::App& app, Session& session);

}  // namespace cli
