#include "take/sources/code_tree.hpp"

#include "base/text.hpp"
#include "headers/branches.hpp"
#include "headers/header_roots.hpp"
#include "headers/well_known_headers.hpp"
#include "os/files.hpp"
#include "take/file_roles.hpp"
#include "take/sources/source_system.hpp"

#include <algorithm>

namespace fibula {
namespace {

bool in(const std::vector<std::string>& names, const std::string& name) {
  return std::find(names.begin(), names.end(), name) != names.end();
}

/// Adds who calls one of them, directly or through others.
void add_callers(std::set<std::string>& names, const std::map<std::string, std::set<std::string>>& calls) {
  for (bool more = true; more;) {
    more = false;
    for (const auto& [caller, called] : calls) {
      const bool is_one =
          std::any_of(called.begin(), called.end(), [&](const std::string& name) { return names.contains(name); });
      more = (is_one && names.insert(caller).second) || more;
    }
  }
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
    : root_(source.root), handed_(std::move(handed)) {
  note_builds();
  std::set<std::string> seen;  // what users include goes along too
  for (const auto* files : {&source.headers, &source.goes_along}) {
    for (const auto& file : *files) {
      if (!seen.insert(file).second) continue;
      const std::string name = fs::path(file).filename().string();
      if (role_of(file, source.own_folders) == Role::header && !system_of_source(file, {}).everywhere()) {
        for_one_system_[name].push_back(file);
        continue;
      }
      names_.insert(name);
      if (role_of(file, source.own_folders) == Role::header) headers_by_name_[name].push_back(file);
    }
  }
  note_macros(source);
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

void CodeTree::note_macros(const Source& source) {
  std::map<std::string, std::set<std::string>> calls;  // by a macro with arguments
  std::set<std::string> seen;
  for (const auto* files : {&source.headers, &source.code, &source.goes_along}) {
    for (const auto& file : *files) {
      const bool is_code =
          files == &source.code || role_of(file, source.own_folders) == Role::header || file.ends_with("in");
      if (!is_code || !seen.insert(file).second) continue;
      const std::string text = read_text(root_ / file).value_or("");
      note_defined_names(text, macros_);
      for (const auto& [name, body] : macro_bodies(text)) {
        const auto words = text::identifiers(body);
        const bool pastes = body.find("##") != std::string::npos;
        if (pastes) pasted_.insert(words.begin(), words.end());
        if (!body.starts_with('(')) continue;
        if (pastes) pasting_.insert(name);
        calls[name].insert(words.begin(), words.end());
      }
      if (role_of(file, source.own_folders) == Role::header) note_expansions(text, expansions_);
    }
  }
  add_callers(pasting_, calls);
}

void CodeTree::note_included(const Source& source) {
  const auto never = [&](std::string_view name) { return is_never_defined(name); };
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

bool CodeTree::may_be_pasted(const std::string& name) const {
  constexpr size_t telling = 3;
  return std::any_of(pasted_.begin(), pasted_.end(), [&](const std::string& part) {
    return part.size() >= telling && part.size() < name.size() && (name.starts_with(part) || name.ends_with(part));
  });
}

bool CodeTree::is_usual_prefix(const std::string& word) const {
  constexpr ptrdiff_t many = 20;
  return !word.empty() && std::count_if(macros_.begin(), macros_.end(), [&](const std::string& macro) {
                            return macro.starts_with(word + "_");
                          }) >= many;
}

bool CodeTree::is_never_defined(std::string_view name) const {
  static const DefinedNames of_builds{"NDEBUG", "DEBUG", "HAVE_CONFIG_H", "UNICODE", "linux", "unix", "i386"};
  return !name.starts_with('_') && !name.starts_with("WIN") && !name.starts_with("TARGET_") &&
         !of_builds.contains(name) && !macros_.contains(name) && !handed_.contains(name);
}

std::set<std::string> CodeTree::with_expansions(std::set<std::string> names) const {
  std::vector<std::string> open(names.begin(), names.end());
  while (!open.empty()) {
    const auto found = expansions_.find(open.back());
    open.pop_back();
    if (found == expansions_.end()) continue;
    for (const auto& inner : found->second) {
      if (names.insert(inner).second) open.push_back(inner);
    }
  }
  return names;
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
  for (auto& [system, defined] : builds_) defined.insert(handed_.begin(), handed_.end());
}

void CodeTree::hand(const DefinedNames& macros) {
  handed_.insert(macros.begin(), macros.end());
  note_builds();
  header_includes_.clear();
  for (auto& [file, code] : files_) {
    const std::string text = read_text(root_ / file).value_or("");
    const auto is_named = [&](const std::string& macro) { return text.find(macro) != std::string::npos; };
    if (code.only_includes || std::none_of(macros.begin(), macros.end(), is_named)) continue;
    code = CodeFile();
    read(file);
  }
}

void CodeTree::add(const std::string& file) {
  if (!files_.contains(file)) read(file);
}

void CodeTree::add_header(const std::string& name) {
  names_.insert(fs::path(name).filename().string());
}

void CodeTree::read(const std::string& file) {
  const auto content = read_text(root_ / file);
  if (!content) return;
  CodeFile& code = files_[file];
  code.names = names_in_source(*content);
  const auto never = [&](std::string_view name) { return is_never_defined(name); };
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
    std::erase_if(*defines, [&](const auto& name) { return pasting_.contains(name); });
  code.is_program = fuzzes(code.names) || (code.names.has_main && is_program(*content));
  code.is_cut_out = has_loose_conditionals(*content);
  code.includes = include_lines(*content);
  if (is_assembly(file)) code.machine = machine_of_assembly(*content);
  for (const auto& line : include_lines(possible)) {
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
  // What a configure step finds out may be so or not.
  const auto is_open = [&](std::string_view name) { return macros_.contains(name) || name.starts_with("HAVE_"); };
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
