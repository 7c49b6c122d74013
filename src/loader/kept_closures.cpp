#include "loader/kept_closures.hpp"

#include "base/text.hpp"
#include "os/kept.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <charconv>
#include <map>
#include <optional>

namespace fibula {
namespace {

bool is_plain(std::string_view text) {
  return text.find_first_of("\t\n") == std::string_view::npos;
}

std::string line_of(const Stamp& stamp, std::string_view path) {
  return fmt::format("S\t{}\t{}\n", to_text(stamp), path);
}

/// False when a text cannot stand in a line.
bool add_entry(const ClosureEntry& entry, std::string& text) {
  for (const auto& part : {entry.name, entry.path, entry.needed_by, entry.why}) {
    if (!is_plain(part)) return false;
  }
  text += fmt::format("E\t{}\t{}\t{}\t{}\t{}\t{}\n", entry.name, entry.path, entry.needed_by,
                      static_cast<int>(entry.status), static_cast<int>(entry.kind), entry.why);
  for (const auto& user : entry.asked_by) text += fmt::format("A\t{}\n", user);
  for (const auto& other : entry.passed_over) text += fmt::format("P\t{}\n", other);
  return true;
}

int number(std::string_view text) {
  int value = 0;
  std::from_chars(text.data(), text.data() + text.size(), value);
  return value;
}

/// Reads one line back; false when what it rests on changed, or when it is none of ours.
bool take_line(std::string_view line, std::vector<ClosureEntry>& entries) {
  const auto parts = text::split(line, '\t');
  if (parts[0] == "S" && parts.size() == 3) return parts[1] == to_text(stamp_of(fs::path(parts[2])));
  if (parts[0] == "E" && parts.size() == 7) {
    entries.push_back({.name = std::string(parts[1]),
                       .path = std::string(parts[2]),
                       .needed_by = std::string(parts[3]),
                       .status = static_cast<NeedStatus>(number(parts[4])),
                       .why = std::string(parts[6]),
                       .kind = static_cast<NeedKind>(number(parts[5]))});
    return true;
  }
  if (entries.empty() || parts.size() != 2) return false;
  if (parts[0] == "A") entries.back().asked_by.emplace_back(parts[1]);
  if (parts[0] == "P") entries.back().passed_over.emplace_back(parts[1]);
  return parts[0] == "A" || parts[0] == "P";
}

/// One text for all that a closure is asked for: the file, what will lie beside it, plugins, the system.
std::string closure_key(const ClosureRoot& root, const ClosureOptions& options) {
  std::string key = root.file->path.string() + '\n' + options.sysroot.string();
  for (const auto& directory : options.directories) key += "\nd" + directory.string();
  for (const auto& directory : options.variable_directories) key += "\nv" + directory.string();
  for (const auto& plugin : root.plugins) key += "\np" + plugin.string();
  for (const auto& path : root.hidden) key += "\nh" + path.string();
  for (const auto& [name, path] : root.placed) key += "\nf" + name + '\t' + path.string();
  return key;
}

/// Nothing when it was not kept, or when something that it rests on changed.
std::optional<std::vector<ClosureEntry>> still_holding(const Cache& cache, const std::string& key) {
  const auto text = kept_answer(cache, kept_kind::closures, key);
  if (!text) return std::nullopt;
  std::vector<ClosureEntry> entries;
  for (const auto line : text::lines(*text)) {
    if (!line.empty() && !take_line(line, entries)) return std::nullopt;
  }
  return entries;
}

/// With the state of every path that was looked at. Where nothing can be kept, nothing is.
void keep_closure(const Cache& cache, const std::string& key, const RunTimeFiles& files,
                  const std::vector<ClosureEntry>& entries) {
  // musl's directories stand in a file of their own, which is none of the paths that are looked at.
  const auto rests_on_more = [](const ClosureEntry& entry) {
    return is_bad(entry) || entry.path.find("/ld-musl-") != std::string::npos;
  };
  if (std::any_of(entries.begin(), entries.end(), rests_on_more)) return;
  std::string text;
  const std::map<std::string, Stamp> stamps(files.stamps().begin(), files.stamps().end());
  for (const auto& [path, stamp] : stamps) {
    if (!is_plain(path)) return;
    text += line_of(stamp, path);
  }
  for (const auto& entry : entries) {
    if (!add_entry(entry, text)) return;
  }
  keep_answer(cache, kept_kind::closures, key, text);
}

}  // namespace

std::vector<ClosureEntry> followed_or_kept(TargetSystem& system, const ClosureRoot& root,
                                           const ClosureOptions& options) {
  const bool elf = root.file->target.format == Format::elf;
  const std::string key = elf ? closure_key(root, options) : std::string();
  if (auto known = elf ? still_holding(options.cache, key) : std::nullopt) return std::move(*known);
  // A store of its own: what is kept rests on the paths that this file asked for, and on no others.
  RunTimeFiles files;
  auto entries = follow_needs(files, system, root);
  if (!elf || !system.has_cache()) return entries;
  for (const auto& path : {root.file->path, system.places_of("/etc/ld.so.cache").front()}) (void)files.stamp(path);
  keep_closure(options.cache, key, files, entries);
  return entries;
}

}  // namespace fibula
