/// What would keep a program from starting, before it is started.
#include "diagnose/findings.hpp"
#include "diagnose/load_causes.hpp"
#include "os/host.hpp"

#include <fibula/closure.hpp>

#include <algorithm>
#include <unordered_set>

namespace fibula {
namespace {

using What = Complaint::Kind;

/// The program that words start: behind an emulator and its options, where there is one.
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

}  // namespace

std::vector<Finding> start_findings(const std::vector<std::string>& words, Evidence& evidence) {
  const auto program = program_in(words, evidence);
  if (!program) return {};
  const auto closure = closure_of(*program);
  if (!closure) return {};
  std::vector<Complaint> complaints;
  for (const auto& entry : *closure) {
    if (is_bad(entry)) complaints.push_back(complaint_of(entry, *program));
  }
  if (complaints.empty()) complaints = missing_symbols(*closure, *program);
  ExplainContext context = evidence.context();
  context.command = {program->string()};
  return load_findings(complaints, context);
}

}  // namespace fibula
