/// A log line by line: the commands that were run, where, and what was said about them.
#pragma once

#include "commands/complaint.hpp"

#include <filesystem>

namespace fibula {

/// A command that a log shows.
struct LoggedCommand {
  std::vector<std::string> words;
  std::filesystem::path folder;  ///< where it ran, as far as the log tells
  size_t line = 0;
};

struct ReadLog {
  std::vector<Complaint> complaints;    ///< each once, in order
  std::vector<LoggedCommand> commands;  ///< in order; of many the last ones
  bool shortened = false;               ///< there was more than is kept
};

/// Reads what make, ninja, `sh -x` and verbose builds print, in UTF-8 or UTF-16, with colours and links of terminals.
/// `folder`: where the log's first command ran.
ReadLog read_log(std::string_view text, const std::filesystem::path& folder);

/// The commands of a compilation database (Clang's documentation, "JSON Compilation Database Format"); nothing when the
/// text is none.
std::vector<LoggedCommand> commands_in_database(std::string_view text);

}  // namespace fibula
