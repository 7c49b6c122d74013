#include "diagnose/tried_names.hpp"

#include "base/text.hpp"
#include "diagnose/name_forms.hpp"
#include "headers/declarations.hpp"
#include "os/files.hpp"

#include <fibula/symbols.hpp>

#include <algorithm>

namespace fibula {
namespace {

constexpr size_t most_names = 2'000;

/// What is built for the lane is not there yet: its sources tell, where they are C.
TriedNames names_of_sources(const Card& card, const std::set<std::string>& declared, const std::string& prefix) {
  TriedNames found;
  const auto files = files_below(card.root);
  for (const auto& file : files ? *files : std::vector<fs::path>()) {
    const auto text = file.extension() == ".c" ? read_text(card.root / file) : Result<std::string>(fail({}));
    if (!text) continue;
    const auto names = names_in_source(*text);
    if (names.has_main) continue;
    for (const auto& name : names.defines) {
      if (declared.contains(name)) found.symbols.insert(prefix + name);
    }
  }
  return found;
}

}  // namespace

bool is_cxx_library(const Card& card, const Variant* variant) {
  const bool header = std::any_of(card.public_headers.begin(), card.public_headers.end(), [](const std::string& name) {
    return name.ends_with(".hpp") || name.ends_with(".hh") || name.ends_with(".hxx") ||
           name.find('.') == std::string::npos;
  });
  return header || (variant != nullptr && variant->fact("interface") == "C++");
}

TriedNames names_to_try(const Card& card, const Variant* variant, const std::vector<std::string>& functions,
                        const std::string& prefix) {
  std::set<std::string> declared(functions.begin(), functions.end()), versions;
  for (const auto& header : functions.empty() ? card.public_headers : std::vector<std::string>()) {
    const auto text = read_text(card.root / header);
    for (auto& name : text ? functions_left_to_a_binary(*text) : std::vector<std::string>()) {
      const bool tells = text->find("char *" + name + "(void)") != std::string::npos ||
                         text->find("char* " + name + "(void)") != std::string::npos;
      if (tells && text::lower(name).find("version") != std::string::npos) versions.insert(name);
      declared.insert(std::move(name));
    }
  }
  if (card.comes_as_source())
    return is_cxx_library(card, variant) ? TriedNames() : names_of_sources(card, declared, prefix);
  TriedNames found;
  for (const auto& file : variant == nullptr ? std::vector<std::string>() : variant->link) {
    const auto visited = visit_symbols(card.root / file, [&](const SymbolView& symbol) {
      if (!symbol.defines || symbol.name.starts_with("__imp_") || symbol.binding == Binding::local) return;
      std::string name = source_name(symbol.name);
      name = name.substr(name.rfind(':') + 1);
      const bool known = declared.contains(name) || (name.starts_with('_') && declared.contains(name.substr(1)));
      if (!known || found.symbols.size() >= most_names) return;
      found.symbols.emplace(symbol.name);
      if (versions.contains(std::string(symbol.name))) found.version = symbol.name;
    });
    if (!visited) continue;  // the link tells what is wrong with it
  }
  return found;
}

}  // namespace fibula
