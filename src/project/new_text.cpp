#include "project/new_text.hpp"

#include "base/text.hpp"
#include "base/toml.hpp"

#include <fmt/format.h>

namespace fibula {
namespace {

void add(std::string& text, std::string_view key, const std::string& value) {
  if (!value.empty()) text += fmt::format("{} = {}\n", key, toml::quote(value));
}

void add(std::string& text, std::string_view key, const std::vector<std::string>& values) {
  if (!values.empty()) text += fmt::format("{} = {}\n", key, toml::quote_long_list(values));
}

/// `{ "src/level_win32.c" = "windows" }`.
std::string only_for_text(const Output& output) {
  std::vector<std::string> entries;
  for (const auto& [pattern, names] : output.only_for) {
    entries.push_back(fmt::format("{} = {}", toml::quote(pattern),
                                  names.size() == 1 ? toml::quote(names.front()) : toml::quote_list(names)));
  }
  return "{ " + text::join(entries, ", ") + " }";
}

}  // namespace

std::string output_text(const Output& output) {
  std::string text = "[[output]]\n";
  add(text, "name", output.name);
  add(text, "kind", std::string(to_string(output.kind)));
  add(text, "sources", output.sources);
  if (!output.only_for.empty()) text += "only-for = " + only_for_text(output) + "\n";
  add(text, "headers", output.headers);
  add(text, "standard", output.standard);
  add(text, "definitions", output.definitions);
  add(text, "flags", output.flags);
  return text;
}

std::string lane_text(const Lane& lane) {
  std::string text = fmt::format("[lane.{}]\n", toml::key(lane.name));
  add(text, "compiler", lane.compiler);
  add(text, "flags", lane.flags);
  add(text, "configuration", lane.configuration);
  add(text, "start-through", lane.start_through);
  return text;
}

std::string library_text(const LibraryUse& use) {
  std::string text = fmt::format("[library.{}]\n", toml::key(use.name));
  add(text, "folder", use.folder.generic_string());
  add(text, "version", use.version);
  return text;
}

}  // namespace fibula
