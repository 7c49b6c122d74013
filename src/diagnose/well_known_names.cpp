#include "diagnose/well_known_names.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

struct KnownRow {
  std::string_view prefix;
  std::string_view cause;
  std::string_view what;
  std::string_view flag;
};

constexpr KnownRow known_rows[] = {
    {"__asan_", "sanitizer-runtime", "the address sanitizer", "-fsanitize=address"},
    {"__tsan_", "sanitizer-runtime", "the thread sanitizer", "-fsanitize=thread"},
    {"__msan_", "sanitizer-runtime", "the memory sanitizer", "-fsanitize=memory"},
    {"__ubsan_", "sanitizer-runtime", "the undefined-behaviour sanitizer", "-fsanitize=undefined"},
    {"__sanitizer_cov_", "sanitizer-runtime", "coverage for fuzzing", "-fsanitize=fuzzer"},
    {"__gcov_", "missing-system-input", "coverage", "--coverage"},
    {"__llvm_profile_", "missing-system-input", "profiles", "-fprofile-instr-generate"},
    {"GOMP_", "missing-system-input", "OpenMP", "-fopenmp"},
    {"omp_", "missing-system-input", "OpenMP", "-fopenmp"},
    {"__kmpc_", "missing-system-input", "OpenMP", "-fopenmp"},
    {"_gfortran_", "missing-system-input", "Fortran's run-time", "-lgfortran"},
};

/// What every C++ object asks of its run-time (Itanium C++ ABI, 2.9, 3.2, 3.3; names of namespace std).
bool is_of_cxx_runtime(std::string_view symbol) {
  static constexpr std::string_view prefixes[] = {
      "_ZSt",  "_ZNSt", "_ZNKSt", "_ZTVN10__cxxabiv1", "_ZTISt",  "_ZTVSt",  "_ZNSa", "_ZNKSa", "_ZNSs", "_ZNKSs",
      "_ZNSi", "_ZNSo", "_ZTSSt", "_ZTINSt",           "_ZTVNSt", "_ZTTNSt", "_ZTTSt"};
  static constexpr std::string_view names[] = {"__gxx_personality_v0",
                                               "__gxx_personality_seh0",
                                               "__gxx_personality_sj0",
                                               "_Znwm",
                                               "_Znam",
                                               "_ZdlPv",
                                               "_ZdaPv",
                                               "_ZdlPvm",
                                               "_Znwy",
                                               "_ZdlPvy",
                                               "_Znwj",
                                               "_ZdlPvj",
                                               "__cxa_begin_catch",
                                               "__cxa_end_catch",
                                               "__cxa_throw",
                                               "__cxa_allocate_exception",
                                               "__cxa_pure_virtual",
                                               "__cxa_guard_acquire",
                                               "__cxa_rethrow",
                                               "__cxa_free_exception",
                                               "__dynamic_cast"};
  return std::find(std::begin(names), std::end(names), symbol) != std::end(names) ||
         std::any_of(std::begin(prefixes), std::end(prefixes),
                     [&](std::string_view p) { return symbol.starts_with(p); });
}

/// `g++` for `gcc`, `clang++-14` for `clang-14`, `c++` for `cc`; empty where the command is a C++ driver already.
std::string cxx_driver(const std::string& driver) {
  const size_t name = driver.rfind('/') == std::string::npos ? 0 : driver.rfind('/') + 1;
  if (driver.find("++", name) != std::string::npos) return {};
  for (const auto& [c, cxx] :
       {std::pair<std::string_view, std::string_view>{"clang", "clang++"}, {"gcc", "g++"}, {"cc", "c++"}}) {
    const size_t at = driver.rfind(c);
    if (at == std::string::npos || at < name) continue;
    return driver.substr(0, at) + std::string(cxx) + driver.substr(at + c.size());
  }
  return {};
}

std::optional<WellKnown> of_cxx_runtime(const ToolCommand& command) {
  std::string driver = cxx_driver(command.words[0]);
  // A C++ driver would compile C sources as C++.
  const bool compiles_c = std::any_of(command.sources.begin(), command.sources.end(),
                                      [](const CommandFile& source) { return source.path.extension() == ".c"; });
  if (!driver.empty() && compiles_c)
    return WellKnown{"cxx-runtime-not-linked",
                     fmt::format("it belongs to the C++ run-time, which {} does not link", command.words[0]),
                     fmt::format("add it: -lstdc++; or compile with {0} and link with {1}", command.words[0], driver),
                     {"-lstdc++"}};
  if (driver.empty()) {
    const auto says = [&](std::string_view word) {
      return std::find(command.words.begin(), command.words.end(), word) != command.words.end();
    };
    const bool without = says("-nodefaultlibs") || says("-nostdlib") || command.tool == Tool::linker;
    if (!without) return std::nullopt;
    return WellKnown{"cxx-runtime-not-linked",
                     "it belongs to the C++ run-time, which this command leaves out",
                     "add it: -lstdc++",
                     {"-lstdc++"}};
  }
  return WellKnown{"cxx-runtime-not-linked",
                   fmt::format("it belongs to the C++ run-time, which {} does not link", command.words[0]),
                   fmt::format("link with {}", driver),
                   {},
                   driver};
}

}  // namespace

bool is_beginning(std::string_view name) {
  static constexpr std::string_view names[] = {"main",     "_main", "WinMain",   "_WinMain@16",
                                               "wWinMain", "wmain", "WinMain@16"};
  return std::find(std::begin(names), std::end(names), name) != std::end(names);
}

std::optional<WellKnown> well_known_name(std::string_view symbol, const ToolCommand& command) {
  if (is_of_cxx_runtime(symbol)) return of_cxx_runtime(command);
  for (const auto& row : known_rows) {
    if (!symbol.starts_with(row.prefix)) continue;
    // With its flag there already, the flag is not what is missing.
    if (std::find(command.words.begin(), command.words.end(), row.flag) != command.words.end()) return std::nullopt;
    return WellKnown{row.cause,
                     fmt::format("an object was compiled for {}, and the link does not ask for it", row.what),
                     fmt::format("link with {} too", row.flag),
                     {std::string(row.flag)}};
  }
  return std::nullopt;
}

namespace {

struct SystemRow {
  std::string_view prefix;
  std::string_view library;
};

/// Functions of Windows whose import libraries no linker takes by itself (each function's page of the Windows API).
constexpr SystemRow windows_rows[] = {
    {"WSA", "ws2_32"},
    {"getaddrinfo", "ws2_32"},
    {"freeaddrinfo", "ws2_32"},
    {"GetAdaptersAddresses", "iphlpapi"},
    {"GetAdaptersInfo", "iphlpapi"},
    {"CoInitialize", "ole32"},
    {"CoCreateInstance", "ole32"},
    {"CoTaskMemFree", "ole32"},
    {"SysAllocString", "oleaut32"},
    {"VariantClear", "oleaut32"},
    {"SHGetFolderPath", "shell32"},
    {"SHGetKnownFolderPath", "shell32"},
    {"ShellExecute", "shell32"},
    {"PathFileExists", "shlwapi"},
    {"PathCombine", "shlwapi"},
    {"RegOpenKey", "advapi32"},
    {"RegQueryValue", "advapi32"},
    {"CryptAcquireContext", "advapi32"},
    {"CryptGenRandom", "advapi32"},
    {"CertOpenStore", "crypt32"},
    {"CertOpenSystemStore", "crypt32"},
    {"CertCloseStore", "crypt32"},
    {"BCrypt", "bcrypt"},
    {"timeGetTime", "winmm"},
    {"timeBeginPeriod", "winmm"},
    {"waveOut", "winmm"},
    {"MessageBox", "user32"},
    {"CreateWindowEx", "user32"},
    {"GetSystemMetrics", "user32"},
    {"BitBlt", "gdi32"},
    {"CreateFont", "gdi32"},
    {"SymInitialize", "dbghelp"},
    {"SymFromAddr", "dbghelp"},
    {"MiniDumpWriteDump", "dbghelp"},
    {"WinHttp", "winhttp"},
    {"InternetOpen", "wininet"},
    {"GetProcessMemoryInfo", "psapi"},
    {"EnumProcesses", "psapi"},
    {"GetFileVersionInfo", "version"},
    {"VerQueryValue", "version"},
    {"SetupDi", "setupapi"},
    {"UuidCreate", "rpcrt4"},
    {"Gdip", "gdiplus"},
    {"D3D11CreateDevice", "d3d11"},
    {"glBegin", "opengl32"},
    {"wgl", "opengl32"},
    {"Dwm", "dwmapi"},
    {"Pdh", "pdh"},
    {"ImmGetContext", "imm32"},
};

/// What C libraries keep, or kept, in files of their own: glibc until 2.34, and other systems.
constexpr SystemRow posix_rows[] = {
    {"pthread_", "-pthread"}, {"sem_", "-pthread"},  {"dlopen", "-ldl"},        {"dlsym", "-ldl"},
    {"dlclose", "-ldl"},      {"dlerror", "-ldl"},   {"dladdr", "-ldl"},        {"shm_open", "-lrt"},
    {"shm_unlink", "-lrt"},   {"aio_", "-lrt"},      {"timer_create", "-lrt"},  {"clock_gettime", "-lrt"},
    {"mq_", "-lrt"},          {"forkpty", "-lutil"}, {"__atomic_", "-latomic"},
};

/// As tools print what every C++ program asks of its run-time.
bool reads_as_cxx_runtime(std::string_view name) {
  static constexpr std::string_view beginnings[] = {"std::",
                                                    "operator new",
                                                    "operator delete",
                                                    "vtable for __cxxabiv1::",
                                                    "vtable for std::",
                                                    "typeinfo for std::",
                                                    "__gxx_perso",
                                                    "__cxa_",
                                                    "___gxx_personality",
                                                    "___cxa_",
                                                    "_Unwind_Resume"};
  return std::any_of(std::begin(beginnings), std::end(beginnings),
                     [&](std::string_view beginning) { return name.starts_with(beginning); });
}

/// `WSAStartup` of `__imp_WSAStartup`, `__imp__WSAStartup@8` and `_WSAStartup@8`.
std::string_view windows_name(std::string_view name) {
  const bool import = name.starts_with("__imp_");
  if (import) name.remove_prefix(6);
  const size_t at = name.rfind('@');
  const bool decorated = at != std::string_view::npos && at > 0 && name.starts_with('_');
  if (decorated) name = name.substr(1, at - 1);
  return import || decorated ? name : std::string_view();
}

std::optional<WellKnown> of_windows(std::string_view name, bool by_microsoft) {
  if (name == "__iob_func" || name == "__imp____iob_func" || name == "__imp___iob_func")
    return WellKnown{"toolchain-family", "it belongs to the C run-time of compilers before Visual Studio 2015",
                     "get a build of the library for this compiler; legacy_stdio_definitions.lib has some of the rest"};
  const std::string_view plain = windows_name(name);
  for (const auto& row : windows_rows) {
    if (plain.empty() || !plain.starts_with(row.prefix)) continue;
    return WellKnown{"missing-system-input", fmt::format("Windows has it in {}.dll", row.library),
                     by_microsoft ? fmt::format("link {}.lib", row.library) : fmt::format("link -l{}", row.library)};
  }
  return std::nullopt;
}

/// `fstat@GLIBC_2.33`: a version of it, which older systems do not have.
std::optional<WellKnown> of_newer_system(const std::string& name) {
  const size_t at = name.find("@GLIBC");
  const size_t abi = at == std::string::npos ? name.find("@CXXABI_") : at;
  if (abi == std::string::npos) return std::nullopt;
  const std::string version = name.substr(name.find_first_not_of('@', abi));
  const bool libc = version.starts_with("GLIBC_");
  return WellKnown{libc ? "libc-floor" : "cxx-floor",
                   fmt::format("it was linked with a {} that has version {}, and this link's does not",
                               libc ? "glibc" : "libstdc++", version),
                   "use a build of the library for an older system, or link on a newer one"};
}

std::optional<WellKnown> of_a_class(const std::string& name) {
  if (!name.starts_with("vtable for ") && !name.starts_with("typeinfo for ") && !name.starts_with("VTT for "))
    return std::nullopt;
  return WellKnown{"undefined", "it comes with the definition of the class's first virtual function that is not inline",
                   "link the source that has that function, or define it; sources that a generator makes belong to the "
                   "link too"};
}

}  // namespace

std::optional<WellKnown> well_known_name(const std::string& name, bool by_microsoft) {
  if (auto newer = of_newer_system(name)) return newer;
  if (is_beginning(name))
    return WellKnown{"entry", "it is where programs begin, and no object of the link has it",
                     by_microsoft ? "link the object that has it; of a console program with main: /SUBSYSTEM:CONSOLE"
                                  : "link the object that has it, or make a library (-shared)"};
  if (auto windows = of_windows(name, by_microsoft)) return windows;
  if (by_microsoft) return std::nullopt;
  for (const auto& row : known_rows) {
    if (name.starts_with(row.prefix))
      return WellKnown{row.cause,
                       fmt::format("an object was compiled for {}, and the link does not ask for it", row.what),
                       fmt::format("link with {} too", row.flag)};
  }
  if (is_of_cxx_runtime(name) || reads_as_cxx_runtime(name)) {
    const bool other =
        name.starts_with("std::__1::") || name.starts_with("_ZNSt3__1") || name.starts_with("_ZNKSt3__1");
    return WellKnown{
        "cxx-runtime-not-linked", fmt::format("it belongs to the C++ run-time{}", other ? " libc++" : ""),
        other ? "link with clang++ -stdlib=libc++" : "link with a C++ compiler (g++, clang++), or add -lstdc++"};
  }
  if (auto of_class = of_a_class(name)) return of_class;
  for (const auto& row : posix_rows) {
    if (name.starts_with(row.prefix))
      return WellKnown{"missing-system-input", fmt::format("systems that keep it apart have it behind {}", row.library),
                       fmt::format("link with {}", row.library)};
  }
  return std::nullopt;
}

}  // namespace fibula
