#include "diagnose/built_elsewhere.hpp"

#include "base/text.hpp"
#include "diagnose/findings.hpp"
#include "facts/library_name.hpp"
#include "os/stamp.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

constexpr const char* cause_here = "built-elsewhere";

/// A file of the same name, beside the script or near the command.
std::optional<fs::path> of_same_name(const LinkScene& scene, const fs::path& script, const fs::path& name) {
  if (stamp_of(script.parent_path() / name).there()) return script.parent_path() / name;
  const auto& near = scene.evidence().libraries_near(scene.command());
  const auto found =
      std::find_if(near.begin(), near.end(), [&](const fs::path& file) { return file.filename() == name; });
  return found == near.end() ? std::nullopt : std::optional(*found);
}

Finding finding_of_script(const LinkScene& scene, const SceneInput& input, const std::string& named) {
  const std::string script = shown_in(scene, input.file);
  Finding finding{.cause = cause_here, .stage = "link", .subject = script, .certainty = "read"};
  finding.culprits.push_back(script);
  finding.because = {fmt::format("{} is a linker script: a text that names the real files", script),
                     fmt::format("it names {}, and nothing is there", named)};
  const auto file = of_same_name(scene, input.file, fs::path(named).filename());
  if (!file) {
    finding.remedy = fmt::format("get {} too, and correct the path in {}", fs::path(named).filename().string(), script);
    return finding;
  }
  const std::string here = shown_in(scene, *file);
  finding.because.push_back(fmt::format("{} has that name", here));
  finding.remedy = fmt::format("name {} in the command, or correct the path in {}", here, script);
  set_command(finding, scene.command(), with_input_replaced(scene.command(), input.asked.word, {here}));
  return finding;
}

/// Where libraries are installed on purpose: there it is missing, and not named by mistake. On macOS they are asked for
/// by such paths as a rule.
bool is_where_libraries_are_installed(const std::string& path) {
  static constexpr std::string_view anywhere[] = {"/usr/lib/", "/lib"};
  static constexpr std::string_view on_macos[] = {"/System/", "/Library/", "/usr/local/", "/opt/"};
  const auto begins = [&](std::string_view folder) { return path.starts_with(folder); };
  if (std::any_of(std::begin(anywhere), std::end(anywhere), begins)) return true;
  return path.find(".dylib") != std::string::npos && std::any_of(std::begin(on_macos), std::end(on_macos), begins);
}

}  // namespace

std::optional<Finding> script_of_elsewhere(const LinkScene& scene, const SceneInput& input) {
  const auto opened = scene.evidence().files().open(input.file, scene.toolchain().target);
  const Script* script = opened ? (*opened)->script() : nullptr;
  if (script == nullptr) return std::nullopt;
  for (const auto& named : script->inputs) {
    if (named.name.starts_with('/') && !stamp_of(named.name).there())
      return finding_of_script(scene, input, named.name);
  }
  return std::nullopt;
}

bool asked_for_elsewhere(Finding& finding, const std::string& path, const fs::path& user) {
  if (!path.starts_with('/') || is_where_libraries_are_installed(path) || stamp_of(path).there()) return false;
  const std::string name = fs::path(path).filename().string(), asks = user.filename().string();
  finding.cause = cause_here;
  finding.culprits.push_back(user.string());
  finding.because.push_back(
      fmt::format("{} asks for {} by its full path, and nothing is there; it is looked for nowhere else", asks, path));
  finding.remedy =
      name.find(".dylib") != std::string::npos
          ? fmt::format(
                "ask for it by name: install_name_tool -change {} @rpath/{} {}, and give the program a run path", path,
                name, asks)
          : fmt::format(
                "link {} again with -L and -l{}: linkers record a path only of a library that has no soname and is "
                "named by its path; or put {} there",
                asks, library_stem(name), name);
  return true;
}

}  // namespace fibula
