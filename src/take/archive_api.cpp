#include "take/archive_api.hpp"

#include "os/late_library.hpp"

namespace fibula {
namespace {

Result<ArchiveApi> load() {
  auto library = LateLibrary::open("libarchive.so.13", "libarchive13", "to unpack archives");
  if (!library) return pass(library);
  ArchiveApi api;
#define FIBULA_BIND(name) \
  if (auto bound = library->bind(api.name, #name); !bound) return pass(bound);
  FIBULA_ARCHIVE_FUNCTIONS(FIBULA_BIND)
#undef FIBULA_BIND
  return api;
}

}  // namespace

const Result<ArchiveApi>& ArchiveApi::get() {
  static const Result<ArchiveApi> api = load();
  return api;
}

}  // namespace fibula
