/// A shelf that a plain web server gives out. What was fetched is kept in the user's cache, laid out as a shelf is;
/// each step is checked by the digest that the step before it gave: index, card and contents, files.
#pragma once

#include "shelf/index.hpp"

#include <map>
#include <mutex>
#include <optional>

namespace fibula {

/// A path with its signs escaped that mean something in an URL (RFC 3986, section 2).
std::string url_path(std::string_view path);

class ServedShelf {
 public:
  /// `cache`: where this shelf's files are kept.
  ServedShelf(std::string url, std::filesystem::path cache) : url_(std::move(url)), cache_(std::move(cache)) {}

  /// All that the server has; where it cannot be reached, what it had the last time. Errors: those of a download,
  /// refused (another digest), malformed.
  Result<std::vector<IndexLine>> lines();
  /// What it has of one library: two small files, of which the second is fetched only when it is not the one that is
  /// kept. Errors: the same.
  Result<std::vector<IndexLine>> lines(const std::string& library);
  /// One card, without the library's files. Errors: those of a download, refused (another digest), malformed.
  Result<Card> card(const IndexLine& line);
  /// The library's files. Errors: as `card`.
  Result<void> bring(const Card& card);

  /// What was built of a library, under its place on a shelf, brought whole where the server has it; told nobody where
  /// it has not: it is built here then.
  void bring_built(const std::string& place);

  const std::string& url() const { return url_; }

  /// The parts of its index, and what is in one of them.
  Result<std::vector<IndexPart>> index_parts();
  Result<std::vector<IndexLine>> part_lines(const IndexPart& part);

 private:
  std::string url_;
  std::filesystem::path cache_;
  Result<std::vector<IndexPart>> parts();
  Result<std::vector<IndexLine>> lines_in(const IndexPart& part);

  std::mutex mutex_;
  std::optional<std::vector<IndexPart>> parts_;
  std::map<std::string, std::vector<IndexLine>> lines_;  ///< by the digest of their part
};

}  // namespace fibula
