#include "diagnose/diagnosis.hpp"

#include "base/quoting.hpp"
#include "os/process.hpp"

#include <fmt/format.h>

namespace fibula {

std::vector<Finding> Diagnosis::look(const ToolCommand& command) {
  if (command.tool == Tool::program) return start_findings(command.words, evidence_);
  if (command.tool == Tool::archiver) return {};
  // What a log's command writes to was there when it ran, or is made by another one.
  auto output = evidence_.context().typed ? output_finding(command) : std::nullopt;
  if (output) return {std::move(*output)};
  for (const auto& source : command.tool == Tool::driver ? command.sources : std::vector<CommandFile>()) {
    std::error_code ignored;
    const std::string& word = command.words[source.word];
    if (!fs::exists(source.path, ignored))
      return compile_findings({{.kind = Complaint::Kind::source_missing, .name = word}}, &command, evidence_);
    const auto& compiled = evidence_.compile(command, source.path);
    if (compiled.good || compiled.said.empty()) continue;
    auto findings = compile_findings(read_log(compiled.said, command.folder).complaints, &command, evidence_);
    if (!findings.empty()) return findings;
  }
  return command.links ? link_findings(command, evidence_) : std::vector<Finding>();
}

namespace {

/// Files are named as the command names them: from its folder.
void name_from_folder(std::string& text, const std::string& folder) {
  for (size_t at = 0; (at = text.find(folder, at)) != std::string::npos;) text.erase(at, folder.size());
}

void name_from_folder(std::vector<Finding>& findings, const ToolCommand& command) {
  const std::string folder = command.folder.string() + "/";
  for (auto& finding : findings) {
    for (auto& text : finding.because) name_from_folder(text, folder);
    for (auto& text : finding.culprits) name_from_folder(text, folder);
    name_from_folder(finding.remedy, folder);
  }
}

}  // namespace

std::optional<Error> Diagnosis::not_looked_into(const ToolCommand& command) {
  const std::string& program = command.words.front();
  if (command.tool == Tool::archiver || (command.tool == Tool::program && !program_in(command.words, evidence_) &&
                                         start_findings(command.words, evidence_).empty()))
    return Error{
        .code = Code::usage,
        .what = "is no compiler, no linker, and no program whose file can be read",
        .file = program,
        .hint = fmt::format("run it and have explained what fails: fibula explain -- {}", shell_words(command.words))};
  if (command.tool == Tool::program) return std::nullopt;
  if (const auto found = find_program(program); !found) return found.error();
  const auto& toolchain = evidence_.toolchain(command);
  return toolchain || command.tool == Tool::linker ? std::nullopt : std::optional(toolchain.error());
}

std::vector<Finding> Diagnosis::foresee(const ToolCommand& command) {
  auto findings = settled(look(command), &command);
  name_from_folder(findings, command);
  return findings;
}

std::vector<Finding> Diagnosis::foresee_run(const ToolCommand& command) {
  auto findings = command.tool == Tool::program ? after_start_findings(command.words, evidence_)
                  : command.links               ? after_link_findings(command, evidence_)
                                                : std::vector<Finding>();
  name_from_folder(findings, command);
  return findings;
}

std::vector<Finding> Diagnosis::settled(std::vector<Finding> findings, const ToolCommand* command) {
  if (findings.empty() || command == nullptr || findings.front().command.empty()) return findings;
  Finding& first = findings.front();
  Words words = first.command;
  constexpr int rounds = 8;
  for (int round = 0; round < rounds; ++round) {
    const auto left = look(read_command(words, command->folder));
    if (left.empty()) {
      first.tried = true;
      break;
    }
    if (left.front().command.empty() || left.front().command == words) break;
    words = left.front().command;
  }
  // Half of an edit is told only where the rest is not known.
  if (first.tried && words != first.command) set_command(first, *command, std::move(words));
  return findings;
}

}  // namespace fibula
