#include "build/library_fit.hpp"

#include "base/version.hpp"
#include "toolchain/options.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

/// What keeps this machine's folders out of objects; the first versions that know it by their manuals (GCC 8, Clang
/// 10). Older compilers know it for debugging records alone.
std::vector<std::string> without_places(const SourcePlan& plan, const Toolchain& toolchain) {
  if (toolchain.family == CompilerFamily::msvc) return {};
  const std::string map =
      fmt::format("prefix-map={}={}-{}", plan.card->root.string(), plan.card->name, plan.card->version);
  const bool knows = compare_versions(toolchain.version, toolchain.family == CompilerFamily::gcc ? "8" : "10") >= 0;
  return {(knows ? "-ffile-" : "-fdebug-") + map};
}

void add_required(const Choice& choice, LibraryFit& made, OutputCompile& compile, OutputLink& link) {
  for (const auto& directory : choice.card->include_directories_for(choice.variant))
    made.fit.include_directories.push_back(
        {(choice.card->root / directory).lexically_normal(), choice.use.name, "headers of " + choice.use.name});
  if (choice.variant == nullptr) return;
  const std::string why = fmt::format("users of {} need it", choice.use.name);
  for (const auto& definition : choice.variant->definitions) compile.definitions.push_back({definition, why});
  for (const auto& flag : choice.variant->flags) compile.flags.push_back(flag);
  for (const auto& file : choice.variant->link) {
    const std::filesystem::path path = choice.card->root / file;
    link.inputs.push_back({.path = path, .arguments = {path.string()}, .library = choice.use.name, .why = {}});
  }
}

}  // namespace

LibraryFit library_fit(const SourcePlan& plan, const Lane& lane, const Toolchain& toolchain,
                       const std::filesystem::path& made_headers, const std::vector<const Choice*>& required) {
  LibraryFit made;
  made.fit.lane = lane;
  made.fit.lane.flags = flags_for_libraries(lane.flags);
  made.fit.lane.link = {};
  made.fit.toolchain = toolchain;
  if (!plan.headers.empty()) {
    for (const auto& folder : {made_headers, made_headers / seen_from_below})
      made.fit.include_directories.push_back({folder, {}, "headers that are made"});
  }
  for (const auto& directory : plan.include_directories)
    made.fit.include_directories.push_back({directory, {}, "headers of " + plan.card->name});
  made.output.name = plan.card->name;
  made.output.kind = plan.linkage == Linkage::shared ? OutputKind::shared_library : OutputKind::static_library;
  made.output.standard = plan.standard;
  OutputCompile compile{.output = plan.card->name, .standard = plan.standard, .definitions = {}, .flags = {}};
  for (const auto* definitions : {&plan.definitions, &plan.user_definitions}) {
    for (const auto& definition : *definitions) compile.definitions.push_back({definition, "its card asks for it"});
  }
  for (const auto& definition : lane.definitions) compile.definitions.push_back({definition, "the lane asks for it"});
  compile.flags = without_places(plan, toolchain);
  for (const auto* flags : {&plan.flags, &plan.user_flags})
    compile.flags.insert(compile.flags.end(), flags->begin(), flags->end());
  OutputLink link{.output = plan.card->name};
  for (const Choice* choice : required) add_required(*choice, made, compile, link);
  // What its own flags name for the linker, and the system's libraries that its card knows of.
  for (const auto& input : link_inputs_in(compile.flags))
    link.inputs.push_back({.path = {}, .arguments = {input.word}, .library = {}, .why = {}});
  made.fit.compiles.push_back(std::move(compile));
  made.fit.links.push_back(std::move(link));
  return made;
}

}  // namespace fibula
