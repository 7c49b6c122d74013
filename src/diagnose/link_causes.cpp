/// A link from its first input to its last name.
#include "base/quoting.hpp"
#include "base/text.hpp"
#include "commands/log_reader.hpp"
#include "diagnose/findings.hpp"
#include "facts/library_name.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

/// MSVC-style objects that were compiled for different forms of the C run-time.
std::vector<Finding> flavour_findings(const LinkScene& scene) {
  const SceneInput* first = nullptr;
  std::string flavour;
  for (const auto& input : scene.inputs()) {
    if (input.file.empty()) continue;
    const auto& facts = scene.evidence().facts(input.file);
    if (!facts || !facts->c_runtime.value || !facts->c_runtime.value->starts_with("msvc-")) continue;
    if (facts->kind.value != Kind::object && facts->kind.value != Kind::static_library) continue;
    if (first == nullptr) {
      first = &input;
      flavour = *facts->c_runtime.value;
    } else if (*facts->c_runtime.value != flavour) {
      Finding finding{
          .cause = "runtime-flavour", .stage = "link", .subject = shown_in(scene, input.file), .certainty = "read"};
      finding.culprits = {shown_in(scene, first->file), shown_in(scene, input.file)};
      finding.because = {
          fmt::format("{} was compiled for the C run-time {} ({})", shown_in(scene, first->file), flavour,
                      scene.evidence().facts(first->file)->c_runtime.from),
          fmt::format("{} for {} ({})", shown_in(scene, input.file), *facts->c_runtime.value, facts->c_runtime.from)};
      finding.remedy = "compile both with the same of /MD, /MDd, /MT and /MTd, or link the build that was";
      return {finding};
    }
  }
  return {};
}

/// A Windows link whose objects do not say how the program begins.
std::vector<Finding> subsystem_findings(const LinkScene& scene) {
  const ToolCommand& command = scene.command();
  if (command.family != CompilerFamily::msvc || command.tool != Tool::linker || command.shared ||
      !command.entry.empty() || !command.subsystem.empty())
    return {};
  for (const auto& input : scene.inputs()) {
    bool begins = false;
    const auto look = [&](const SymbolView& s) {
      begins = begins || (s.defines && (s.name == "main" || s.name == "WinMain" || s.name == "wmain" ||
                                        s.name == "wWinMain" || s.name == "_main"));
    };
    if (!input.file.empty() && visit_symbols(input.file, look) && begins) return {};
  }
  Finding finding{.cause = "subsystem", .stage = "link", .subject = command.output.string(), .certainty = "read"};
  finding.because = {"no object has main or WinMain, and the command names neither /subsystem nor /entry"};
  finding.remedy = "name them: /subsystem:console and /entry:NAME; or /dll for a library";
  return {finding};
}

/// `gcc tide.c -o tide.o`: a link, by its words, where an object was meant. What only compiles needs no library.
std::vector<Finding> meant_to_compile(const LinkScene& scene, const Rehearsal& rehearsal) {
  const ToolCommand& command = scene.command();
  const fs::path ending = command.output.extension();
  const bool object =
      command.tool == Tool::driver && command.sources.size() == 1 && (ending == ".o" || ending == ".obj");
  const bool headless = std::any_of(rehearsal.unresolved.begin(), rehearsal.unresolved.end(),
                                    [](const Unresolved& u) { return u.symbol == "main" || u.symbol == "_main"; });
  if (!object || !headless) return {};
  Finding finding{.cause = "entry", .stage = "link", .subject = "main", .certainty = "read"};
  finding.because = {fmt::format("the command links, and {} is a name for an object", command.output.string())};
  finding.remedy = "compile only: add -c";
  set_command(finding, command, with_put_before(command, {"-c"}));
  return {finding};
}

/// Whether everything has room is known when it is laid out: where a script names memory, its linker is asked.
std::vector<Finding> placed_findings(const LinkScene& scene) {
  const ToolCommand& command = scene.command();
  if (command.scripts.empty() || command.family == CompilerFamily::msvc) return {};
  const auto& linked = scene.evidence().link(command);
  if (linked.good) return {};
  std::vector<Finding> findings;
  for (const auto& complaint : read_log(linked.said, command.folder).complaints) {
    auto finding = complaint.kind == Complaint::Kind::no_room ? finding_of_text(complaint) : std::nullopt;
    if (!finding) continue;
    auto known = std::find_if(findings.begin(), findings.end(),
                              [&](const Finding& other) { return other.subject == finding->subject; });
    if (known == findings.end()) {
      finding->certainty = "read";
      finding->culprits = {shown_in(scene, command.scripts.front())};
      known = findings.insert(findings.end(), std::move(*finding));
    }
    const bool bytes = complaint.detail.find_first_not_of("0123456789") == std::string::npos;
    if (bytes && !complaint.detail.empty())
      known->because.push_back(fmt::format("it is {} bytes too much", complaint.detail));
  }
  return findings;
}

std::vector<Finding> findings_of(const LinkScene& scene) {
  auto findings = input_findings(scene);
  // Without its files nearly everything is undefined, and saying so would hide the cause.
  if (!findings.empty() || scene.incomplete()) return findings;
  if (findings = flavour_findings(scene); !findings.empty()) return findings;
  if (findings = subsystem_findings(scene); !findings.empty()) return findings;
  const auto rehearsal = scene.rehearse();
  if (!rehearsal) return findings;
  findings = need_findings(scene, *rehearsal);
  if (!findings.empty()) return findings;
  if (findings = meant_to_compile(scene, *rehearsal); !findings.empty()) return findings;
  if (scene.traits().weighs_threads) findings = thread_findings(scene, *rehearsal);
  if (!findings.empty()) return findings;
  findings = name_findings(scene, *rehearsal);
  if (!findings.empty()) return findings;
  if (findings = member_findings(scene, *rehearsal); !findings.empty()) return findings;
  return placed_findings(scene);
}

}  // namespace

void set_command(Finding& finding, const ToolCommand& command, Words words) {
  finding.edit = smallest_change(command.words, words);
  finding.command = std::move(words);
}

std::string word_for(const LinkScene& scene, const fs::path& file) {
  const std::string stem = library_stem(file);
  const auto found = find_library(scene.folders(), stem, scene.toolchain().static_link, linking_of(scene.toolchain()));
  std::error_code ignored;
  const bool msvc = scene.command().family == CompilerFamily::msvc;
  if (found && fs::equivalent(*found, file, ignored)) return msvc ? stem + ".lib" : "-l" + stem;
  return shown_in(scene, file);
}

std::vector<Finding> link_findings(const ToolCommand& command, Evidence& evidence) {
  const auto& toolchain = evidence.toolchain(command);
  if (!toolchain) return {};
  return findings_of(LinkScene(command, *toolchain, evidence));
}

std::vector<Finding> after_link_findings(const ToolCommand& command, Evidence& evidence) {
  const auto& toolchain = evidence.toolchain(command);
  if (!toolchain) return {};
  return layout_findings(LinkScene(command, *toolchain, evidence));
}

}  // namespace fibula
