/// Lanes that nobody wrote yet: for the compilers that are on the machine.
#include "base/inside_path.hpp"
#include "base/text.hpp"
#include "project/starter.hpp"

#include <fibula/lane.hpp>

#include <fmt/format.h>
#include <set>

namespace fibula {
namespace {

/// "windows-x86_64-posix", "x86_64-clang", "bare-avr": the target, and what tells two compilers for it apart.
std::string name_for(const Toolchain& t) {
  const auto value = [&](const char* id) { return t.answer(id) == nullptr ? std::string() : t.answer(id)->value; };
  const Format format = t.target.format;
  std::string name(format == Format::pe      ? "windows-"
                   : format == Format::macho ? "macos-"
                   : t.bare_metal()          ? "bare-"
                                             : "");
  name += to_string(t.target.arch);
  if (t.family == CompilerFamily::msvc) name += "-msvc";
  if (t.family == CompilerFamily::clang && format == Format::elf) name += "-clang";
  if (value("c-runtime") == "musl") name += "-musl";
  if (value("threads") == "posix") name += "-posix";
  return name;
}

/// The lane's name with the other configuration at its end; empty where it ends with none.
std::string in_other_configuration(const std::string& name) {
  for (const auto& [from, to] :
       {std::pair<std::string_view, std::string_view>{"-debug", "-release"}, {"-release", "-debug"}}) {
    if (name.ends_with(from)) return name.substr(0, name.size() - from.size()) + std::string(to);
  }
  return {};
}

/// A lane whose settings are known, with what starts its programs where that is something that does.
Result<ProposedLane> settled(Lane lane, Toolchain toolchain, const Cache& cache) {
  ProposedLane proposed{.lane = std::move(lane), .toolchain = std::move(toolchain)};
  if (proposed.toolchain.bare_metal()) {
    proposed.does_not_start = "it is for a machine without an operating system";
    return proposed;
  }
  if (proposed.lane.start_through.empty() && !starts_here(proposed.toolchain.target)) {
    proposed.does_not_start = "nothing that starts such programs is installed";
    return proposed;
  }
  proposed.does_not_start = why_not_started(proposed.lane, proposed.toolchain, cache);
  if (!proposed.does_not_start.empty()) proposed.lane.start_through.clear();
  return proposed;
}

Result<ProposedLane> lane_of_wish(const std::string& name, const LaneWish& wish, const Cache& cache) {
  auto toolchain = ask({wish.compiler, wish.flags}, cache);
  if (!toolchain) return pass(toolchain);
  Lane lane = propose_lane(*toolchain);
  lane.name = name;
  lane.compiler = wish.compiler;
  lane.flags = wish.flags;
  if (name.ends_with("-debug")) lane.configuration = "debug";
  return settled(std::move(lane), std::move(*toolchain), cache);
}

/// The compilers of this machine that answered.
std::vector<Toolchain> toolchains_here(const Cache& cache) {
  std::vector<Question> questions;
  for (const auto& compiler : find_compilers()) questions.push_back({compiler.string()});
  std::vector<Toolchain> toolchains;
  for (auto& answer : ask_all(questions, cache)) {
    if (answer) toolchains.push_back(std::move(*answer));
  }
  return toolchains;
}

Result<ProposedLane> lane_of_machine(const std::string& name, const LaneWish& wish, const std::set<std::string>& taken,
                                     const Cache& cache) {
  auto toolchains = toolchains_here(cache);
  std::set<std::string> others = taken;
  const std::string twin = in_other_configuration(name);
  // That it is written already with the other configuration is the reason to ask for this one.
  others.erase(twin);
  auto lanes = propose_lanes(toolchains, others);
  std::vector<std::string> names;
  for (size_t i = 0; i < lanes.size(); ++i) {
    const bool named = lanes[i].name == name || lanes[i].name == twin;
    if (named || lanes[i].compiler == name) {
      if (named) lanes[i].name = name;
      if (!wish.flags.empty()) return lane_of_wish(lanes[i].name, {lanes[i].compiler, wish.flags}, cache);
      if (lanes[i].name.ends_with("-debug")) lanes[i].configuration = "debug";
      return settled(std::move(lanes[i]), std::move(toolchains[i]), cache);
    }
    names.push_back(lanes[i].name);
  }
  const std::string meant = text::closest(name, names);
  return fail({.code = Code::refused,
               .what = fmt::format("no compiler here is for a lane {}", name),
               .hint = meant.empty()
                           ? fmt::format("there are {}; or name its compiler with --compiler", text::join(names, ", "))
                           : fmt::format("did you mean {}? Or name its compiler with --compiler", meant)});
}

}  // namespace

Lane propose_lane(const Toolchain& toolchain) {
  Lane lane{.name = name_for(toolchain) + "-release", .compiler = toolchain.compiler.filename().string()};
  // Away from Windows clang-cl starts the system's own linker, which knows nothing of its options.
  const bool wrong_linker = toolchain.linker.filename().string().find("link") == std::string::npos;
  if (toolchain.family == CompilerFamily::msvc && wrong_linker) lane.flags = {"-fuse-ld=lld"};
  if (!toolchain.bare_metal() && !starts_here(toolchain.target)) {
    std::vector<std::filesystem::path> roots{"/usr/" + toolchain.triple};
    if (!toolchain.sysroot.empty()) roots.insert(roots.begin(), toolchain.sysroot);
    lane.start_through = starter_for(toolchain.target, roots);
  }
  return lane;
}

std::vector<Lane> propose_lanes(const std::vector<Toolchain>& toolchains, const std::set<std::string>& taken) {
  std::set<std::string> names = taken;
  std::vector<Lane> lanes;
  for (const auto& toolchain : toolchains) {
    lanes.push_back(propose_lane(toolchain));
    const std::string first = lanes.back().name;
    for (int number = 2; !names.insert(lanes.back().name).second; ++number)
      lanes.back().name = fmt::format("{}-{}", first, number);
  }
  return lanes;
}

Result<ProposedLane> propose_lane_named(const std::string& name, const LaneWish& wish,
                                        const std::set<std::string>& taken, const Cache& cache) {
  if (!is_file_name(name))
    return fail({.code = Code::usage,
                 .what = fmt::format("{} cannot be a lane's name", name),
                 .hint = "use letters, digits, - and _"});
  if (taken.contains(name))
    return fail({.code = Code::refused,
                 .what = fmt::format("there is a lane {} already", name),
                 .hint = "give the new one another name"});
  auto proposed = wish.compiler.empty() ? lane_of_machine(name, wish, taken, cache) : lane_of_wish(name, wish, cache);
  if (!proposed) return proposed;
  if (!wish.configuration.empty()) proposed->lane.configuration = wish.configuration;
  return proposed;
}

}  // namespace fibula
