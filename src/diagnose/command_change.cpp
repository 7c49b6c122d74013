#include "diagnose/command_change.hpp"

#include "base/quoting.hpp"

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

std::string smallest_change(const Words& before, const Words& after) {
  const size_t shorter = std::min(before.size(), after.size());
  size_t head = 0, tail = 0;
  while (head < shorter && before[head] == after[head]) ++head;
  while (tail < shorter - head && before[before.size() - 1 - tail] == after[after.size() - 1 - tail]) ++tail;
  const Words old(at(before, head), at(before, before.size() - tail));
  const Words fresh(at(after, head), at(after, after.size() - tail));
  if (old.empty() && fresh.empty()) return {};
  if (old.empty()) {
    const std::string behind = head == 0 ? "in front" : "behind " + shell_word(before[head - 1]);
    return fmt::format("{} add {}", behind, shell_words(fresh));
  }
  if (fresh.empty()) return fmt::format("leave out {}", shell_words(old));
  return fmt::format("in place of {} write {}", shell_words(old), shell_words(fresh));
}

}  // namespace fibula
