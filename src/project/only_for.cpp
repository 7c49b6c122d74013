#include "project/only_for.hpp"

#include "base/text.hpp"
#include "card/source_form.hpp"
#include "os/files.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

bool contains(const std::vector<std::string>& names, const std::string& name) {
  return std::find(names.begin(), names.end(), name) != names.end();
}

bool means(const Project& project, const std::string& pattern, const fs::path& file) {
  return text::glob_matches(pattern, file.lexically_relative(project.root()).generic_string());
}

Error about(const Project& project, const Output& output, const std::string& pattern, Code code, std::string what,
            std::string hint) {
  const auto line = output.lines.find("only-for " + pattern);
  return {.code = code,
          .what = std::move(what),
          .file = project.file().string(),
          .line = line == output.lines.end() ? output.line : line->second,
          .hint = std::move(hint)};
}

}  // namespace

std::map<std::string, std::vector<std::string>> read_only_for(toml::Reader& reader,
                                                              std::map<std::string, unsigned>& lines) {
  std::map<std::string, std::vector<std::string>> wanted;
  const toml::Table* table = reader.table("only-for");
  if (table == nullptr) return wanted;
  for (const auto& [pattern, names] : table->entries) {
    lines.emplace("only-for " + pattern, names.line);
    std::vector<std::string>& list = wanted[pattern];
    if (names.text() != nullptr) list.push_back(*names.text());
    for (const auto& one : names.array() != nullptr ? *names.array() : std::vector<toml::Value>()) {
      if (one.text() != nullptr) list.push_back(*one.text());
    }
    if (list.empty())
      reader.report(Code::malformed, names.line, fmt::format("only-for of {} must name systems or lanes", pattern),
                    "write it like only-for = { \"src/*_win32.c\" = \"windows\" }");
  }
  return wanted;
}

std::vector<fs::path> files_for_lane(const Project& project, const Output& output, std::vector<fs::path> files,
                                     const std::string& lane, const std::string& system) {
  if (output.only_for.empty()) return files;
  std::erase_if(files, [&](const fs::path& file) {
    return std::any_of(output.only_for.begin(), output.only_for.end(), [&](const auto& entry) {
      return !contains(entry.second, lane) && !contains(entry.second, system) && means(project, entry.first, file);
    });
  });
  return files;
}

Result<void> check_only_for(const Project& project, const Output& output, const std::vector<fs::path>& files) {
  for (const auto& [pattern, names] : output.only_for) {
    const bool used = std::any_of(files.begin(), files.end(), [&, &wanted = pattern](const fs::path& file) {
      return means(project, wanted, file);
    });
    if (!used)
      return fail(about(project, output, pattern, Code::absent,
                        fmt::format("only-for: no source of {} matches {}", output.name, toml::quote(pattern)),
                        "correct the pattern, or take the entry out"));
    for (const auto& name : names) {
      const auto& lanes = project.lanes();
      const bool is_lane = std::any_of(lanes.begin(), lanes.end(), [&](const Lane& lane) { return lane.name == name; });
      if (is_lane || is_system_name(name)) continue;
      return fail(about(project, output, pattern, Code::malformed,
                        fmt::format("only-for: {} is neither a system nor a lane", toml::quote(name)),
                        "write linux, windows, macos, bare-metal, or the name of a lane"));
    }
  }
  return {};
}

}  // namespace fibula
