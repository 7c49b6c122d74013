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

}  // namespace fibula
