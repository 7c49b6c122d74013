/// The state that a command's inputs had before it read them.
#pragma once

#include "jobs/record.hpp"

#include <filesystem>
#include <unordered_map>

namespace fibula {

class InputStates {
 public:
  /// Takes the state of the inputs that are known before the command starts, and waits until a change from now on would
  /// be seen: of them, and of what was changed after `began`. What `record` knows to be as it was made is not looked
  /// at: thousands of objects go into one link.
  void take(const std::vector<std::string>& inputs, int64_t began, const BuildRecord& record);
  /// The states of all inputs now that it has ended. An input that changed while the command ran has a state that
  /// nothing is in: the next build makes the product again.
  std::vector<FileState> states_after(std::vector<std::string> inputs, const BuildRecord& record) const;
  /// Those of the folders around the inputs, and of others in which they were looked for.
  std::vector<FileState> folders_after(const std::vector<std::string>& inputs,
                                       const std::vector<std::string>& searched) const;

 private:
  std::unordered_map<std::string, Stamp> before_;
  int64_t started_ = 0;
};

/// The inputs that the text of a dependency file names, absolute. Files that tools made for themselves for a moment
/// (`/tmp/ccXYZ.s`) are none; others that are gone were there when the command read them.
std::vector<std::string> inputs_told_by(const std::string& dependencies, const std::filesystem::path& directory);

}  // namespace fibula
