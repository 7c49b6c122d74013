/// The terminal, where there is one.
#pragma once

#include <cstddef>

namespace cli {

enum class Stream { output, error };

bool is_terminal(Stream stream);
bool input_is_terminal();
/// Whether somebody gives something to read: a pipe or a file, no terminal and not nothing.
bool input_is_given();
/// Whether standard output is a pipe that nobody reads any more, as behind `| head`.
bool reader_has_left();
/// Columns of the terminal, or of what COLUMNS says; 80 where there is none.
size_t screen_width();
/// Lines of the terminal, or of what LINES says; 24 where there is none.
size_t screen_height();

}  // namespace cli
