#include "inspect.hpp"
#include "print.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <set>

namespace cli {
namespace {

using fibula::Facts;
using fibula::Kind;

std::string_view kind_title(const Facts& facts) {
  if (!facts.kind) return "file";
  switch (*facts.kind.value) {
    case Kind::object: return "object file";
    case Kind::static_library: return "static library";
    case Kind::shared_library: return "shared library";
    case Kind::import_library: return "import library";
    case Kind::program: return "program";
    case Kind::plugin: return "plugin";
    case Kind::core: return "core dump";
    case Kind::script: return "linker script";
    case Kind::empty: return "empty archive";
  }
  return "file";
}

/// What the headline says already, and what nobody asks a card for.
bool is_in_headline(const std::string& id) {
  static const std::set<std::string> ids = {"format", "kind", "arch", "bits", "endian"};
  return ids.contains(id);
}

std::string headline(const Facts& facts) {
  const bool big = facts.endian.value == fibula::Endian::big;
  const bool known = facts.kind.value != Kind::empty;
  return fmt::format("{}{}{}", kind_title(facts), known ? ", " + fibula::target_of(facts) : "",
                     big ? ", big-endian" : "");
}

void print_parts(const std::vector<Facts>& parts, std::string_view indent) {
  for (const auto& part : parts) print_card(part, part.path, indent);
}

std::string short_run_time(const Facts& facts) {
  std::string text = facts.c_runtime.value.value_or("");
  if (facts.cxx_runtime && facts.cxx_runtime.value != "msvc")
    text += fmt::format("{}{}", text.empty() ? "" : ", ", *facts.cxx_runtime.value);
  return text;
}

/// Groups with a heading each, their columns as wide as the widest cell of all.
void print_binaries(const fibula::FolderView& view) {
  std::vector<std::vector<Cell>> table;
  std::string group;
  for (const auto& binary : view.binaries) {
    if (binary.group != group) table.push_back({{"  " + binary.group, Style::strong, true}});
    group = binary.group;
    const std::string links = binary.links.empty() ? "" : fmt::format("also as {}", fmt::join(binary.links, ", "));
    const std::string more = binary.belongs_to + (binary.belongs_to.empty() || links.empty() ? "" : "; ") + links;
    table.push_back({{"    " + binary.path},
                     {std::string(fibula::to_string(binary.facts.kind.value.value_or(Kind::object)))},
                     {binary.facts.configuration.value.value_or("")},
                     {short_run_time(binary.facts)},
                     {more, Style::faint}});
  }
  print_table(table);
}

/// One heading a file, since some have more than one thing about them.
void print_odd(const std::vector<fibula::Oddity>& odd) {
  if (odd.empty()) return;
  print_line("  " + styled("odd", Style::warning));
  std::string file;
  for (const auto& oddity : odd) {
    if (oddity.file != file) print_line("    " + oddity.file);
    file = oddity.file;
    print_line("      " + oddity.what);
  }
}

}  // namespace

/// What a file gives to its users is worth a line only where it differs from what it is made of.
bool says_nothing_new(const fibula::FactRow& row, const fibula::Facts& facts) {
  return (row.id == "interface" && row.value == fibula::FactValue(facts.language.value.value_or(""))) ||
         (row.id == "own-strings" && row.value == fibula::FactValue(facts.string_abi.value.value_or("")));
}

void print_card(const Facts& facts, const std::string& title, std::string_view indent) {
  print_line(fmt::format("{}{}: {}", indent, styled(title, Style::strong), headline(facts)));
  const std::string inner = std::string(indent) + "  ";
  std::vector<std::vector<Cell>> table;
  for (const auto& row : fibula::rows(facts)) {
    if (is_in_headline(row.id) || says_nothing_new(row, facts)) continue;
    const bool sure = row.certainty == fibula::Certainty::read;
    table.push_back(
        {{row.id, Style::faint},
         {fibula::to_text(row.value)},
         {sure ? row.from : fmt::format("{}: {}", fibula::to_string(row.certainty), row.from), Style::faint}});
  }
  table.push_back(
      {{"symbols", Style::faint}, {fmt::format("{} defined, {} needed", facts.defined_count, facts.undefined_count)}});
  print_table(table, inner);
  for (const auto& note : facts.notes) print_line(inner + styled("note: ", Style::warning) + note);
  print_parts(facts.slices, inner);
  print_parts(facts.members, inner);
}

/// Trees of sources have many folders: the first of them, and how much there is besides.
void print_files(std::string_view sort, const std::vector<fibula::FilesInFolder>& folders) {
  constexpr size_t shown = 8;
  if (folders.empty()) return;
  print_line("  " + styled(fmt::format("{}s", sort), Style::strong));
  std::vector<std::vector<Cell>> table;
  size_t further = 0;
  for (const auto& folder : folders) {
    const bool one = folder.count == 1;
    if (table.size() == shown) {
      further += folder.count;
      continue;
    }
    table.push_back({{folder.path},
                     {fmt::format("{} {}{}", folder.count, sort, one ? "" : "s")},
                     {one ? folder.first : "first " + folder.first, Style::faint}});
  }
  print_table(table, "    ");
  if (further > 0) print_line(fmt::format("    and {} more in further folders", further));
}

void print_tree(const std::string& path, const fibula::FolderView& view) {
  print_line(styled(path, Style::strong));
  print_files("header", view.headers);
  print_files("source", view.sources);
  print_binaries(view);
  if (view.headers.empty() && view.sources.empty() && view.binaries.empty())
    print_line("  no header, source, object file, archive or shared library in there");
  print_odd(view.odd);
}

fibula::Result<uint64_t> print_symbols(const std::string& path) {
  std::string member;
  fibula::Arch slice = fibula::Arch::unknown;
  return fibula::visit_symbols(path, [&](const fibula::SymbolView& symbol) {
    if (symbol.member != member || symbol.slice != slice) {
      member = symbol.member;
      slice = symbol.slice;
      const std::string machine(slice == fibula::Arch::unknown ? "" : fibula::to_string(slice));
      print_line("  " + styled(machine + (machine.empty() || member.empty() ? "" : " ") + member, Style::strong));
    }
    const std::string version = symbol.version.empty() ? "" : fmt::format("@{}", symbol.version);
    const std::string library = symbol.library.empty() ? "" : fmt::format("  from {}", symbol.library);
    const std::string hidden = symbol.visibility == fibula::Visibility::normal
                                   ? ""
                                   : fmt::format("  {}", fibula::to_string(symbol.visibility));
    const std::string place =
        symbol.section.empty() ? "" : fmt::format("  {} {:#x}, {}", symbol.section, symbol.address, symbol.size);
    print_line(fmt::format("  {}  {:<8}  {:<6}  {}{}{}{}{}",
                           styled(symbol.defines ? "defines" : "needs  ", symbol.defines ? Style::good : Style::faint),
                           fibula::to_string(symbol.kind), fibula::to_string(symbol.binding),
                           fibula::readable_name(symbol.name), version, library, hidden, styled(place, Style::faint)));
  });
}

}  // namespace cli
