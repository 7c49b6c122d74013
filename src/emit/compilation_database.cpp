#include "base/json_text.hpp"
#include "card/source_form.hpp"
#include "emit/arguments.hpp"
#include "os/folder.hpp"
#include "os/stamp.hpp"
#include "project/only_for.hpp"

#include <algorithm>
#include <map>
#include <nlohmann/json.hpp>

namespace fibula::emit {
namespace {

using Json = nlohmann::json;

Json entries_of(const Project& project, const Fit& fit) {
  Json entries = Json::array();
  for (const auto& output : project.outputs()) {
    CompileCommands commands(fit, output);
    const auto sources =
        files_for_lane(project, output, project.sources(output), fit.lane.name, system_name(fit.toolchain));
    for (const auto& source : sources) {
      const std::string object = project.object_of(fit.lane, output, source).string();
      entries.push_back({{"directory", project.root().string()},
                         {"file", source.string()},
                         {"output", object},
                         {"arguments", commands.command(source, object)}});
    }
  }
  return entries;
}

/// What was written for a lane before: its objects lie in its folder.
Json kept_entries(const Project& project, const Lane& lane, const Json& before) {
  Json kept = Json::array();
  const std::string folder = (project.folder_of(lane) / "objects").string() + "/";
  for (const auto& entry : before) {
    const auto output = entry.find("output"), file = entry.find("file");
    const bool ours = output != entry.end() && output->is_string() && file != entry.end() && file->is_string() &&
                      output->get<std::string>().starts_with(folder);
    if (ours && stamp_of(file->get<std::string>()).is_file()) kept.push_back(entry);
  }
  return kept;
}

/// What another build wrote there stays.
Json foreign_entries(const Project& project, const Json& before) {
  Json foreign = Json::array();
  const std::string folder = (project.root() / ".fibula").string() + "/";
  for (const auto& entry : before) {
    const auto output = entry.find("output");
    const bool ours = output != entry.end() && output->is_string() && output->get<std::string>().starts_with(folder);
    if (!ours) foreign.push_back(entry);
  }
  return foreign;
}

}  // namespace

Result<void> compilation_database(const Project& project, const std::vector<const Fit*>& fits) {
  // Who compiles elsewhere has a list of their own.
  if (project.outputs().empty()) return {};
  const fs::path file = project.root() / "compile_commands.json";
  Json before = Json::parse(read_text(file).value_or("[]"), nullptr, false);
  if (!before.is_array()) before = Json::array();
  Json entries = Json::array();
  for (const auto& lane : project.lanes()) {
    const auto fit =
        std::find_if(fits.begin(), fits.end(), [&](const Fit* one) { return one->lane.name == lane.name; });
    const Json more = fit != fits.end() ? entries_of(project, **fit) : kept_entries(project, lane, before);
    entries.insert(entries.end(), more.begin(), more.end());
  }
  const Json foreign = foreign_entries(project, before);
  entries.insert(entries.end(), foreign.begin(), foreign.end());
  return without_value(write_if_changed_in(project.root(), file.filename().string(), json_text(entries, 1) + "\n"));
}

}  // namespace fibula::emit
