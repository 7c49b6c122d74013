/// libcurl's functions, loaded with the first download.
#pragma once

#include <fibula/result.hpp>

#define CURL_DISABLE_TYPECHECK
#include <curl/curl.h>

namespace fibula {

struct CurlApi {
  decltype(&::curl_global_init) global_init = nullptr;
  decltype(&::curl_easy_init) init = nullptr;
  decltype(&::curl_easy_reset) reset = nullptr;
  decltype(&::curl_easy_cleanup) cleanup = nullptr;
  decltype(&::curl_easy_setopt) setopt = nullptr;
  decltype(&::curl_easy_perform) perform = nullptr;
  decltype(&::curl_easy_getinfo) getinfo = nullptr;
  decltype(&::curl_easy_strerror) strerror = nullptr;
  decltype(&::curl_getdate) getdate = nullptr;
  decltype(&::curl_slist_append) slist_append = nullptr;
  decltype(&::curl_slist_free_all) slist_free = nullptr;

  /// Loaded and set up once a process. Errors: missing_tool.
  static const Result<CurlApi>& get();
};

}  // namespace fibula
