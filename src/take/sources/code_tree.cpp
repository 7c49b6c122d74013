#include "take/sources/code_tree.hpp"

#include "base/text.hpp"
#include "headers/branches.hpp"
#include "headers/header_roots.hpp"
#include "headers/well_known_headers.hpp"
#include "os/files.hpp"
#include "take/file_roles.hpp"
#include "take/naming.hpp"
#include "take/sources/source_system.hpp"

#include <algorithm>
#include <cctype>

namespace fibula {
namespace {

bool in(const std::vector<std::string>& names, const std::string& name) {
  return std::find(names.begin(), names.end(), name) != names.end();
}

/// `tide` of libtide and `tide-2`: letters and digits alone, in small letters.
std::string plain_name(std::string_view name) {
  std::string plain;
  for (const char c : text::lower(name)) {
    if (std::isalnum(static_cast<unsigned char>(c)) != 0) plain += c;
  }
  return plain.starts_with("lib") && plain.size() > 4 ? plain.substr(3) : plain;
}

bool fuzzes(const SourceNames& names) {
  return names.defines.contains("LLVMFuzzerTestOneInput");
}

}  // namespace

std::string folder_of(const std::string& file) {
  return fs::path(file).parent_path().generic_string();
}

bool source_is_cxx(const std::string& file) {
  const std::string name = text::lower(file);
  return !name.ends_with(".c") && !name.ends_with(".s") && !name.ends_with(".asm");
}

size_t common_folders(const std::string& a, const std::string& b) {
  const fs::path one = fs::path(a).parent_path(), other = fs::path(b).parent_path();
  return static_cast<size_t>(
      std::distance(one.begin(), std::mismatch(one.begin(), one.end(), other.begin(), other.end()).first));
}

bool is_called_a_test(const std::string& file) {
  static constexpr std::string_view words[] = {"test", "tests",     "unittest",   "fuzzer",
                                               "fuzz", "benchmark", "benchmarks", "bench"};
  std::string stem = text::lower(fs::path(file).stem().string());
  std::replace(stem.begin(), stem.end(), '-', '_');
  const auto parts = text::split(stem, '_');
  return std::any_of(std::begin(words), std::end(words),
                     [&](std::string_view word) { return std::find(parts.begin(), parts.end(), word) != parts.end(); });
}

CodeTree::CodeTree(Source& source, bool (*is_test)(const std::string&), DefinedNames handed)
    : root_(source.root), macros_(source, std::move(handed)) {
  note_builds();
  note_folders(source);
  std::set<std::string> seen;  // what users include goes along too
  for (const auto* files : {&source.headers, &source.goes_along}) {
    for (const auto& file : *files) {
      if (!seen.insert(file).second) continue;
      const std::string name = fs::path(file).filename().string();
      if (role_of(file, source.own_folders) == Role::header && !system_of_source(file, {}).everywhere()) {
        for_one_system_[name].push_back(file);
        continue;
      }
      places_[name].push_back(file);
      if (role_of(file, source.own_folders) == Role::header) headers_by_name_[name].push_back(file);
    }
  }
  note_included(source);
  std::set<std::string> called_like_headers;
  for (const auto& header : source.headers) called_like_headers.insert(text::lower(fs::path(header).stem().string()));
  for (const auto& file : source.code) {
    if (is_test(file) && !called_like_headers.contains(text::lower(fs::path(file).stem().string()))) {
      source.samples.push_back(file);
    } else {
      read(file);
    }
  }
  join_parts(called_like_headers);
}

/// `tern.cpp` beside `tern.h` that includes `wing.cpp` and `beak.cpp` is the library's source, where `tern-all.cpp` is
/// one way to compile all of them at once.
void CodeTree::join_parts(const std::set<std::string>& called_like_headers) {
  std::map<std::string, std::vector<std::string>> joined;
  for (const auto& entry : files_) {
    const std::string& file = entry.first;
    if (!entry.second.only_includes || !called_like_headers.contains(text::lower(fs::path(file).stem().string())))
      continue;
    std::vector<std::string>& parts = joined[file];
    const auto add_parts = [&](const std::string& from) {
      for (const auto& name : files_.at(from).takes_in) {
        std::string part = (fs::path(from).parent_path() / name).lexically_normal().generic_string();
        const bool known = part == file || std::find(parts.begin(), parts.end(), part) != parts.end();
        if (!known && files_.contains(part)) parts.push_back(std::move(part));
      }
    };
    add_parts(file);
    // Parts take in parts of their own.
    for (size_t i = 0; i < parts.size(); ++i) add_parts(std::string(parts[i]));
  }
  // Of several that take in the same each is another way to compile it.
  std::map<std::string, size_t> users;
  for (const auto& [file, parts] : joined) {
    for (const auto& part : parts) ++users[part];
  }
  for (const auto& [file, parts] : joined) {
    if (std::any_of(parts.begin(), parts.end(), [&](const std::string& part) { return users[part] > 1; })) continue;
    CodeFile& whole = files_.at(file);
    whole.only_includes = false;
    for (const auto& part : parts) {
      const auto found = files_.find(part);
      if (found == files_.end()) continue;
      whole.names.defines.merge(found->second.names.defines);
      whole.names.mentions.merge(found->second.names.mentions);
      whole.needs.insert(whole.needs.end(), found->second.needs.begin(), found->second.needs.end());
      files_.erase(found);
      parts_.push_back(part);
    }
  }
}

void CodeTree::note_included(const Source& source) {
  const auto never = [&](std::string_view name) { return macros_.is_never_defined(name); };
  std::set<std::string> seen;
  for (const auto* files : {&source.headers, &source.code, &source.goes_along, &source.samples}) {
    for (const auto& file : *files) {
      if (!is_source_name(file) && role_of(file, source.own_folders) != Role::header) continue;
      if (!seen.insert(file).second) continue;
      const std::string content = read_text(root_ / file).value_or("");
      for (const auto& line : include_lines(content)) included_.insert(fs::path(line.name).filename().string());
      for (const auto& line : include_lines(text_without(content, never)))
        included_by_default_.insert(fs::path(line.name).filename().string());
    }
  }
}

AskedHeaders CodeTree::asked_by(const std::set<std::string>& files, const std::vector<std::string>& headers) const {
  AskedHeaders asked;
  std::set<std::string> through;
  std::vector<std::string> open = headers;
  const auto follow = [&](const std::vector<IncludeLine>& lines, const std::string& file) {
    for (const auto& line : lines) {
      asked.ever.insert(last_part(line.name));
      const std::string own = own_header(line.name, file);
      if (!own.empty() && through.insert(own).second) open.push_back(own);
    }
  };
  for (const auto& file : files) {
    follow(files_.at(file).includes, file);
    for (const auto& name : files_.at(file).needs) {
      if (own_header(name, file).empty()) asked.by_default.insert(last_part(name));
    }
  }
  while (!open.empty()) {
    const std::string header = std::move(open.back());
    open.pop_back();
    follow(include_lines(read_text(root_ / header).value_or("")), header);
  }
  return asked;
}

bool CodeTree::is_switched_off(const std::string& header) const {
  const std::string name = fs::path(header).filename().string();
  return included_.contains(name) && !included_by_default_.contains(name);
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
  const auto found = places_.find(fs::path(header).filename().string());
  if (found == places_.end()) return false;
  return !is_in_foreign_folder(header) ||
         std::any_of(found->second.begin(), found->second.end(),
                     [&](const std::string& file) { return file == header || file.ends_with("/" + header); });
}

void CodeTree::note_folders(const Source& source) {
  for (const auto* files : {&source.headers, &source.code, &source.goes_along, &source.samples}) {
    for (const auto& file : *files) {
      for (const auto& part : fs::path(file).parent_path()) folders_.insert(text::lower(part.string()));
    }
  }
  library_ = plain_name(split_name(source.called).name);
}

bool CodeTree::is_in_foreign_folder(const std::string& header) const {
  const std::string folder = text::lower(fs::path(header).parent_path().filename().string());
  if (folder.empty() || folder == "." || folder == ".." || folders_.contains(folder)) return false;
  // Headers are installed in a folder that is called like the library, or like one of several that it is.
  const std::string name = plain_name(folder);
  return name.find(library_) == std::string::npos && library_.find(name) == std::string::npos;
}

SourceSystem CodeTree::system_of(const std::string& file) const {
  const CodeFile& code = files_.at(file);
  // Of its own a tree may have a `Process.h`, whatever systems have.
  const auto of_others = [&](std::vector<std::string> names) {
    std::erase_if(names, [&](const std::string& name) { return came(name); });
    return names;
  };
  SourceSystem found = system_of_source(file, of_others(code.needs));
  if (!code.machine.empty()) found.archs = {code.machine};
  for (const std::string system : {"linux", "macos"}) {
    if (!lacks_one_of(system, of_others(code.usual.at(system)))) continue;
    if (found.systems.empty()) found.systems = {"linux", "macos", "windows"};
    std::erase(found.systems, system);
    found.foreign = found.foreign || found.systems.empty();
  }
  if (code.refused.size() < 3) {
    for (const auto& system : code.refused) {
      if (found.systems.empty()) found.systems = {"linux", "macos", "windows"};
      if (found.systems.size() > 1) std::erase(found.systems, system);
    }
  }
  return found;
}

void CodeTree::note_builds() {
  builds_ = {{"linux", names_of_linux()}, {"macos", names_of_macos()}, {"windows", names_of_windows()}};
  const auto& handed = macros_.handed();
  for (auto& [system, defined] : builds_) defined.insert(handed.begin(), handed.end());
}

void CodeTree::hand(const DefinedNames& macros) {
  macros_.hand(macros);
  note_builds();
  read_anew(macros);
}

void CodeTree::leave_undefined(const DefinedNames& macros) {
  macros_.leave_undefined(macros);
  read_anew(macros);
}

void CodeTree::read_anew(const DefinedNames& macros) {
  header_includes_.clear();
  for (auto& [file, code] : files_) {
    if (code.only_includes) continue;
    const std::string text = read_text(root_ / file).value_or("");
    const auto words = text::identifiers(text);
    if (std::none_of(words.begin(), words.end(), [&](std::string_view word) { return macros.contains(word); }))
      continue;
    code = CodeFile();
    read(file);
  }
}

void CodeTree::add(const std::string& file) {
  if (!files_.contains(file)) read(file);
}

void CodeTree::add_header(const std::string& name) {
  places_[fs::path(name).filename().string()].push_back(name);
}

void CodeTree::read(const std::string& file) {
  const auto content = read_text(root_ / file);
  if (!content) return;
  CodeFile& code = files_[file];
  code.names = names_in_source(*content);
  const auto never = [&](std::string_view name) { return macros_.is_never_defined(name); };
  const std::string possible = text_without(*content, never);
  code.names.mentions = names_in_source(possible).mentions;
  for (const auto& [name, body] : macro_bodies(*content)) {
    for (const auto inner : text::identifiers(body)) code.names.mentions.emplace(inner);
  }
  SourceNames always = names_in_source(without_conditionals(*content));
  code.always = std::move(always.defines);
  code.always_whole = std::move(always.whole);
  // `int TIDE_(level)(void) {` defines no TIDE_.
  for (auto* defines : {&code.names.defines, &code.always})
    std::erase_if(*defines, [&](const auto& name) { return macros_.makes_names(name); });
  code.is_program = fuzzes(code.names) || (code.names.has_main && is_program(*content));
  code.is_cut_out = has_loose_conditionals(*content);
  code.includes = include_lines(*content);
  if (is_assembly(file)) code.machine = machine_of_assembly(*content);
  // A part of another source stays one, although a made header leaves out what takes it in.
  const auto nowhere = [&](std::string_view name) {
    return macros_.is_never_defined(name) && !macros_.is_left_undefined(name);
  };
  for (const auto& line : include_lines(macros_.leaves_some_undefined() ? text_without(*content, nowhere) : possible)) {
    if (is_source_name(line.name)) code.takes_in.insert(line.name);
  }
  for (const auto& [system, defined] : builds_) {
    std::set<std::string> through;
    add_usual(file, system, defined, through, code.usual[system]);
    if (is_refused(*content, defined, system == "windows", code.names.defines)) code.refused.insert(system);
    for (const auto& line : include_lines(text_where(*content, defined))) {
      if (is_source_name(line.name)) code.takes_in_usually.insert(line.name);
    }
  }
  for (const auto& name : code.usual["linux"]) {
    if (in(code.usual["macos"], name) && in(code.usual["windows"], name)) code.needs.push_back(name);
  }
  const auto takes_in = [](const IncludeLine& line) { return is_source_name(line.name); };
  code.only_includes =
      code.names.defines.empty() && std::count_if(code.includes.begin(), code.includes.end(), takes_in) > 1;
}

/// What an ordinary build for a system includes, also through the library's own headers.
void CodeTree::add_usual(const std::string& file, const std::string& system, const DefinedNames& defined,
                         std::set<std::string>& through, std::vector<std::string>& names) {
  const auto is_open = [&](std::string_view name) { return macros_.is_open(name); };
  auto [known, fresh] = header_includes_.try_emplace({file, system});
  if (fresh) known->second = include_lines(text_where(read_text(root_ / file).value_or(""), defined, is_open));
  // Deeper files add to the map, whose entries stay where they are.
  for (const auto& line : known->second) {
    if (is_source_name(line.name)) continue;
    names.push_back(line.name);
    // `compat/unistd.h` is for systems that have none.
    const bool of_system = !line.quoted && system == "linux" && comes_with_linux(line.name);
    const auto own = of_system ? std::string() : own_header(line.name, file);
    if (!own.empty() && through.insert(own).second) add_usual(own, system, defined, through, names);
  }
}

std::set<std::string> CodeTree::taken_in_by_headers() const {
  std::set<std::string> taken;
  for (const auto& [header, lines] : header_includes_) {
    if (is_source_name(header.first)) continue;
    for (const auto& line : lines) {
      if (!is_source_name(line.name)) continue;
      const std::string beside = (fs::path(folder_of(header.first)) / line.name).lexically_normal().generic_string();
      if (files_.contains(beside)) {
        taken.insert(beside);
        continue;
      }
      for (const auto& [file, code] : files_) {
        if (file == line.name || file.ends_with("/" + line.name)) taken.insert(file);
      }
    }
  }
  return taken;
}

std::string CodeTree::own_header(const std::string& name, const std::string& asking) const {
  const auto found = headers_by_name_.find(fs::path(name).filename().string());
  if (found == headers_by_name_.end()) return {};
  const std::string* best = nullptr;
  bool alike = false;
  for (const auto& header : found->second) {
    if (header == name) return header;
    if (!header.ends_with("/" + name)) continue;
    const size_t near = common_folders(header, asking), known = best == nullptr ? 0 : common_folders(*best, asking);
    // Each system's folder may have one: then nobody knows which is meant.
    alike = best != nullptr && (near == known || (alike && near < known));
    if (best == nullptr || near > known) best = &header;
  }
  return best == nullptr || alike ? std::string() : *best;
}

}  // namespace fibula
