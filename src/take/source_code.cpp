/// Which sources make up a library that comes as source. Its own programs, tests and samples do not.
#include "base/text.hpp"
#include "headers/declarations.hpp"
#include "headers/header_roots.hpp"
#include "headers/include_lines.hpp"
#include "os/files.hpp"
#include "take/file_roles.hpp"
#include "take/source.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <set>

namespace fibula {
namespace {

/// The text outside of every `#if`: what is there in each build.
std::string without_conditionals(std::string_view content) {
  std::string always;
  int depth = 0;
  for (const auto line : text::lines(content)) {
    const auto word = text::trim(line);
    const auto directive = word.starts_with('#') ? text::trim(word.substr(1)) : std::string_view();
    if (directive.starts_with("if")) ++depth;
    if (depth == 0) always += std::string(line) + "\n";
    if (directive.starts_with("endif") && depth > 0) --depth;
  }
  return always;
}

/// A source that others take in with #include is no source of its own.
void add_included_sources(const Source& source, const std::string& file, const std::string& content,
                          std::set<std::string>& included) {
  for (const auto& line : include_lines(content)) {
    if (!is_source_name(line.name)) continue;
    const auto folder = fs::path(file).parent_path();
    const std::string beside = (folder / line.name).lexically_normal().generic_string();
    for (const auto& other : source.code) {
      if (other == beside || other.ends_with("/" + line.name)) included.insert(other);
    }
  }
}

}  // namespace

SourceCode code_to_compile(Source& source) {
  SourceCode code;
  std::set<std::string> included;
  std::vector<std::string> programs;
  for (const auto& file : source.code) {
    const auto content = read_text(source.root / file);
    if (!content) continue;
    add_included_sources(source, file, *content, included);
    if (defines_function(without_conditionals(*content), "main")) {
      programs.push_back(file);
    } else {
      code.compile.push_back(file);
    }
  }
  std::erase_if(code.compile, [&](const std::string& file) { return included.contains(file); });
  if (code.compile.empty()) return code;
  for (const auto& file : programs)
    source.remarks.push_back(file + " has a main of its own, and is not compiled into the library");
  for (const auto& file : included)
    source.remarks.push_back(file + " is included by another source, and not compiled by itself");
  if (!source.samples.empty()) {
    source.remarks.push_back(fmt::format("{} of samples and tests, {} among them, {} not compiled into the library",
                                         text::count(source.samples.size(), "source"), source.samples.front(),
                                         source.samples.size() == 1 ? "is" : "are"));
  }
  std::vector<std::string> headers;
  for (const auto& file : source.goes_along) {
    if (role_of(file) == Role::header) headers.push_back(file);
  }
  code.include_directories = header_roots({source.root, {}, headers, {}, code.compile}).directories;
  std::erase_if(code.include_directories, [&](const std::string& directory) {
    return std::find(source.directories.begin(), source.directories.end(), directory) != source.directories.end();
  });
  return code;
}

}  // namespace fibula
