#include <fibula/explain.hpp>

#include "base/toml.hpp"
#include "commands/shell_words.hpp"
#include "diagnose/diagnosis.hpp"
#include "diagnose/load_causes.hpp"
#include "diagnose/project_change.hpp"
#include "diagnose/undefined_text.hpp"
#include "facts/library_name.hpp"

#include <fmt/format.h>

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

/// Where changes lie is told once for those that follow each other there.
std::string said(const std::vector<ProjectChange>& changes, const fs::path& root) {
  using Kind = ProjectChange::Kind;
  std::string text;
  const ProjectChange* last = nullptr;
  for (const auto& change : changes) {
    const auto table = [](const ProjectChange& c) {
      return c.kind == Kind::attach || c.kind == Kind::line
                 ? std::string()
                 : (c.kind == Kind::add_to_library ? "library " : "") + c.name;
    };
    const bool there = last != nullptr && !table(change).empty() && table(*last) == table(change);
    const std::string one = to_string(change, root);
    text += (text.empty() ? "" : ", and ") + (there ? one.substr(one.find(": ") + 2) : one);
    last = &change;
  }
  return text;
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
      if (const auto* command = command_before(others.front(), false)) add(diagnosis_.foresee(*command));
      if (findings_.empty()) by_words(others);
    }
    if (findings_.empty() && !context_.command.empty()) {
      // Words that are not known here; the files may tell all the same.
      const auto command = read_command(context_.command, absolute_path(context_.folder));
      add(command.tool == Tool::program ? diagnosis_.foresee_run(command) : diagnosis_.foresee(command));
    }
    if (findings_.empty() && !log_.complaints.empty() && !of_library_)
      findings_.push_back(unknown(log_.complaints.front()));
    if (findings_.size() > most_findings) findings_.resize(most_findings);
    return std::move(findings_);
  }

 private:
  /// The same cause of the same thing is one finding, however many commands met it.
  void add(std::vector<Finding> more) {
    for (auto& finding : more) {
      const auto is_same = [&](const Finding& other) {
        return other.cause == finding.cause && other.subject == finding.subject && other.edit == finding.edit;
      };
      if (std::none_of(findings_.begin(), findings_.end(), is_same)) findings_.push_back(std::move(finding));
    }
  }

  /// The command that a complaint is about: the one that was run; of a log the last one before it that does such a
  /// thing, of several side by side the one that compiles the file.
  const ToolCommand* command_before(const Complaint& complaint, bool links) {
    if (!context_.command.empty() && (log_.commands.empty() || is_tool_command(context_.command))) {
      if (!given_) given_ = read_command(context_.command, absolute_path(context_.folder));
      return &*given_;
    }
    // make, ninja and scripts show what they run.
    const ToolCommand* last = nullptr;
    for (size_t i = log_.commands.size(); i-- > 0;) {
      if (log_.commands[i].line > complaint.line) continue;
      const ToolCommand& command = logged(i);
      if (command.tool == Tool::archiver) continue;
      if (links && command.links) return &command;
      if (links || command.sources.empty()) continue;
      if (compiles(command, complaint)) return &command;
      if (last == nullptr) last = &command;
    }
    return last;
  }

  const ToolCommand& logged(size_t index) {
    read_.resize(log_.commands.size());
    auto& command = read_[index];
    if (!command) command = read_command(log_.commands[index].words, log_.commands[index].folder);
    return *command;
  }

  /// Whether the file that a complaint begins in is a source of the command.
  static bool compiles(const ToolCommand& command, const Complaint& complaint) {
    const std::string& place = complaint.included_from.empty() ? complaint.user : complaint.included_from.back();
    return std::any_of(command.sources.begin(), command.sources.end(), [&](const CommandFile& source) {
      const std::string& word = command.words[source.word];
      return place.starts_with(word) &&
             (place.size() == word.size() || place[word.size()] == ':' || place[word.size()] == '(');
    });
  }

  /// Builds go on after a failure: each command with what was said of it.
  void explain_compile(const std::vector<Complaint>& complaints) {
    constexpr size_t most_commands = 16;
    std::vector<std::pair<const ToolCommand*, std::vector<Complaint>>> groups;
    for (const auto& complaint : complaints) {
      const ToolCommand* command = command_before(complaint, false);
      const auto is_same = [&](const auto& group) { return group.first == command; };
      auto group = std::find_if(groups.begin(), groups.end(), is_same);
      if (group == groups.end() && groups.size() == most_commands) continue;
      if (group == groups.end()) group = groups.insert(groups.end(), {command, {}});
      group->second.push_back(complaint);
    }
    for (const auto& [command, group] : groups) {
      if (findings_.size() >= most_findings) break;
      explain_one_compile(command, group);
    }
  }

  /// What a library asks its users to define, of several.
  static bool is_left_to_users(const Finding& finding) {
    return finding.cause == "header-needs-definition" && finding.command.empty() && finding.changes.empty() &&
           finding.certainty == "read";
  }

  void explain_one_compile(const ToolCommand* command, const std::vector<Complaint>& complaints) {
    // A command that compiles nothing was refused by its linker, whatever its words look like.
    if (command != nullptr && command->links && command->sources.empty()) return add(diagnosis_.foresee(*command));
    const ToolCommand* known = command != nullptr && command->tool == Tool::driver ? command : nullptr;
    auto findings = diagnosis_.settled(compile_findings(complaints, known, diagnosis_.evidence()), known);
    if (known != nullptr && context_.of_project) change_project(findings, *known);
    const std::string library =
        known != nullptr && context_.project != nullptr ? library_compiled_by(*context_.project, *known) : "";
    if (!library.empty()) {
      // A library's code is not the user's to mend: told is what the project can say, and what the compiler lacks.
      std::erase_if(findings, [](const Finding& finding) {
        return finding.changes.empty() && finding.cause != "thread-model" && !is_left_to_users(finding);
      });
      for (auto& finding : findings) {
        if (is_left_to_users(finding))
          finding.edit =
              fmt::format("in fibula.toml, [library.{}] definitions, or definitions in its card", toml::key(library));
      }
      // Its other sources fail for the same reason; what else mends one of them need not go with it.
      if (of_library_ && !findings_.empty()) findings.clear();
      of_library_ = true;
    }
    add(std::move(findings));
  }

  /// Nobody edits the commands of a project's build: what they are made from is.
  void change_project(std::vector<Finding>& findings, const ToolCommand& command) const {
    for (auto& finding : findings) {
      if (finding.command.empty()) continue;
      // What the source can say otherwise need not be put right by its build.
      auto changes = finding.changes.empty() ? changes_for(*context_.project, command, finding.command)
                                             : std::move(finding.changes);
      if (changes.empty() && finding.command.front() != command.words.front()) {
        finding.edit = fmt::format("in fibula.toml, at the lane: compiler = {}",
                                   toml::quote(fs::path(finding.command.front()).filename().string()));
        finding.command.clear();
      }
      if (changes.empty()) continue;
      finding.command.clear();
      finding.changes = std::move(changes);
      finding.edit = said(finding.changes, context_.project->root());
    }
  }

  void explain_link(const std::vector<Complaint>& complaints) {
    const ToolCommand* command = command_before(complaints.front(), true);
    if (command != nullptr) add(chosen(diagnosis_.foresee(*command), complaints));
    // A linker that missed no file had them all: they are on another machine, or gone since.
    if (lacks_files(findings_) && !misses_files(complaints)) findings_.clear();
    if (!context_.typed && !context_.of_project)
      std::erase_if(findings_,
                    [&](const Finding& finding) { return lacks_files({finding}) && !is_told(finding, complaints); });
    if (command != nullptr && names_absent_files(complaints, command->folder)) findings_.clear();
    if (!findings_.empty()) return;
    // A file that the linker did not take is why its names are missing.
    by_words(complaints);
    const bool not_taken = std::any_of(findings_.begin(), findings_.end(),
                                       [](const Finding& finding) { return finding.cause == "architecture"; });
    if (!not_taken) add(undefined_by_text(complaints, diagnosis_.evidence()));
  }

  /// Whether a linker missed the same: what else is absent here was there when it ran.
  static bool is_told(const Finding& finding, const std::vector<Complaint>& complaints) {
    return std::any_of(complaints.begin(), complaints.end(), [&](const Complaint& complaint) {
      const std::string& missed = complaint.name.empty() ? complaint.file : complaint.name;
      return !missed.empty() &&
             (missed.find(finding.subject) != std::string::npos || finding.subject.find(missed) != std::string::npos);
    });
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

  /// What the linker had in its hands, and is not here.
  static bool names_absent_files(const std::vector<Complaint>& complaints, const fs::path& folder) {
    return std::any_of(complaints.begin(), complaints.end(), [&](const Complaint& complaint) {
      if (complaint.kind != What::library_skipped && complaint.kind != What::wrong_machine) return false;
      const std::string file = complaint.file.substr(0, complaint.file.find('('));
      std::error_code ignored;
      return !file.empty() && !fs::exists(folder / file, ignored);
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

  /// What is said of one file, for one cause, is one finding.
  void by_words(const std::vector<Complaint>& complaints) {
    for (const auto& complaint : complaints) {
      if (is_explained(complaint, complaints)) continue;
      auto finding = finding_of_text(complaint);
      if (!finding) continue;
      if (complaint.kind == What::file_missing) look_for(complaint, *finding);
      const auto same = std::find_if(findings_.begin(), findings_.end(), [&](const Finding& other) {
        return !finding->culprits.empty() && other.cause == finding->cause && other.culprits == finding->culprits;
      });
      if (same == findings_.end()) {
        findings_.push_back(std::move(*finding));
      } else if (std::find(same->because.begin(), same->because.end(), finding->because.front()) ==
                 same->because.end()) {
        same->because.push_back(std::move(finding->because.front()));
      }
    }
  }

  /// What a build is to use and is not where it says, by its name near by.
  void look_for(const Complaint& complaint, Finding& finding) {
    if (!complaint.user.empty()) finding.because.push_back(fmt::format("{} is made from it", complaint.user));
    const fs::path folder = absolute_path(context_.folder), asked = complaint.file;
    if (has_library_name(asked)) finding.cause = "library-not-found";
    const std::string name = asked.filename().string();
    std::vector<std::string> found;
    for (const auto& file : diagnosis_.evidence().files_near({.words = {}, .folder = folder}, {name})) {
      if (file.filename() == name && file != (folder / asked).lexically_normal())
        found.push_back(shown_from(folder, file));
    }
    constexpr size_t most = 3;
    for (size_t i = 0; i < std::min(most, found.size()); ++i) {
      finding.culprits.push_back(found[i]);
      finding.because.push_back(fmt::format("{} has that name", found[i]));
    }
    if (!found.empty()) finding.remedy = fmt::format("correct its path where the build is written: {}", found.front());
  }

  /// Linkers tell of each file that they pass over: that is why they find none in the end, or it does not matter.
  static bool is_explained(const Complaint& complaint, const std::vector<Complaint>& all) {
    const bool skipped = complaint.kind == What::library_skipped;
    if ((!skipped && complaint.kind != What::library_missing) || complaint.name.empty()) return false;
    const auto other = skipped ? What::library_missing : What::library_skipped;
    const bool both = std::any_of(all.begin(), all.end(), [&](const Complaint& each) {
      return each.kind == other && each.name == complaint.name;
    });
    return skipped != both;
  }

  static Finding unknown(const Complaint& complaint) {
    const std::string& said = complaint.detail.empty() ? complaint.name : complaint.detail;
    return {.cause = "unknown",
            .stage = is_of_compiler(complaint) ? "compile" : "link",
            .subject = complaint.user.empty() ? said : complaint.user,
            .because = {said},
            .remedy = "nothing that is known here explains it",
            .certainty = "guessed"};
  }

  const ExplainContext& context_;
  Diagnosis diagnosis_;
  ReadLog log_;
  std::optional<ToolCommand> given_;
  std::vector<std::optional<ToolCommand>> read_;  ///< of the log's commands, those that were looked at
  std::vector<Finding> findings_;
  bool of_library_ = false;  ///< a library's own sources failed
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
  if (findings.empty()) findings = diagnosis.foresee_run(read);
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
    const auto command = read_command(each.words, each.folder);
    auto findings = diagnosis.foresee(command);
    if (findings.empty()) findings = diagnosis.foresee_run(command);
    for (auto& finding : findings) {
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
