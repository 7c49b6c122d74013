#include "os/download.hpp"

#include "base/address.hpp"
#include "base/text.hpp"
#include "os/curl_manners.hpp"
#include "os/file_digest.hpp"
#include "os/files.hpp"
#include "os/host.hpp"
#include "os/part_file.hpp"

#include <fmt/format.h>
#include <charconv>
#include <fstream>
#include <memory>

namespace fibula {
namespace {

/// One request to a server and its answer.
class Transfer {
 public:
  Transfer(const CurlApi& api, CURL* curl, const DownloadRequest& request, PartFile& part)
      : api_(api), curl_(curl), request_(request), part_(part), headers_(nullptr, api.slist_free) {}

  Result<void> run() {
    ask();
    const CURLcode code = api_.perform(curl_);
    long status = 0;
    api_.getinfo(curl_, CURLINFO_RESPONSE_CODE, &status);
    if (status == 416 && from_ > 0) return again();
    same_ = status == 304 && !request_.known_tag.empty();
    return judge(code, status);
  }

  bool same() const { return same_; }
  /// Names the content for good, or is empty. Many servers make it of size and time: where the file was changed within
  /// the second in which it was given out, or its time is ahead of the server's clock, what comes next may have the
  /// same tag (RFC 9110, 8.8.2.2).
  std::string tag() const {
    const time_t given = api_.getdate(date_.c_str(), nullptr), changed = api_.getdate(changed_.c_str(), nullptr);
    const bool known = given != -1 && changed != -1;
    return known && given < changed + 2 ? std::string() : tag_;
  }

 private:
  /// What was kept is no beginning of what the server has now.
  Result<void> again() {
    if (auto cleared = part_.restart(); !cleared) return cleared;
    return Transfer(api_, curl_, request_, part_).run();
  }

  template <class Value>
  void set(CURLoption option, Value value) {
    api_.setopt(curl_, option, value);
  }

  void ask() {
    api_.reset(curl_);
    const bool secure = request_.url.starts_with("https:");
    set(CURLOPT_URL, request_.url.c_str());
    set(CURLOPT_PROTOCOLS_STR, "https,http,file");
    set(CURLOPT_REDIR_PROTOCOLS_STR, secure ? "https" : "https,http");
    set(CURLOPT_FOLLOWLOCATION, 1L);
    set(CURLOPT_MAXREDIRS, 10L);
    set_manners(api_, curl_);
    set(CURLOPT_TIMEOUT, static_cast<long>(request_.time.count()));
    set(CURLOPT_WRITEDATA, this);
    set(CURLOPT_WRITEFUNCTION, &Transfer::on_data);
    set(CURLOPT_HEADERDATA, this);
    set(CURLOPT_HEADERFUNCTION, &Transfer::on_header);
    ask_for_rest();
    if (!request_.known_tag.empty()) add_header("If-None-Match: " + request_.known_tag);
    if (headers_) set(CURLOPT_HTTPHEADER, headers_.get());
  }

  /// A part goes on only where the server can tell that the file is still the same, or the digest will.
  void ask_for_rest() {
    const std::string validator = part_.validator();
    if (part_.size() == 0 || request_.url.starts_with("file:") || (validator.empty() && request_.sha256.empty())) {
      (void)part_.restart();
      return;
    }
    from_ = part_.size();
    add_header(fmt::format("Range: bytes={}-", from_));
    if (!validator.empty()) add_header("If-Range: " + validator);
  }

  void add_header(const std::string& line) {
    curl_slist* longer = api_.slist_append(headers_.get(), line.c_str());
    (void)headers_.release();
    headers_.reset(longer);
  }

  static size_t on_header(char* data, size_t size, size_t count, void* self) {
    auto& transfer = *static_cast<Transfer*>(self);
    const std::string_view line(data, size * count);
    if (line.starts_with("HTTP/")) transfer.tag_ = transfer.date_ = transfer.changed_ = "";  // of a redirection
    const size_t colon = line.find(':');
    if (colon != std::string_view::npos) {
      const auto name = text::lower(line.substr(0, colon));
      const auto value = text::trim(line.substr(colon + 1));
      if (name == "etag") transfer.tag_ = value;
      if (name == "date") transfer.date_ = value;
      if (name == "last-modified") transfer.changed_ = value;
    }
    return size * count;
  }

  static size_t on_data(char* data, size_t size, size_t count, void* self) {
    return static_cast<Transfer*>(self)->take(data, size * count) ? size * count : 0;
  }

  bool take(const char* data, size_t count) {
    if (!begun_ && !begin()) return false;
    if (part_.size() + count > request_.limit || total_ > request_.limit) {
      stopped_ = Error{.code = Code::limit,
                       .what = fmt::format("has more than {} bytes", request_.limit),
                       .file = request_.url,
                       .hint = "download it yourself, and take the file"};
      return false;
    }
    if (!part_.append(data, count)) {
      stopped_ = part_.write_error();
      return false;
    }
    if (request_.progress) request_.progress({"downloading", part_.size(), total_});
    return true;
  }

  /// The answer's first bytes: the rest of the file, or all of it.
  bool begin() {
    begun_ = true;
    long status = 0;
    api_.getinfo(curl_, CURLINFO_RESPONSE_CODE, &status);
    if (from_ > 0 && status != 206) {
      if (auto cleared = part_.restart(); !cleared) {
        stopped_ = cleared.error();
        return false;
      }
    }
    // Weak validators do not hold for ranges (RFC 9110, 13.1.5).
    part_.set_validator(tag_.starts_with("W/") ? std::string() : tag_);
    curl_off_t length = -1;
    api_.getinfo(curl_, CURLINFO_CONTENT_LENGTH_DOWNLOAD_T, &length);
    if (length > 0) total_ = part_.size() + static_cast<uint64_t>(length);
    return true;
  }

  Result<void> judge(CURLcode code, long status) const {
    if (code == CURLE_OK) return {};
    if (stopped_) return fail(*stopped_);
    if (status == 404 || status == 410 || code == CURLE_FILE_COULDNT_READ_FILE) {
      return fail({.code = Code::absent,
                   .what = status == 0 ? "is not there" : fmt::format("is not there: the server answers {}", status),
                   .file = request_.url,
                   .hint = "check the address"});
    }
    if (status >= 400) {
      return fail(
          {.code = Code::unreadable,
           .what = fmt::format("cannot be fetched: the server answers {}", status),
           .file = request_.url,
           .hint = status == 401 || status == 403 ? "a name and password can stand in ~/.netrc" : "try again later"});
    }
    if (begun_) {
      const std::string of = total_ == 0 ? "" : fmt::format(" of {}", total_);
      return fail({.code = Code::truncated,
                   .what = fmt::format("stopped after {}{} bytes: {}", part_.size(), of, api_.strerror(code)),
                   .file = request_.url,
                   .hint = "the same command goes on from there"});
    }
    return fail({.code = Code::unreadable,
                 .what = fmt::format("cannot be fetched: {}", api_.strerror(code)),
                 .file = request_.url,
                 .hint = "check the address and the network"});
  }

  const CurlApi& api_;
  CURL* curl_;
  const DownloadRequest& request_;
  PartFile& part_;
  std::unique_ptr<curl_slist, decltype(CurlApi::slist_free)> headers_;
  std::string tag_, date_, changed_;
  uint64_t from_ = 0, total_ = 0;
  bool begun_ = false, same_ = false;
  std::optional<Error> stopped_;
};

/// `%7e` -> `~` (RFC 3986, 2.1).
std::string decoded(std::string_view text) {
  std::string plain;
  for (size_t at = 0; at < text.size(); ++at) {
    unsigned value = 0;
    const char* digits = text.data() + at + 1;
    const bool escape =
        text[at] == '%' && at + 2 < text.size() && std::from_chars(digits, digits + 2, value, 16).ptr == digits + 2;
    plain += escape ? static_cast<char>(value) : text[at];
    if (escape) at += 2;
  }
  return plain;
}

/// A device gives for ever, and a pipe makes who reads it wait.
Result<void> check_file(const std::string& url) {
  constexpr std::string_view scheme = "file://";
  if (!url.starts_with(scheme)) return {};
  const size_t path = url.find('/', scheme.size());  // a host may stand before it
  std::error_code ignored;
  const auto type = fs::status(decoded(std::string_view(url).substr(std::min(path, url.size()))), ignored).type();
  if (type == fs::file_type::regular || type == fs::file_type::not_found) return {};
  return fail({.code = Code::unreadable,
               .what = "is not a regular file",
               .file = url,
               .hint = "name a file, or take the folder by its path"});
}

}  // namespace

bool is_url(std::string_view text) {
  const size_t colon = text.find("://");
  return colon != std::string_view::npos && colon > 1 &&
         std::all_of(text.begin(), text.begin() + static_cast<std::ptrdiff_t>(colon),
                     [](char c) { return text::is_identifier_character(c) || c == '+' || c == '-' || c == '.'; });
}

struct Downloader::State {
  const CurlApi& api;
  std::unique_ptr<CURL, decltype(CurlApi::cleanup)> curl;
};

Downloader::Downloader() = default;
Downloader::~Downloader() = default;

Result<Downloaded> Downloader::get(const DownloadRequest& request) {
  auto got = fetch(request);
  return got ? std::move(got) : fail(without_secrets(std::move(got.error())));
}

Result<Downloaded> Downloader::fetch(const DownloadRequest& request) {
  if (auto known = check_scheme(request.url); !known) return pass(known);
  if (auto file = check_file(request.url); !file) return pass(file);
  const auto& api = CurlApi::get();
  if (!api) return fail(api.error());
  if (!state_) state_.reset(new State{*api, {api->init(), api->cleanup}});
  PartFile part(request.folder, request.url);
  if (auto opened = part.open(); !opened) return pass(opened);
  Transfer transfer(*api, state_->curl.get(), request, part);
  if (auto done = transfer.run(); !done) {
    if (part.size() == 0) part.remove();
    return pass(done);
  }
  if (transfer.same()) {
    part.remove();
    return Downloaded{.tag = transfer.tag(), .same = true};
  }
  auto digest = sha256_of_file(part.file());
  if (!digest) return pass(digest);
  if (!request.sha256.empty() && text::lower(request.sha256) != *digest) {
    part.remove();
    return fail(
        {.code = Code::refused,
         .what = fmt::format("SHA-256 is {}, expected {}", *digest, request.sha256),
         .file = request.url,
         .hint = "it is not the file that was meant: check the digest where you have it from; nothing was kept"});
  }
  auto file = part.release();
  if (!file) return pass(file);
  return Downloaded{std::move(*file), std::move(*digest), transfer.tag()};
}

Result<TaggedText> download_text(const std::string& url, uint64_t limit, const TaggedText& known) {
  auto folder = TemporaryFolder::make(temporary_place(), "fibula-");
  if (!folder) return pass(folder);
  auto got = Downloader().get(
      {.url = url, .folder = folder->path(), .limit = limit, .time = std::chrono::minutes(5), .known_tag = known.tag});
  if (!got) return pass(got);
  if (got->same) return known;
  auto text = read_text(got->file, limit);
  if (!text) return pass(text);
  return TaggedText{std::move(*text), got->tag};
}

Result<std::string> download_text(const std::string& url, uint64_t limit) {
  auto got = download_text(url, limit, {});
  if (!got) return pass(got);
  return std::move(got->text);
}

}  // namespace fibula
