#include "facts/facts.hpp"

#include "base/text.hpp"
#include "base/version.hpp"
#include "facts/mangling.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

template <class T>
Fact<T> fact(T value, std::string from, Certainty certainty = Certainty::read) {
  return {.value = std::move(value), .certainty = certainty, .from = std::move(from)};
}

Kind kind_of(const Image& image) {
  switch (image.type) {
    case ImageType::object: return Kind::object;
    case ImageType::program:
    case ImageType::pie_program: return Kind::program;
    case ImageType::shared: return Kind::shared_library;
    case ImageType::core: return Kind::core;
    case ImageType::other: break;
  }
  return Kind::object;
}

void add_target(const Image& image, Facts& facts) {
  facts.format = fact(image.target.format, "magic number");
  facts.bits = fact(image.target.bits, "ELF header, EI_CLASS");
  facts.endian = fact(image.target.endian, "ELF header, EI_DATA");
  facts.kind = fact(kind_of(image), image.type == ImageType::pie_program ? "dynamic section, DF_1_PIE or interpreter"
                                                                         : "ELF header, e_type");
  if (image.target.arch != Arch::unknown) {
    facts.arch = fact(image.target.arch, "ELF header, e_machine");
  } else {
    facts.notes.push_back(fmt::format("machine number {} is not one that is known here", image.machine));
  }
}

/// The highest version with this prefix among all that are needed: "GLIBC_" gives "2.34".
Fact<std::string> highest_version(const Image& image, std::string_view prefix) {
  Fact<std::string> best;
  for (const auto& need : image.needs) {
    for (const auto& version : need.versions) {
      if (!version.starts_with(prefix) || version.size() == prefix.size() ||
          !std::isdigit(static_cast<unsigned char>(version[prefix.size()])))
        continue;
      const auto number = version.substr(prefix.size());
      if (best && compare_versions(number, *best.value) <= 0) continue;
      best = fact(number, fmt::format("version {} needed from {}", version, need.name));
    }
  }
  return best;
}

struct Runtime {
  std::string_view file;
  std::string_view name;
};

Fact<std::string> runtime_needed(const Image& image, std::initializer_list<Runtime> rows) {
  for (const auto& need : image.needs) {
    for (const auto& row : rows) {
      if (need.name.starts_with(row.file)) return fact(std::string(row.name), "needs " + need.name);
    }
  }
  return {};
}

void add_c_runtime(const Image& image, Facts& facts) {
  facts.c_runtime = runtime_needed(image, {{"libc.so.6", "glibc"}, {"libc.musl-", "musl"}});
  if (facts.c_runtime) return;
  // A library that uses only the mathematics of glibc needs no libc.so.6; its versions tell all the same.
  if (facts.libc_floor) facts.c_runtime = fact<std::string>("glibc", facts.libc_floor.from, Certainty::derived);
  if (facts.c_runtime) return;
  const auto is_musl = [](const Need& need) { return need.name == "libc.so" && need.versions.empty(); };
  if (std::any_of(image.needs.begin(), image.needs.end(), is_musl))
    facts.c_runtime = fact<std::string>("musl", "needs libc.so");
  if (!image.interpreter) return;
  const bool musl = image.interpreter->find("ld-musl") != std::string_view::npos;
  if (musl) facts.c_runtime = fact<std::string>("musl", fmt::format("interpreter {}", *image.interpreter));
  if (image.interpreter->find("ld-linux") != std::string_view::npos) {
    facts.c_runtime = fact<std::string>("glibc", fmt::format("interpreter {}", *image.interpreter));
  }
}

/// Names of the C++ run-time that only one of the two uses: libc++ puts everything into std::__1.
void add_cxx(const Image& image, Facts& facts) {
  facts.cxx_runtime = runtime_needed(image, {{"libstdc++.so", "libstdc++"}, {"libc++.so", "libc++"}});
  facts.cxx_floor = highest_version(image, "GLIBCXX_");
  bool mangled = false;
  for (const auto& symbol : linkable_symbols(image)) {
    if (!is_itanium_mangled(symbol.name)) continue;
    mangled = true;
    if (facts.cxx_runtime) break;
    if (symbol.name.find("NSt3__1") != std::string_view::npos) {
      facts.cxx_runtime = fact<std::string>("libc++", fmt::format("symbol {}", symbol.name), Certainty::derived);
    } else if (symbol.name.find("NSt7__cxx11") != std::string_view::npos || symbol.name == "_ZSt4cout") {
      facts.cxx_runtime = fact<std::string>("libstdc++", fmt::format("symbol {}", symbol.name), Certainty::derived);
    }
  }
  const bool any = !linkable_symbols(image).empty();
  if (mangled) facts.language = fact<std::string>("C++", "mangled names", Certainty::derived);
  if (!mangled && any) facts.language = fact<std::string>("C", "no mangled names", Certainty::derived);
}

void add_loader_facts(const Image& image, Facts& facts) {
  if (image.type == ImageType::object) return;
  facts.needs = fact(image.needs, "dynamic section, DT_NEEDED");
  if (image.soname) facts.soname = fact(std::string(*image.soname), "dynamic section, DT_SONAME");
  if (!image.rpath.empty()) facts.rpath = fact(image.rpath, "dynamic section, DT_RPATH");
  if (!image.runpath.empty()) facts.runpath = fact(image.runpath, "dynamic section, DT_RUNPATH");
  facts.libc_floor = highest_version(image, "GLIBC_");
}

void count_symbols(const Image& image, Facts& facts) {
  for (const auto& symbol : linkable_symbols(image)) {
    if (!is_global(symbol)) continue;
    ++(symbol.defined ? facts.defined_count : facts.undefined_count);
  }
}

}  // namespace

bool is_global(const ImageSymbol& symbol) {
  return symbol.binding != Binding::local;
}

const std::vector<ImageSymbol>& linkable_symbols(const Image& image) {
  return image.type == ImageType::object ? image.symbols : image.dynamic_symbols;
}

Facts facts_of_image(const Image& image) {
  Facts facts;
  add_target(image, facts);
  add_loader_facts(image, facts);
  add_c_runtime(image, facts);
  add_cxx(image, facts);
  count_symbols(image, facts);
  if (!image.build_id.empty()) facts.build_id = fact(image.build_id, "note NT_GNU_BUILD_ID");
  if (!image.system.empty()) facts.os_floor = fact(image.system, "note NT_GNU_ABI_TAG");
  if (!image.producers.empty()) facts.toolset = fact(std::string(image.producers.front()), "section .comment");
  if (image.pic) facts.pic = fact(*image.pic, "relocations", Certainty::derived);
  if (facts.kind.value == Kind::shared_library) facts.pic = fact(PicReport{}, "ELF header, e_type", Certainty::derived);
  return facts;
}

}  // namespace fibula
