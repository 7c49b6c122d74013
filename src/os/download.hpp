/// Files from elsewhere, over https, http or from a file URL (RFC 9110 for ranges and validators).
#pragma once

#include <fibula/progress.hpp>
#include <fibula/result.hpp>

#include <chrono>
#include <filesystem>
#include <memory>
#include <string>

namespace fibula {

bool is_url(std::string_view text);

struct DownloadRequest {
  std::string url;
  std::string sha256 = {};        ///< that it must have, 64 hexadecimal digits; empty: whatever comes
  std::filesystem::path folder;   ///< where what has come so far is kept, to go on from there
  uint64_t limit = 16ULL << 30U;  ///< bytes
  std::chrono::seconds time = std::chrono::hours(12);
  std::string known_tag = {};  ///< entity tag of what is here already: the same comes back as `same`, without a file
  ProgressSink progress = {};
};

struct Downloaded {
  std::filesystem::path file;
  std::string sha256;
  std::string tag;    ///< the entity tag that the server gives it; empty where it gives none
  bool same = false;  ///< what is known is what the server has (RFC 9110, 13.1.2)
};

/// Fetches files, over one connection where they come from the same server.
class Downloader {
 public:
  Downloader();
  ~Downloader();
  Downloader(const Downloader&) = delete;
  Downloader& operator=(const Downloader&) = delete;

  /// The whole file, under a name of its own in the folder, or an error, which tells no password of the address; after
  /// one that another try may mend, the same request goes on where this one ended. Errors: missing_tool, usage (no such
  /// scheme), absent (the server has no such file), unreadable (no connection, another answer), truncated (it stopped
  /// half way), limit, refused (another digest: nothing is kept), io.
  Result<Downloaded> get(const DownloadRequest& request);

 private:
  Result<Downloaded> fetch(const DownloadRequest& request);
  struct State;
  std::unique_ptr<State> state_;
};

/// A small file's text. Errors: as `Downloader::get`.
Result<std::string> download_text(const std::string& url, uint64_t limit);

struct TaggedText {
  std::string text, tag;
};
/// The same, asked for only where it is no longer the one that is known. Errors: as `Downloader::get`.
Result<TaggedText> download_text(const std::string& url, uint64_t limit, const TaggedText& known);

}  // namespace fibula
