/// Results that cannot be written.
#include "diagnose/findings.hpp"

#include "base/quoting.hpp"

#include <fmt/format.h>

namespace fibula {
namespace {

struct OutputRow {
  std::string_view why;
  std::string_view remedy;
};

constexpr OutputRow output_rows[] = {
    {"Is a directory", "a folder has that name: name another file, or take the folder away"},
    {"No such file or directory", "make its folder first"},
    {"Permission denied", "it may not be written there: name another place, or look whose file it is"},
    {"Text file busy", "the program is running: end it first"},
    {"for writing", "the program runs, or is open in a debugger: end it first"},
    {"No space left on device", "the disk is full: make room"},
    {"Read-only file system", "the disk is not to be written to: name another place"},
};

/// A result that could not be written; the reason is the system's.
Finding told_of(const std::string& name, const std::string& why) {
  Finding finding{.cause = "result-not-written",
                  .stage = "link",
                  .subject = name.empty() ? "the output" : name,
                  .certainty = "read"};
  finding.because = {why};
  finding.remedy = "look at the place where it is to be written";
  for (const auto& row : output_rows) {
    if (finding.because.front().find(row.why) != std::string::npos) finding.remedy = row.remedy;
  }
  return finding;
}

}  // namespace

Finding unwritten_output(const Complaint& complaint) {
  if (complaint.teller == Complaint::Teller::microsoft)
    return told_of(complaint.name, "the linker cannot open it for writing");
  return told_of(complaint.name, complaint.detail.empty() ? "No space left on device" : complaint.detail);
}

std::optional<Finding> output_finding(const ToolCommand& command) {
  if (command.output.empty() || command.only_preprocesses) return std::nullopt;
  const fs::path file = (command.folder / command.output).lexically_normal(), folder = file.parent_path();
  std::error_code ignored;
  const std::string name = command.output.string();
  if (fs::is_directory(file, ignored)) return told_of(name, fmt::format("{}: Is a directory", name));
  if (fs::exists(folder, ignored)) return std::nullopt;
  const std::string shown = shown_from(command.folder, folder);
  Finding finding = told_of(name, fmt::format("{}: No such file or directory", shown));
  finding.culprits = {shown};
  finding.edit = "mkdir -p " + shell_word(shown);
  return finding;
}

}  // namespace fibula
