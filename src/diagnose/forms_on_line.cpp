#include "diagnose/forms_on_line.hpp"

#include <fibula/symbols.hpp>

#include <set>

namespace fibula {

const FormsOnLine::Defined& FormsOnLine::named() {
  if (!named_.empty()) return named_;
  std::set<fs::path> seen;
  for (const auto& input : scene_.inputs()) {
    if (input.file.empty() || !input.own || !seen.insert(input.file).second) continue;
    // Of a damaged file, what stands before the damage.
    (void)visit_symbols(input.file, [&](const SymbolView& symbol) {
      if (!symbol.defines) return;
      const std::string name = source_name(symbol.name), plain = versionless(name);
      named_.emplace(name, std::pair(input.file, std::string(symbol.name)));
      if (plain != name) named_.emplace(plain, std::pair(input.file, std::string(symbol.name)));
    });
  }
  return named_;
}

std::optional<OtherForm> FormsOnLine::find(const std::string& symbol) {
  const std::string name = source_name(symbol);
  std::vector<std::string> names{name};
  // Mach-O and 32-bit Windows put an underscore before C names.
  if (name.starts_with('_')) names.push_back(name.substr(1));
  names.emplace_back("_" + name);
  if (const size_t abi = name.find("[abi:"); abi != std::string::npos) names.push_back(name.substr(0, abi));
  names.push_back(name + "[abi:cxx11]");
  if (std::string plain = versionless(name); plain != name) names.push_back(std::move(plain));
  if (const size_t scope = name.rfind("::"); scope != std::string::npos) names.push_back(name.substr(scope + 2));
  std::optional<OtherForm> skew;
  for (const auto& each : names) {
    const auto [begin, end] = named().equal_range(each);
    for (auto it = begin; it != end; ++it) {
      auto how = difference(symbol, it->second.second);
      if (!how) continue;
      OtherForm form{it->second.first, it->second.second, std::move(*how)};
      if (form.difference.cause != "version-skew") return form;
      if (!skew) skew = std::move(form);
    }
  }
  return skew;
}

}  // namespace fibula
