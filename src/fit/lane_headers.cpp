#include "fit/lane_headers.hpp"

#include "fit/compile_plan.hpp"
#include "fit/header_check.hpp"
#include "fit/shared_include.hpp"
#include "headers/inclusions.hpp"
#include "os/host.hpp"

#include <algorithm>

namespace fibula {
namespace {

bool may_be_cxx(const fs::path& source) {
  return source.extension() != ".c" && source.extension() != ".s" && source.extension() != ".S";
}

/// The project's own C++: sources, and the headers beside them when there are such sources.
std::vector<fs::path> cxx_files(const Gathered::State& state) {
  std::vector<fs::path> files;
  for (const auto& output : state.project.outputs()) {
    const auto& sources = state.sources.at(output.name);
    std::copy_if(sources.begin(), sources.end(), std::back_inserter(files), may_be_cxx);
  }
  if (files.empty()) return files;
  for (const auto& output : state.project.outputs()) {
    for (const auto& folder : output.headers) {
      for (auto& header : files_matching(state.project.root(), folder + "/**/*.h*")) files.push_back(std::move(header));
    }
  }
  return files;
}

/// Nothing is known of its language.
bool made_elsewhere(const Project& project) {
  return std::any_of(project.outputs().begin(), project.outputs().end(),
                     [](const Output& output) { return output.made_elsewhere; });
}

std::string standard_of(const Fit& fit) {
  const auto says = [](const OutputCompile& compile) { return !compile.standard.empty(); };
  const auto first = std::find_if(fit.compiles.begin(), fit.compiles.end(), says);
  return first == fit.compiles.end() ? std::string() : first->standard;
}

Result<void> add_stand_ins(LaneHeaders& asked, const std::vector<SharedHeaders>& all) {
  for (const auto& shared : all) {
    auto folder = TemporaryFolder::make(temporary_place(), "fibula-include-");
    if (!folder) return pass(folder);
    if (auto made = write_shared_headers({folder->path() / "include", shared.headers}, folder->path()); !made)
      return made;
    asked.lane.stand_ins[shared.folder] = folder->path() / "include";
    asked.stand_ins.push_back(std::move(*folder));
  }
  return {};
}

}  // namespace

Result<LaneHeaders> headers_of_lane(const Gathered::State& state, const GatheredLane& lane) {
  const Fit fit = compile_plan(state.project, lane);
  const auto files = cxx_files(state);
  LaneHeaders asked{.lane = {.toolchain = lane.toolchain,
                             .cxx = lane.toolchain.cxx && (!files.empty() || made_elsewhere(state.project)),
                             .flags = lane.lane.flags,
                             .definitions = {},
                             .include_directories = {},
                             .standard = standard_of(fit)},
                    .names = {},
                    .libraries = {},
                    .stand_ins = {}};
  for (const auto& definition : fit.definitions) asked.lane.definitions.push_back(definition.text);
  for (const auto& directory : fit.include_directories) asked.lane.include_directories.push_back(directory.path);
  if (auto added = add_stand_ins(asked, fit.shared_headers); !added) return pass(added);
  const auto included = included_as_cxx(files);
  for (const auto& [name, choice] : lane.choices) {
    if (!has_its_headers(choice)) continue;
    asked.names.push_back(name);
    asked.libraries.push_back(headers_of(choice, included));
  }
  return asked;
}

void read_headers(const LaneHeaders& asked, GatheredLane& lane, const Cache& cache) {
  auto readings = read_headers(asked.lane, asked.libraries, cache);
  for (size_t i = 0; i < readings.size(); ++i) lane.headers[asked.names[i]] = std::move(readings[i]);
}

}  // namespace fibula
