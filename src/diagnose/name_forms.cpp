#include "diagnose/name_forms.hpp"

#include "facts/mangling.hpp"

#include <fibula/symbols.hpp>

#include <fmt/format.h>

namespace fibula {
namespace {

bool is_import(std::string_view name) {
  return name.starts_with("__imp_") || name.starts_with("_imp__");
}

std::string_view without_import(std::string_view name) {
  return is_import(name) ? name.substr(6) : name;
}

bool is_mangled(std::string_view name) {
  return name.starts_with("_Z") || name.starts_with("__Z") || name.starts_with('?');
}

/// `_foo@8`, `@foo@8`, `foo@8`: calling conventions of 32-bit Windows.
std::optional<std::string_view> undecorated(std::string_view name) {
  const size_t at = name.rfind('@');
  if (is_mangled(name) || at == std::string_view::npos || at == 0 || at + 1 == name.size()) return std::nullopt;
  if (name.find_first_not_of("0123456789", at + 1) != std::string_view::npos) return std::nullopt;
  name = name.substr(0, at);
  return name.starts_with('_') || name.starts_with('@') ? name.substr(1) : name;
}

std::string readable(std::string_view name) {
  return readable_name(without_import(name));
}

std::string replaced(std::string text, std::string_view what, std::string_view by) {
  for (size_t at = 0; (at = text.find(what, at)) != std::string::npos; at += by.size())
    text.replace(at, what.size(), by);
  return text;
}

struct FormSpelling {
  std::string_view inside;  ///< of a readable name
  std::string_view cause;
  std::string_view says;
  std::string_view otherwise;
};
constexpr FormSpelling spellings[] = {
    {"std::__cxx11::", "string-abi", "std::string of the new ABI", "std::string of the old ABI"},
    {"[abi:cxx11]", "string-abi", "std::string of the new ABI", "std::string of the old ABI"},
    {"std::__debug::", "stl-debug", "containers of the debug mode (_GLIBCXX_DEBUG)", "ordinary containers"},
    {"std::__cxx1998::", "stl-debug", "containers of the debug mode (_GLIBCXX_DEBUG)", "ordinary containers"},
    {"std::__1::", "cxx-runtime", "libc++", "libstdc++"},
    {"std::__ndk1::", "cxx-runtime", "libc++ of the NDK", "libstdc++"},
};

/// What libstdc++'s `std::string` and libc++'s are spelled out as; all of them are one type to a source.
std::string one_string(std::string name) {
  for (const auto& row : spellings)
    name = replaced(std::move(name), row.inside, row.inside.starts_with('[') ? "" : "std::");
  for (const std::string_view full : {"std::basic_string<char, std::char_traits<char>, std::allocator<char> >",
                                      "std::basic_string<char, std::char_traits<char>, std::allocator<char>>"}) {
    name = replaced(std::move(name), full, "std::string");
  }
  return name;
}

/// A namespace that a library makes anew with each of its versions: `v2`, `lts_20230125`, `_V2`.
bool is_version(std::string_view part) {
  const bool begins = part.starts_with('v') || part.starts_with("_V") || part.starts_with("lts") ||
                      part.starts_with("abi") || part.starts_with("ver");
  return begins && part.find_first_of("0123456789") != std::string_view::npos;
}

/// A global function where one of a namespace was asked for, with the same parameters.
bool lacks_namespace(const std::string& wanted, const std::string& has) {
  const size_t open = has.find('(');
  return has.substr(0, open).find("::") == std::string::npos && wanted.size() > has.size() + 2 &&
         wanted.ends_with("::" + has);
}

}  // namespace

std::string versionless(const std::string& name) {
  if (name.find('<') != std::string::npos) return name;
  std::string plain;
  for (size_t at = 0; at < name.size();) {
    const size_t end = std::min(name.find("::", at), name.size());
    const std::string_view part = std::string_view(name).substr(at, end - at);
    if (end == name.size()) {
      plain += part;
    } else {
      plain += is_version(part) ? "#" : part;
      plain += "::";
    }
    at = end == name.size() ? end : end + 2;
  }
  return plain;
}

std::string source_name(std::string_view symbol) {
  symbol = without_import(symbol);
  if (const auto plain = undecorated(symbol)) return std::string(*plain);
  return without_parameters(readable(symbol));
}

std::optional<FormDifference> difference(std::string_view wanted, std::string_view defined) {
  if (wanted == defined) return std::nullopt;
  const std::string_view wants = without_import(wanted), has = without_import(defined);
  if (is_import(wanted) && wants == has)
    return FormDifference{"import-define", "an import from a DLL", "the function itself, for static use"};
  if (is_import(defined) && wants == has)
    return FormDifference{"import-for-static", "the thing itself, as for static use", "an import from a DLL"};
  if (is_mangled(wants) != is_mangled(has)) {
    const std::string cxx = without_parameters(readable(is_mangled(wants) ? wants : has));
    std::string_view c = is_mangled(wants) ? has : wants;
    const auto plain = undecorated(c);
    if (plain) c = *plain;
    const bool same = cxx == c || (c.starts_with('_') && cxx == c.substr(1));
    if (!same) return std::nullopt;
    return is_mangled(wants) ? FormDifference{"language-linkage", "a C++ function", "a C function"}
                             : FormDifference{"language-linkage", "a C function", "a C++ function"};
  }
  if (!is_mangled(wants)) {
    const auto plain_wants = undecorated(wants), plain_has = undecorated(has);
    if (!plain_wants && !plain_has) return std::nullopt;
    const auto bare = [](std::string_view name) { return name.starts_with('_') ? name.substr(1) : name; };
    if (plain_wants.value_or(bare(wants)) != plain_has.value_or(bare(has))) return std::nullopt;
    return FormDifference{"decoration", fmt::format("the name {}", wanted), fmt::format("the name {}", defined)};
  }
  const std::string one = readable(wants), other = readable(has);
  if (lacks_namespace(one, other)) return FormDifference{"version-skew", one, other};
  const std::string plain_one = without_parameters(one_string(one)),
                    plain_other = without_parameters(one_string(other));
  if (plain_one != plain_other && versionless(plain_one) == versionless(plain_other))
    return FormDifference{"version-skew", one, other};
  if (plain_one != plain_other) return std::nullopt;
  if (one_string(one) == one_string(other) || one.find("std::") != std::string::npos) {
    for (const auto& row : spellings) {
      const bool in_one = one.find(row.inside) != std::string::npos,
                 in_other = other.find(row.inside) != std::string::npos;
      if (in_one == in_other) continue;
      return FormDifference{row.cause, std::string(in_one ? row.says : row.otherwise),
                            std::string(in_one ? row.otherwise : row.says)};
    }
  }
  return FormDifference{"version-skew", one, other};
}

}  // namespace fibula
