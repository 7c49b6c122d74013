/// What decides whether binaries fit, told by a compiler's macros: processor level, float ABI, C and C++ run-time.
///
/// Sources: the ACLE (Arm C Language Extensions, "Predefined macros") for `__ARM_*`, the RISC-V and x86-64 psABIs and
/// the compilers' own manuals for the rest.
#include "base/text.hpp"
#include "toolchain/answers.hpp"

#include <fmt/format.h>
#include <span>

namespace fibula {
namespace {

/// A macro that, when it is there, gives an answer. The first row that applies decides.
struct Row {
  std::string_view id;
  std::string_view macro;
  std::string_view value;
  bool not_zero = false;  ///< and its value is a number other than 0
};

constexpr Row rows[] = {
    {"float-abi", "__ARM_PCS_VFP", "hard"},
    {"float-abi", "__SOFTFP__", "soft"},
    {"float-abi", "__riscv_float_abi_double", "double"},
    {"float-abi", "__riscv_float_abi_single", "single"},
    {"float-abi", "__riscv_float_abi_soft", "soft"},
    {"float-abi", "__mips_soft_float", "soft"},
    {"float-abi", "__mips_hard_float", "double"},
    {"c-runtime", "__UCLIBC__", "uclibc"},
    {"c-runtime", "__APPLE__", "libSystem"},
    {"c-runtime", "__BIONIC__", "bionic"},
    {"c-runtime", "__ANDROID__", "bionic"},
    {"c-runtime", "_NEWLIB_VERSION", "newlib"},
    {"c-runtime", "__AVR_LIBC_VERSION__", "avr-libc"},
    {"c-runtime", "_UCRT", "ucrt"},
    {"c-runtime", "__MSVCRT_VERSION__", "msvcrt"},
    {"c-runtime", "__GLIBC__", "glibc"},
    {"cxx-runtime", "_LIBCPP_VERSION", "libc++"},
    {"cxx-runtime", "__GLIBCXX__", "libstdc++"},
    {"string-abi", "_GLIBCXX_USE_CXX11_ABI", "new", true},
    {"string-abi", "__GLIBCXX__", "old"},
    {"stl-debug", "_GLIBCXX_DEBUG", "on"},
    {"stl-debug", "_LIBCPP_DEBUG", "on", true},
    {"stl-debug", "__GLIBCXX__", "off"},
    {"stl-debug", "_LIBCPP_VERSION", "off"},
    {"exceptions", "__USING_SJLJ_EXCEPTIONS__", "sjlj"},
    {"exceptions", "__SEH__", "seh"},
    {"exceptions", "__MINGW32__", "dwarf"},
    {"sanitizers", "__SANITIZE_ADDRESS__", "address"},
    {"sanitizers", "__SANITIZE_THREAD__", "thread"},
    {"cpu", "__AVX512VL__", "x86-64-v4"},
    {"cpu", "__AVX2__", "x86-64-v3"},
    {"cpu", "__SSE4_2__", "x86-64-v2"},
    {"cpu", "__x86_64__", "x86-64"},
    {"cpu", "__ARM_ARCH_8M_MAIN__", "v8-M.mainline"},
    {"cpu", "__ARM_ARCH_8M_BASE__", "v8-M.baseline"},
    {"cpu", "__ARM_ARCH_8_1M_MAIN__", "v8.1-M.mainline"},
    {"cpu", "__ARM_ARCH_7EM__", "v7E-M"},
    {"cpu", "__ARM_ARCH_7M__", "v7-M"},
    {"cpu", "__ARM_ARCH_6M__", "v6-M"},
    {"cpu", "__ARM_ARCH_7A__", "v7-A"},
    {"cpu", "__ARM_ARCH_7VE__", "v7-A"},
    {"cpu", "__ARM_ARCH_7R__", "v7-R"},
    {"cpu", "__ARM_ARCH_6K__", "v6K"},
    {"cpu", "__ARM_ARCH_6KZ__", "v6KZ"},
    {"cpu", "__ARM_ARCH_6__", "v6"},
    {"cpu", "__ARM_ARCH_5TE__", "v5TE"},
    {"cpu", "__ARM_ARCH_5T__", "v5T"},
    {"cpu", "__ARM_ARCH_4T__", "v4T"},
};

void give(Toolchain& toolchain, std::string_view id, std::string value, std::string from, std::string version = {}) {
  toolchain.answers.try_emplace(std::string(id), Answer{std::move(value), std::move(from), std::move(version)});
}

void read_rows(const Macros& macros, Toolchain& toolchain) {
  for (const auto& row : rows) {
    if (!macros.has(row.macro) || (row.not_zero && macros.number(row.macro) == 0)) continue;
    // Clang finds the host's headers when it makes code for a system whose own are not installed.
    const bool foreign = row.macro == "__GLIBC__" && toolchain.target.format != Format::elf;
    if (!foreign) give(toolchain, row.id, std::string(row.value), fmt::format("macro {}", row.macro));
  }
  if (toolchain.target.arch == Arch::arm)
    give(toolchain, "float-abi", "softfp", "no macro __ARM_PCS_VFP or __SOFTFP__");
}

/// `__AVR_ARCH__` counts the levels without their names: 5, 25, 51, 102.
void read_levels(const Macros& macros, Toolchain& toolchain) {
  if (const auto level = macros.value("__AVR_ARCH__"); !level.empty()) {
    const long number = macros.number("__AVR_ARCH__");
    give(toolchain, "cpu", number > 100 ? fmt::format("avrxmega{}", number - 100) : fmt::format("avr{}", level),
         "macro __AVR_ARCH__");
  }
  if (toolchain.target.arch == Arch::arm && macros.has("__ARM_ARCH"))
    give(toolchain, "cpu", fmt::format("v{}-A", macros.number("__ARM_ARCH")), "macro __ARM_ARCH");
}

/// /MD, /MT and their debug forms set these (Microsoft's documentation of `/MD, /MT, /LD`).
void read_msvc(const Macros& macros, Toolchain& toolchain) {
  if (!macros.has("_MSC_VER") || toolchain.family != CompilerFamily::msvc) return;
  const bool dynamic = macros.has("_DLL"), debug = macros.has("_DEBUG");
  give(toolchain, "c-runtime", fmt::format("msvc-{}{}", dynamic ? "dynamic" : "static", debug ? "-debug" : ""),
       fmt::format("{}macro _DLL, {}macro _DEBUG", dynamic ? "" : "no ", debug ? "" : "no "));
  const auto level = macros.value("_ITERATOR_DEBUG_LEVEL");
  give(toolchain, "stl-debug", level.empty() ? (debug ? "level 2" : "level 0") : fmt::format("level {}", level),
       level.empty() ? (debug ? "macro _DEBUG" : "no macro _DEBUG") : "macro _ITERATOR_DEBUG_LEVEL");
  give(toolchain, "cxx-runtime", "msvc", "macro _MSC_VER");
}

void read_versions(const Macros& macros, Toolchain& toolchain) {
  if (toolchain.answers.contains("c-runtime") && toolchain.answers.at("c-runtime").value == "glibc")
    give(toolchain, "libc", fmt::format("{}.{}", macros.value("__GLIBC__"), macros.value("__GLIBC_MINOR__")),
         "macros __GLIBC__ and __GLIBC_MINOR__");
  if (const long macos = macros.number("__ENVIRONMENT_MAC_OS_X_VERSION_MIN_REQUIRED__"); macos != 0)
    give(toolchain, "os", "macos", "macro __ENVIRONMENT_MAC_OS_X_VERSION_MIN_REQUIRED__",
         fmt::format("{}.{}", macos / 10000, macos / 100 % 100));
  if (const long android = macros.number("__ANDROID_API__"); android != 0)
    give(toolchain, "os", "android", "macro __ANDROID_API__", fmt::format("{}", android));
  if (const long windows = macros.number("_WIN32_WINNT"); windows != 0)
    give(toolchain, "os", "windows", "macro _WIN32_WINNT", fmt::format("{}.{}", windows >> 8, windows & 0xff));
}

void read_thread_model(std::string_view err, Toolchain& toolchain) {
  if (toolchain.target.format != Format::pe || toolchain.family == CompilerFamily::msvc) return;
  for (const auto line : text::lines(err)) {
    constexpr std::string_view start = "Thread model: ";
    if (line.starts_with(start))
      give(toolchain, "threads", std::string(text::trim(line.substr(start.size()))), "its line \"Thread model\"");
  }
}

struct Standard {
  long macro;
  std::string_view name;
};
constexpr Standard cxx_standards[] = {
    {202002, "c++20"}, {201703, "c++17"}, {201402, "c++14"}, {201103, "c++11"}, {0, "c++98"}};
constexpr Standard c_standards[] = {{202000, "c23"}, {201710, "c17"}, {201112, "c11"}, {199901, "c99"}, {0, "c90"}};

/// From the first version that knows a standard under its final or working name (the manuals' "Language Standards").
struct Newest {
  int gcc, clang;
  std::string_view cxx, c;
};
constexpr Newest newest[] = {{14, 18, "c++26", "c23"}, {11, 13, "c++23", "c23"}, {9, 9, "c++20", "c23"},
                             {8, 5, "c++20", "c17"},   {5, 4, "c++17", "c11"},   {0, 0, "c++11", "c11"}};

void read_standards(const Macros& macros, Toolchain& toolchain) {
  const char* macro = toolchain.family == CompilerFamily::msvc ? "_MSVC_LANG"
                      : toolchain.cxx                          ? "__cplusplus"
                                                               : "__STDC_VERSION__";
  const long value = macros.number(macro);
  for (const auto& row :
       toolchain.cxx ? std::span<const Standard>(cxx_standards) : std::span<const Standard>(c_standards)) {
    if (value < row.macro) continue;
    // A working draft counts as what it will become.
    const bool draft = toolchain.cxx && value > 202002;
    give(toolchain, "standard", draft ? "c++23" : std::string(row.name), fmt::format("macro {}", macro));
    break;
  }
  const bool clang = macros.has("__clang__");
  const long major = macros.number(clang ? "__clang_major__" : "__GNUC__");
  for (const auto& row : newest) {
    if (major < (clang ? row.clang : row.gcc)) continue;
    give(toolchain, "newest-standard", std::string(toolchain.cxx ? row.cxx : row.c),
         fmt::format("version {}", toolchain.version));
    return;
  }
}

}  // namespace

void read_abi_answers(const Macros& macros, std::string_view err, Toolchain& toolchain) {
  read_rows(macros, toolchain);
  read_levels(macros, toolchain);
  read_msvc(macros, toolchain);
  read_versions(macros, toolchain);
  read_thread_model(err, toolchain);
  read_standards(macros, toolchain);
  if (macros.has("FIBULA_HAS_C_LIBRARY")) give(toolchain, "c-headers", "there", "stdio.h");
}

}  // namespace fibula
