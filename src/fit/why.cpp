#include <fibula/why.hpp>

#include "base/text.hpp"
#include "facts/library_name.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <set>

namespace fibula {
namespace {

/// What stands in a fit, and the names by which people ask for it.
struct Entry {
  Reason reason;
  std::set<std::string> names;
};

std::set<std::string> names_of(const std::filesystem::path& path) {
  std::set<std::string> names{path.string(), path.filename().string()};
  // `libtide.so.2` is asked for as tide too.
  names.insert(library_stem(path));
  return names;
}

void add_libraries(const Fit& fit, std::vector<Entry>& entries) {
  for (const auto& library : fit.libraries) {
    const std::string version = library.version.empty() ? "none that fits" : library.version;
    const std::string variant = library.variant.empty() ? "" : ", " + library.variant;
    const std::string asked =
        library.required_by.empty() ? "the project attaches it" : fmt::format("{} requires it", library.required_by);
    const std::string reason = library.why.empty() ? asked : asked + "; " + library.why;
    entries.push_back(
        {{"library", fmt::format("{} {}{}", library.name, version, variant), library.name, reason}, {library.name}});
  }
}

void add_inputs(const char* kind, const std::vector<LinkInput>& inputs, const std::string& output,
                std::vector<Entry>& entries) {
  for (const auto& input : inputs) {
    auto names = names_of(input.path);
    for (const auto& argument : input.arguments) names.insert(argument);
    names.insert(input.library);
    entries.push_back(
        {{kind, text::join(input.arguments, " "), input.library, fmt::format("{} (output {})", input.why, output)},
         std::move(names)});
  }
}

void add_links(const Fit& fit, std::vector<Entry>& entries) {
  for (const auto& link : fit.links) {
    add_inputs("link", link.inputs, link.output, entries);
    add_inputs("left-out", link.left_out, link.output, entries);
  }
}

/// What the loader is asked for, and by whom.
void add_needs(const Fit& fit, std::vector<Entry>& entries) {
  for (const auto& closure : fit.closures) {
    for (const auto& need : closure.entries) {
      const auto user = std::filesystem::path(need.needed_by).filename().string();
      entries.push_back({{"need",
                          need.path.empty() ? need.name : need.path,
                          {},
                          fmt::format("{} needs it when it runs: {}", user, need.why)},
                         names_of(need.name)});
    }
  }
}

std::vector<Entry> entries_of(const Fit& fit) {
  std::vector<Entry> entries;
  add_libraries(fit, entries);
  for (const auto& directory : fit.include_directories) {
    auto names = names_of(directory.path);
    names.insert(directory.library);
    entries.push_back({{"include", directory.path.string(), directory.library, directory.why}, std::move(names)});
  }
  for (const auto& definition : fit.definitions) {
    entries.push_back({{"define", definition.text, {}, definition.why},
                       {definition.text, definition.text.substr(0, definition.text.find('='))}});
  }
  add_links(fit, entries);
  for (const auto& file : fit.runtime_files) {
    auto names = names_of(file.path);
    names.insert(file.library);
    entries.push_back({{"runtime", file.path.string(), file.library, file.why}, std::move(names)});
  }
  add_needs(fit, entries);
  return entries;
}

}  // namespace

std::vector<Reason> why(const Fit& fit, const std::string& name) {
  std::vector<Reason> reasons;
  for (auto& entry : entries_of(fit)) {
    if (entry.names.contains(name)) reasons.push_back(std::move(entry.reason));
  }
  return reasons;
}

}  // namespace fibula
