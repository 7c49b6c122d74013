#include <fibula/trust.hpp>

#include "base/digest.hpp"
#include "base/text.hpp"
#include "os/folder.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

/// Flags whose value names code or instructions that a compiler or linker loads or starts (GCC's manual, "Overall
/// Options", "Directory Options", "Developer Options"; Clang's command line reference).
constexpr std::string_view loading_flags[] = {
    "-fplugin=",     "-fpass-plugin=", "-specs=",          "--specs=",     "-wrapper", "-B",
    "--ld-path=",    "-fuse-ld=",      "--config=",        "--config",     "-load",    "-Wl,-plugin,",
    "-Wl,--plugin=", "-plugin",        "--gcc-toolchain=", "-ccc-gcc-name"};

/// What flags name to be loaded: behind the flag, or the word that follows it.
std::vector<std::string> loaded_by(const std::vector<std::string>& flags) {
  std::vector<std::string> loaded;
  for (size_t i = 0; i < flags.size(); ++i) {
    for (const auto flag : loading_flags) {
      if (!flags[i].starts_with(flag)) continue;
      const std::string value = flags[i].substr(flag.size());
      if (!value.empty()) loaded.push_back(value);
      if (value.empty() && i + 1 < flags.size()) loaded.push_back(flags[i + 1]);
    }
  }
  return loaded;
}

/// Everything of the project's file that says what is run.
std::vector<std::string> commands_of(const Project& project) {
  std::vector<std::string> words = project.compile_through();
  for (const auto& lane : project.lanes()) {
    words.push_back(lane.compiler);
    for (const auto word : text::words(lane.start_through)) words.emplace_back(word);
  }
  return words;
}

/// With what response files hold, as far as they name no others.
std::vector<std::string> flags_of(const Project& project) {
  std::vector<std::string> flags;
  const auto add = [&](const std::vector<std::string>& more) {
    for (const auto& flag : more) {
      flags.push_back(flag);
      if (!flag.starts_with('@')) continue;
      const auto response = read_text(project.root() / flag.substr(1));
      if (!response) continue;
      for (const auto word : text::words(*response)) flags.emplace_back(word);
    }
  };
  for (const auto& lane : project.lanes()) add(lane.flags);
  for (const auto& output : project.outputs()) add(output.flags);
  return flags;
}

fs::path state_folder() {
  if (const auto state = environment("XDG_STATE_HOME")) return fs::path(*state) / "fibula";
  if (const auto home = environment("HOME")) return fs::path(*home) / ".local" / "state" / "fibula";
  return {};
}

std::string place_of(const Project& project) {
  return fmt::format("trusted/{:016x}", quick_digest(project.root().string()));
}

std::string note_of(const Project& project) {
  std::string all;
  for (const auto& words : {commands_of(project), flags_of(project)}) {
    for (const auto& word : words) all += word + '\0';
    all += '\n';
  }
  return fmt::format("{}\n{}\n", project.root().string(), sha256(all));
}

}  // namespace

std::vector<std::string> programs_of_its_own(const Project& project) {
  std::vector<std::string> words = commands_of(project), found;
  // A command without a slash is looked for in PATH; a file that a flag names is looked for here too.
  std::erase_if(words, [](const std::string& word) { return word.find('/') == std::string::npos; });
  for (auto& value : loaded_by(flags_of(project))) words.push_back(std::move(value));
  std::error_code ignored;
  const fs::path root = fs::weakly_canonical(project.root(), ignored);
  for (const auto& word : words) {
    const fs::path path = project.root() / word;
    const bool inside =
        is_inside(project.root(), path.lexically_normal()) || is_inside(root, fs::weakly_canonical(path, ignored));
    const std::string shown = shown_from(project.root(), path.lexically_normal());
    if (inside && fs::exists(path, ignored) && std::find(found.begin(), found.end(), shown) == found.end())
      found.push_back(shown);
  }
  return found;
}

namespace {

bool is_noted(const std::string& place, const std::string& note) {
  const fs::path folder = state_folder();
  if (folder.empty()) return false;
  const auto noted = read_text(folder / place);
  return noted && *noted == note;
}

Result<void> note(const std::string& place, const std::string& text) {
  const fs::path folder = state_folder();
  if (folder.empty()) {
    return fail({.code = Code::missing_tool,
                 .what = "no folder to remember it: XDG_STATE_HOME and HOME are both unset",
                 .hint = "set one of them"});
  }
  const auto state = Folder::make(folder);
  if (!state) return fail(state.error());
  return state->write(place, text, Flush::now);
}

std::string place_of(const std::string& what) {
  return "agreed/" + sha256(what).substr(0, 32);
}

}  // namespace

bool is_trusted(const Project& project) {
  return is_noted(place_of(project), note_of(project));
}

Result<void> trust(const Project& project) {
  return note(place_of(project), note_of(project));
}

bool is_agreed(const std::string& what) {
  return is_noted(place_of(what), what);
}

Result<void> note_agreement(const std::string& what) {
  return note(place_of(what), what);
}

}  // namespace fibula
