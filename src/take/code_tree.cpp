#include "take/code_tree.hpp"

#include "base/text.hpp"
#include "headers/header_roots.hpp"
#include "os/files.hpp"
#include "take/file_roles.hpp"
#include "take/source_system.hpp"

#include <algorithm>

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

}  // namespace

std::string folder_of(const std::string& file) {
  return fs::path(file).parent_path().generic_string();
}

size_t common_folders(const std::string& a, const std::string& b) {
  const fs::path one = fs::path(a).parent_path(), other = fs::path(b).parent_path();
  return static_cast<size_t>(
      std::distance(one.begin(), std::mismatch(one.begin(), one.end(), other.begin(), other.end()).first));
}

CodeTree::CodeTree(Source& source, bool (*is_called_a_test)(const std::string&)) : root_(source.root) {
  for (const auto* files : {&source.headers, &source.goes_along}) {
    for (const auto& file : *files) {
      const std::string name = fs::path(file).filename().string();
      if (role_of(file) == Role::header && !system_of_source(file, {}).everywhere()) {
        for_one_system_[name].push_back(file);
        continue;
      }
      names_.insert(name);
      if (role_of(file) == Role::header) headers_by_name_[name].push_back(file);
    }
  }
  for (const auto& file : source.code) {
    if (is_called_a_test(file)) {
      source.samples.push_back(file);
    } else {
      read(file);
    }
  }
}

bool CodeTree::is_there(const std::string& header, const std::string& asking) const {
  if (came(header) || comes_with_system(header)) return true;
  const auto found = for_one_system_.find(fs::path(header).filename().string());
  return found != for_one_system_.end() &&
         std::any_of(found->second.begin(), found->second.end(), [&](const std::string& file) {
           return folder_of(file) == folder_of(asking) ||
                  system_of_source(file, {}).systems == system_of_source(asking, {}).systems;
         });
}

bool CodeTree::came(const std::string& header) const {
  return names_.contains(fs::path(header).filename().string());
}

void CodeTree::add_header(const std::string& name) {
  names_.insert(fs::path(name).filename().string());
}

void CodeTree::read(const std::string& file) {
  const auto content = read_text(root_ / file);
  if (!content) return;
  CodeFile& code = files_[file];
  code.names = names_in_source(*content);
  const std::string always = without_conditionals(*content);
  const auto in_each_build = names_in_source(always);
  code.always = in_each_build.defines;
  code.is_program = in_each_build.has_main || code.names.defines.contains("LLVMFuzzerTestOneInput");
  code.includes = include_lines(*content);
  for (const auto& line : code.includes) {
    configured_ = configured_ || text::lower(fs::path(line.name).filename().string()) == "config.h";
  }
  std::set<std::string> through;
  add_needs(file, code.includes, through, code.needs);
  const auto takes_in = [](const IncludeLine& line) { return is_source_name(line.name); };
  code.only_includes =
      code.names.defines.empty() && std::count_if(code.includes.begin(), code.includes.end(), takes_in) > 1;
}

/// Headers that each build needs, also those that the library's own headers include.
void CodeTree::add_needs(const std::string& file, const std::vector<IncludeLine>& includes,
                         std::set<std::string>& through, std::vector<std::string>& needs) {
  for (const auto& line : includes) {
    if (line.conditional || is_source_name(line.name)) continue;
    needs.push_back(line.name);
    const auto own = own_header(line.name, file);
    if (own.empty() || !through.insert(own).second) continue;
    auto [known, fresh] = header_includes_.try_emplace(own);
    if (fresh) known->second = include_lines(read_text(root_ / own).value_or(""));
    add_needs(own, known->second, through, needs);
  }
}

std::string CodeTree::own_header(const std::string& name, const std::string& asking) const {
  const auto found = headers_by_name_.find(fs::path(name).filename().string());
  if (found == headers_by_name_.end()) return {};
  const std::string* best = nullptr;
  for (const auto& header : found->second) {
    if (header != name && !header.ends_with("/" + name)) continue;
    if (best == nullptr || common_folders(header, asking) > common_folders(*best, asking)) best = &header;
  }
  return best == nullptr ? std::string() : *best;
}

}  // namespace fibula
