#include "link/substitutes.hpp"

#include "base/text.hpp"

#include <algorithm>

namespace fibula {
namespace {

bool is_defined(const SymbolTable& table, std::string_view name) {
  return table.state_of(name) > SymbolState::undefined;
}

/// `_foo@8` and `_foo`.
bool differs_in_convention_only(std::string_view name, const SymbolTable& table) {
  const size_t at = name.rfind('@');
  if (at != std::string_view::npos && at > 0) return is_defined(table, name.substr(0, at));
  for (NameId other = 0; other < table.names().size(); ++other) {
    const std::string_view text = table.names().text(other);
    const bool decorated = text.size() > name.size() && text[name.size()] == '@' && text.starts_with(name);
    if (decorated && table.state_of(other) > SymbolState::undefined) return true;
  }
  return false;
}

}  // namespace

std::string_view imported_name(std::string_view name) {
  constexpr std::string_view prefix = "__imp_";
  return name.starts_with(prefix) ? name.substr(prefix.size()) : std::string_view();
}

bool has_substitute(std::string_view name, const SymbolTable& table, const LinkLine& line,
                    const AlternateNames& alternates) {
  const std::string_view imported = imported_name(name);
  if (line.linking == Linking::gnu_pe) {
    if (imported.empty() && is_defined(table, "__imp_" + std::string(name))) return true;
    return line.target.arch == Arch::x86 && imported.empty() && differs_in_convention_only(name, table);
  }
  if (line.linking != Linking::msvc) return false;
  if (!imported.empty() && is_defined(table, imported)) return true;
  const auto alternate = alternates.find(name);
  return alternate != alternates.end() && is_defined(table, alternate->second);
}

void LinkDirectives::add_default_library(const std::string& name) {
  if (std::find(default_libraries.begin(), default_libraries.end(), name) == default_libraries.end())
    default_libraries.push_back(name);
}

void LinkDirectives::read(const Image& image) {
  for (std::string_view option : image.directives) {
    if (!option.starts_with('/') && !option.starts_with('-')) continue;
    const size_t colon = option.find(':');
    const std::string key = text::lower(std::string(option.substr(1, colon - 1)));
    std::string_view value = colon == std::string_view::npos ? std::string_view() : option.substr(colon + 1);
    if (value.size() > 1 && value.starts_with('"') && value.ends_with('"')) value = value.substr(1, value.size() - 2);
    if (key == "defaultlib") {
      add_default_library(std::string(value));
    } else if (key == "nodefaultlib") {
      no_default_libraries.insert(text::lower(std::string(value)));
    } else if (key == "alternatename" && value.find('=') != std::string_view::npos) {
      const size_t equals = value.find('=');
      alternates.emplace(value.substr(0, equals), value.substr(equals + 1));
    }
  }
}

}  // namespace fibula
