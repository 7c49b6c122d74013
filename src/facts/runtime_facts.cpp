#include "facts/runtime_facts.hpp"

#include "base/text.hpp"
#include "facts/fact.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

struct NeedRow {
  std::string_view start;  ///< of the file's name, in lower case for Windows
  std::string_view value;
};

Fact<std::string> by_need(const Image& image, std::initializer_list<NeedRow> rows) {
  const bool windows = image.target.format == Format::pe;
  for (const auto& row : rows) {
    for (const auto& need : image.needs) {
      const std::string name = windows ? text::lower(need.name) : need.name;
      if (name.starts_with(row.start)) return fact(std::string(row.value), "needs " + need.name);
    }
  }
  return {};
}

Fact<std::string> by_trait(const NameTraits& traits, std::initializer_list<std::pair<Trait, std::string_view>> rows) {
  for (const auto& [trait, value] : rows) {
    if (traits.has(trait)) return derived(value, fmt::format("symbol {}", traits.shown_by(trait)));
  }
  return {};
}

/// MSVC-style images take their C++ or compiler run-time from numbered DLLs, those of GNU compilers do not. The debug
/// ones have a `d` before the dot: `msvcp140d.dll`. One of them makes it a debug image, and two run-times are no sound
/// one.
void add_msvc_flavour_by_need(const Image& image, Facts& facts) {
  std::string debug, release;
  for (const auto& need : image.needs) {
    const std::string name = text::lower(need.name);
    const bool numbered = name.starts_with("vcruntime") || name.starts_with("msvcp") ||
                          (name.starts_with("msvcr") && name != "msvcrt.dll") || name == "ucrtbased.dll";
    if (numbered) (name.ends_with("d.dll") ? debug : release) = need.name;
  }
  if (!debug.empty()) facts.c_runtime = fact<std::string>("msvc-dynamic-debug", "needs " + debug);
  if (debug.empty() && !release.empty()) facts.c_runtime = fact<std::string>("msvc-dynamic", "needs " + release);
  if (!debug.empty() && !release.empty())
    facts.notes.push_back(fmt::format("needs the debug run-time ({}) and the release one ({})", debug, release));
}

/// `/DEFAULTLIB:"msvcrt.lib"` -> msvcrt; options begin with `/` or `-` and are written in either case.
std::string default_library(std::string_view directive) {
  const std::string option = text::lower(directive);
  if (option.size() < 12 || (option[0] != '/' && option[0] != '-') || option.substr(1, 11) != "defaultlib:") return {};
  std::string name = option.substr(12);
  std::erase(name, '"');
  if (name.ends_with(".lib")) name.resize(name.size() - 4);
  return name;
}

constexpr std::pair<std::string_view, std::string_view> flavours_by_library[] = {{"msvcrt", "msvc-dynamic"},
                                                                                 {"msvcrtd", "msvc-dynamic-debug"},
                                                                                 {"libcmt", "msvc-static"},
                                                                                 {"libcmtd", "msvc-static-debug"}};

constexpr std::pair<std::string_view, std::string_view> flavours_by_key[] = {{"MD_DynamicRelease", "msvc-dynamic"},
                                                                             {"MDd_DynamicDebug", "msvc-dynamic-debug"},
                                                                             {"MT_StaticRelease", "msvc-static"},
                                                                             {"MTd_StaticDebug", "msvc-static-debug"}};

Fact<std::string> msvc_flavour_by_directive(const Image& image) {
  const auto key = mismatch_key(image, "RuntimeLibrary");
  for (const auto& [value, flavour] : flavours_by_key) {
    if (key == value) return fact(std::string(flavour), "directive /FAILIFMISMATCH:RuntimeLibrary");
  }
  for (const auto directive : image.directives) {
    const std::string library = default_library(directive);
    for (const auto& [name, flavour] : flavours_by_library) {
      if (library == name) return fact(std::string(flavour), fmt::format("directive {}", directive));
    }
  }
  return {};
}

void add_windows_c_runtime(const Image& image, const NameTraits& traits, Facts& facts) {
  add_msvc_flavour_by_need(image, facts);
  if (!facts.c_runtime) facts.c_runtime = msvc_flavour_by_directive(image);
  if (!facts.c_runtime) {
    facts.c_runtime = by_need(image, {{"api-ms-win-crt-", "ucrt"}, {"ucrtbase.dll", "ucrt"}, {"msvcrt.dll", "msvcrt"}});
  }
  if (!facts.c_runtime) facts.c_runtime = by_trait(traits, {{Trait::ucrt, "ucrt"}, {Trait::msvcrt, "msvcrt"}});
}

void add_elf_c_runtime(const Image& image, const NameTraits& traits, Facts& facts) {
  facts.c_runtime = by_need(image, {{"libc.so.6", "glibc"}, {"libc.so.0.", "uclibc"}, {"libc.musl-", "musl"}});
  if (facts.c_runtime) return;
  // A library that uses only the mathematics of glibc needs no libc.so.6; its versions tell all the same.
  if (facts.libc_floor) facts.c_runtime = derived("glibc", facts.libc_floor.from);
  if (facts.c_runtime) return;
  if (image.system.name == "android") facts.c_runtime = derived("bionic", image.system.from);
  const auto is_plain = [](const Need& need) { return need.name == "libc.so" && need.versions.empty(); };
  const bool plain_need = std::any_of(image.needs.begin(), image.needs.end(), is_plain);
  if (plain_need && !facts.c_runtime) {
    const bool bionic = traits.has(Trait::bionic) || by_need(image, {{"liblog.so", "bionic"}, {"libdl.so", "bionic"}});
    facts.c_runtime = fact<std::string>(bionic ? "bionic" : "musl", "needs libc.so");
  }
  if (image.interpreter) {
    for (const auto& [part, value] : {std::pair{"ld-musl", "musl"}, {"ld-linux", "glibc"}, {"linker", "bionic"}}) {
      if (image.interpreter->find(part) != std::string_view::npos)
        facts.c_runtime = fact<std::string>(value, fmt::format("interpreter {}", *image.interpreter));
    }
  }
  if (facts.c_runtime) return;
  facts.c_runtime = by_trait(
      traits,
      {{Trait::glibc, "glibc"}, {Trait::bionic, "bionic"}, {Trait::newlib, "newlib"}, {Trait::avr_libc, "avr-libc"}});
}

void add_list(Fact<std::vector<std::string>>& into, const NameTraits& traits, Trait trait, std::string_view value) {
  if (!traits.has(trait)) return;
  if (!into)
    into = fact(std::vector<std::string>(), fmt::format("symbol {}", traits.shown_by(trait)), Certainty::derived);
  into.value->emplace_back(value);
}

Fact<std::string> strings_in(std::string_view fresh, std::string_view old) {
  if (!fresh.empty() && !old.empty()) return derived("both", fmt::format("symbols {} and {}", fresh, old));
  if (!fresh.empty()) return derived("new", fmt::format("symbol {}", fresh));
  if (!old.empty()) return derived("old", fmt::format("symbol {}", old));
  return {};
}

void add_string_abi(const NameTraits& traits, Facts& facts) {
  facts.string_abi = strings_in(traits.shown_by(Trait::new_string), traits.shown_by(Trait::old_string));
  if (!facts.string_abi) facts.string_abi = derived("none", "no std::string in any symbol");
}

void add_stl_debug(const Image& image, const NameTraits& traits, Facts& facts) {
  if (const auto level = mismatch_key(image, "_ITERATOR_DEBUG_LEVEL"); !level.empty()) {
    facts.stl_debug = fact(fmt::format("level {}", level), "directive /FAILIFMISMATCH:_ITERATOR_DEBUG_LEVEL");
  } else if (traits.has(Trait::stl_debug)) {
    facts.stl_debug = derived("on", fmt::format("symbol {}", traits.shown_by(Trait::stl_debug)));
  } else if (facts.string_abi && facts.string_abi.value != "none") {
    facts.stl_debug = derived("off", "no name of a debugging container in any symbol");
  }
}

}  // namespace

std::string_view mismatch_key(const Image& image, std::string_view key) {
  for (const auto directive : image.directives) {
    if (directive.size() < 16 || text::lower(directive.substr(1, 15)) != "failifmismatch:") continue;
    auto pair = directive.substr(16);
    while (pair.starts_with('"')) pair.remove_prefix(1);
    while (pair.ends_with('"')) pair.remove_suffix(1);
    const size_t equals = pair.find('=');
    if (equals != std::string_view::npos && pair.substr(0, equals) == key) return pair.substr(equals + 1);
  }
  return {};
}

void add_c_runtime(const Image& image, const NameTraits& traits, Facts& facts) {
  switch (image.target.format) {
    case Format::pe:
    case Format::coff: return add_windows_c_runtime(image, traits, facts);
    case Format::macho: facts.c_runtime = by_need(image, {{"/usr/lib/libSystem", "libSystem"}}); return;
    case Format::elf:
    case Format::gcc_lto: return add_elf_c_runtime(image, traits, facts);
    case Format::bitcode:
    case Format::script:
    case Format::stub:
    case Format::unknown: return;
  }
}

void add_cxx_runtime(const Image& image, const NameTraits& traits, Facts& facts) {
  facts.cxx_runtime = by_need(
      image, {{"libstdc++", "libstdc++"}, {"libc++", "libc++"}, {"/usr/lib/libc++", "libc++"}, {"msvcp", "msvc"}});
  if (!facts.cxx_runtime) {
    facts.cxx_runtime =
        by_trait(traits, {{Trait::libcxx, "libc++"}, {Trait::libstdcxx, "libstdc++"}, {Trait::msvc_cxx, "msvc"}});
  }
  if (facts.cxx_runtime.value == "libstdc++") add_string_abi(traits, facts);
  add_stl_debug(image, traits, facts);
}

void add_interface(const NameTraits& traits, Facts& facts) {
  if (traits.has(Trait::cxx_given)) {
    facts.interface = derived("C++", fmt::format("symbol {}", traits.shown_by(Trait::cxx_given)));
  } else if (facts.defined_count > 0) {
    facts.interface = derived("C", "no mangled name among those it defines");
  }
  facts.own_strings = strings_in(traits.shown_by(Trait::new_string_given), traits.shown_by(Trait::old_string_given));
}

void add_instrumentation(const Image& image, const NameTraits& traits, Facts& facts) {
  const bool windows = image.target.format == Format::coff || image.target.format == Format::pe;
  facts.exceptions = by_trait(traits, {{Trait::seh_exceptions, "seh"},
                                       {Trait::sjlj_exceptions, "sjlj"},
                                       {Trait::table_exceptions, windows ? "dwarf" : "table"}});
  if (windows) {
    facts.threads = by_need(image, {{"libwinpthread", "posix"}});
    if (!facts.threads)
      facts.threads = by_trait(traits, {{Trait::posix_threads, "posix"}, {Trait::win32_threads, "win32"}});
  }
  for (const auto& [trait, value] : {std::pair{Trait::address_sanitizer, "address"},
                                     {Trait::thread_sanitizer, "thread"},
                                     {Trait::memory_sanitizer, "memory"},
                                     {Trait::undefined_sanitizer, "undefined"},
                                     {Trait::leak_sanitizer, "leak"}})
    add_list(facts.sanitizers, traits, trait, value);
  for (const auto& [trait, value] :
       {std::pair{Trait::gcov, "gcov"}, {Trait::llvm_profile, "llvm"}, {Trait::gprof, "gprof"}})
    add_list(facts.profile, traits, trait, value);
  facts.openmp = by_trait(traits, {{Trait::libgomp, "libgomp"}, {Trait::libomp, "libomp"}});
  facts.fortran = by_trait(traits, {{Trait::gfortran, "gfortran"}, {Trait::flang, "flang"}});
}

}  // namespace fibula
