#include "commands/command_change.hpp"

#include "base/quoting.hpp"
#include "base/text.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

bool stands_for_next(const std::string& word) {
  return word == "-l" || word == "-Xlinker";
}

auto at(const Words& words, size_t index) {
  return words.begin() + static_cast<std::ptrdiff_t>(index);
}

/// Where the words of one input begin.
size_t begin_of(const Words& words, size_t word) {
  return word > 0 && stands_for_next(words[word - 1]) ? word - 1 : word;
}

size_t last_input(const ToolCommand& command) {
  size_t last = 0;
  for (const auto& input : command.inputs) last = std::max(last, input.word);
  return last == 0 ? command.words.size() - 1 : last;
}

/// Before `/link` of an MSVC-style driver, files are the compiler's; behind it options are the linker's.
size_t end_of_inputs(const ToolCommand& command) {
  return std::min(last_input(command) + 1, command.words.size());
}

}  // namespace

Words without_input(const ToolCommand& command, size_t word) {
  Words words = command.words;
  words.erase(at(words, begin_of(words, word)), at(words, word + 1));
  return words;
}

Words with_input_replaced(const ToolCommand& command, size_t word, const Words& by) {
  Words words = without_input(command, word);
  words.insert(at(words, begin_of(command.words, word)), by.begin(), by.end());
  return words;
}

Words with_moved_behind(const ToolCommand& command, size_t word, size_t other) {
  Words words = command.words;
  const size_t first = begin_of(words, word);
  const Words moved(at(words, first), at(words, word + 1));
  words.insert(at(words, other + 1), moved.begin(), moved.end());
  words.erase(at(words, first), at(words, word + 1));
  return words;
}

Words with_appended(const ToolCommand& command, const Words& more) {
  Words words = command.words;
  words.insert(at(words, end_of_inputs(command)), more.begin(), more.end());
  return words;
}

Words with_put_before(const ToolCommand& command, const Words& more) {
  Words words = command.words;
  size_t first = words.size();
  for (const auto& input : command.inputs) first = std::min(first, begin_of(words, input.word));
  words.insert(at(words, std::max<size_t>(first, 1)), more.begin(), more.end());
  return words;
}

std::vector<Hunk> hunks(const Words& before, const Words& after) {
  const size_t rows = before.size(), columns = after.size();
  std::vector<std::vector<size_t>> common(rows + 1, std::vector<size_t>(columns + 1, 0));
  for (size_t i = rows; i-- > 0;) {
    for (size_t j = columns; j-- > 0;) {
      common[i][j] = before[i] == after[j] ? common[i + 1][j + 1] + 1 : std::max(common[i + 1][j], common[i][j + 1]);
    }
  }
  std::vector<Hunk> found;
  bool open = false;
  for (size_t i = 0, j = 0; i < rows || j < columns;) {
    if (i < rows && j < columns && before[i] == after[j]) {
      open = false;
      ++i;
      ++j;
      continue;
    }
    if (!open) found.push_back({i == 0 ? std::string() : before[i - 1], {}, {}});
    open = true;
    if (j == columns || (i < rows && common[i + 1][j] >= common[i][j + 1])) {
      found.back().old.push_back(before[i++]);
    } else {
      found.back().fresh.push_back(after[j++]);
    }
  }
  return found;
}

namespace {

std::string place_of(const Hunk& hunk) {
  return hunk.before.empty() ? "in front" : "behind " + shell_word(hunk.before);
}

std::string said(const Hunk& hunk) {
  if (hunk.fresh.empty()) return fmt::format("leave out {}", shell_words(hunk.old));
  if (!hunk.old.empty()) return fmt::format("in place of {} write {}", shell_words(hunk.old), shell_words(hunk.fresh));
  return fmt::format("{} add {}", place_of(hunk), shell_words(hunk.fresh));
}

}  // namespace

std::string smallest_change(const Words& before, const Words& after) {
  constexpr size_t longest_command = 2'000;
  if (std::max(before.size(), after.size()) > longest_command) return "see the whole command in JSON";
  const auto all = hunks(before, after);
  std::vector<std::string> changes;
  for (const auto& hunk : all) {
    const auto same = [&](const Hunk& other) { return other.old == hunk.fresh && other.fresh == hunk.old; };
    const bool moved = (hunk.old.empty() || hunk.fresh.empty()) && std::any_of(all.begin(), all.end(), same);
    // What is taken out here and put in there is told once, where it goes.
    if (!moved) changes.push_back(said(hunk));
    if (moved && hunk.old.empty())
      changes.push_back(fmt::format("move {} {}", shell_words(hunk.fresh), place_of(hunk)));
  }
  return text::join(changes, ", ");
}

}  // namespace fibula
