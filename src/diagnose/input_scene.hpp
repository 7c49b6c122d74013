/// An input of a link that is looked at, and what could stand in its place.
#pragma once

#include "diagnose/findings.hpp"
#include "facts/library_name.hpp"

#include <fmt/format.h>

namespace fibula {

class InputScene {
 public:
  explicit InputScene(const LinkScene& scene) : scene_(scene), command_(scene.command()), evidence_(scene.evidence()) {}

 protected:
  std::string shown(const fs::path& file) const { return shown_in(scene_, file); }

  Finding start(const char* cause, const std::string& subject) const {
    return {.cause = cause, .stage = "link", .subject = subject, .certainty = "read"};
  }

  /// Another file of the same library that serves; the nearest one.
  std::optional<fs::path> another(const fs::path& instead_of, const std::string& stem) {
    for (const auto& file : evidence_.libraries_near(command_)) {
      if (file == instead_of || library_stem(file) != stem) continue;
      if (scene_.toolchain().static_link && file.extension() != ".a" && file.extension() != ".lib") continue;
      const auto& facts = evidence_.facts(file);
      if (facts && facts->kind.value != Kind::program && !is_stranger(*facts) &&
          !evidence_.misfit(file, command_, scene_.toolchain()))
        return file;
    }
    return std::nullopt;
  }

  bool is_stranger(const Facts& facts) const {
    const Target& wanted = scene_.toolchain().target;
    if (family_of(facts.format.value.value_or(wanted.format)) != family_of(wanted.format)) return true;
    // A universal file is for each of its machines.
    const auto is_for = [&](const Facts& one) { return !one.arch.value || *one.arch.value == wanted.arch; };
    return facts.slices.empty() ? !is_for(facts) : std::none_of(facts.slices.begin(), facts.slices.end(), is_for);
  }

  std::string cause_of(const Misfit& why, const fs::path& file) {
    const auto& facts = evidence_.facts(file);
    if (facts && !facts->slices.empty() && (why.rule == "architecture" || why.rule == "object-format"))
      return "slice-missing";
    if (why.rule == "toolset") return facts && facts->link_time.value ? "lto-toolset" : "toolchain-family";
    if (why.rule == "cxx-runtime" && family_of(scene_.toolchain().target.format) == Format::pe)
      return "toolchain-family";
    if (why.rule == "c-runtime" && facts && facts->c_runtime.value &&
        facts->c_runtime.value->starts_with("msvc-") != (command_.family == CompilerFamily::msvc))
      return "toolchain-family";
    return why.rule;
  }

  void replace_by_another(Finding& finding, const SceneInput& input, const fs::path& file, const std::string& stem) {
    const auto other = another(file, stem);
    if (!other) return;
    finding.remedy = fmt::format("{} fits: name that", shown(*other));
    set_command(finding, command_, with_input_replaced(command_, input.asked.word, {shown(*other)}));
  }

  const LinkScene& scene_;
  const ToolCommand& command_;
  Evidence& evidence_;
};

/// Why the linker finds no file for `-lNAME`, and what would help.
Finding library_not_found(const LinkScene& scene, const SceneInput& input);
/// The same of a file that is named by its path.
Finding file_not_found(const LinkScene& scene, const SceneInput& input);

}  // namespace fibula
