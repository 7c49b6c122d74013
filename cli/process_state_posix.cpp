#include "process_state.hpp"
#include "session.hpp"

#include <fcntl.h>
#include <unistd.h>
#include <csignal>
#include <cstdint>
#include <cstring>

namespace cli {
namespace {

// Everything that the handler below calls may be called in one (POSIX.1-2017, 2.4.3).

uintptr_t number_in(const char*& text) {
  uintptr_t value = 0;
  for (;; ++text) {
    if (*text >= '0' && *text <= '9') {
      value = value * 16 + static_cast<uintptr_t>(*text - '0');
    } else if (*text >= 'a' && *text <= 'f') {
      value = value * 16 + static_cast<uintptr_t>(*text - 'a' + 10);
    } else {
      return value;
    }
  }
}

void say(const char* text) {
  static_cast<void>(!::write(STDERR_FILENO, text, std::strlen(text)));
}

/// Of a line of /proc/self/maps (proc(5)): the file that is mapped there, when the address lies in it.
const char* file_in(char* line, uintptr_t address) {
  const char* at = line;
  const uintptr_t begin = number_in(at);
  if (*at != '-') return nullptr;
  ++at;
  if (address < begin || address >= number_in(at)) return nullptr;
  char* file = std::strchr(line, '/');
  for (char* c = file; c != nullptr && *c != '\0'; ++c) {
    if (static_cast<unsigned char>(*c) < 0x20 || *c == 0x7f) *c = '?';
  }
  return file;
}

/// The name of the mapped file at an address, in a buffer of its own; null where it cannot be told.
const char* mapped_file_at(uintptr_t address) {
  static char line[8192];
  const int maps = ::open("/proc/self/maps", O_RDONLY | O_CLOEXEC);
  size_t used = 0;
  char c = 0;
  while (maps >= 0 && ::read(maps, &c, 1) == 1) {
    if (c != '\n') {
      if (used + 1 < sizeof line) line[used++] = c;
      continue;
    }
    line[used] = '\0';
    used = 0;
    if (const char* file = file_in(line, address)) return file;
  }
  return nullptr;
}

/// The system tells it this way when another process cuts a file short that is mapped here.
void end_with_cut_file(int, siginfo_t* info, void*) {
  const char* file = mapped_file_at(reinterpret_cast<uintptr_t>(info->si_addr));
  say("error: ");
  say(file == nullptr ? "a file that is read" : file);
  say(": was cut short by another process while it was read\n  remedy: run it again when nobody writes the file\n");
  ::_exit(bad_input);
}

}  // namespace

void settle_process() {
  // A file that is opened must not get the number of a stream that is closed: what is printed would land in it. Opened
  // for the other direction, so that a stream that is missing is still one that cannot be used.
  for (const int stream : {STDIN_FILENO, STDOUT_FILENO, STDERR_FILENO}) {
    if (::fcntl(stream, F_GETFD) >= 0) continue;
    const int opened = ::open("/dev/null", stream == STDIN_FILENO ? O_WRONLY : O_RDONLY);
    if (opened >= 0 && opened != stream) {
      ::dup2(opened, stream);
      ::close(opened);
    }
  }
  // Writing to a pipe that nobody reads, or beyond the limit for a file's size, is an error to be told, and not the
  // end.
  for (const int number : {SIGPIPE, SIGXFSZ}) std::signal(number, SIG_IGN);
  struct sigaction action {};
  action.sa_sigaction = end_with_cut_file;
  action.sa_flags = SA_SIGINFO | static_cast<int>(SA_RESETHAND);
  ::sigaction(SIGBUS, &action, nullptr);
}

}  // namespace cli
