/// What a library is called and which version it is, as far as its names tell.
#pragma once

#include <string>
#include <string_view>

namespace fibula {

struct NameHint {
  std::string name;
  std::string version;
};

/// `tidecalc-2.1.0-win64.zip`, `tidecalc-win64-2.1.0.zip` -> {tidecalc, 2.1.0}; a name without a version gives itself,
/// without what says for which system, machine or compiler it is.
NameHint split_name(std::string_view file);

/// `1:1.2.13.dfsg-1` -> `1.2.13`: what the library's makers call it ("deb-version(7)").
std::string upstream_version(std::string_view text);

/// `libtide-dev`, `tide-devel` -> `tide`.
std::string library_of_package(std::string_view package);

/// `tide-x` -> `TIDE_X`: what names of its macros begin with.
std::string macro_name(std::string_view name);

}  // namespace fibula
