/// In which form a text defines a name, where that decides whether the linker gets something of it.
#pragma once

#include <string_view>

namespace fibula {

/// `template <class T> void Log<T>::add(T) {` for `add`, `template <class T> T twice(T x) {` for `twice`.
bool defines_template(std::string_view text, std::string_view name);

/// `inline int tide(void) {` in C, where nothing makes it external (C17, 6.7.4 paragraph 7); also as GCC spells it for
/// old standards.
bool defines_inline_only(std::string_view text, std::string_view name);

}  // namespace fibula
