/// Starting programs: those that a build made, and compilers whose output is to be explained.
#pragma once

#include <fibula/lane.hpp>
#include <fibula/project.hpp>
#include <fibula/result.hpp>

#include <filesystem>
#include <functional>
#include <string>
#include <string_view>
#include <vector>

namespace fibula {

/// The command line that starts a program of a lane, behind what the lane starts programs through.
FIBULA_API std::vector<std::string> run_command(const Lane& lane, const std::filesystem::path& program,
                                                const std::vector<std::string>& arguments);

/// Whether a lane's programs can be started here: by what the lane starts them through, else by this machine itself.
/// Errors: missing_tool (there is no such starter), refused (they are for another machine), with what to write.
FIBULA_API Result<void> can_start(const Lane& lane, const Target& target, const Project& project);

/// What a command said, and how it ended.
struct Heard {
  int status = 0;
  std::string out;
  std::string err;
};

/// Who watches a command.
struct Listener {
  /// Gets what it prints as it comes, and whether that is its error output.
  std::function<void(std::string_view text, bool error)> heard = {};
  /// Asked now and then: whether it is to end before its time, with all that it started.
  std::function<bool()> ends = {};
};

/// Runs a command to its end and keeps its output, in English wording. Words of the form NAME=VALUE before the program
/// are for its environment, as in a shell. Errors: missing_tool.
FIBULA_API Result<Heard> run_and_listen(const std::vector<std::string>& command, const Listener& listener = {});

/// The variables by which a user tells loaders where to look: a program that starts only with them is not done.
FIBULA_API std::vector<std::string> loader_variables();

/// Runs a command to its end with this terminal's input and output, and without `loader_variables`. Gives its exit
/// status. Errors: missing_tool.
FIBULA_API Result<int> run_in_foreground(const std::vector<std::string>& command);

}  // namespace fibula
