#include <fibula/run.hpp>

#include "base/text.hpp"
#include "os/process.hpp"

namespace fibula {

std::vector<std::string> run_command(const Lane& lane, const std::filesystem::path& program,
                                     const std::vector<std::string>& arguments) {
  std::vector<std::string> command;
  for (const auto word : text::words(lane.start_through)) command.emplace_back(word);
  command.push_back(program.string());
  command.insert(command.end(), arguments.begin(), arguments.end());
  return command;
}

Result<Heard> run_and_listen(const std::vector<std::string>& command) {
  auto outcome = run({.argv = command, .limit = std::chrono::milliseconds(0), .environment = {{"LC_ALL", "C.UTF-8"}}});
  if (!outcome) return pass(outcome);
  return Heard{outcome->status, std::move(outcome->out), std::move(outcome->err)};
}

std::vector<std::string> loader_variables() {
  return {"LD_LIBRARY_PATH", "DYLD_LIBRARY_PATH", "DYLD_FALLBACK_LIBRARY_PATH", "DYLD_FRAMEWORK_PATH", "WINEPATH"};
}

Result<int> run_in_foreground(const std::vector<std::string>& command) {
  auto outcome =
      run({.argv = command, .limit = std::chrono::milliseconds(0), .without = loader_variables(), .foreground = true});
  if (!outcome) return pass(outcome);
  return outcome->status;
}

}  // namespace fibula
