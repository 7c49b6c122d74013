#include "screen.hpp"

#include <poll.h>
#include <sys/ioctl.h>
#include <sys/stat.h>
#include <unistd.h>
#include <cstdlib>

namespace cli {

bool is_terminal(Stream stream) {
  return ::isatty(stream == Stream::output ? STDOUT_FILENO : STDERR_FILENO) == 1;
}

bool input_is_terminal() {
  return ::isatty(STDIN_FILENO) == 1;
}

bool input_is_given() {
  struct stat input {};
  return ::fstat(STDIN_FILENO, &input) == 0 && !S_ISCHR(input.st_mode);
}

bool reader_has_left() {
  pollfd output{.fd = STDOUT_FILENO, .events = 0, .revents = 0};
  return ::poll(&output, 1, 0) == 1 && (output.revents & POLLERR) != 0;
}

namespace {

/// One side of the terminal: what the environment says, else what the system does, else what terminals once had.
size_t side(const char* variable, unsigned short winsize::*member, size_t otherwise) {
  if (const char* said = std::getenv(variable); said != nullptr && std::atoi(said) > 0)
    return static_cast<size_t>(std::atoi(said));
  winsize size{};
  const bool known = ::ioctl(STDOUT_FILENO, TIOCGWINSZ, &size) == 0 && size.*member > 0;
  return known ? size.*member : otherwise;
}

}  // namespace

size_t screen_width() {
  return side("COLUMNS", &winsize::ws_col, 80);
}

size_t screen_height() {
  return side("LINES", &winsize::ws_row, 24);
}

}  // namespace cli
