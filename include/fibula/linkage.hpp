/// Static or shared.
#pragma once

#include <fibula/export.hpp>

#include <string_view>

namespace fibula {

enum class Linkage { any, static_, shared };
FIBULA_API std::string_view to_string(Linkage linkage);

}  // namespace fibula
