/// What holds for every request to a server, whichever way the bytes go.
#pragma once

#include "os/curl_api.hpp"

#include <string>

namespace fibula {

/// Time limits, names and passwords, and what counts as a failure.
void set_manners(const CurlApi& api, CURL* curl);

/// Errors: usage (the address is of another kind than https, http and file).
Result<void> check_scheme(const std::string& url);

}  // namespace fibula
