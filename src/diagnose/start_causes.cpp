/// What would keep a program from starting, before it is started.
#include "base/quoting.hpp"
#include "base/text.hpp"
#include "diagnose/findings.hpp"
#include "diagnose/load_causes.hpp"
#include "diagnose/near_files.hpp"
#include "diagnose/start_words.hpp"
#include "os/host.hpp"

#include <fibula/closure.hpp>

#include <fmt/format.h>
#include <algorithm>
#include <map>
#include <unordered_set>

namespace fibula {
namespace {

using What = Complaint::Kind;

Complaint complaint_of(const ClosureEntry& entry, const fs::path& program) {
  Complaint complaint{.kind = What::missing, .name = entry.name, .user = entry.needed_by, .program = program.string()};
  switch (entry.status) {
    case NeedStatus::wrong_architecture: complaint.kind = What::wrong_arch; break;
    case NeedStatus::lacks_version:
      complaint.kind = What::version;
      complaint.name = entry.path;
      complaint.detail = entry.lacks;
      break;
    case NeedStatus::lacks_symbol:
      complaint.kind = What::symbol;
      complaint.name = entry.lacks;
      complaint.file = entry.name;
      break;
    case NeedStatus::unloadable:
      complaint.kind = What::unloadable;
      complaint.name = entry.path.empty() ? entry.name : entry.path;
      complaint.detail = entry.why;
      break;
    default: break;
  }
  return complaint;
}

/// Names that a file of the closure needs, and no file of it shows.
std::vector<Complaint> missing_symbols(const std::vector<ClosureEntry>& closure, const fs::path& program) {
  std::vector<fs::path> files{program};
  for (const auto& entry : closure) {
    if (!entry.path.empty()) files.emplace_back(entry.path);
  }
  std::unordered_set<std::string> shown;
  std::vector<std::pair<std::string, fs::path>> wanted;
  for (const auto& file : files) {
    const auto opened = open_binary(file, want_symbols | want_dynamic);
    const Image* image = opened ? opened->image() : nullptr;
    if (image == nullptr || image->target.format != Format::elf) return {};
    for (const auto& symbol : image->dynamic_symbols) {
      if (symbol.defined) {
        shown.emplace(symbol.name);
      } else if (symbol.binding == Binding::global && !symbol.name.empty()) {
        wanted.emplace_back(symbol.name, file);
      }
    }
  }
  std::vector<Complaint> complaints;
  for (const auto& [name, file] : wanted) {
    if (!shown.contains(name))
      complaints.push_back({.kind = What::symbol, .name = name, .user = file.string(), .program = program.string()});
  }
  return complaints;
}

Result<std::vector<ClosureEntry>> closure_with(const std::vector<std::string>& words, const fs::path& program,
                                               Evidence& evidence) {
  const fs::path folder = absolute_path(evidence.context().folder);
  return closure_of(program, {.variable_directories = library_variable(words, folder)});
}

/// What lies beside who asks for it, and no run path leads there: glibc's and musl's loaders do not look.
bool is_only_beside(const ClosureEntry& entry, Evidence& evidence) {
  if (entry.status != NeedStatus::by_luck || !entry.why.starts_with("lies beside")) return false;
  const auto& user = evidence.facts(entry.needed_by);
  if (!user || user->format.value != Format::elf) return false;
  for (const auto* paths : {&user->runpath, &user->rpath}) {
    for (const auto& path : paths->value.value_or(std::vector<std::string>())) {
      if (!path.starts_with('/') && !path.starts_with('$')) return false;
    }
  }
  return true;
}

/// What the system says before any loader looks.
std::optional<Complaint> refused_by_the_system(const std::vector<std::string>& words, const fs::path& program,
                                               Evidence& evidence) {
  // Emulators and shells start what the system itself would not.
  if ((absolute_path(evidence.context().folder) / words.front()).lexically_normal() != program) return std::nullopt;
  std::error_code ignored;
  const auto mode = fs::status(program, ignored).permissions();
  const auto any = fs::perms::owner_exec | fs::perms::group_exec | fs::perms::others_exec;
  if ((mode & any) == fs::perms::none) return Complaint{.kind = What::permission, .name = program.string()};
  const auto opened = open_binary(program, want_dynamic);
  const Image* image = opened ? opened->image() : nullptr;
  if (image == nullptr || image->target.format != Format::elf) return std::nullopt;
  const std::string loader(image->interpreter.value_or(std::string_view()));
  if (image->target.arch == host_architecture() && !loader.empty() && !fs::exists(loader, ignored))
    return Complaint{.kind = What::no_loader, .name = program.string(), .detail = loader};
  return std::nullopt;
}

/// The address sanitizer's run-time wants to come first (compiler-rt, asan_linux.cpp): where only a library needs it,
/// it does not.
bool loads_sanitizer_late(const std::vector<ClosureEntry>& closure) {
  const auto is_asan = [](const ClosureEntry& entry) { return entry.name.starts_with("libasan.so"); };
  const auto found = std::find_if(closure.begin(), closure.end(), is_asan);
  return found != closure.end() && found != closure.begin();
}

/// A script whose interpreter is not there.
std::vector<Finding> script_findings(const std::vector<std::string>& words, const fs::path& folder) {
  for (const auto& word : words) {
    const fs::path file = (folder / word).lexically_normal();
    std::error_code ignored;
    if (word.find('/') == std::string::npos || !fs::is_regular_file(file, ignored)) continue;
    const auto text = read_text(file, 1U << 20U);
    if (!text || !text->starts_with("#!")) return {};
    const std::string line = text->substr(2, text->find('\n') - 2);
    const std::string name(text::trim(std::string_view(line).substr(0, line.find_first_of(" \t", 2))));
    const bool windows = line.ends_with('\r');
    if (name.empty() || (fs::exists(name, ignored) && !windows)) return {};
    Finding finding{.cause = "script-interpreter", .stage = "load", .subject = word, .certainty = "read"};
    finding.culprits = {name};
    finding.because = {
        windows ? fmt::format("the first line of {} ends in a carriage return: no program {}\\r is there", word, name)
                : fmt::format("the first line of {} names {}, and that is not there", word, name)};
    finding.remedy =
        windows ? "end its lines as this system does" : fmt::format("install {}, or correct that line", name);
    if (windows) finding.edit = fmt::format("sed -i 's/\\r$//' {}", shell_word(word));
    return {finding};
  }
  return {};
}

std::string file_name_of(const std::string& path) {
  return fs::path(path).filename().string();
}

/// A name that both give out without a version of their own: of two, all users get the first one's.
std::optional<std::string> given_out_twice(const std::string& one, const std::string& other) {
  std::unordered_set<std::string> names;
  std::optional<std::string> both;
  for (const auto& path : {one, other}) {
    const auto opened = open_binary(path, want_symbols | want_dynamic);
    const Image* image = opened ? opened->image() : nullptr;
    if (image == nullptr || image->target.format != Format::elf || !image->defined_versions.empty())
      return std::nullopt;
    for (const auto& symbol : image->dynamic_symbols) {
      if (!symbol.defined || symbol.binding != Binding::global || symbol.name.starts_with('_')) continue;
      if (!names.emplace(symbol.name).second && path == other && !both) both = symbol.name;
    }
  }
  return both;
}

/// One library in two versions, each for others of its users.
std::vector<Finding> copies_in(const std::vector<ClosureEntry>& closure) {
  std::vector<Finding> findings;
  std::map<std::string, const ClosureEntry*> first;
  for (const auto& entry : closure) {
    if (entry.path.empty()) continue;
    const auto [known, fresh] = first.emplace(shared_stem(file_name_of(entry.path)), &entry);
    const auto name = fresh ? std::nullopt : given_out_twice(known->second->path, entry.path);
    if (!name) continue;
    const ClosureEntry& other = *known->second;
    Finding finding{.cause = "two-copies", .stage = "run", .subject = known->first, .certainty = "read"};
    finding.culprits = {other.path, entry.path};
    finding.because = {
        fmt::format("{} asks for {}, and {} for {}", other.needed_by, other.name, entry.needed_by, entry.name),
        fmt::format("both give out {}: whoever calls it gets that of {}", *name, other.name)};
    finding.remedy = fmt::format("build {} and {} against one version of it", file_name_of(other.needed_by),
                                 file_name_of(entry.needed_by));
    findings.push_back(std::move(finding));
  }
  return findings;
}

}  // namespace

std::optional<fs::path> program_in(const std::vector<std::string>& words, Evidence& evidence) {
  const fs::path folder = absolute_path(evidence.context().folder);
  for (const auto& word : words) {
    if (word.find('/') == std::string::npos && word.find('.') == std::string::npos) continue;
    const fs::path file = (folder / word).lexically_normal();
    std::error_code ignored;
    if (!fs::is_regular_file(file, ignored) || file.string().starts_with("/usr/")) continue;
    const auto& facts = evidence.facts(file);
    if (facts && (facts->kind.value == Kind::program || facts->kind.value == Kind::shared_library)) return file;
  }
  return std::nullopt;
}

std::vector<Finding> start_findings(const std::vector<std::string>& words, Evidence& evidence) {
  const auto program = program_in(words, evidence);
  if (!program) return script_findings(words, absolute_path(evidence.context().folder));
  ExplainContext context = evidence.context();
  // With the variables before it, and without what emulates its machine.
  std::erase_if(context.command, [](const std::string& word) { return word.find('=') == std::string::npos; });
  context.command.push_back(program->string());
  if (const auto refused = refused_by_the_system(words, *program, evidence)) return load_findings({*refused}, context);
  const auto closure = closure_with(words, *program, evidence);
  if (!closure) return {};
  std::vector<Complaint> complaints;
  for (const auto& entry : *closure) {
    if (is_bad(entry) || is_only_beside(entry, evidence)) complaints.push_back(complaint_of(entry, *program));
  }
  if (complaints.empty() && loads_sanitizer_late(*closure))
    complaints.push_back({.kind = What::sanitizer, .name = "libasan", .program = program->string()});
  if (complaints.empty()) complaints = missing_symbols(*closure, *program);
  return load_findings(complaints, context);
}

std::vector<Finding> after_start_findings(const std::vector<std::string>& words, Evidence& evidence) {
  const auto program = program_in(words, evidence);
  const auto closure = program ? closure_with(words, *program, evidence) : Result<std::vector<ClosureEntry>>(fail({}));
  if (!closure) return {};
  auto findings = copies_in(*closure);
  for (auto& finding : layout_findings(*program, *closure, absolute_path(evidence.context().folder)))
    findings.push_back(std::move(finding));
  return findings;
}

}  // namespace fibula
