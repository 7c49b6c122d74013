#include "take/sources/fragments.hpp"

#include <algorithm>
#include <filesystem>

namespace fibula {
namespace {

namespace fs = std::filesystem;

/// C17, 7.16, 7.19, 7.20 and 7.21.
bool uses_standard_headers(const CodeFile& code) {
  static constexpr std::string_view names[] = {"size_t",   "NULL",    "FILE",     "uint8_t",  "uint16_t",
                                               "uint32_t", "int32_t", "uint64_t", "intptr_t", "va_list"};
  return std::any_of(std::begin(names), std::end(names),
                     [&](std::string_view name) { return code.names.mentions.contains(std::string(name)); });
}

bool uses_own_headers(const CodeFile& code, const CodeTree& tree) {
  return std::any_of(code.names.mentions.begin(), code.names.mentions.end(),
                     [&](const std::string& name) { return tree.macros().is_defined_here(name); });
}

/// Whether it includes its headers, and defines all of these names and more.
bool has_more_than(const CodeFile& code, const std::set<std::string>& names) {
  const auto& own = code.names.defines;
  return !code.includes.empty() && !code.is_cut_out && own.size() > names.size() &&
         std::includes(own.begin(), own.end(), names.begin(), names.end());
}

}  // namespace

std::vector<std::string> fragments_among(const CodeTree& tree, const std::set<std::string>& sources) {
  std::vector<std::string> fragments;
  std::set<std::string> taken_in;  // of these it is told that they are
  for (const auto& [file, code] : tree.files()) {
    for (const auto& name : code.takes_in) taken_in.insert(fs::path(name).filename().string());
  }
  std::copy_if(sources.begin(), sources.end(), std::back_inserter(fragments), [&](const std::string& file) {
    const CodeFile& code = tree.file(file);
    if (is_assembly(file) || taken_in.contains(fs::path(file).filename().string())) return false;
    if (code.is_cut_out || !code.includes.empty()) return code.is_cut_out;
    if (uses_standard_headers(code)) return true;
    const auto& names = code.names.defines;
    return !names.empty() && uses_own_headers(code, tree) &&
           std::any_of(sources.begin(), sources.end(),
                       [&](const std::string& other) { return has_more_than(tree.file(other), names); });
  });
  return fragments;
}

}  // namespace fibula
