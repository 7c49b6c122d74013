#include "link/mentions.hpp"

#include "base/text.hpp"
#include "facts/mangling.hpp"
#include "facts/name_traits.hpp"
#include "headers/stripped_code.hpp"
#include "link/symbol_table.hpp"
#include "os/files.hpp"

namespace fibula {
namespace {

/// A name of Windows or macOS without what its system puts around it: `__imp__tide@4` gives tide. MSVC's mangled names
/// begin with the unqualified one: `?height@tide@@…`.
std::string_view plain_name(std::string_view symbol, const Target& target) {
  if (target.format == Format::elf) return symbol;
  if (symbol.starts_with('?')) return symbol.substr(1, symbol.find('@') - 1);
  if (has_c_underscore(target) && symbol.starts_with('_')) symbol.remove_prefix(1);
  const size_t at = symbol.rfind('@');
  return at == std::string_view::npos || at == 0 ? symbol : symbol.substr(0, at);
}

/// The unqualified name of a mangled symbol: `_ZN4tide6heightEi` gives height. Special names (`_ZTV…`) give the class.
std::string_view last_name(std::string_view symbol, const Target& target) {
  symbol = plain_name(symbol, target);
  if (!is_itanium_mangled(symbol)) return symbol;
  const auto names = identifiers_in(symbol);
  if (names.empty()) return {};
  if (!symbol.starts_with("_ZN") && !symbol.starts_with("_ZNK")) return names.front();
  // The names of a nested name follow each other; what comes later are the parameters' types.
  std::string_view last = names.front();
  for (const auto name : names) {
    const std::string_view between(
        last.data() + last.size(),
        name.data() > last.data() ? static_cast<size_t>(name.data() - last.data()) - last.size() : 0);
    if (between.find_first_not_of("0123456789") != std::string_view::npos) break;
    last = name;
  }
  return last;
}

}  // namespace

std::set<std::string, std::less<>> identifiers_in_files(const std::vector<fs::path>& files) {
  std::set<std::string, std::less<>> identifiers;
  for (const auto& file : files) {
    const auto content = read_text(file);
    if (!content) continue;
    const std::string code = code_with_macros(*content);
    for (const auto name : text::identifiers(code)) identifiers.emplace(name);
  }
  return identifiers;
}

std::set<std::string> mentioned_symbols(const LinkFile& file, const std::set<std::string, std::less<>>& identifiers,
                                        const Target& objects) {
  std::set<std::string> found;
  const auto consider = [&](std::string_view name) {
    if (const auto last = last_name(name, objects); !last.empty() && identifiers.contains(last)) found.emplace(name);
  };
  if (const Archive* archive = file.archive()) {
    for (const auto& entry : archive->index) consider(entry.symbol);
  } else if (file.is_shared()) {
    for (const auto& symbol : file.image().dynamic_symbols) {
      if (is_exported(symbol)) consider(symbol.name);
    }
  }
  return found;
}

}  // namespace fibula
