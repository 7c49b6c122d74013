#include "os/upload.hpp"

#include "base/address.hpp"
#include "base/text.hpp"
#include "os/curl_manners.hpp"
#include "os/files.hpp"

#include <fmt/format.h>
#include <fstream>
#include <memory>
#include <sstream>

namespace fibula {
namespace {

constexpr long not_found = 404, gone = 410, precondition_failed = 412;

using Easy = std::unique_ptr<CURL, decltype(CurlApi::cleanup)>;
using Headers = std::unique_ptr<curl_slist, decltype(CurlApi::slist_free)>;

size_t give(char* data, size_t size, size_t count, void* from) {
  auto& stream = *static_cast<std::istream*>(from);
  stream.read(data, static_cast<std::streamsize>(size * count));
  return static_cast<size_t>(stream.gcount());
}

struct Answer {
  ServedText served;
  uint64_t limit;
};

size_t take_text(char* data, size_t size, size_t count, void* into) {
  auto& answer = *static_cast<Answer*>(into);
  if (answer.served.text.size() + size * count > answer.limit) return 0;
  answer.served.text.append(data, size * count);
  return size * count;
}

size_t take_header(char* data, size_t size, size_t count, void* into) {
  auto& served = static_cast<Answer*>(into)->served;
  const std::string_view line(data, size * count);
  if (line.starts_with("HTTP/")) served.validator.clear();  // of a redirection
  const size_t colon = line.find(':');
  if (colon != std::string_view::npos && text::lower(line.substr(0, colon)) == "etag") {
    const auto value = text::trim(line.substr(colon + 1));
    // A weak one does not tell whether the bytes are the same.
    if (!value.starts_with("W/")) served.validator = value;
  }
  return size * count;
}

Error not_taken(const std::string& url, const std::string& why) {
  return without_secrets(
      {.code = Code::unreadable,
       .what = "cannot be put there: " + why,
       .file = url,
       .hint = "the server must accept PUT at this address; a name and password can stand in ~/.netrc"});
}

Result<PutOutcome> put_stream(const std::string& url, std::istream& from, uint64_t size,
                              const PutCondition& condition) {
  if (auto known = check_scheme(url); !known) return pass(known);
  const auto& api = CurlApi::get();
  if (!api) return fail(api.error());
  const Easy curl(api->init(), api->cleanup);
  const auto set = [&](CURLoption option, auto value) { api->setopt(curl.get(), option, value); };
  set(CURLOPT_URL, url.c_str());
  set(CURLOPT_PROTOCOLS_STR, "https,http");
  set(CURLOPT_UPLOAD, 1L);
  set_manners(*api, curl.get());
  set(CURLOPT_READDATA, &from);
  set(CURLOPT_READFUNCTION, &give);
  set(CURLOPT_INFILESIZE_LARGE, static_cast<curl_off_t>(size));
  Headers headers(nullptr, api->slist_free);
  const std::string line = condition.when == PutCondition::When::not_there    ? "If-None-Match: *"
                           : condition.when == PutCondition::When::still_this ? "If-Match: " + condition.validator
                                                                              : "";
  if (!line.empty()) headers.reset(api->slist_append(nullptr, line.c_str()));
  if (headers) set(CURLOPT_HTTPHEADER, headers.get());
  const CURLcode code = api->perform(curl.get());
  if (code == CURLE_OK) return PutOutcome::taken;
  long status = 0;
  api->getinfo(curl.get(), CURLINFO_RESPONSE_CODE, &status);
  if (status == precondition_failed) return PutOutcome::changed;
  return fail(
      not_taken(url, status >= 400 ? fmt::format("the server answers {}", status) : std::string(api->strerror(code))));
}

}  // namespace

Result<ServedText> fetch_text(const std::string& url, uint64_t limit) {
  if (auto known = check_scheme(url); !known) return pass(known);
  const auto& api = CurlApi::get();
  if (!api) return fail(api.error());
  const Easy curl(api->init(), api->cleanup);
  Answer answer{.served = {}, .limit = limit};
  const auto set = [&](CURLoption option, auto value) { api->setopt(curl.get(), option, value); };
  set(CURLOPT_URL, url.c_str());
  set(CURLOPT_PROTOCOLS_STR, "https,http");
  set_manners(*api, curl.get());
  set(CURLOPT_WRITEFUNCTION, &take_text);
  set(CURLOPT_WRITEDATA, &answer);
  set(CURLOPT_HEADERFUNCTION, &take_header);
  set(CURLOPT_HEADERDATA, &answer);
  const CURLcode code = api->perform(curl.get());
  answer.served.there = code == CURLE_OK;
  if (answer.served.there) return std::move(answer.served);
  long status = 0;
  api->getinfo(curl.get(), CURLINFO_RESPONSE_CODE, &status);
  if (status == not_found || status == gone) return ServedText{};
  return fail(
      without_secrets({.code = code == CURLE_WRITE_ERROR ? Code::limit : Code::unreadable,
                       .what = "cannot be fetched: " + (status >= 400 ? fmt::format("the server answers {}", status)
                                                                      : std::string(api->strerror(code))),
                       .file = url,
                       .hint = "look whether the server runs"}));
}

Result<PutOutcome> put_file(const std::string& url, const fs::path& file, const PutCondition& condition) {
  std::error_code error;
  const auto size = fs::file_size(file, error);
  std::ifstream from(file, std::ios::binary);
  if (error || !from) return fail({.code = Code::unreadable, .what = "cannot be read", .file = file.string()});
  return put_stream(url, from, size, condition);
}

Result<PutOutcome> put_text(const std::string& url, const std::string& text, const PutCondition& condition) {
  std::istringstream from(text);
  return put_stream(url, from, text.size(), condition);
}

}  // namespace fibula
