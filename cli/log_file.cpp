#include "log_file.hpp"

#include <filesystem>
#include <fstream>
#include <iostream>
#include <sstream>

namespace cli {

fibula::Result<std::string> read_log_file(const std::string& path) {
  std::ostringstream text;
  if (path.empty() || path == "-") {
    text << std::cin.rdbuf();
    return text.str();
  }
  // A pipe without a writer would make us wait, and a device gives for ever.
  std::error_code error;
  const auto kind = std::filesystem::status(path, error).type();
  if (kind != std::filesystem::file_type::regular && kind != std::filesystem::file_type::not_found)
    return fibula::fail({.code = fibula::Code::unreadable,
                         .what = "is not a regular file",
                         .file = path,
                         .hint = "name a log file; a pipe is read as standard input: fibula explain - <PIPE"});
  const std::ifstream stream(path, std::ios::binary);
  if (!stream)
    return fibula::fail({.code = fibula::Code::absent,
                         .what = "cannot be opened",
                         .file = path,
                         .hint = "name a log file, or put the command behind --"});
  text << stream.rdbuf();
  return text.str();
}

}  // namespace cli
