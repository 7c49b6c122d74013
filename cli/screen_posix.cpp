#include "screen.hpp"

#include <sys/ioctl.h>
#include <unistd.h>
#include <cstdlib>

namespace cli {

bool is_terminal(Stream stream) {
  return ::isatty(stream == Stream::output ? STDOUT_FILENO : STDERR_FILENO) == 1;
}

bool input_is_terminal() {
  return ::isatty(STDIN_FILENO) == 1;
}

size_t screen_width() {
  if (const char* columns = std::getenv("COLUMNS"); columns != nullptr && std::atoi(columns) > 0)
    return static_cast<size_t>(std::atoi(columns));
  winsize size{};
  const bool known = ::ioctl(STDOUT_FILENO, TIOCGWINSZ, &size) == 0 && size.ws_col > 0;
  return known ? size.ws_col : 80;
}

}  // namespace cli
