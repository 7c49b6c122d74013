/// Putting files onto a web server, only where nobody else changed them meanwhile (RFC 9110, 9.3.4 and 13.1).
#pragma once

#include <fibula/result.hpp>

#include <filesystem>
#include <string>

namespace fibula {

/// What a server has at an address, and what it calls this version of it.
struct ServedText {
  std::string text;
  std::string validator;  ///< its ETag; empty where it gives none
  bool there = false;
};
/// What is not there is no error. Errors: missing_tool, unreadable, limit.
Result<ServedText> fetch_text(const std::string& url, uint64_t limit);

/// When the server may take what is put there.
struct PutCondition {
  enum class When { always, still_this, not_there } when = When::always;
  std::string validator = {};  ///< of `still_this`
};

enum class PutOutcome {
  taken,
  changed,  ///< the condition does not hold: nothing was changed
};
/// Errors: missing_tool, unreadable (no connection, another answer), as `Downloader::get` tells them.
Result<PutOutcome> put_file(const std::string& url, const std::filesystem::path& file, const PutCondition& condition);
Result<PutOutcome> put_text(const std::string& url, const std::string& text, const PutCondition& condition);

}  // namespace fibula
