/// Makefiles as their lines are meant (POSIX.1-2017, "make").
#pragma once

#include <string>
#include <vector>

namespace fibula {

/// A line with what follows it behind back-slashes, without its comment.
struct LogicalLine {
  std::string text;
  unsigned number = 0;
  bool recipe = false;  ///< handed to the shell
};

std::vector<LogicalLine> logical_lines(const std::string& makefile);

/// By its name alone: `Makefile.am`, `rules.mk`.
bool is_makefile_name(const std::string& file);

}  // namespace fibula
