#include "build/failures.hpp"

#include "base/quoting.hpp"
#include "os/folder.hpp"

#include <fmt/format.h>

namespace fibula {

bool can_be_explained(const BuildStep& step) {
  return !step.good && (step.library.empty() || step.kind == BuildStep::Kind::compile);
}

std::string failure_log(const Project& project, const BuildReport& report) {
  std::string log;
  for (const auto& step : report.steps) {
    if (!can_be_explained(step)) continue;
    log += fmt::format("cd {} && {}\n{}", shell_word(project.root().string()), shell_words(step.command), step.log);
    if (!log.ends_with('\n')) log += '\n';
  }
  return log;
}

fs::path last_failure_log(const Project& project) {
  return project.root() / ".fibula" / "failed.log";
}

Result<void> forget_failures(const Project& project) {
  const auto folder = Folder::open(project.root() / ".fibula");
  if (!folder) return folder.error().code == Code::absent ? Result<void>() : fail(folder.error());
  return without_value(folder->remove(last_failure_log(project).filename().string()));
}

Result<void> keep_failures(const Project& project, const std::vector<Result<BuildReport>>& reports) {
  std::string log;
  for (const auto& report : reports) {
    if (report) log += failure_log(project, *report);
  }
  if (log.empty()) return {};
  return write_in(project.root(), shown_from(project.root(), last_failure_log(project)), log, Flush::later);
}

}  // namespace fibula
