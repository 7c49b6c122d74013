#include "link/link_line.hpp"

#include "os/files.hpp"

namespace fibula {

using StepKind = LinkStep::Kind;

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

std::vector<std::filesystem::path> files_of(const LinkLine& line) {
  std::vector<std::filesystem::path> paths;
  for (const auto& step : line.steps) {
    if (step.kind == StepKind::file) paths.emplace_back(step.name);
  }
  return paths;
}

}  // namespace fibula
