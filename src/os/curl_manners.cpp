#include "os/curl_manners.hpp"

#include "base/address.hpp"
#include "base/text.hpp"

#include <fmt/format.h>

namespace fibula {

void set_manners(const CurlApi& api, CURL* curl) {
  api.setopt(curl, CURLOPT_FAILONERROR, 1L);
  api.setopt(curl, CURLOPT_NETRC, static_cast<long>(CURL_NETRC_OPTIONAL));
  api.setopt(curl, CURLOPT_CONNECTTIMEOUT, 30L);
  // Slower than a modem for half a minute: nobody is there, or somebody holds us up.
  api.setopt(curl, CURLOPT_LOW_SPEED_LIMIT, 1000L);
  api.setopt(curl, CURLOPT_LOW_SPEED_TIME, 30L);
  api.setopt(curl, CURLOPT_NOSIGNAL, 1L);
  api.setopt(curl, CURLOPT_USERAGENT, "fibula");
}

Result<void> check_scheme(const std::string& url) {
  for (const char* scheme : {"https://", "http://", "file://"}) {
    if (url.starts_with(scheme)) return {};
  }
  return fail({.code = Code::usage,
               .what = "has a scheme that is not fetched",
               .file = url,
               .hint = "https, http and file are"});
}

}  // namespace fibula
