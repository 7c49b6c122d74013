#include "take/source_system.hpp"

#include "base/text.hpp"

#include <algorithm>
#include <initializer_list>
#include <string_view>

namespace fibula {
namespace {

struct SystemRow {
  std::string_view system;
  std::initializer_list<std::string_view> words;    ///< in names of files and folders
  std::initializer_list<std::string_view> headers;  ///< that only it has
};

const SystemRow system_rows[] = {
    {"windows",
     {"win32", "windows", "win64", "mingw", "w32", "win"},
     {"windows.h", "winsock2.h", "winsock.h", "ws2tcpip.h", "io.h", "conio.h", "direct.h", "tlhelp32.h", "shlobj.h",
      "mmsystem.h", "mswsock.h", "dsound.h", "process.h", "tchar.h", "windowsx.h", "winioctl.h"}},
    {"linux",
     {"linux", "epoll", "inotify"},
     {"sys/epoll.h", "sys/inotify.h", "sys/eventfd.h", "sys/timerfd.h", "sys/signalfd.h", "sys/prctl.h"}},
    {"macos",
     {"macos", "darwin", "osx", "macosx", "kqueue"},
     {"mach/mach.h", "mach/mach_time.h", "sys/event.h", "CoreFoundation/CoreFoundation.h", "Carbon/Carbon.h",
      "CoreServices/CoreServices.h", "AudioToolbox/AudioToolbox.h"}},
};

constexpr std::string_view posix_words[] = {"posix", "unix"};
/// Of these MinGW and bare machines have none (POSIX.1-2017, "Headers").
constexpr std::string_view posix_headers[] = {
    "sys/socket.h", "termios.h", "sys/mman.h", "dlfcn.h",   "poll.h",         "sys/poll.h",   "netdb.h",
    "pwd.h",        "grp.h",     "sys/wait.h", "sys/un.h",  "sys/ioctl.h",    "arpa/inet.h",  "netinet/in.h",
    "sys/select.h", "syslog.h",  "sys/uio.h",  "sys/ipc.h", "sys/resource.h", "sys/utsname.h"};

constexpr std::string_view foreign_words[] = {
    "amiga",   "vms",        "os2",     "beos",   "haiku",      "riscos",    "atari",   "symbian", "wince",
    "solaris", "aix",        "sunos",   "os390",  "zos",        "hpux",      "irix",    "msdos",   "djgpp",
    "dos",     "netware",    "vxworks", "qnx",    "psp",        "ps2",       "wii",     "xbox",    "n3ds",
    "android", "ios",        "wasm",    "jni",    "emscripten", "dreamcast", "openvms", "tru64",   "ultrix",
    "next",    "macclassic", "acorn",   "palmos", "nacl"};

struct ArchRow {
  std::string_view word;
  std::initializer_list<std::string_view> archs;
};

const ArchRow arch_rows[] = {{"arm", {"arm", "aarch64"}},
                             {"neon", {"arm", "aarch64"}},
                             {"aarch64", {"aarch64"}},
                             {"arm64", {"aarch64"}},
                             {"x86", {"x86", "x86_64"}},
                             {"sse2", {"x86", "x86_64"}},
                             {"i386", {"x86"}},
                             {"amd64", {"x86_64"}},
                             {"x64", {"x86_64"}},
                             {"mips", {"mips", "mipsel"}},
                             {"mips64", {"mips64", "mips64el"}},
                             {"mmi", {"mips64el"}},
                             {"ppc", {"ppc", "ppc64", "ppc64le"}},
                             {"powerpc", {"ppc", "ppc64", "ppc64le"}},
                             {"altivec", {"ppc", "ppc64", "ppc64le"}},
                             {"vsx", {"ppc64", "ppc64le"}},
                             {"riscv", {"riscv32", "riscv64"}},
                             {"s390x", {"s390x"}},
                             {"s390", {"s390", "s390x"}},
                             {"loongarch", {"loongarch64"}}};

/// The words of a path: "port/timer_win32.c" -> port, timer, win32.
std::vector<std::string> words_of(const std::string& file) {
  std::vector<std::string> words;
  // Its parts would be the name of another.
  if (text::lower(file).find("x86_64") != std::string::npos) words.emplace_back("amd64");
  std::string word;
  for (const char c : text::lower(file.substr(0, file.rfind('.')))) {
    if (c == '/' || c == '_' || c == '-' || c == '.') {
      words.push_back(std::move(word));
      word.clear();
    } else {
      word += c;
    }
  }
  words.push_back(std::move(word));
  return words;
}

template <class Words>
bool any_in(const Words& wanted, const std::vector<std::string>& there) {
  return std::any_of(std::begin(wanted), std::end(wanted),
                     [&](std::string_view word) { return std::find(there.begin(), there.end(), word) != there.end(); });
}

}  // namespace

SourceSystem system_of_source(const std::string& file, const std::vector<std::string>& included) {
  SourceSystem found;
  const auto words = words_of(file);
  for (const auto& row : system_rows) {
    if (any_in(row.headers, included)) found.systems = {std::string(row.system)};
  }
  if (found.systems.empty() && any_in(posix_headers, included)) found.systems = {"linux", "macos"};
  if (found.systems.empty()) {
    for (const auto& row : system_rows) {
      if (any_in(row.words, words)) found.systems.emplace_back(row.system);
    }
  }
  if (found.systems.empty() && any_in(posix_words, words)) found.systems = {"linux", "macos"};
  for (const auto& row : arch_rows) {
    if (std::find(words.begin(), words.end(), row.word) == words.end()) continue;
    const std::vector<std::string> named(row.archs.begin(), row.archs.end());
    std::vector<std::string> both;
    for (const auto& arch : named) {
      if (std::find(found.archs.begin(), found.archs.end(), arch) != found.archs.end()) both.push_back(arch);
    }
    // arm/aarch64/x_neon.c: each word narrows what the others say.
    found.archs = both.empty() ? named : both;
  }
  found.foreign = found.systems.empty() && any_in(foreign_words, words);
  return found;
}

}  // namespace fibula
