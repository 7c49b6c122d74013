/// One command of a build.
#pragma once

#include <cstdint>
#include <filesystem>
#include <memory>
#include <string>
#include <vector>

namespace fibula {

/// Stands in a job's command where the path of what it makes belongs: it is made elsewhere first.
inline constexpr char product_mark = '\1';

struct Job {
  enum class Kind : uint8_t { compile, archive, link, image, steps };

  Kind kind;
  std::string lane;
  std::string subject;  ///< what people call it: the source, or the output
  std::string product;  ///< the file that it makes; absolute
  std::vector<std::string> command;
  std::vector<std::string> through = {};  ///< put before the command: has no part in what it makes
  std::string identity = {};              ///< what decides beside the command: who the compiler is, its environment
  std::filesystem::path directory = {};   ///< in which the command runs
  std::filesystem::path workshop = {};    ///< a folder for what is being made, on the product's file system
  std::vector<std::string> inputs = {};   ///< files that it reads, as far as they are known before
  /// Folders in which a new file could hide an input.
  std::shared_ptr<const std::vector<std::string>> searched = {};
  bool tells_inputs = false;  ///< it writes their names to `<product>.d`, and perhaps more to `<product>.asm.d`
  std::vector<std::string> lister = {};  ///< a command that prints them, for tools that write no such file
  bool contained = false;                ///< its failure stops nothing but what waits for it
  bool in_place = false;  ///< it writes further files beside the product, or their names into it: made where it belongs
};

/// The digest of all that decides what a job makes from its inputs.
uint64_t command_digest(const Job& job);

/// The command with a path in place of the mark.
std::vector<std::string> command_making(const Job& job, const std::string& path);

}  // namespace fibula
