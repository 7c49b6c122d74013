/// Binaries that belong together, by what they are for: architecture, linkage, configuration.
#include "base/files.hpp"
#include "base/text.hpp"
#include "shelf/source.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <tuple>

namespace fibula {
namespace {

/// A folder named after a configuration is a hint; the bytes of a plain ELF library do not tell.
std::string configuration_of(const std::string& file) {
  for (const auto& part : fs::path(file).parent_path()) {
    const std::string name = text::lower(part.string());
    if (name == "debug" || name == "release") return name;
  }
  return "unknown";
}

Target target_of(const Facts& facts) {
  return {facts.format.value.value_or(Format::unknown), facts.arch.value.value_or(Arch::unknown),
          facts.bits.value.value_or(0), facts.endian.value.value_or(Endian::little)};
}

Linkage linkage_of(const Facts& facts) {
  return facts.kind.value == Kind::shared_library ? Linkage::shared : Linkage::static_;
}

std::string id_of(const Variant& variant) {
  std::string id = fmt::format("{}-{}-{}", to_string(variant.target.arch), to_string(variant.target.format),
                               to_string(variant.linkage));
  return variant.configuration == "unknown" ? id : id + "-" + variant.configuration;
}

template <class T>
void learn(Variant& variant, const char* what, const Fact<T>& fact, const std::string& file) {
  if (fact) variant.learnt.emplace(what, fmt::format("{} from {}: {}", to_string(fact.certainty), file, fact.from));
}

Variant& variant_for(std::vector<Variant>& variants, const Binary& binary) {
  const auto key = std::tuple(target_of(binary.facts), linkage_of(binary.facts), configuration_of(binary.file));
  for (auto& variant : variants) {
    if (std::tuple(variant.target, variant.linkage, variant.configuration) == key) return variant;
  }
  Variant fresh;
  std::tie(fresh.target, fresh.linkage, fresh.configuration) = key;
  fresh.id = id_of(fresh);
  learn(fresh, "arch", binary.facts.arch, binary.file);
  learn(fresh, "linkage", binary.facts.kind, binary.file);
  if (fresh.configuration != "unknown")
    fresh.learnt.emplace("configuration", "guessed from a folder's name: " + binary.file);
  return variants.emplace_back(std::move(fresh));
}

/// The names of one shared library: the development link, the soname, the file itself. Which of them exist is what
/// counts.
void add_shared(const Source& source, const Binary& binary, Variant& variant) {
  const fs::path path = source.root / binary.file;
  std::error_code ignored;
  const fs::path real = fs::canonical(path, ignored);
  const std::string soname = binary.facts.soname.value.value_or(path.filename().string());
  const fs::path beside = fs::exists(path.parent_path() / soname, ignored) ? path.parent_path() : real.parent_path();
  const fs::path runtime = fs::exists(beside / soname, ignored) ? beside / soname : path;
  const auto runtime_name = shown_from(source.root, runtime);
  if (std::find(variant.runtime.begin(), variant.runtime.end(), runtime_name) == variant.runtime.end())
    variant.runtime.push_back(runtime_name);
  const auto same_library = [&](const std::string& other) {
    std::error_code gone;
    return fs::canonical(source.root / other, gone) == real;
  };
  const auto known = std::find_if(variant.link.begin(), variant.link.end(), same_library);
  if (known == variant.link.end()) {
    variant.link.push_back(binary.file);
  } else if (binary.file.ends_with(".so")) {
    *known = binary.file;
  }
}

}  // namespace

std::vector<Variant> variants_in(const Source& source) {
  std::vector<Variant> variants;
  for (const auto& binary : source.binaries) {
    if (binary.facts.kind.value == Kind::program || !binary.facts.format) continue;
    Variant& variant = variant_for(variants, binary);
    if (variant.linkage == Linkage::shared) {
      add_shared(source, binary, variant);
    } else {
      variant.link.push_back(binary.file);
    }
    if (variant.c_runtime.empty() && binary.facts.c_runtime) {
      variant.c_runtime = *binary.facts.c_runtime.value;
      learn(variant, "c-runtime", binary.facts.c_runtime, binary.file);
    }
    if (variant.cxx_runtime.empty() && binary.facts.cxx_runtime) {
      variant.cxx_runtime = *binary.facts.cxx_runtime.value;
      learn(variant, "cxx-runtime", binary.facts.cxx_runtime, binary.file);
    }
  }
  return variants;
}

}  // namespace fibula
