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
const DefinedNames& predefined_for(const Variant& variant) {
  const auto* toolset = variant.fact_as<NamedVersion>("toolset");
  const bool gnu = (toolset != nullptr && toolset->name == "gcc") || variant.fact("c-runtime") == "msvcrt" ||
                   variant.fact("c-runtime") == "ucrt";
  return macros_of_windows(gnu);
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

}  // namespace

void add_import_definitions(const Source& source, std::vector<Variant>& variants) {
  for (auto& variant : variants) {
    if (variant.target.format != Format::pe) continue;
    const auto [macros, header] = read_headers(source, variant);
    if (header.empty()) continue;
    const Learnt from{Certainty::derived, header,
                      fmt::format("its conditionals around dllimport, line {}", macros.line)};
    const std::string for_shared = telling_name(macros.for_shared), for_static = telling_name(macros.for_static);
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
