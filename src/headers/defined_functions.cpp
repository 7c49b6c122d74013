#include "headers/defined_functions.hpp"

#include "base/text.hpp"
#include "facts/name_traits.hpp"

#include <fibula/symbols.hpp>

#include <fmt/format.h>

namespace fibula {
namespace {

/// `harbour::label(int)` and `std::string harbour::make<int>(…)` -> what stands before the parameters, without a
/// template's return type and arguments.
std::string without_parameters(std::string_view readable) {
  std::string name;
  int depth = 0;
  for (const char c : readable) {
    if (c == '(' && depth == 0 && !name.empty()) break;
    depth += c == '<' ? 1 : 0;
    if (depth == 0) name = c == ' ' ? std::string() : name + c;
    depth -= c == '>' ? 1 : 0;
  }
  // An ABI tag belongs to the mangling: label[abi:cxx11].
  return name.substr(0, name.find('['));
}

/// `?label@harbour@@YA…` -> harbour::label, for functions outside of classes.
std::string msvc_name(std::string_view symbol) {
  const size_t end = symbol.find("@@");
  if (!symbol.starts_with('?') || symbol.starts_with("??") || end == std::string_view::npos) return {};
  std::string name;
  for (const auto part : text::split(symbol.substr(1, end - 1), '@'))
    name = name.empty() ? std::string(part) : fmt::format("{}::{}", part, name);
  return name;
}

}  // namespace

void DefinedFunctions::add_plain(std::string_view name, const Target& target, bool defined) {
  if (name.starts_with("__imp_")) name.remove_prefix(6);
  Target objects = target;
  if (objects.format == Format::pe) objects.format = Format::coff;
  if (has_c_underscore(objects) && name.starts_with('_')) name.remove_prefix(1);
  const size_t at = name.find('@');
  const bool convention = at != std::string_view::npos && at > 0 && objects.format == Format::coff &&
                          name.substr(at + 1).find_first_not_of("0123456789") == std::string_view::npos;
  if (convention) {
    name = name.substr(0, at);
    if (defined) decorated_.emplace(name);
  }
  (defined ? c_names_ : needed_).emplace(name);
}

void DefinedFunctions::add(std::string_view name, const Target& target) {
  const bool itanium = name.starts_with("_Z") || name.starts_with("__Z") || name.starts_with("__imp__Z");
  if (itanium) {
    cxx_names_.insert(without_parameters(readable_name(name.substr(name.find("_Z")))));
  } else if (auto msvc = msvc_name(name.starts_with("__imp_") ? name.substr(6) : name); !msvc.empty()) {
    cxx_names_.insert(std::move(msvc));
  } else {
    add_plain(name, target, true);
  }
}

DefinedFunctions::DefinedFunctions(const std::vector<std::filesystem::path>& binaries, const Target& target) {
  for (const auto& file : binaries) {
    (void)visit_symbols(file, [&](const SymbolView& symbol) {
      if (symbol.defines) add(symbol.name, target);
      if (!symbol.defines) add_plain(symbol.name, target, false);
    });
  }
}

bool DefinedFunctions::is_left_to_users(const DeclaredFunction& function) const {
  const std::string last = function.name.substr(function.name.rfind(':') + 1);
  // A program's own main under a name that the headers give it.
  return needed_.contains(last) || last.ends_with("_main");
}

HowDefined DefinedFunctions::how(const DeclaredFunction& function) const {
  const std::string last = function.name.substr(function.name.rfind(':') + 1);
  const bool plain = c_names_.contains(last), mangled = cxx_names_.contains(function.name);
  if (function.c_name ? plain : mangled) {
    const bool convention = function.c_name && decorated_.contains(last) && !function.stdcall;
    return convention ? HowDefined::decorated : HowDefined::as_declared;
  }
  if (!function.c_name && plain && last == function.name) return HowDefined::plainly;
  return function.c_name && mangled ? HowDefined::mangled : HowDefined::nowhere;
}

}  // namespace fibula
