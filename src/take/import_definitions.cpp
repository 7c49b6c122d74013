/// Which definition makes a library's headers right for a DLL or for a static library.
#include "base/text.hpp"
#include "headers/conditionals.hpp"
#include "os/files.hpp"
#include "take/source.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

/// What the compilers of the variant's kind define.
std::set<std::string, std::less<>> predefined_for(const Variant& variant) {
  const auto* toolset = variant.fact_as<NamedVersion>("toolset");
  const bool gnu = (toolset != nullptr && toolset->name == "gcc") || variant.fact("c-runtime") == "msvcrt" ||
                   variant.fact("c-runtime") == "ucrt";
  if (gnu) return {"_WIN32", "WIN32", "__GNUC__", "__MINGW32__"};
  return {"_WIN32", "_MSC_VER"};
}

struct Reading {
  ImportMacros macros;
  std::string header;
};

/// The first header that says something about imports says it for all: the others include it.
Reading read_headers(const Source& source, const Variant& variant) {
  for (const auto& header : source.headers) {
    const auto content = read_text(source.root / header);
    if (!content || content->find("dllimport") == std::string::npos) continue;
    auto macros = import_macros(*content, predefined_for(variant));
    if (macros.line != 0) return {std::move(macros), header};
  }
  return {};
}

/// Of several names the one that says what it is about.
std::string best_of(const std::vector<std::string>& names) {
  for (const char* word : {"DLL", "SHARED", "STATIC", "IMPORT"}) {
    for (const auto& name : names) {
      if (name.find(word) != std::string::npos) return name;
    }
  }
  return names.empty() ? std::string() : names.front();
}

}  // namespace

void add_import_definitions(const Source& source, std::vector<Variant>& variants) {
  for (auto& variant : variants) {
    if (variant.target.format != Format::pe) continue;
    const auto [macros, header] = read_headers(source, variant);
    if (header.empty()) continue;
    const Learnt from{Certainty::derived, header,
                      fmt::format("its conditionals around dllimport, line {}", macros.line)};
    const std::string for_shared = best_of(macros.for_shared), for_static = best_of(macros.for_static);
    const auto keep = [&](const char* id, const std::string& value) {
      if (value.empty()) return;
      variant.facts[id] = value;
      variant.learnt[id] = from;
    };
    keep("import-macro", for_shared);
    keep("static-macro", for_static);
    if (macros.always) {
      variant.facts["header-imports"] = true;
      variant.learnt["header-imports"] = from;
    }
    const std::string& needed = variant.linkage == Linkage::shared ? for_shared : for_static;
    if (needed.empty()) continue;
    variant.definitions.push_back(needed);
    variant.learnt["definitions"] = from;
  }
}

}  // namespace fibula
