/// Starting programs: those that a build made, and compilers whose output is to be explained.
#pragma once

#include <fibula/lane.hpp>
#include <fibula/project.hpp>
#include <fibula/result.hpp>

#include <filesystem>
#include <string>
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

/// Runs a command to its end and keeps its output, in English wording. Words of the form NAME=VALUE before the program
/// are for its environment, as in a shell. Errors: missing_tool.
FIBULA_API Result<Heard> run_and_listen(const std::vector<std::string>& command);

/// The variables by which a user tells loaders where to look: a program that starts only with them is not done.
FIBULA_API std::vector<std::string> loader_variables();

/// Runs a command to its end with this terminal's input and output, and without `loader_variables`. Gives its exit
/// status. Errors: missing_tool.
FIBULA_API Result<int> run_in_foreground(const std::vector<std::string>& command);

}  // namespace fibula
