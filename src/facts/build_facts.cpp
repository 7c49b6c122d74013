#include "facts/build_facts.hpp"

#include "base/text.hpp"
#include "facts/fact.hpp"
#include "facts/runtime_facts.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <charconv>

namespace fibula {
namespace {

/// DW_AT_language (DWARF 5, section 7.12, with the numbers added since).
std::string_view language_name(uint16_t number) {
  switch (number) {
    case 0x01:
    case 0x02:
    case 0x0c:
    case 0x1d:
    case 0x2c: return "C";
    case 0x04:
    case 0x1a:
    case 0x21:
    case 0x2b: return "C++";
    case 0x07:
    case 0x08:
    case 0x0e:
    case 0x22:
    case 0x23: return "Fortran";
    case 0x10: return "Objective-C";
    case 0x11: return "Objective-C++";
    case 0x13: return "D";
    case 0x16: return "Go";
    case 0x1c: return "Rust";
    case 0x1e: return "Swift";
    case 0x8001: return "assembly";
    default: return {};
  }
}

/// The last -O of the options that GCC records behind its name and version; nothing when it records none at all.
std::optional<std::string> optimisation(std::string_view producer) {
  if (producer.find(" -") == std::string_view::npos) return std::nullopt;
  std::string last = "-O0";
  for (const auto word : text::split(producer, ' ')) {
    if (word.starts_with("-O")) last = word;
  }
  return last;
}

void add_configuration_of_debug_record(const Image& image, Facts& facts) {
  if (!image.debug || image.debug->version == 0) return;
  if (const auto level = optimisation(image.debug->producer)) {
    const bool plain = *level == "-O0" || *level == "-Og";
    facts.configuration = derived(plain ? "debug" : "release", fmt::format("recorded option {}", *level));
  } else if (image.target.format == Format::macho && image.debug->producer.find("clang") != std::string_view::npos) {
    // Clang marks optimised units on this system, and only there.
    facts.configuration = derived(image.debug->optimised ? "release" : "debug", "DWARF, DW_AT_APPLE_optimized");
  }
}

bool is_absolute(std::string_view path) {
  return path.starts_with('/') || (path.size() > 2 && path[1] == ':' && (path[2] == '\\' || path[2] == '/'));
}

std::string msvc_version(std::string_view number) {
  int value = 0;
  const auto [end, error] = std::from_chars(number.data(), number.data() + number.size(), value);
  if (error != std::errc() || end != number.data() + number.size()) return std::string(number);
  return fmt::format("{}.{:02}", value / 100, value % 100);
}

std::string_view maker_name(LinkTimeMark::Maker maker) {
  switch (maker) {
    case LinkTimeMark::Maker::gcc: return "GCC";
    case LinkTimeMark::Maker::llvm: return "LLVM";
    case LinkTimeMark::Maker::msvc: return "MSVC";
  }
  return {};
}

/// The version without the maker's own name in front of it: "LLVM14.0.6" -> "14.0.6".
std::string version_of(const LinkTimeMark& code) {
  const auto name = maker_name(code.maker);
  return code.version.starts_with(name) ? code.version.substr(name.size()) : code.version;
}

void add_link_time(const Image& image, Facts& facts) {
  if (!image.link_time) return;
  facts.link_time = fact(LinkTimeCode{std::string(maker_name(image.link_time->maker)), version_of(*image.link_time),
                                      image.link_time->machine_code},
                         "link-time sections");
}

/// What compilers call themselves in their records, and the name by which they are known.
constexpr std::pair<std::string_view, std::string_view> makers[] = {
    {"clang", "clang"}, {"msvc", "msvc"}, {"gnu as", "gas"}, {"gcc", "gcc"}, {"gnu ", "gcc"}, {"rustc", "rustc"}};

/// The text without what stands in parentheses: packagers, dates and commits.
std::string without_parentheses(std::string_view text) {
  std::string plain;
  int depth = 0;
  for (const char c : text) {
    depth += c == '(' ? 1 : 0;
    if (depth == 0) plain += c;
    if (c == ')' && depth > 0) --depth;
  }
  return plain;
}

/// The first number with a point; what comes behind it may be a date. Else the last number.
std::string version_in(std::string_view text) {
  std::string last;
  for (const auto word : text::words(text)) {
    if (!text::is_digit(word[0])) continue;
    if (word.find('.') != std::string_view::npos) return std::string(word);
    last = word;
  }
  return last;
}

/// `GCC: (Debian 12.2.0-14) 12.2.0` -> {gcc, 12.2.0}; `Debian clang version 14.0.6`, `GNU C17 12.2.0` and
/// `GCC: (GNU) 4.9.x 20150123 (prerelease)` likewise. Of an unknown maker its own words, without the version.
NamedVersion toolset_in(std::string_view producer) {
  const std::string lower = text::lower(producer);
  const auto* known = std::find_if(std::begin(makers), std::end(makers), [&](const auto& maker) {
    return maker.first.ends_with(' ') ? lower.starts_with(maker.first) : lower.find(maker.first) != std::string::npos;
  });
  NamedVersion toolset{.name = {}, .version = version_in(without_parentheses(producer))};
  std::string words;
  for (const auto word : text::words(producer)) {
    if (!text::is_digit(word[0])) words += (words.empty() ? "" : " ") + std::string(word);
  }
  toolset.name = known == std::end(makers) ? words : std::string(known->second);
  return toolset;
}

/// The record itself stands in the source: it tells the packager too.
Fact<NamedVersion> toolset_fact(std::string_view producer, std::string_view from) {
  return fact(toolset_in(producer), fmt::format("{}, \"{}\"", from, producer));
}

}  // namespace

void add_toolset(const Image& image, Facts& facts) {
  add_link_time(image, facts);
  const auto option_free = [](std::string_view producer) { return producer.substr(0, producer.find(" -")); };
  if (!image.producers.empty()) {
    facts.toolset = toolset_fact(image.producers.front(),
                                 image.target.format == Format::coff ? "section .rdata$zzz" : "section .comment");
  } else if (image.debug && !image.debug->producer.empty()) {
    facts.toolset = toolset_fact(option_free(image.debug->producer), "DWARF, DW_AT_producer");
  } else if (const auto key = mismatch_key(image, "_MSC_VER"); !key.empty()) {
    facts.toolset = fact(NamedVersion{"msvc", msvc_version(key)}, "directive /FAILIFMISMATCH:_MSC_VER");
  } else if (image.compiler_id != 0) {
    facts.toolset = fact(NamedVersion{"msvc"}, fmt::format("symbol @comp.id: tool {:#x}, build {}",
                                                           image.compiler_id >> 16U, image.compiler_id & 0xffffU));
  } else if (image.linker) {
    facts.toolset = fact(NamedVersion{"linker", image.linker.value}, image.linker.from);
  } else if (image.link_time) {
    facts.toolset = fact(NamedVersion{text::lower(maker_name(image.link_time->maker)), version_of(*image.link_time)},
                         "link-time sections");
  }
}

void add_thread_model(Facts& facts) {
  if (facts.threads || !facts.toolset || facts.format.value == Format::elf) return;
  // Distributions that ship both thread models of a Windows GNU compiler say which in its version.
  for (const auto model : {"posix", "win32"}) {
    if (facts.toolset.value->version.ends_with(fmt::format("-{}", model)))
      facts.threads = fact<std::string>(model, "version in the " + facts.toolset.from, Certainty::guessed);
  }
}

void add_language(const Image& image, const NameTraits& traits, bool any_symbol, Facts& facts) {
  const auto recorded = image.debug ? language_name(image.debug->language) : std::string_view();
  if (!recorded.empty()) {
    facts.language = fact(std::string(recorded), "DWARF, DW_AT_language");
    return;
  }
  for (const auto& [trait, name] : {std::pair{Trait::rust, "Rust"},
                                    {Trait::go, "Go"},
                                    {Trait::cxx, "C++"},
                                    {Trait::msvc_cxx, "C++"},
                                    {Trait::gfortran, "Fortran"}}) {
    if (!traits.has(trait)) continue;
    facts.language = derived(name, fmt::format("symbol {}", traits.shown_by(trait)));
    return;
  }
  const bool code = image.type != ImageType::import_member && image.type != ImageType::stub;
  if (any_symbol && code) facts.language = derived("C", "no mangled names");
}

void add_configuration(const Image& image, Facts& facts) {
  const auto runtime = facts.c_runtime.value.value_or("");
  if (runtime.starts_with("msvc-")) {
    facts.configuration = derived(runtime.ends_with("-debug") ? "debug" : "release", facts.c_runtime.from);
    return;
  }
  add_configuration_of_debug_record(image, facts);
  if (!facts.configuration && facts.stl_debug.value == "on")
    facts.configuration = derived("debug", facts.stl_debug.from);
}

void add_debug(const Image& image, Facts& facts) {
  if (image.debug && image.debug->version != 0) {
    facts.debug_info = fact(NamedVersion{"DWARF", fmt::format("{}", image.debug->version)}, "debug sections");
  } else if (image.debug && !image.debug->file.empty()) {
    facts.debug_info = fact(NamedVersion{"CodeView"}, "debug directory");
    facts.debug_file = fact(std::string(image.debug->file), "debug directory");
  } else if (!image.debug_files.empty()) {
    facts.debug_info = fact(NamedVersion{"debug map"}, "symbol table, names of objects");
  } else if (image.debug_info) {
    facts.debug_info = fact(NamedVersion{"other"}, "debug sections");
  }
  std::vector<std::string> paths;
  const auto add = [&](std::string_view path) {
    if (is_absolute(path) && std::find(paths.begin(), paths.end(), path) == paths.end() && paths.size() < 8)
      paths.emplace_back(path);
  };
  if (image.debug) {
    add(image.debug->folder);
    add(image.debug->file);
    if (image.debug->folder.empty()) add(image.debug->source);
  }
  for (const auto file : image.debug_files) add(file);
  if (!paths.empty())
    facts.build_paths = fact(std::move(paths), image.debug_files.empty() ? "debug record" : "debug map");
}

}  // namespace fibula
