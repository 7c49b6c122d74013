#include "take/sources/source_system.hpp"

#include "base/text.hpp"
#include "headers/well_known_headers.hpp"

#include <algorithm>
#include <initializer_list>
#include <string_view>

namespace fibula {
namespace {

struct SystemRow {
  std::string_view system;
  std::initializer_list<std::string_view> words;  ///< in names of files and folders
};

const SystemRow system_rows[] = {
    {"windows", {"win32", "windows", "win64", "mingw", "w32", "win"}},
    {"linux", {"linux", "epoll", "inotify"}},
    {"macos", {"macos", "darwin", "osx", "macosx", "kqueue"}},
};

constexpr std::string_view posix_words[] = {"posix", "unix"};

bool is_of_macos(std::optional<std::string_view> system) {
  return system == "macOS" || system == "BSD systems and macOS";
}

/// The systems that alone have a header, by a card's names. MinGW has some of POSIX too.
std::vector<std::string> systems_with(const std::string& header) {
  if (header == "pthread.h" || header == "unistd.h") return {};
  const auto system = system_of_header(header);
  if (system == "Windows") return {"windows"};
  if (system == "Linux") return {"linux"};
  if (system == "POSIX systems") return {"linux", "macos"};
  return is_of_macos(system) ? std::vector<std::string>{"macos"} : std::vector<std::string>();
}

bool is_of_bsd(const std::string& header) {
  return system_of_header(header) == "BSD systems";
}

/// Of several headers the one that the fewest systems have decides.
std::vector<std::string> systems_with_all(const std::vector<std::string>& headers) {
  std::vector<std::string> found;
  for (const auto& header : headers) {
    auto systems = systems_with(header);
    if (!systems.empty() && (found.empty() || systems.size() < found.size())) found = std::move(systems);
  }
  return found;
}

constexpr std::string_view foreign_words[] = {
    "amiga",   "vms",     "os2",     "beos",       "haiku",     "riscos",  "atari", "symbian", "wince",
    "solaris", "aix",     "sunos",   "os390",      "zos",       "hpux",    "irix",  "msdos",   "djgpp",
    "dos",     "netware", "vxworks", "qnx",        "psp",       "wii",     "xbox",  "n3ds",    "android",
    "ios",     "wasm",    "jni",     "emscripten", "dreamcast", "openvms", "tru64", "ultrix",  "macclassic",
    "acorn",   "palmos",  "nacl",    "cygwin",     "hurd",      "ibmi",    "os400"};

/// Of folders alone: a file may be named after where its code comes from (`openbsd-reallocarray.c`).
constexpr std::string_view foreign_folders[] = {"netbsd", "openbsd", "freebsd", "dragonfly", "dragonflybsd"};

struct ArchRow {
  std::string_view word;
  std::initializer_list<std::string_view> archs;
};

const ArchRow arch_rows[] = {{"arm", {"arm", "aarch64"}},
                             {"neon", {"arm", "aarch64"}},
                             {"armv4", {"arm"}},
                             {"armv5", {"arm"}},
                             {"armv6", {"arm"}},
                             {"armv7", {"arm"}},
                             {"armv8", {"aarch64"}},
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
      // `msvc9`, `vc++`: for a compiler of Windows.
      const bool of_windows = word.starts_with("msvc") || word == "vc++" || word.starts_with("visualc");
      words.push_back(of_windows ? "win32" : std::move(word));
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

bool is_assembly(const std::string& file) {
  const std::string name = text::lower(file);
  return name.ends_with(".s") || name.ends_with(".asm");
}

std::string machine_of_assembly(std::string_view text) {
  static constexpr std::string_view registers[] = {"ax", "bx", "cx", "dx", "si", "di", "bp", "sp"};
  const auto is_register = [](std::string_view word, char width) {
    return word.size() == 3 && word[0] == width &&
           std::find(std::begin(registers), std::end(registers), word.substr(1)) != std::end(registers);
  };
  bool narrow = false, wide = false;
  for (const auto line : text::lines(text)) {
    // Comments may speak of other machines.
    const std::string small = text::lower(std::string(line.substr(0, line.find_first_of("#;/@"))));
    std::string_view before;
    for (size_t at = 0; at < small.size();) {
      size_t end = at;
      while (end < small.size() && text::is_identifier_character(small[end])) ++end;
      const auto word = std::string_view(small).substr(at, end - at);
      const bool saves = before == "push" || before == "pushl" || before == "pop" || before == "popl";
      narrow = narrow || (saves && is_register(word, 'e'));
      wide = wide || is_register(word, 'r');
      if (!word.empty()) before = word;
      at = end + 1;
    }
  }
  if (narrow == wide) return {};
  return narrow ? "x86" : "x86_64";
}

bool lacks_one_of(const std::string& system, const std::vector<std::string>& included) {
  return std::any_of(included.begin(), included.end(), [&](const std::string& header) {
    const auto only = system_of_header(header);
    return system == "linux" ? is_of_macos(only) || only == "BSD systems" : system == "macos" && only == "Linux";
  });
}

bool is_called_a_stand_in(const std::string& file) {
  static constexpr std::string_view stands_in[] = {"no", "none", "null", "dummy", "stub", "stubs", "bsd"};
  const auto words = words_of(file.substr(file.rfind('/') + 1));
  return any_in(stands_in, words) || any_in(foreign_folders, words);
}

SourceSystem system_of_source(const std::string& file, const std::vector<std::string>& included) {
  SourceSystem found;
  const auto words = words_of(file);
  found.systems = systems_with_all(included);
  const bool one = found.systems.size() == 1;  // which no word outweighs; POSIX is on many systems
  const size_t slash = file.rfind('/');
  const auto folders = words_of(slash == std::string::npos ? "" : file.substr(0, slash) + ".");
  found.foreign = !one && (any_in(foreign_words, words) || any_in(foreign_folders, folders) ||
                           std::any_of(included.begin(), included.end(), is_of_bsd));
  if (found.systems.empty()) {
    for (const auto& row : system_rows) {
      if (any_in(row.words, words)) found.systems.emplace_back(row.system);
    }
  }
  if (found.systems.empty() && any_in(posix_words, words)) found.systems = {"linux", "macos"};
  for (const auto& row : arch_rows) {
    if (std::find(words.begin(), words.end(), row.word) == words.end()) continue;
    std::vector<std::string> named(row.archs.begin(), row.archs.end());
    // Both have the same intrinsics, and assembly of their own: that of 64 bits says so.
    if (row.word == "arm" && is_assembly(file)) named = {"arm"};
    std::vector<std::string> both;
    for (const auto& arch : named) {
      if (std::find(found.archs.begin(), found.archs.end(), arch) != found.archs.end()) both.push_back(arch);
    }
    // arm/aarch64/x_neon.c: each word narrows what the others say.
    found.archs = both.empty() ? named : both;
  }
  return found;
}

}  // namespace fibula
