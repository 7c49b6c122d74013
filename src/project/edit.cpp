#include "project/edit.hpp"

#include "base/text.hpp"
#include "base/toml.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

using Lines = std::vector<std::string>;

/// Lines with a carriage return at their end where they have one: the others of a file stay as they are.
Lines lines_of(std::string_view text) {
  Lines lines;
  if (text.ends_with('\n')) text.remove_suffix(1);
  if (text.empty()) return lines;
  for (const auto line : text::split(text, '\n')) lines.emplace_back(line);
  return lines;
}

/// New lines end like those that are there.
std::string joined(const Lines& lines) {
  const auto ends_so = [](const std::string& line) { return line.ends_with('\r'); };
  const auto windows = static_cast<size_t>(std::count_if(lines.begin(), lines.end(), ends_so));
  const bool adds = 2 * windows > lines.size();
  std::string text;
  for (const auto& line : lines) text += line + (adds && !ends_so(line) ? "\r\n" : "\n");
  return text;
}

std::string key(const std::string& name) {
  const bool bare =
      std::all_of(name.begin(), name.end(), [](char c) { return text::is_identifier_character(c) || c == '-'; });
  return bare ? name : toml::quote(name);
}

/// The dotted name of a table header line, without spaces; empty for other lines.
std::string header_of(std::string_view line) {
  line = text::trim(line);
  if (!line.starts_with('[')) return {};
  const size_t end = line.find(']');
  if (end == std::string_view::npos) return {};
  std::string name(line.substr(line.starts_with("[[") ? 2 : 1, end - (line.starts_with("[[") ? 2 : 1)));
  std::erase(name, ' ');
  return name;
}

bool is_blank(std::string_view line) {
  return text::trim(line).empty();
}
bool is_comment(std::string_view line) {
  return text::trim(line).starts_with('#');
}

/// One past the last line that belongs to the block whose header is at `start`: comments and blank lines right above
/// the next header are that one's.
size_t block_end(const Lines& lines, size_t start) {
  size_t end = start + 1;
  while (end < lines.size() && header_of(lines[end]).empty()) ++end;
  if (end == lines.size()) return end;
  while (end > start + 1 && (is_blank(lines[end - 1]) || is_comment(lines[end - 1]))) --end;
  return end;
}

size_t find_header(const Lines& lines, const std::string& header) {
  const auto found =
      std::find_if(lines.begin(), lines.end(), [&](const std::string& line) { return header_of(line) == header; });
  return static_cast<size_t>(found - lines.begin());
}

/// The line of a block on which a key stands; one past the block where it does not.
size_t line_of_value(const Lines& lines, size_t start, const std::string& name) {
  const size_t end = block_end(lines, start);
  for (size_t i = start + 1; i < end; ++i) {
    const auto equals = lines[i].find('=');
    if (equals != std::string::npos && text::trim(std::string_view(lines[i]).substr(0, equals)) == name) return i;
  }
  return end;
}

/// Sets `key = value` in a block, keeping a comment behind the old value.
void set_value(Lines& lines, size_t start, const std::string& name, const std::string& value) {
  const size_t line = line_of_value(lines, start, name), end = block_end(lines, start);
  if (line != end) {
    const auto equals = lines[line].find('=');
    const size_t close = lines[line].rfind('"');
    const std::string behind = close == std::string::npos ? "" : lines[line].substr(close + 1);
    lines[line] = lines[line].substr(0, equals) + "= " + value + behind;
    return;
  }
  size_t at = end;
  while (at > start + 1 && is_blank(lines[at - 1])) --at;
  lines.insert(lines.begin() + static_cast<std::ptrdiff_t>(at), name + " = " + value);
}

/// Where a new library block goes: behind the last one, else behind the outputs, else at the end.
size_t place_for_library(const Lines& lines) {
  size_t behind_library = 0, behind_output = 0;
  for (size_t i = 0; i < lines.size(); ++i) {
    const std::string header = header_of(lines[i]);
    if (header.starts_with("library.")) behind_library = block_end(lines, i);
    if (header == "output") behind_output = block_end(lines, i);
  }
  if (behind_library > 0) return behind_library;
  return behind_output > 0 ? behind_output : lines.size();
}

void erase_block(Lines& lines, size_t start) {
  size_t end = block_end(lines, start);
  // One blank line goes with the block, so that no gap grows with every change.
  if (end < lines.size() && is_blank(lines[end])) ++end;
  lines.erase(lines.begin() + static_cast<std::ptrdiff_t>(start), lines.begin() + static_cast<std::ptrdiff_t>(end));
  while (!lines.empty() && start == lines.size() && is_blank(lines.back())) {
    lines.pop_back();
    start = lines.size();
  }
}

/// Takes `"name"` out of one line of a list; true when nothing but the comma is left on a line of its own.
bool erase_name(std::string& line, const std::string& name) {
  const std::string quoted = toml::quote(name);
  size_t at = line.find(quoted);
  if (at == std::string::npos) return false;
  size_t end = at + quoted.size();
  if (line.compare(end, 2, ", ") == 0) {
    end += 2;
  } else if (line.compare(end, 1, ",") == 0) {
    end += 1;
  } else {
    while (at > 0 && (line[at - 1] == ' ' || line[at - 1] == ',')) --at;
  }
  line.erase(at, end - at);
  return is_blank(line);
}

/// Takes the name out of every `uses = [...]`, on one line or on many.
void erase_uses(Lines& lines, const std::string& name) {
  bool inside = false;
  for (size_t i = 0; i < lines.size();) {
    const auto line = text::trim(lines[i]);
    const size_t equals = line.find('=');
    inside = inside || (equals != std::string_view::npos && text::trim(line.substr(0, equals)) == "uses");
    const bool ends = line.find(']') != std::string_view::npos;
    const bool emptied = inside && erase_name(lines[i], name);
    inside = inside && !ends;
    if (emptied) {
      lines.erase(lines.begin() + static_cast<std::ptrdiff_t>(i));
    } else {
      ++i;
    }
  }
}

}  // namespace

std::string with_library(std::string_view text, const LibraryUse& use) {
  Lines lines = lines_of(text);
  const std::string header = "library." + key(use.name);
  size_t start = find_header(lines, header);
  if (start == lines.size()) {
    start = place_for_library(lines);
    Lines block{"[" + header + "]"};
    if (start > 0 && !is_blank(lines[start - 1])) block.insert(block.begin(), "");
    if (start < lines.size() && !is_blank(lines[start])) block.emplace_back("");
    lines.insert(lines.begin() + static_cast<std::ptrdiff_t>(start), block.begin(), block.end());
    start = find_header(lines, header);
  }
  if (use.linkage != Linkage::any || line_of_value(lines, start, "linkage") != block_end(lines, start))
    set_value(lines, start, "linkage", toml::quote(to_string(use.linkage)));
  if (!use.version.empty()) set_value(lines, start, "version", toml::quote(use.version));
  return joined(lines);
}

std::string without_library(std::string_view text, const std::string& name) {
  Lines lines = lines_of(text);
  const std::string own = "library." + key(name);
  for (size_t i = 0; i < lines.size();) {
    const std::string header = header_of(lines[i]);
    const bool override = header.starts_with("lane.") && header.ends_with("." + own);
    if (header == own || override) {
      erase_block(lines, i);
    } else {
      ++i;
    }
  }
  erase_uses(lines, name);
  return joined(lines);
}

std::string with_shelves(std::string_view text, const std::vector<std::string>& places) {
  Lines lines = lines_of(text);
  const std::string value = "shelves = " + toml::quote_list(places);
  size_t at = 0;
  while (at < lines.size() && header_of(lines[at]).empty()) {
    const size_t equals = lines[at].find('=');
    if (equals != std::string::npos && text::trim(std::string_view(lines[at]).substr(0, equals)) == "shelves") {
      lines[at] = value + (lines[at].ends_with('\r') ? "\r" : "");
      return joined(lines);
    }
    ++at;
  }
  // Comments right above the first table are that table's.
  while (at > 0 && is_comment(lines[at - 1])) --at;
  lines.insert(lines.begin() + static_cast<std::ptrdiff_t>(at), {value, ""});
  return joined(lines);
}

std::string new_project(const std::string& name, const std::vector<std::string>& sources, const std::string& compiler) {
  return fmt::format(
      "[[output]]\nname = {}\nkind = \"program\"\nsources = {}\n\n"
      "[lane.desk-debug]\ncompiler = {}\nconfiguration = \"debug\"\n\n"
      "[lane.desk-release]\ncompiler = {}\nconfiguration = \"release\"\n",
      toml::quote(name), toml::quote_list(sources), toml::quote(compiler), toml::quote(compiler));
}

}  // namespace fibula
