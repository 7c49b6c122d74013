#include "print.hpp"

#include <fmt/format.h>
#include <sys/ioctl.h>
#include <unistd.h>
#include <algorithm>
#include <cstdio>
#include <cstdlib>
#include <nlohmann/json.hpp>

namespace cli {
namespace {

bool coloured(int stream) {
  const char* no_colour = std::getenv("NO_COLOR");
  return ::isatty(stream) == 1 && (no_colour == nullptr || *no_colour == '\0');
}

std::string painted(std::string_view text, Style style, int stream) {
  static const bool to_output = coloured(STDOUT_FILENO), to_error = coloured(STDERR_FILENO);
  if (style == Style::plain || !(stream == STDOUT_FILENO ? to_output : to_error)) return std::string(text);
  static constexpr const char* codes[] = {"", "1", "90", "32", "33", "31"};
  return fmt::format("\x1b[{}m{}\x1b[0m", codes[static_cast<size_t>(style)], text);
}

}  // namespace

/// Characters, not bytes: continuation bytes of UTF-8 take no column.
size_t width(std::string_view text) {
  return static_cast<size_t>(
      std::count_if(text.begin(), text.end(), [](char c) { return (static_cast<unsigned char>(c) & 0xc0) != 0x80; }));
}

size_t screen_width() {
  if (const char* columns = std::getenv("COLUMNS"); columns != nullptr && std::atoi(columns) > 0)
    return static_cast<size_t>(std::atoi(columns));
  winsize size{};
  const bool known = ::ioctl(STDOUT_FILENO, TIOCGWINSZ, &size) == 0 && size.ws_col > 0;
  return known ? size.ws_col : 80;
}

std::string styled(std::string_view text, Style style) {
  return painted(text, style, STDOUT_FILENO);
}

void print_line(std::string_view text) {
  std::fwrite(fmt::format("{}\n", text).data(), 1, text.size() + 1, stdout);
}

void print_sentence(std::string_view text, std::string_view label) {
  static constexpr std::string_view indent = "  ";
  std::string line = std::string(indent) + styled(label, Style::strong);
  const bool wraps = ::isatty(STDOUT_FILENO) == 1;
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

/// A text in lines that fit between a column and the right edge of a terminal; in one where there is no edge, or hardly
/// room before it.
std::vector<std::string> wrapped(std::string_view text, size_t column) {
  constexpr size_t least = 30;
  if (::isatty(STDOUT_FILENO) != 1 || column + least > screen_width()) return {std::string(text)};
  const size_t room = screen_width() - column;
  std::vector<std::string> lines{""};
  while (!text.empty()) {
    const size_t space = text.find(' ');
    const std::string word(text.substr(0, space));
    const bool begins = lines.back().empty();
    if (!begins && width(lines.back()) + 1 + width(word) > room) {
      lines.push_back(word);
    } else {
      lines.back() += (begins ? "" : " ") + word;
    }
    text = space == std::string_view::npos ? std::string_view() : text.substr(space + 1);
  }
  return lines;
}

}  // namespace

void print_table(const std::vector<std::vector<Cell>>& rows, std::string_view indent) {
  std::vector<size_t> widths;
  for (const auto& row : rows) {
    widths.resize(std::max(widths.size(), row.size()));
    for (size_t i = 0; i < row.size(); ++i) widths[i] = std::max(widths[i], row[i].heading ? 0 : width(row[i].text));
  }
  for (const auto& row : rows) {
    std::string line(indent);
    size_t used = row.size();
    while (used > 0 && row[used - 1].text.empty()) --used;
    size_t column = indent.size();
    for (size_t i = 0; i + 1 < used; ++i) {
      line += styled(row[i].text, row[i].style) + std::string(widths[i] - width(row[i].text) + 2, ' ');
      column += widths[i] + 2;
    }
    if (used == 0) {
      print_line(line);
      continue;
    }
    for (const auto& part : wrapped(row[used - 1].text, column)) {
      print_line(line + styled(part, row[used - 1].style));
      line = std::string(column, ' ');
    }
  }
}

void print_json(const nlohmann::ordered_json& value) {
  print_line(value.dump(2, ' ', false, nlohmann::ordered_json::error_handler_t::replace));
}

void complain(const std::string& what, const std::string& remedy) {
  std::fflush(stdout);
  fmt::print(stderr, "{} {}\n", painted("error:", Style::bad, STDERR_FILENO), what);
  if (!remedy.empty()) fmt::print(stderr, "       {}\n", remedy);
}

void progress(const std::string& text) {
  static const bool terminal = ::isatty(STDERR_FILENO) == 1;
  if (!terminal) return;
  fmt::print(stderr, "\r\x1b[K{}", text.substr(0, 100));
  std::fflush(stderr);
}

SlowNotice::SlowNotice(std::string text) {
  if (::isatty(STDERR_FILENO) != 1) return;
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
