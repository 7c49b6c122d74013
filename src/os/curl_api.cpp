#include "os/curl_api.hpp"

#include "os/late_library.hpp"

namespace fibula {
namespace {

Result<CurlApi> load() {
  auto library = LateLibrary::open("libcurl.so.4", "libcurl4", "to download");
  if (!library) return pass(library);
  CurlApi api;
  for (auto bound : {library->bind(api.global_init, "curl_global_init"), library->bind(api.init, "curl_easy_init"),
                     library->bind(api.reset, "curl_easy_reset"), library->bind(api.cleanup, "curl_easy_cleanup"),
                     library->bind(api.setopt, "curl_easy_setopt"), library->bind(api.perform, "curl_easy_perform"),
                     library->bind(api.getinfo, "curl_easy_getinfo"), library->bind(api.strerror, "curl_easy_strerror"),
                     library->bind(api.getdate, "curl_getdate"), library->bind(api.slist_append, "curl_slist_append"),
                     library->bind(api.slist_free, "curl_slist_free_all")}) {
    if (!bound) return pass(bound);
  }
  api.global_init(CURL_GLOBAL_DEFAULT);
  return api;
}

}  // namespace

const Result<CurlApi>& CurlApi::get() {
  static const Result<CurlApi> api = load();
  return api;
}

}  // namespace fibula
