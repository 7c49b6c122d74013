#include "os/late_library.hpp"

#include <dlfcn.h>
#include <fmt/format.h>

namespace fibula {

Result<LateLibrary> LateLibrary::open(const char* soname, std::string_view package, std::string_view purpose) {
  void* handle = ::dlopen(soname, RTLD_NOW | RTLD_LOCAL);
  if (handle == nullptr) {
    return fail({.code = Code::missing_tool,
                 .what = fmt::format("is needed {}, and the loader does not find it", purpose),
                 .file = soname,
                 .hint = fmt::format("install it; Debian's package is {}", package)});
  }
  return LateLibrary(handle, soname);
}

Result<void*> LateLibrary::find(const char* name) const {
  void* address = ::dlsym(handle_, name);
  if (address == nullptr) {
    return fail({.code = Code::missing_tool,
                 .what = fmt::format("has no function {}: it is of another version than Fibula was built for", name),
                 .file = soname_,
                 .hint = "build Fibula again on this machine"});
  }
  return address;
}

}  // namespace fibula
