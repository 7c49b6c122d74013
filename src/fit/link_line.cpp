#include "fit/link_line.hpp"

#include "base/files.hpp"

namespace fibula {

using StepKind = LinkStep::Kind;

Linking linking_of(const Toolchain& toolchain) {
  if (toolchain.family == Family::msvc) return Linking::msvc;
  switch (family_of(toolchain.target.format)) {
    case Format::pe: return Linking::gnu_pe;
    case Format::macho: return Linking::macho;
    default: return Linking::elf;
  }
}

namespace {

/// The forms of name that a linker tries in each directory.
std::vector<std::string> file_names(const std::string& name, bool only_static, Linking linking) {
  if (name.starts_with(':')) return {name.substr(1)};
  const std::string unix_name = "lib" + name, archive = unix_name + ".a";
  switch (linking) {
    case Linking::msvc: return {name, name + ".lib"};
    case Linking::macho: return {unix_name + ".tbd", unix_name + ".dylib", archive};
    case Linking::gnu_pe:
      if (only_static) return {archive, name + ".lib"};
      return {unix_name + ".dll.a", name + ".dll.a", archive, name + ".lib", unix_name + ".dll", name + ".dll"};
    case Linking::elf: break;
  }
  if (only_static) return {archive};
  return {unix_name + ".so", archive};
}

}  // namespace

std::optional<fs::path> find_library(const std::vector<fs::path>& search, const std::string& name, bool only_static,
                                     Linking linking) {
  std::error_code ignored;
  const auto names = file_names(name, only_static, linking);
  for (const auto& folder : search) {
    for (const auto& file : names) {
      if (fs::exists(folder / file, ignored)) return folder / file;
    }
  }
  return std::nullopt;
}

std::vector<LinkStep> steps_of(const std::vector<LinkInput>& inputs) {
  std::vector<LinkStep> steps;
  int group = 0;
  for (const auto& input : inputs) {
    if (input.group != group && group != 0) steps.push_back({StepKind::group_end});
    if (input.group != group && input.group != 0) steps.push_back({StepKind::group_begin});
    group = input.group;
    steps.push_back({StepKind::file, input.path.string()});
  }
  if (group != 0) steps.push_back({StepKind::group_end});
  return steps;
}

LinkLine whole_line(const Toolchain& toolchain, const std::vector<LinkStep>& inputs) {
  LinkLine line{.linking = linking_of(toolchain),
                .target = toolchain.target,
                .weak_serves_others = linking_of(toolchain) != Linking::gnu_pe ||
                                      toolchain.linker_version.find("LLD") != std::string::npos,
                .steps = {},
                .search = toolchain.library_directories};
  bool only_static = toolchain.static_link;
  const auto add = [&](const LinkStep& step) {
    if (step.kind == StepKind::only_static) only_static = true;
    if (step.kind == StepKind::any_linkage) only_static = false;
    if (step.kind != StepKind::library) return line.steps.push_back(step);
    const auto found = find_library(line.search, step.name, only_static, line.linking);
    line.steps.push_back(found ? LinkStep{StepKind::file, found->string()} : step);
  };
  for (const auto& step : toolchain.link_steps) {
    if (step.kind != StepKind::user_inputs) {
      add(step);
      continue;
    }
    for (const auto& input : inputs) add(input);
  }
  return line;
}

}  // namespace fibula
