/// Changes of a command line, and the shortest way to say them.
#pragma once

#include "commands/tool_command.hpp"

namespace fibula {

using Words = std::vector<std::string>;

/// Without one of its inputs, and without an option that stands alone before it (`-l`, `-Xlinker`).
Words without_input(const ToolCommand& command, size_t word);
/// With other words in the place of one of its inputs.
Words with_input_replaced(const ToolCommand& command, size_t word, const Words& by);
/// With one of its inputs behind another one that stands later.
Words with_moved_behind(const ToolCommand& command, size_t word, size_t other);
/// With words behind its last input.
Words with_appended(const ToolCommand& command, const Words& more);
/// With words before its first input.
Words with_put_before(const ToolCommand& command, const Words& more);

/// Words that differ in one place, and the word before them.
struct Hunk {
  std::string before;
  Words old, fresh;
};

/// Where two commands differ. What both have in common is as long as it can be (Hunt and McIlroy, "An algorithm for
/// differential file comparison"); commands are short.
std::vector<Hunk> hunks(const Words& before, const Words& after);

/// "behind main.o add -lm", "in place of -lfoo write foo/libfoo.a".
std::string smallest_change(const Words& before, const Words& after);

}  // namespace fibula
