/// What every command shares: the options before the command, where to print, and how to end.
#pragma once

#include "command.hpp"

#include <fibula/fibula.hpp>

#include <string>
#include <vector>

namespace cli {

/// Exit statuses, as documented.
enum Exit { all_good = 0, answer_is_no = 1, wrong_usage = 2, bad_input = 3, something_missing = 4 };

struct Session {
  bool json = false;
  bool verbose = false;
  bool trust = false;  ///< what the project brings to be run may run
  std::string directory = ".";
  std::vector<std::string> shelves;   ///< places that were named, in order
  std::vector<std::string> trailing;  ///< what stands behind `--`: another program's words

  /// The shelf that the options name, or the user's own.
  fibula::Result<fibula::Shelf> shelf() const;
  /// The same behind those of the project here, where there is one.
  fibula::Result<fibula::Shelf> shelf_here() const;
  fibula::Result<fibula::Project> project() const { return fibula::Project::open(directory); }
  /// The same for commands that start what it names. Errors: also refused (it brings programs of its own, and nobody
  /// said that they may run).
  fibula::Result<fibula::Project> trusted_project() const;
};

/// What commands over lanes work on.
struct ProjectAtHand {
  fibula::Shelf shelf;
  fibula::Project project;
  std::vector<fibula::Lane> lanes;
};

/// The project here, the shelf, and the lanes of these names, or all.
fibula::Result<ProjectAtHand> project_at_hand(const Session& session, const std::vector<std::string>& lanes);

/// Says on standard error what is wrong and what to do (or as JSON on standard output), and gives the exit status.
int report(const Session& session, const fibula::Error& error);
/// Only says it.
void report_error(const Session& session, const fibula::Error& error);
/// The exit status for an error.
int status_of(const fibula::Error& error);

// One function a command: adds it with its options, its example, and what it does.
void add_begin(Program& program, Session& session);
void add_inspect(Program& program, Session& session);
void add_take(Program& program, Session& session);
void add_shelf(Program& program, Session& session);
void add_attach(Program& program, Session& session);
void add_detach(Program& program, Session& session);
void add_lanes(Program& program, Session& session);
void add_fit(Program& program, Session& session);
void add_build(Program& program, Session& session);
void add_stage(Program& program, Session& session);
void add_check(Program& program, Session& session);
void add_locate(Program& program, Session& session);
void add_trial(Program& program, Session& session);
void add_compare(Program& program, Session& session);
void add_parcel(Program& program, Session& session);
void add_report(Program& program, Session& session);
void add_help(Program& program, Session& session);
void add_explain(Program& program, Session& session);

/// The commands about keys, below `shelf`.
void add_keys(Command& shelf, Session& session);

/// Writes what the fits object to, and what failures come from, as SARIF, where a file is named.
fibula::Result<void> write_sarif(const fibula::Project& project, const std::vector<fibula::Fit>& fits,
                                 const std::string& file, const std::vector<fibula::Finding>& findings = {});

/// Asks whoever sits at the terminal, and nobody else; only `yes` is one.
bool says_yes(const std::string& what);

}  // namespace cli
