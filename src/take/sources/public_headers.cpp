#include "take/sources/public_headers.hpp"

#include "base/text.hpp"
#include "headers/header_folders.hpp"
#include "headers/include_lines.hpp"
#include "making/configure_script.hpp"
#include "os/files.hpp"
#include "take/sources/code_tree.hpp"
#include "take/sources/program_folders.hpp"
#include "take/sources/template_header.hpp"

#include <algorithm>
#include <map>
#include <set>

namespace fibula {
namespace {

bool lies_in(const std::string& file, const std::string& folder) {
  return file.starts_with(folder + "/");
}

/// A folder that is called so is there for users, with everything below it.
bool is_for_users(const std::string& directory) {
  for (const auto& part : fs::path(directory)) {
    if (part == "include" || part == "inc") return true;
  }
  return false;
}

/// What a header includes of the library's other headers.
std::vector<std::string> included_by(const Source& source, const std::string& header,
                                     const std::set<std::string>& headers) {
  std::vector<std::string> found;
  for (const auto& line : include_lines(read_text(source.root / header).value_or(""))) {
    const std::string beside = (fs::path(folder_of(header)) / line.name).lexically_normal().generic_string();
    if (headers.contains(beside)) {
      found.push_back(beside);
      continue;
    }
    for (const auto& directory : source.directories) {
      const std::string below = (fs::path(directory) / line.name).lexically_normal().generic_string();
      if (headers.contains(below)) found.push_back(below);
    }
  }
  return found;
}

}  // namespace

void leave_out_one_systems_headers(Source& source) {
  std::map<std::string, std::set<std::string>> templates;  // folders, by the header's name in small letters
  for (const auto& file : source.goes_along) {
    if (const auto header = header_of_template(file); !header.empty()) templates[header].insert(folder_of(file));
  }
  std::map<std::string, std::set<std::string>> configured;  // the same, by the very name: `Config.h` is no `config.h`
  for (const auto& made : configured_headers(source.root))
    configured[fs::path(made.name).filename().string()].insert(folder_of(made.name));
  for (auto header = source.headers.begin(); header != source.headers.end();) {
    const auto found = templates.find(text::lower(fs::path(*header).filename().string()));
    const auto named = configured.find(fs::path(*header).filename().string());
    const bool is_other = (found != templates.end() && !found->second.contains(folder_of(*header))) ||
                          (named != configured.end() && !named->second.contains(folder_of(*header)));
    if (!is_other || is_for_users(*header)) {
      ++header;
      continue;
    }
    source.goes_along.push_back(*header);
    header = source.headers.erase(header);
  }
}

void leave_out_program_headers(Source& source) {
  source.program_folders = program_folders(source);
  const auto is_program_header = [&](const std::string& header) {
    return lies_in_one_of(source.program_folders, header);
  };
  if (std::all_of(source.headers.begin(), source.headers.end(), is_program_header)) return;
  std::erase_if(source.headers, is_program_header);
}

namespace {

/// Two directories that have a header of the same name are two forms of the library: users get the first.
void drop_second_forms(Source& source) {
  std::map<std::string, std::string> first;
  std::set<std::string> dropped;
  for (const auto& directory : source.directories) {
    for (const auto& header : source.headers) {
      if (folder_of(header) != directory) continue;
      const auto [known, fresh] = first.emplace(fs::path(header).filename().string(), directory);
      if (!fresh && known->second != directory) dropped.insert(directory);
    }
  }
  std::erase_if(source.directories, [&](const std::string& directory) { return dropped.contains(directory); });
  std::erase_if(source.headers, [&](const std::string& header) { return dropped.contains(folder_of(header)); });
}

}  // namespace

void narrow_headers(Source& source, const std::string& name) {
  drop_second_forms(source);
  const std::set<std::string> all(source.headers.begin(), source.headers.end());
  const std::string own_folder = text::lower(name) + "/";
  const auto is_in_own_folder = [&](const std::string& header) {
    return text::lower(included_as(header, source.directories)).starts_with(own_folder);
  };
  std::set<std::string> kept;
  std::vector<std::string> open;
  const auto keep = [&](const std::string& header) {
    if (kept.insert(header).second) open.push_back(header);
  };
  for (const auto& header : all) {
    for (const auto& directory : source.directories) {
      const bool direct = folder_of(header) == (directory == "." ? "" : directory);
      if (direct || (is_for_users(directory) && lies_in(header, directory))) keep(header);
    }
    if (is_in_own_folder(header)) keep(header);
  }
  while (!open.empty()) {
    const std::string header = std::move(open.back());
    open.pop_back();
    for (const auto& included : included_by(source, header, all)) keep(included);
  }
  if (kept.empty()) return;
  source.headers.assign(kept.begin(), kept.end());
}

std::string owner_of_header(const std::string& name) {
  return name.substr(0, name.find('/'));
}

bool leave_out_headers_of(Source& source, const std::string& owner) {
  const auto is_of_owner = [&](const auto& entry) { return owner_of_header(entry.first) == owner; };
  if (std::none_of(source.elsewhere.begin(), source.elsewhere.end(), is_of_owner)) return true;
  const auto needs_it = [&](const std::string& header) {
    const auto lines = include_lines(read_text(source.root / header).value_or(""));
    return std::any_of(lines.begin(), lines.end(), [&](const IncludeLine& line) {
      return owner_of_header(line.name) == owner && source.elsewhere.contains(line.name);
    });
  };
  auto& headers = source.headers;
  if (std::count_if(headers.begin(), headers.end(), needs_it) * 4 > std::ssize(headers)) return false;
  std::erase_if(headers, needs_it);  // they go along already
  std::erase_if(source.elsewhere, is_of_owner);
  return true;
}

}  // namespace fibula
