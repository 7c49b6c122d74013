#include "choose/set_rules.hpp"

#include "base/text.hpp"
#include "facts/system_files.hpp"
#include "os/files.hpp"

#include <fibula/facts.hpp>

#include <fmt/format.h>
#include <algorithm>
#include <map>

namespace fibula {
namespace {

/// The name under which a loader asks for a file; Windows takes no notice of case.
std::string loaded_name(const std::string& path, Format format) {
  const std::string name = fs::path(path).filename().string();
  return format == Format::pe ? text::lower(name) : name;
}

/// Two files of one name cannot both be beside a program, and the loader takes the first for both. One file that was
/// taken under two names is no second copy.
void two_copies(const std::vector<const Choice*>& choices, Format format, std::vector<Misfit>& said) {
  std::map<std::string, std::pair<const Choice*, fs::path>> owners;
  for (const Choice* choice : choices) {
    for (const auto& file : choice->variant->runtime) {
      const fs::path path = choice->card->root / file;
      const auto [known, fresh] = owners.try_emplace(loaded_name(file, format), choice, path);
      const auto& [owner, owned] = known->second;
      std::error_code ignored;
      if (fresh || owner == choice || fs::equivalent(owned, path, ignored)) continue;
      const Choice& other = *owner;
      said.push_back(
          {.rule = "two-copies",
           .subject = known->first,
           .library = choice->use.name,
           .evidence = {fmt::format("{} {} brings {}", other.use.name, other.chosen.version, known->first),
                        fmt::format("{} {} brings {}", choice->use.name, choice->chosen.version, path.string())},
           .remedy = fmt::format("detach one of them, or take a build of {} that uses {}", choice->use.name,
                                 other.use.name)});
    }
  }
}

/// Files that every system of the kind has; of ELF systems the loader, which stands in no search directory.
bool is_loaded_from_system(const std::string& name, const Toolchain& toolchain) {
  const Format format = toolchain.target.format;
  const auto* libc = toolchain.answer("c-runtime");
  if (libc != nullptr && libc->value == "musl" && is_musl_itself(name)) return true;
  if (format == Format::macho) return is_macos_file(name);
  if (format == Format::pe) return is_windows_dll(name);
  return name.starts_with("ld-linux") || name.starts_with("ld-musl") || name.starts_with("ld64.so") ||
         name.starts_with("ld.so");
}

bool in_search_directories(const std::string& name, const Toolchain& toolchain) {
  return std::any_of(toolchain.library_directories.begin(), toolchain.library_directories.end(),
                     [&](const fs::path& folder) {
                       std::error_code ignored;
                       return fs::exists(folder / name, ignored);
                     });
}

/// A file of the variant that asks for a run-time file, and when it does.
struct Asks {
  std::string file;
  NeedKind kind = NeedKind::ordinary;
};
Asks who_asks(const Choice& choice, const std::string& name) {
  for (const auto* files : {&choice.variant->runtime, &choice.variant->plugins}) {
    for (const auto& file : *files) {
      const auto facts = inspect(choice.card->root / file);
      if (!facts || !facts->needs) continue;
      const auto& needs = *facts->needs.value;
      const auto need = std::find_if(needs.begin(), needs.end(), [&](const Need& one) { return one.name == name; });
      if (need != needs.end()) return {(choice.card->root / file).string(), need->kind};
    }
  }
  return {"a file of " + choice.use.name};
}

std::string closure_remedy(const Choice& choice, const std::string& need, Format format) {
  if (format == Format::elf && is_gnu_run_time(need))
    return "it is a compiler's run-time: choose a compiler that has it for this system";
  return fmt::format(
      "take and attach the library that {} belongs to, or put it beside the other files of {}, and take that again",
      need, choice.use.name);
}

/// A file that a run-time file needs, and that nobody brings: the program links, with most linkers, and does not start.
void closure(const std::vector<const Choice*>& choices, const Toolchain& toolchain, std::vector<Misfit>& said) {
  const Format format = toolchain.target.format;
  std::set<std::string> brought;
  for (const Choice* choice : choices) {
    for (const auto& file : choice->variant->runtime) brought.insert(loaded_name(file, format));
  }
  for (const Choice* choice : choices) {
    for (const auto& need : choice->variant->needs) {
      const bool there = brought.contains(loaded_name(need, format)) || is_loaded_from_system(need, toolchain) ||
                         // Whether it is installed where the program starts, no file tells.
                         is_msvc_run_time(need) || in_search_directories(need, toolchain);
      // A library of the system finds its needs where the system's loader looks.
      if (there || choice->card->in_place) continue;
      const auto asks = who_asks(*choice, need);
      if (asks.kind == NeedKind::weak) continue;  // it may be absent
      said.push_back(
          {.rule = "closure",
           .subject = need,
           .library = choice->use.name,
           .evidence = {fmt::format("{} needs {} when {}", asks.file, need,
                                    asks.kind == NeedKind::delayed ? "it first calls it" : "the program starts"),
                        "no attached library brings it, and it is in none of the lane's search directories"},
           .remedy = closure_remedy(*choice, need, format)});
    }
  }
}

/// Whether the lane's compiler finds a header by itself, in the system's own folders.
bool has_header(const Toolchain& toolchain, const std::string& header) {
  std::error_code ignored;
  return !header.empty() && std::any_of(toolchain.include_directories.begin(), toolchain.include_directories.end(),
                                        [&](const fs::path& folder) { return fs::exists(folder / header, ignored); });
}

/// An add-on without the library that it belongs to does not compile.
void requirements(const std::vector<const Choice*>& choices, const Toolchain& toolchain, std::vector<Misfit>& said) {
  std::set<std::string> there;
  for (const Choice* choice : choices) there.insert(choice->use.name);
  for (const Choice* choice : choices) {
    if (!choice->card) continue;
    for (const auto& requirement : choice->card->requirements) {
      if (there.contains(requirement.library) || has_header(toolchain, requirement.header)) continue;
      said.push_back({.rule = "library",
                      .subject = requirement.library,
                      .library = choice->use.name,
                      .evidence = {fmt::format("{} needs {}: {}", choice->use.name, requirement.library,
                                               requirement.because.empty() ? "its card says so" : requirement.because),
                                   fmt::format("{} is not on the shelf", requirement.library)},
                      .remedy = fmt::format("take it: fibula take FOLDER --name {}", requirement.library)});
    }
  }
}

}  // namespace

std::vector<Misfit> match_set(const std::vector<const Choice*>& choices, const Toolchain& toolchain) {
  std::vector<const Choice*> shared;
  for (const Choice* choice : choices) {
    if (choice->variant && choice->variant->linkage == Linkage::shared && !choice->variant->runtime.empty())
      shared.push_back(choice);
  }
  std::vector<Misfit> said;
  requirements(choices, toolchain, said);
  two_copies(shared, toolchain.target.format, said);
  closure(shared, toolchain, said);
  return said;
}

}  // namespace fibula
