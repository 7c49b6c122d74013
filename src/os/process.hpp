/// Other programs, run by argument vector: never through a shell, always with a time limit, output kept per child.
#pragma once

#include <fibula/result.hpp>

#include <chrono>
#include <cstdint>
#include <filesystem>
#include <functional>
#include <memory>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

namespace fibula {

struct Command {
  std::vector<std::string> argv;                               ///< argv[0] is looked up in PATH unless it holds a slash
  std::filesystem::path directory = {};                        ///< empty: the current one
  std::chrono::milliseconds limit = std::chrono::minutes(10);  ///< zero: none
  std::vector<std::pair<std::string, std::string>> environment = {};  ///< set in addition to what is inherited
  std::vector<std::string> without = {};                              ///< variables that are not inherited
  bool foreground = false;  ///< keeps the terminal's input and output; nothing is collected
  /// Gets what it prints as it comes, and whether that is its error output. Of more than is kept, the last is kept.
  std::function<void(std::string_view text, bool error)> heard = {};
};

struct Outcome {
  int status = 0;  ///< exit status; 128 + signal number when a signal ended it
  int signal = 0;
  bool timed_out = false;
  std::string out = {};
  std::string err = {};

  bool good() const { return status == 0 && !timed_out; }
};

/// Runs commands side by side. Not safe to use from two threads.
class ProcessPool {
 public:
  ProcessPool();
  ~ProcessPool();
  ProcessPool(const ProcessPool&) = delete;
  ProcessPool& operator=(const ProcessPool&) = delete;

  /// Starts a command; `done` is called from `wait` when it has ended. Errors: missing_tool when there is no such
  /// program.
  Result<void> start(const Command& command, std::function<void(Outcome)> done);
  /// Waits until at least one running command has ended and its `done` was called, or for this long (zero: as long as
  /// it takes); false when none is running.
  bool wait(std::chrono::milliseconds at_most = {});
  enum class End { ask, at_once };
  /// Ends the commands that run, with all that they started; `wait` sees them end.
  void end_all(End how);
  size_t running() const;

 private:
  struct State;
  std::unique_ptr<State> state_;
};

/// "Segmentation fault".
std::string signal_name(int signal);
/// The number of this process.
int process_number();

/// Runs one command to its end. Errors: missing_tool.
Result<Outcome> run(const Command& command);

/// The absolute path of a program, by PATH unless it holds a slash. Errors: missing_tool.
Result<std::filesystem::path> find_program(std::string_view name);

}  // namespace fibula
