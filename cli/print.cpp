#include "print.hpp"

#include "escape.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <cstdio>
#include <cstdlib>

namespace cli {
namespace {

bool is_coloured(Stream stream) {
  const char* no_colour = std::getenv("NO_COLOR");
  return is_terminal(stream) && (no_colour == nullptr || *no_colour == '\0');
}

// Colours travel through texts as a byte that is in no UTF-8, with the style behind it: what is printed is escaped as a
// whole, so that no text from elsewhere can bring controls of its own.
constexpr char style_mark = '\xfe';

std::string marked(Style style) {
  return {style_mark, static_cast<char>('0' + static_cast<int>(style))};
}

/// A text as its stream gets it.
std::string finished(std::string_view text, Stream stream, Lines lines) {
  static const bool to_output = is_coloured(Stream::output), to_error = is_coloured(Stream::error);
  static constexpr const char* codes[] = {"0", "1", "90", "32", "33", "31"};
  std::string done;
  while (!text.empty()) {
    const size_t mark = text.find(style_mark);
    done += escaped(text.substr(0, mark), lines);
    if (mark == std::string_view::npos) break;
    const size_t style = mark + 1 < text.size() ? static_cast<size_t>(text[mark + 1] - '0') : std::size(codes);
    if (style >= std::size(codes)) {
      done += "\\xfe";  // somebody else's byte
      text.remove_prefix(mark + 1);
      continue;
    }
    if (stream == Stream::output ? to_output : to_error) done += fmt::format("\x1b[{}m", codes[style]);
    text.remove_prefix(mark + 2);
  }
  return done;
}

size_t lines_put = 0;  ///< on standard output

void put(const std::string& finished, Stream stream) {
  if (stream == Stream::output) lines_put += static_cast<size_t>(std::count(finished.begin(), finished.end(), '\n'));
  std::fwrite(finished.data(), 1, finished.size(), stream == Stream::output ? stdout : stderr);
}

void put_line(std::string_view text, Stream stream) {
  put(finished(text, stream, Lines::one) + "\n", stream);
}

}  // namespace

size_t printed_lines() {
  return lines_put;
}

/// Characters as they are printed: continuation bytes of UTF-8 take no column, styles none either.
size_t width(std::string_view text) {
  size_t columns = 0;
  while (!text.empty()) {
    const size_t mark = text.find(style_mark);
    const std::string shown = escaped(text.substr(0, mark), Lines::one);
    columns += static_cast<size_t>(std::count_if(
        shown.begin(), shown.end(), [](char c) { return (static_cast<unsigned char>(c) & 0xc0) != 0x80; }));
    if (mark == std::string_view::npos) break;
    text.remove_prefix(std::min(mark + 2, text.size()));
  }
  return columns;
}

std::string styled(std::string_view text, Style style) {
  return style == Style::plain ? std::string(text) : marked(style) + std::string(text) + marked(Style::plain);
}

void print_line(std::string_view text) {
  put_line(text, Stream::output);
}

void print_sentence(std::string_view text, std::string_view label) {
  static constexpr std::string_view indent = "  ";
  std::string line = std::string(indent) + styled(label, Style::strong);
  const bool wraps = is_terminal(Stream::output);
  size_t used = indent.size() + width(label);
  bool first = true;
  while (!text.empty()) {
    const size_t space = text.find(' ');
    const auto word = text.substr(0, space);
    const bool full = wraps && !first && used + 1 + width(word) > screen_width();
    if (full) {
      print_line(line);
      line = std::string(2 * indent.size(), ' ');
      used = line.size();
    } else if (!first) {
      line += ' ';
      ++used;
    }
    line += word;
    used += width(word);
    first = false;
    text = space == std::string_view::npos ? std::string_view() : text.substr(space + 1);
  }
  print_line(line);
}

namespace {

/// What a text needs of a line to be read well.
constexpr size_t least_room = 30;

/// Whether a text runs over the right edge of a terminal, with hardly any room before it.
bool is_crowded(std::string_view text, size_t column) {
  return is_terminal(Stream::output) && column + least_room > screen_width() && column + width(text) > screen_width();
}

/// A text in lines that fit between a column and the right edge of a terminal; in one where there is no edge, or hardly
/// room before it.
std::vector<std::string> wrapped(std::string_view text, size_t column) {
  if (!is_terminal(Stream::output) || column + least_room > screen_width()) return {std::string(text)};
  const size_t room = screen_width() - column;
  const size_t indent = std::min(text.find_first_not_of(' '), text.size());
  std::vector<std::string> lines{std::string(indent, ' ')};
  text.remove_prefix(indent);
  while (!text.empty()) {
    const size_t space = text.find(' ');
    const std::string word(text.substr(0, space));
    const bool begins = lines.back().find_first_not_of(' ') == std::string::npos;
    if (!begins && width(lines.back()) + 1 + width(word) > room) {
      lines.push_back(word);
    } else {
      lines.back() += (begins ? "" : " ") + word;
    }
    text = space == std::string_view::npos ? std::string_view() : text.substr(space + 1);
  }
  return lines;
}

/// A column is as wide as its widest cell, but for one in the middle that is a text of its own: a list of fifty names
/// pushes no other row's last cell away.
std::vector<size_t> column_widths(const std::vector<std::vector<Cell>>& rows) {
  constexpr size_t widest = 64;
  std::vector<size_t> widths;
  for (const auto& row : rows) {
    widths.resize(std::max(widths.size(), row.size()));
    for (size_t i = 0; i < row.size(); ++i) {
      const bool between = i > 0 && i + 1 < row.size();
      const size_t needed = row[i].heading ? 0 : width(row[i].text);
      if (!between || needed <= widest) widths[i] = std::max(widths[i], needed);
    }
  }
  return widths;
}

/// A cell that is wider than its column, over as many lines as it takes. Gives what the row goes on with.
std::string print_wide(const std::string& line, const Cell& cell, size_t column) {
  std::string begun = line;
  const auto parts = wrapped(cell.text, column);
  for (const auto& part : parts) {
    if (&part != &parts.front()) {
      print_line(begun);
      begun = std::string(column, ' ');
    }
    begun += styled(part, cell.style);
  }
  return begun + "  ";
}

}  // namespace

void print_table(const std::vector<std::vector<Cell>>& rows, std::string_view indent) {
  const auto widths = column_widths(rows);
  for (const auto& row : rows) {
    std::string line(indent);
    size_t used = row.size();
    while (used > 0 && row[used - 1].text.empty()) --used;
    size_t column = indent.size();
    for (size_t i = 0; i + 1 < used; ++i) {
      const size_t own = width(row[i].text);
      line = own > widths[i] ? print_wide(line, row[i], column)
                             : line + styled(row[i].text, row[i].style) + std::string(widths[i] - own + 2, ' ');
      column += widths[i] + 2;
    }
    if (used == 0) {
      print_line(line);
      continue;
    }
    // Far to the right it goes on below, behind the first column.
    const size_t below = indent.size() + widths[0] + 2;
    if (used > 2 && is_crowded(row[used - 1].text, column) && below < column) {
      print_line(line.substr(0, line.find_last_not_of(' ') + 1));
      column = below;
      line = std::string(column, ' ');
    }
    for (const auto& part : wrapped(row[used - 1].text, column)) {
      print_line(line + styled(part, row[used - 1].style));
      line = std::string(column, ' ');
    }
  }
}

void print_help(std::string_view text) {
  while (text.ends_with('\n')) text.remove_suffix(1);
  while (!text.empty()) {
    const size_t end = text.find('\n');
    const std::string_view line = text.substr(0, end);
    const size_t begin = std::min(line.find_first_not_of(' '), line.size());
    const size_t gap = line.find("  ", begin);
    const size_t right = gap == std::string_view::npos ? gap : line.find_first_not_of(' ', gap);
    const size_t column = right == std::string_view::npos ? begin : right;
    std::string left(line.substr(0, column));
    for (const auto& part : wrapped(line.substr(column), column)) {
      print_line(left + part);
      left = std::string(column, ' ');
    }
    text = end == std::string_view::npos ? std::string_view() : text.substr(end + 1);
  }
}

void print_lines(std::string_view text) {
  while (text.ends_with('\n')) text.remove_suffix(1);
  put(finished(text, Stream::output, Lines::many) + "\n", Stream::output);
}

void print_raw(std::string_view text) {
  std::fwrite(text.data(), 1, text.size(), stdout);
}

void print_json(const std::string& document) {
  print_raw(document + "\n");
}

void complain(const std::string& what, const std::string& remedy) {
  std::fflush(stdout);
  put_line(fmt::format("{} {}", styled("error:", Style::bad), what), Stream::error);
  if (!remedy.empty()) put_line(fmt::format("  remedy: {}", remedy), Stream::error);
}

void progress(const std::string& text) {
  static const bool terminal = is_terminal(Stream::error);
  if (!terminal) return;
  std::fputs("\r\x1b[K", stderr);
  put(finished(text.substr(0, 100), Stream::error, Lines::one), Stream::error);
  std::fflush(stderr);
}

void note(std::string_view text) {
  put_line(text, Stream::error);
}

bool all_printed() {
  return std::fflush(stdout) == 0 && std::ferror(stdout) == 0;
}

SlowNotice::SlowNotice(std::string text) {
  if (!is_terminal(Stream::error)) return;
  thread_ = std::thread([this, said = std::move(text)] {
    std::unique_lock lock(mutex_);
    if (!ended_.wait_for(lock, std::chrono::milliseconds(500), [this] { return done_; })) progress(said);
  });
}

SlowNotice::~SlowNotice() {
  if (!thread_.joinable()) return;
  {
    const std::lock_guard lock(mutex_);
    done_ = true;
  }
  ended_.notify_one();
  thread_.join();
  progress("");
}

}  // namespace cli
