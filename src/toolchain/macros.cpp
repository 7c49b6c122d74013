#include "base/files.hpp"
#include "base/text.hpp"
#include "toolchain/answers.hpp"

#include <algorithm>
#include <map>

namespace fibula {
namespace {

using Macros = std::map<std::string_view, std::string_view>;

Macros macros_in(std::string_view out) {
  Macros macros;
  for (std::string_view line : text::lines(out)) {
    constexpr std::string_view define = "#define ";
    if (!line.starts_with(define)) continue;
    line.remove_prefix(define.size());
    const size_t space = line.find(' ');
    macros[line.substr(0, space)] = space == std::string_view::npos ? std::string_view() : line.substr(space + 1);
  }
  return macros;
}

struct ArchMacro {
  std::string_view macro;
  Arch little, big;
};

/// The first macro that is there decides; the order matters where one compiler defines several.
constexpr ArchMacro arch_macros[] = {
    {"__x86_64__", Arch::x86_64, Arch::unknown},
    {"__i386__", Arch::x86, Arch::unknown},
    {"__aarch64__", Arch::aarch64, Arch::aarch64},
    {"__arm__", Arch::arm, Arch::arm},
    {"__riscv", Arch::riscv64, Arch::unknown},
    {"__AVR__", Arch::avr, Arch::unknown},
    {"__powerpc64__", Arch::ppc64le, Arch::ppc64},
    {"__powerpc__", Arch::ppc, Arch::ppc},
    {"__s390x__", Arch::unknown, Arch::s390x},
    {"__mips64", Arch::mips64el, Arch::mips64},
    {"__mips__", Arch::mipsel, Arch::mips},
    {"__loongarch64", Arch::loongarch64, Arch::unknown},
    {"__sparc__", Arch::unknown, Arch::sparc},
    {"__hppa__", Arch::unknown, Arch::hppa},
    {"__alpha__", Arch::alpha, Arch::unknown},
    {"__m68k__", Arch::unknown, Arch::m68k},
    {"__sh__", Arch::sh, Arch::sh},
};

Arch arch_from(const Macros& macros, int bits, Endian endian) {
  for (const auto& row : arch_macros) {
    if (!macros.contains(row.macro)) continue;
    const Arch arch = endian == Endian::big ? row.big : row.little;
    if (arch == Arch::x86_64 && bits == 32) return Arch::x32;
    if (arch == Arch::riscv64 && bits == 32) return Arch::riscv32;
    return arch;
  }
  return Arch::unknown;
}

Format format_from(const Macros& macros) {
  if (macros.contains("__ELF__")) return Format::elf;
  if (macros.contains("_WIN32")) return Format::pe;
  if (macros.contains("__APPLE__")) return Format::macho;
  return Format::unknown;
}

int number(std::string_view text) {
  return std::atoi(std::string(text).c_str());
}

std::string_view value(const Macros& macros, std::string_view name) {
  const auto found = macros.find(name);
  return found == macros.end() ? std::string_view() : found->second;
}

std::string version_from(const Macros& macros) {
  const bool clang = macros.contains("__clang__");
  const auto part = [&](std::string_view gcc, std::string_view other) {
    return std::string(value(macros, clang ? other : gcc));
  };
  return part("__GNUC__", "__clang_major__") + "." + part("__GNUC_MINOR__", "__clang_minor__") + "." +
         part("__GNUC_PATCHLEVEL__", "__clang_patchlevel__");
}

/// Directories between "search starts here" and the end of the list, as they exist, each once.
std::vector<fs::path> search_directories(std::string_view err) {
  std::vector<fs::path> found;
  bool inside = false;
  for (const auto line : text::lines(err)) {
    if (line.starts_with("#include <...>")) inside = true;
    if (line.starts_with("End of search list")) break;
    if (!inside || !line.starts_with(' ')) continue;
    std::error_code error;
    const auto path = fs::canonical(fs::path(text::trim(line)), error);
    if (!error && std::find(found.begin(), found.end(), path) == found.end()) found.push_back(path);
  }
  return found;
}

std::string line_after(std::string_view err, std::string_view start) {
  for (const auto line : text::lines(err)) {
    if (line.starts_with(start)) return std::string(text::trim(line.substr(start.size())));
  }
  return {};
}

}  // namespace

std::vector<std::string> macro_question(const Question& question) {
  std::vector<std::string> argv{question.compiler};
  argv.insert(argv.end(), question.flags.begin(), question.flags.end());
  const std::string name = fs::path(question.compiler).filename().string();
  const bool cxx = name.find("++") != std::string::npos;
  for (const char* word : {"-x", cxx ? "c++" : "c", "-E", "-dM", "-v", "/dev/null"}) argv.emplace_back(word);
  return argv;
}

bool read_macro_answer(std::string_view out, std::string_view err, Toolchain& toolchain) {
  const Macros macros = macros_in(out);
  if (!macros.contains("__SIZEOF_POINTER__")) return false;
  toolchain.family = macros.contains("__clang__") ? Family::clang : Family::gcc;
  toolchain.version = version_from(macros);
  toolchain.triple = line_after(err, "Target:");
  toolchain.target.bits = 8 * number(value(macros, "__SIZEOF_POINTER__"));
  toolchain.target.endian = value(macros, "__BYTE_ORDER__") == "__ORDER_BIG_ENDIAN__" ? Endian::big : Endian::little;
  toolchain.target.arch = arch_from(macros, toolchain.target.bits, toolchain.target.endian);
  toolchain.target.format = format_from(macros);
  toolchain.include_directories = search_directories(err);
  return true;
}

}  // namespace fibula
