#include "fit/link_line.hpp"

#include "base/files.hpp"

namespace fibula {

using Kind = LinkStep::Kind;

std::optional<fs::path> find_library(const std::vector<fs::path>& search, const std::string& name, bool only_static) {
  std::error_code ignored;
  for (const auto& folder : search) {
    if (name.starts_with(':')) {
      if (fs::exists(folder / name.substr(1), ignored)) return folder / name.substr(1);
      continue;
    }
    const fs::path shared = folder / ("lib" + name + ".so"), archive = folder / ("lib" + name + ".a");
    if (!only_static && fs::exists(shared, ignored)) return shared;
    if (fs::exists(archive, ignored)) return archive;
  }
  return std::nullopt;
}

std::vector<LinkStep> steps_of(const std::vector<LinkInput>& inputs) {
  std::vector<LinkStep> steps;
  int group = 0;
  for (const auto& input : inputs) {
    if (input.group != group && group != 0) steps.push_back({Kind::group_end});
    if (input.group != group && input.group != 0) steps.push_back({Kind::group_begin});
    group = input.group;
    steps.push_back({Kind::file, input.path.string()});
  }
  if (group != 0) steps.push_back({Kind::group_end});
  return steps;
}

LinkLine whole_line(const Toolchain& toolchain, const std::vector<LinkStep>& inputs) {
  LinkLine line{.search = toolchain.library_directories};
  bool only_static = toolchain.static_link;
  const auto add = [&](const LinkStep& step) {
    if (step.kind == Kind::only_static) only_static = true;
    if (step.kind == Kind::any_linkage) only_static = false;
    if (step.kind != Kind::library) return line.steps.push_back(step);
    const auto found = find_library(line.search, step.name, only_static);
    line.steps.push_back(found ? LinkStep{Kind::file, found->string()} : step);
  };
  for (const auto& step : toolchain.link_steps) {
    if (step.kind != Kind::user_inputs) {
      add(step);
      continue;
    }
    for (const auto& input : inputs) add(input);
  }
  return line;
}

}  // namespace fibula
