#include "diagnose/name_suppliers.hpp"

#include "base/text.hpp"
#include "diagnose/findings.hpp"
#include "diagnose/library_advice.hpp"
#include "diagnose/own_sources.hpp"
#include "facts/library_name.hpp"
#include "link/near_name.hpp"
#include "link/providers.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

bool serves(const LinkScene& scene, const fs::path& file, const std::string& symbol) {
  // MSVC-style linkers take no DLL.
  if (scene.command().family == CompilerFamily::msvc && text::lower(file.extension().string()) == ".dll") return false;
  const auto has = defines(scene.evidence().files(), file, symbol);
  return has && *has && !scene.evidence().misfit(file, scene.command(), scene.toolchain());
}

Finding supplied_by(const LinkScene& scene, const Unresolved& missing, const Provider& provider) {
  const auto& system = scene.toolchain().library_directories;
  const bool of_system =
      provider.library.empty() && std::find(system.begin(), system.end(), provider.path.parent_path()) != system.end();
  const auto& user = scene.evidence().facts(missing.file);
  const bool transitive = user && user->kind.value != Kind::object;
  const bool companion = of_system && is_companion_of_c_library(library_stem(provider.path));
  Finding finding = missing_name(companion     ? "missing-system-input"
                                 : !transitive ? "library-not-linked"
                                 : of_system   ? "missing-system-input"
                                               : "missing-transitive-input",
                                 missing);
  finding.culprits.push_back(fmt::format("{} defines it", shown_in(scene, provider.path)));
  const Project* project = scene.evidence().context().project;
  if (!provider.library.empty() && project != nullptr) {
    advise_using(finding, provider.library, project, "link.rsp");
    return finding;
  }
  const std::string word = word_for(scene, provider.path);
  finding.remedy = fmt::format("link it: {}", word);
  set_command(finding, scene.command(), with_appended(scene.command(), {word}));
  return finding;
}

}  // namespace

Finding missing_name(std::string_view cause, const Unresolved& missing) {
  return {.cause = std::string(cause), .stage = "link", .subject = readable_name(missing.symbol), .certainty = "read"};
}

std::optional<fs::path> copy_with(const LinkScene& scene, const std::string& symbol, const fs::path& file) {
  const std::string stem = library_stem(file);
  const auto is_it = [&](const fs::path& other) {
    return other != file && library_stem(other) == stem && serves(scene, other, symbol);
  };
  for (const auto& folder : scene.folders()) {
    for (const auto& name : files_directly_in(folder)) {
      if (library_stem(name) == stem && has_library_name(name) && is_it(folder / name)) return folder / name;
    }
  }
  const auto& near = scene.evidence().libraries_near(scene.command());
  const auto found = std::find_if(near.begin(), near.end(), is_it);
  return found == near.end() ? std::nullopt : std::optional(*found);
}

void replace_input(Finding& finding, const LinkScene& scene, const fs::path& file, const fs::path& by) {
  const ToolCommand& command = scene.command();
  for (const auto& input : scene.inputs()) {
    if (input.file == file && !input.compiled)
      set_command(finding, command, with_input_replaced(command, input.asked.word, {shown_in(scene, by)}));
  }
}

std::optional<Finding> other_copy(const LinkScene& scene, const Unresolved& missing) {
  for (const auto& input : scene.inputs()) {
    if (input.file.empty() || input.compiled) continue;
    const auto& facts = scene.evidence().facts(input.file);
    if (!facts || facts->kind.value == Kind::object) continue;
    const auto other = copy_with(scene, missing.symbol, input.file);
    if (!other) continue;
    Finding finding = missing_name(input.is_library_name() ? "wrong-library-found-first" : "stale-library", missing);
    const std::string linked = shown_in(scene, input.file), meant = shown_in(scene, *other);
    finding.culprits.push_back(linked);
    finding.because = {fmt::format("{} is what the command links, and does not define it", linked),
                       fmt::format("{} defines it", meant)};
    finding.remedy = fmt::format("link {}", meant);
    replace_input(finding, scene, input.file, *other);
    return finding;
  }
  return std::nullopt;
}

std::optional<Finding> near_library(const LinkScene& scene, const Unresolved& missing) {
  for (const auto& file : scene.evidence().libraries_near(scene.command())) {
    if (serves(scene, file, missing.symbol)) return supplied_by(scene, missing, {file, {}});
  }
  return std::nullopt;
}

std::optional<Finding> known_library(const LinkScene& scene, const Unresolved& missing) {
  Evidence& evidence = scene.evidence();
  const auto found = find_providers(evidence.files(), evidence.providers(), {missing.symbol}, scene.toolchain(),
                                    evidence.context().shelf);
  if (found.empty()) return std::nullopt;
  return supplied_by(scene, missing, found.begin()->second);
}

namespace {

Finding empty_archive(Finding finding, const std::string& archive) {
  finding.culprits.push_back(archive);
  finding.because.push_back(fmt::format("{} is empty: it has no members", archive));
  finding.remedy = fmt::format("make {} again: it was made of no objects", archive);
  return finding;
}

}  // namespace

Finding undefined_name(const LinkScene& scene, const Unresolved& missing) {
  Finding finding = missing_name("undefined", missing);
  finding.because.push_back(
      fmt::format("no input of the link defines it, no library near it, on the shelf or in the compiler's folders{}",
                  but_inside(missing.symbol)));
  finding.remedy = "find out which library or source has it; a spelling mistake in a declaration looks the same";
  std::vector<fs::path> own;
  for (const auto& input : scene.inputs()) {
    if (!input.own || input.compiled || input.file.empty()) continue;
    own.push_back(input.file);
    const auto opened = scene.evidence().files().open(input.file, scene.toolchain().target);
    if (opened && (*opened)->archive() != nullptr && (*opened)->archive()->members.empty())
      return empty_archive(std::move(finding), shown_in(scene, input.file));
  }
  if (const auto place = own_declaration(missing.symbol, scene)) {
    finding.because.push_back(
        fmt::format("{} declares it, and no source that was found defines it", shown_in(scene, *place)));
    finding.remedy = fmt::format("define {} in one source of the program", readable_name(missing.symbol));
    return finding;
  }
  if (const auto near = near_name(scene.evidence().files(), own, missing.symbol)) {
    finding.because.push_back(fmt::format("{} defines {}", shown_in(scene, near->file), readable_name(near->name)));
    finding.remedy = fmt::format("if {} is meant, write that; else {}", readable_name(near->name), finding.remedy);
  }
  return finding;
}

}  // namespace fibula
