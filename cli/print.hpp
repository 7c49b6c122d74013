/// Text for people: tables, colours on a terminal, complaints on standard error.
#pragma once

#include "screen.hpp"

#include <fibula/result.hpp>

#include <condition_variable>
#include <mutex>
#include <string>
#include <string_view>
#include <thread>
#include <vector>

namespace cli {

enum class Style { plain, strong, faint, good, warning, bad };

/// The text with its colour, where standard output is a terminal and NO_COLOR is not set.
std::string styled(std::string_view text, Style style);

struct Cell {
  std::string text;
  Style style = Style::plain;
  bool heading = false;  ///< runs over the columns: no width is kept for it
};

/// Columns as wide as their widest cell, two spaces between; the last one is not padded.
void print_table(const std::vector<std::vector<Cell>>& rows, std::string_view indent = "");

/// How many characters the text takes on a terminal.
size_t width(std::string_view text);

void print_line(std::string_view text);
/// How many lines were printed so far.
size_t printed_lines();
inline void print_line_unless(bool not_wanted, std::string_view text) {
  if (!not_wanted) print_line(text);
}
/// A sentence behind an indent. On a terminal it is broken between words, and goes on under its own beginning.
void print_sentence(std::string_view text, std::string_view label = "");
/// A text of lines whose right column goes on under itself.
void print_help(std::string_view text);
/// A document of `fibula::answers`.
void print_json(const std::string& document);

/// Another program's lines, each as it is but for what a terminal would obey.
void print_lines(std::string_view text);
/// Text that is for programs, or another program's own: as it is.
void print_raw(std::string_view text);
/// Whether everything that was printed has arrived: a disk or pipe that is full or gone takes nothing.
bool all_printed();

/// On standard error: what is wrong, and what to do about it.
void complain(const std::string& what, const std::string& remedy);

/// One line of progress on standard error, written over the one before; nothing when that is no terminal. An empty text
/// clears it.
void progress(const std::string& text);

/// A line on standard error about what is going on.
void note(std::string_view text);

/// Says on a terminal what is going on when it takes longer than half a second; takes it back in the end.
class SlowNotice {
 public:
  explicit SlowNotice(std::string text);
  SlowNotice(const SlowNotice&) = delete;
  SlowNotice& operator=(const SlowNotice&) = delete;
  ~SlowNotice();

 private:
  std::mutex mutex_;
  std::condition_variable ended_;
  bool done_ = false;
  std::thread thread_;
};

}  // namespace cli
