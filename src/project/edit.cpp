#include "project/edit.hpp"

#include "base/text.hpp"
#include "base/toml.hpp"
#include "os/files.hpp"
#include "project/new_text.hpp"

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

/// Puts a block in place, with a blank line to each side of it.
void insert_block(Lines& lines, size_t at, Lines block) {
  if (at > 0 && !is_blank(lines[at - 1])) block.insert(block.begin(), "");
  if (at < lines.size() && !is_blank(lines[at])) block.emplace_back("");
  lines.insert(lines.begin() + static_cast<std::ptrdiff_t>(at), block.begin(), block.end());
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
  const std::string header = "library." + toml::key(use.name);
  size_t start = find_header(lines, header);
  if (start == lines.size()) {
    start = place_for_library(lines);
    insert_block(lines, start, {"[" + header + "]"});
    start = find_header(lines, header);
  }
  if (use.linkage != Linkage::any || line_of_value(lines, start, "linkage") != block_end(lines, start))
    set_value(lines, start, "linkage", toml::quote(to_string(use.linkage)));
  if (!use.version.empty()) set_value(lines, start, "version", toml::quote(use.version));
  if (!use.folder.empty()) set_value(lines, start, "folder", toml::quote(use.folder.generic_string()));
  return joined(lines);
}

std::string without_library(std::string_view text, const std::string& name) {
  Lines lines = lines_of(text);
  const std::string own = "library." + toml::key(name);
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

std::string with_lane(std::string_view text, const Lane& lane) {
  Lines lines = lines_of(text);
  size_t at = lines.size();
  for (size_t i = 0; i < lines.size(); ++i) {
    if (header_of(lines[i]).starts_with("lane.")) at = block_end(lines, i);
  }
  insert_block(lines, at, lines_of(lane_text(lane)));
  return joined(lines);
}

std::string with_outputs(std::string_view text, const std::vector<Output>& outputs) {
  Lines lines = lines_of(text);
  for (size_t start = find_header(lines, "output"); start < lines.size(); start = find_header(lines, "output"))
    erase_block(lines, start);
  size_t at = 0;
  while (at < lines.size() && header_of(lines[at]).empty()) ++at;
  // Comments right above the first table are that table's.
  while (at > 0 && is_comment(lines[at - 1])) --at;
  Lines blocks;
  for (const auto& output : outputs) {
    for (auto& line : lines_of(output_text(output))) blocks.push_back(std::move(line));
    blocks.emplace_back("");
  }
  lines.insert(lines.begin() + static_cast<std::ptrdiff_t>(at), blocks.begin(), blocks.end());
  return joined(lines);
}

namespace {

/// The header line of an output's block; one past the last line where it has none.
size_t find_output(const Lines& lines, const std::string& name) {
  for (size_t i = 0; i < lines.size(); ++i) {
    if (header_of(lines[i]) != "output") continue;
    const size_t line = line_of_value(lines, i, "name");
    if (line < block_end(lines, i) && lines[line].find(toml::quote(name)) != std::string::npos) return i;
  }
  return lines.size();
}

/// Puts an item in front of a list that begins on this line: on a line of its own where the others have theirs.
void put_in_front(Lines& lines, size_t line, const std::string& item) {
  const size_t open = lines[line].find('[', lines[line].find('='));
  if (open == std::string::npos) return;
  const std::string rest(text::trim(std::string_view(lines[line]).substr(open + 1)));
  if ((rest.empty() || rest.starts_with('#')) && line + 1 < lines.size()) {
    const std::string indent = lines[line + 1].substr(0, lines[line + 1].find_first_not_of(" \t"));
    const bool closes = text::trim(lines[line + 1]).starts_with(']');
    lines.insert(lines.begin() + static_cast<std::ptrdiff_t>(line + 1), (closes ? "  " : indent) + item + ",");
    return;
  }
  lines[line] = lines[line].substr(0, open + 1) + item + (rest.starts_with(']') ? "" : ", ") + rest;
}

}  // namespace

std::string with_output_value(std::string_view text, const std::string& output, const std::string& key,
                              const std::string& value) {
  Lines lines = lines_of(text);
  if (const size_t start = find_output(lines, output); start != lines.size())
    set_value(lines, start, key, toml::quote(value));
  return joined(lines);
}

namespace {

std::string with_item(Lines lines, size_t start, const std::string& key, const std::string& item) {
  if (start == lines.size()) return joined(lines);
  if (const size_t line = line_of_value(lines, start, key); line != block_end(lines, start)) {
    put_in_front(lines, line, toml::quote(item));
  } else {
    set_value(lines, start, key, "[" + toml::quote(item) + "]");
  }
  return joined(lines);
}

}  // namespace

std::string with_output_item(std::string_view text, const std::string& output, const std::string& key,
                             const std::string& item) {
  const Lines lines = lines_of(text);
  return with_item(lines, find_output(lines, output), key, item);
}

std::string with_library_item(std::string_view text, const std::string& library, const std::string& key,
                              const std::string& item) {
  const Lines lines = lines_of(text);
  return with_item(lines, find_header(lines, "library." + toml::key(library)), key, item);
}

std::string with_paths_from(std::string_view text, const fs::path& before, const fs::path& now) {
  static constexpr std::string_view path_keys[] = {"folder", "linker-script"};
  Lines lines = lines_of(text);
  const auto moved = [&](const std::string& path) {
    return fs::path(path).is_absolute() || path.find("://") != std::string::npos
               ? path
               : (before / path).lexically_normal().lexically_relative(now).generic_string();
  };
  for (auto& line : lines) {
    const size_t equals = line.find('=');
    if (equals == std::string::npos || is_comment(line)) continue;
    const auto key = text::trim(std::string_view(line).substr(0, equals));
    const bool holds_path = std::find(std::begin(path_keys), std::end(path_keys), key) != std::end(path_keys);
    const size_t open = line.find('"', equals), close = open == std::string::npos ? open : line.find('"', open + 1);
    if (!holds_path || close == std::string::npos) continue;
    line = line.substr(0, open) + toml::quote(moved(line.substr(open + 1, close - open - 1))) + line.substr(close + 1);
  }
  return joined(lines);
}

}  // namespace fibula
