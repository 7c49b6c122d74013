#include "needs.hpp"

#include "print.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <filesystem>
#include <set>

namespace cli {
namespace {

using fibula::ClosureEntry;
using fibula::NeedStatus;

Style style_of_entry(const ClosureEntry& entry) {
  if (fibula::is_bad(entry)) return Style::bad;
  const bool doubtful = entry.status == NeedStatus::by_luck || entry.status == NeedStatus::missing;
  return doubtful || !entry.passed_over.empty() ? Style::warning : Style::good;
}

std::string name_of(const std::string& path) {
  return std::filesystem::path(path).filename().string();
}

/// The file and how it was found, or what is wrong.
std::string account_of(const ClosureEntry& entry) {
  std::string text = entry.path.empty() ? entry.why : fmt::format("{} ({})", entry.path, entry.why);
  for (const auto& other : entry.passed_over) text += fmt::format("; {} differs from it and is not taken", other);
  return text;
}

class Tree {
 public:
  Tree(const std::vector<ClosureEntry>& entries, bool in_full) : entries_(entries), in_full_(in_full) {}

  std::vector<std::vector<Cell>> table(const std::string& root) {
    add_below(root, 0);
    // Loaders follow links, and a file's own path can be another one than that under which it was asked for.
    for (size_t i = 0; i < entries_.size(); ++i) add(i, 0);
    return std::move(rows_);
  }

 private:
  bool is_folded(const ClosureEntry& entry) const {
    return !in_full_ && entry.status == NeedStatus::system && entry.passed_over.empty();
  }

  void add_below(const std::string& asker, size_t depth) {
    for (size_t i = 0; i < entries_.size(); ++i) {
      if (entries_[i].needed_by == asker) add(i, depth);
    }
  }

  void add(size_t i, size_t depth) {
    const ClosureEntry& entry = entries_[i];
    if (is_folded(entry) || !shown_.insert(i).second) return;
    const auto further = entry.asked_by.size() > 1 ? fmt::format("; for {} more", entry.asked_by.size() - 1) : "";
    rows_.push_back({{std::string(2 * depth, ' ') + entry.name},
                     {std::string(fibula::to_string(entry.status)), style_of_entry(entry)},
                     {account_of(entry) + further, Style::faint}});
    if (!entry.path.empty()) add_below(entry.path, depth + 1);
  }

  const std::vector<ClosureEntry>& entries_;
  bool in_full_;
  std::set<size_t> shown_;
  std::vector<std::vector<Cell>> rows_;
};

}  // namespace

void print_needs_tree(const std::string& root, const std::vector<ClosureEntry>& entries, bool in_full,
                      const std::string& indent) {
  if (entries.empty()) return print_line(indent + "needs no run-time file");
  print_table(Tree(entries, in_full).table(root), indent);
  if (in_full) return;
  std::string system;
  size_t count = 0;
  for (const auto& entry : entries) {
    // The loader that a program names is there whenever anything is.
    const bool loader = entry.name.starts_with('/');
    if (loader || entry.status != NeedStatus::system || !entry.passed_over.empty()) continue;
    constexpr size_t enough = 8;  // to know what kind of program it is
    if (++count <= enough) system += (count == 1 ? "" : ", ") + name_of(entry.name);
    if (count == enough + 1) system += ", …";
  }
  if (count > 0) print_sentence(fmt::format("{} of the system: {}", count, system), indent.substr(2));
}

size_t print_troubles(const std::vector<fibula::FileClosure>& closures) {
  size_t bad_files = 0;
  for (const auto& closure : closures) {
    std::vector<std::vector<Cell>> table;
    if (closure.problem) table.push_back({{"damaged", Style::bad}, {closure.problem->what}});
    bool bad = closure.problem.has_value();
    for (const auto& entry : closure.entries) {
      bad = bad || fibula::is_bad(entry);
      if (style_of_entry(entry) == Style::good) continue;
      table.push_back({{entry.name},
                       {std::string(fibula::to_string(entry.status)), style_of_entry(entry)},
                       {fmt::format("{}; for {}", account_of(entry), name_of(entry.needed_by)), Style::faint}});
    }
    bad_files += bad ? 1U : 0U;
    if (table.empty()) continue;
    print_line(styled(closure.path.string(), Style::strong));
    print_table(table, "  ");
  }
  const size_t good = closures.size() - bad_files;
  print_line(
      fmt::format("{} of {} programs and shared libraries have every run-time file they need", good, closures.size()));
  return bad_files;
}

}  // namespace cli
