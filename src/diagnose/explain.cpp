#include <fibula/explain.hpp>

#include "diagnose/diagnosis.hpp"
#include "diagnose/load_causes.hpp"
#include "diagnose/shell_words.hpp"
#include "diagnose/undefined_text.hpp"

#include <algorithm>
#include <set>

namespace fibula {
namespace {

using What = Complaint::Kind;

constexpr size_t most_findings = 3;

bool is_of_compiler(const Complaint& complaint) {
  return complaint.kind <= What::source_missing;
}
bool is_of_linker(const Complaint& complaint) {
  return complaint.kind >= What::undefined && complaint.kind <= What::dll_on_line;
}

class Explainer {
 public:
  explicit Explainer(const ExplainContext& context) : context_(context), diagnosis_(context) {}

  std::vector<Finding> explain(std::string_view text) {
    log_ = read_log(text, absolute_path(context_.folder));
    std::vector<Complaint> of_compiler, of_linker, of_loader, others;
    for (const auto& complaint : log_.complaints) {
      auto& group = is_of_compiler(complaint)      ? of_compiler
                    : is_of_linker(complaint)      ? of_linker
                    : is_of_loader(complaint.kind) ? of_loader
                                                   : others;
      group.push_back(complaint);
    }
    // What is compiled comes before what is linked, and that before what is started.
    if (!of_compiler.empty()) explain_compile(of_compiler);
    if (findings_.empty() && !of_linker.empty()) explain_link(of_linker);
    if (!of_loader.empty()) add(load_findings(of_loader, context_));
    if (findings_.empty() && !others.empty()) {
      // What a program cannot open, or a driver does not start, can have its reason in the command.
      if (const auto command = command_before(others.front(), false)) add(diagnosis_.foresee(*command));
      if (findings_.empty()) by_words(others);
    }
    if (findings_.empty() && !context_.command.empty()) {
      // Words that are not known here; the files may tell all the same.
      const auto command = read_command(context_.command, absolute_path(context_.folder));
      if (command.tool != Tool::program) add(diagnosis_.foresee(command));
    }
    if (findings_.empty() && !log_.complaints.empty()) findings_.push_back(unknown(log_.complaints.front()));
    if (findings_.size() > most_findings) findings_.resize(most_findings);
    return std::move(findings_);
  }

 private:
  void add(std::vector<Finding> more) {
    findings_.insert(findings_.end(), std::make_move_iterator(more.begin()), std::make_move_iterator(more.end()));
  }

  /// The command that was run, or the last one of the log before a complaint that does such a thing.
  std::optional<ToolCommand> command_before(const Complaint& complaint, bool links) const {
    if (!context_.command.empty() && (log_.commands.empty() || is_tool_command(context_.command)))
      return read_command(context_.command, absolute_path(context_.folder));
    // make, ninja and scripts show what they run.
    for (auto it = log_.commands.rbegin(); it != log_.commands.rend(); ++it) {
      if (it->line > complaint.line) continue;
      auto command = read_command(it->words, it->folder);
      if (command.tool == Tool::archiver) continue;
      if (links ? command.links : !command.sources.empty()) return command;
    }
    return std::nullopt;
  }

  void explain_compile(const std::vector<Complaint>& complaints) {
    const auto command = command_before(complaints.front(), false);
    // A command that compiles nothing was refused by its linker, whatever its words look like.
    if (command && command->links && command->sources.empty()) return add(diagnosis_.foresee(*command));
    const ToolCommand* known = command && command->tool == Tool::driver ? &*command : nullptr;
    add(diagnosis_.settled(compile_findings(complaints, known, diagnosis_.evidence()), known));
  }

  void explain_link(const std::vector<Complaint>& complaints) {
    const auto command = command_before(complaints.front(), true);
    if (command) add(chosen(diagnosis_.foresee(*command), complaints));
    // A linker that missed no file had them all: they are on another machine, or gone since.
    if (lacks_files(findings_) && !misses_files(complaints)) findings_.clear();
    if (!findings_.empty()) return;
    add(undefined_by_text(complaints, diagnosis_.evidence()));
    by_words(complaints);
  }

  static bool lacks_files(const std::vector<Finding>& findings) {
    return std::any_of(findings.begin(), findings.end(), [](const Finding& finding) {
      return finding.cause == "file-not-found" || finding.cause == "library-not-found";
    });
  }
  static bool misses_files(const std::vector<Complaint>& complaints) {
    return std::any_of(complaints.begin(), complaints.end(), [](const Complaint& complaint) {
      return complaint.kind == What::library_missing || complaint.kind == What::library_skipped ||
             complaint.kind == What::file_missing || complaint.kind == What::source_missing;
    });
  }

  /// The text chooses among what the files prove: what the tool names comes first.
  static std::vector<Finding> chosen(std::vector<Finding> findings, const std::vector<Complaint>& complaints) {
    const auto is_named = [&](const Finding& finding) {
      return std::any_of(complaints.begin(), complaints.end(), [&](const Complaint& complaint) {
        return complaint.name == finding.subject ||
               (!complaint.file.empty() && complaint.file.find(finding.subject) != std::string::npos);
      });
    };
    std::stable_partition(findings.begin(), findings.end(), is_named);
    return findings;
  }

  void by_words(const std::vector<Complaint>& complaints) {
    for (const auto& complaint : complaints) {
      if (auto finding = finding_of_text(complaint)) findings_.push_back(std::move(*finding));
    }
  }

  static Finding unknown(const Complaint& complaint) {
    return {.cause = "unknown",
            .stage = is_of_compiler(complaint) ? "compile" : "link",
            .subject = complaint.user.empty() ? complaint.name : complaint.user,
            .because = {complaint.name},
            .remedy = "nothing that is known here explains it",
            .certainty = "guessed"};
  }

  const ExplainContext& context_;
  Diagnosis diagnosis_;
  ReadLog log_;
  std::vector<Finding> findings_;
};

}  // namespace

std::vector<Finding> explain(std::string_view log, const ExplainContext& context) {
  return Explainer(context).explain(log);
}

Result<std::vector<Finding>> check(const std::vector<std::string>& command, const ExplainContext& context) {
  if (command.empty()) return fail({.code = Code::usage, .what = "no command was given", .hint = "put it behind --"});
  Diagnosis diagnosis(context);
  const auto read = read_command(command, absolute_path(context.folder));
  if (auto cannot = diagnosis.not_looked_into(read)) return fail(std::move(*cannot));
  auto findings = diagnosis.foresee(read);
  if (findings.size() > most_findings) findings.resize(most_findings);
  return findings;
}

std::vector<Finding> check_all(std::string_view text, const ExplainContext& context) {
  auto commands = commands_in_database(text);
  if (commands.empty()) commands = read_log(text, absolute_path(context.folder)).commands;
  Diagnosis diagnosis(context);
  std::vector<Finding> all;
  std::set<std::pair<std::string, std::string>> told;
  for (const auto& each : commands) {
    for (auto& finding : diagnosis.foresee(read_command(each.words, each.folder))) {
      if (told.emplace(finding.cause, finding.subject).second) all.push_back(std::move(finding));
    }
  }
  return all;
}

std::vector<std::string> words_of(std::string_view line) {
  auto commands = shell_commands(line);
  return commands.empty() ? std::vector<std::string>() : std::move(commands.back());
}

}  // namespace fibula
