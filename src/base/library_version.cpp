#include <fibula/version.hpp>

#define FIBULA_TEXT_OF(x) #x
#define FIBULA_TEXT(x) FIBULA_TEXT_OF(x)

namespace fibula {

std::string_view version() {
  return FIBULA_TEXT(FIBULA_VERSION_MAJOR) "." FIBULA_TEXT(FIBULA_VERSION_MINOR) "." FIBULA_TEXT(FIBULA_VERSION_PATCH);
}

}  // namespace fibula
