/// Rules about headers: what they declare against what the binaries define, and what they ask of the compiler.
#include "base/text.hpp"
#include "match/sides.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

bool defines(const Pairing& p, const std::string& macro) {
  return std::any_of(p.definitions.begin(), p.definitions.end(), [&](const std::string& definition) {
    return definition.substr(0, definition.find('=')) == macro;
  });
}

std::string header_says(const Pairing& p, const std::string& fact, std::string_view what) {
  const auto learnt = p.variant.learnt.find(fact);
  return fmt::format("the headers of {} {}{}", p.card.name, what,
                     learnt == p.variant.learnt.end() ? "" : " (" + to_text(learnt->second) + ")");
}

std::optional<Misfit> import_define(const Pairing& p) {
  const bool is_static = !is_shared(p);
  const std::string &for_shared = p.variant.fact("import-macro"), &for_static = p.variant.fact("static-macro");
  if (is_static && p.variant.fact_as<bool>("header-imports") != nullptr) {
    return misfit(p, {"import-define",
                      {variant_is(p, "linkage", "static"),
                       header_says(p, "header-imports", "declare imports from a DLL, whatever is defined")},
                      fmt::format("take {} with its import library and DLL, or change its headers", p.card.name)});
  }
  if (is_static && !for_shared.empty() && defines(p, for_shared)) {
    return misfit(
        p, {"import-define",
            {variant_is(p, "linkage", "static"),
             header_says(p, "import-macro", fmt::format("declare imports where {} is defined", for_shared)),
             fmt::format("the project defines {}", for_shared)},
            fmt::format("remove {} from the definitions in fibula.toml: the right ones are set for the linkage chosen",
                        for_shared)});
  }
  if (!is_static && !for_static.empty() && defines(p, for_static)) {
    return caution(
        p, {"import-define",
            {variant_is(p, "linkage", "shared"),
             header_says(p, "static-macro", fmt::format("declare no imports where {} is defined", for_static)),
             fmt::format("the project defines {}; data of the DLL cannot be reached then", for_static)},
            fmt::format("remove {} from the definitions in fibula.toml: the right ones are set for the linkage chosen",
                        for_static)});
  }
  return std::nullopt;
}

std::string place_of(const DeclaredFunction& function) {
  return fmt::format("{}:{}", function.file, function.line);
}

std::string first_names(const std::vector<const DeclaredFunction*>& functions) {
  constexpr size_t most = 5;
  std::vector<std::string> names;
  for (size_t i = 0; i < std::min(functions.size(), most); ++i) names.push_back(functions[i]->name);
  return text::join(names, ", ") +
         (functions.size() > most ? fmt::format(" and {} more", functions.size() - most) : "");
}

using Sorted = std::map<HowDefined, std::vector<const DeclaredFunction*>>;

/// What the headers say of these functions, and how the binaries have them.
Words linkage_words(const Pairing& p, const std::vector<const DeclaredFunction*>& functions, std::string_view header,
                    std::string_view binary, std::string remedy) {
  return {"language-linkage",
          {fmt::format("{} declares {} {}", place_of(*functions.front()), first_names(functions), header),
           variant_is(p, "language", binary)},
          std::move(remedy)};
}

void language_linkage(const Pairing& p, const HeaderReading& reading, const Sorted& sorted, std::vector<Misfit>& said) {
  if (const auto plainly = sorted.find(HowDefined::plainly); plainly != sorted.end()) {
    const std::string header = std::filesystem::path(plainly->second.front()->file).filename().string();
    auto words = linkage_words(p, plainly->second, "without extern \"C\"", "one that defines it under its plain C name",
                               fmt::format("include {} inside extern \"C\" {{ … }}, or add that to it", header));
    if (!reading.included_as_cxx) {
      words.evidence.emplace_back("no C++ file of the project includes it outside of extern \"C\"");
      words.remedy.clear();
    }
    said.push_back(reading.included_as_cxx ? misfit(p, std::move(words)) : fine(p, std::move(words)));
  }
  if (const auto mangled = sorted.find(HowDefined::mangled); mangled != sorted.end()) {
    auto words =
        linkage_words(p, mangled->second, reading.read_as_cxx ? "inside extern \"C\"" : "to the project's C sources",
                      "one that was compiled as C++, with mangled names",
                      reading.read_as_cxx ? "take a build made by a C compiler, or the headers that belong to this one"
                                          : "call it from C++ sources, or take a build made by a C compiler");
    // A few among many: the library's own slip. It serves, but for those.
    const bool few = mangled->second.size() * 4 < reading.c_functions + reading.cxx_functions;
    if (few) words.remedy = fmt::format("do without {}: calls of it will not link", first_names(mangled->second));
    said.push_back(few ? caution(p, std::move(words)) : misfit(p, std::move(words)));
  }
  if (const auto decorated = sorted.find(HowDefined::decorated); decorated != sorted.end()) {
    said.push_back(misfit(
        p, linkage_words(p, decorated->second, "without a calling convention", "one that defines it with __stdcall",
                         "take the headers that belong to these binaries")));
  }
}

/// How many of the functions of one language are there.
struct Count {
  size_t declared = 0;
  std::vector<const DeclaredFunction*> missing = {};
};

Count count(const HeaderReading& reading, bool c_names) {
  Count counted{.declared = c_names ? reading.c_functions : reading.cxx_functions};
  for (const auto& [function, how] : reading.unmatched) {
    if (function.c_name == c_names && how == HowDefined::nowhere) counted.missing.push_back(&function);
  }
  return counted;
}

/// A few functions that are missing are conditional features as a rule; many are another version's. C++ headers declare
/// much that a library keeps to itself, so that nothing at all being there says nothing.
void header_match(const Pairing& p, const Count& counted, bool c_names, std::vector<Misfit>& said) {
  if (counted.missing.empty()) return;
  const size_t gone = counted.missing.size();
  const std::string evidence =
      fmt::format("{} of {} {} functions that the headers declare are defined by no file of variant {}", gone,
                  counted.declared, c_names ? "C" : "C++", p.variant.id);
  Words words{
      "header-match",
      {fmt::format("{} declares {}", place_of(*counted.missing.front()), first_names(counted.missing)), evidence},
      fmt::format("take headers and binaries of {} from the same version", p.card.name)};
  constexpr size_t enough_to_tell = 3, quarters = 4;
  // A system's package puts the headers of several libraries together.
  if (p.card.origin.kind == "prefix") {
    words.evidence.emplace_back("they came from a prefix, where headers of several libraries lie together");
    words.remedy.clear();
    said.push_back(fine(p, std::move(words)));
    return;
  }
  if (gone == counted.declared && !c_names) {
    said.push_back(unknown(p, "header-match", evidence));
  } else if (gone == counted.declared && gone >= enough_to_tell) {
    said.push_back(misfit(p, std::move(words)));
  } else if (gone * quarters > counted.declared) {
    said.push_back(caution(p, std::move(words)));
  } else {
    words.evidence.emplace_back("so few are conditional features as a rule");
    words.remedy.clear();
    said.push_back(fine(p, std::move(words)));
  }
}

void standard(const Pairing& p, const HeaderReading& reading, std::vector<Misfit>& said) {
  if (!reading.needs_standard.empty()) {
    said.push_back(misfit(
        p,
        {"standard",
         {fmt::format("the headers of {} need at least {}: {}", p.card.name, reading.needs_standard, reading.complaint),
          lane_is(p, fmt::format("one with {}", reading.standard))},
         fmt::format("write standard = \"{}\" in [[output]] of fibula.toml", reading.needs_standard)}));
  } else if (!reading.complaint.empty()) {
    said.push_back(
        unknown(p, "standard", fmt::format("its headers do not compile by themselves: {}", reading.complaint)));
  }
}

}  // namespace

std::vector<Rule> definition_rules() {
  return {import_define};
}

std::vector<Misfit> match_headers(const Pairing& pairing, const HeaderReading& reading) {
  std::vector<Misfit> said;
  standard(pairing, reading, said);
  Sorted sorted;
  for (const auto& [function, how] : reading.unmatched) sorted[how].push_back(&function);
  language_linkage(pairing, reading, sorted, said);
  for (const bool c_names : {true, false}) header_match(pairing, count(reading, c_names), c_names, said);
  return said;
}

}  // namespace fibula
