/// Writes files into a `.tar.zst` that is the same bytes every time.
#pragma once

#include <fibula/result.hpp>

#include <filesystem>
#include <functional>
#include <string>
#include <vector>

namespace fibula {

/// One entry: a text, or a file whose bytes (or, for a link, whose link) it is.
struct PackedEntry {
  std::string path;  ///< in the archive
  std::string text = {};
  std::filesystem::path file = {};
};

/// In their order, without times and owners. The file appears whole or not at all; `good` is asked before it does.
/// Errors: unreadable, io, missing_tool, those of `good`.
Result<void> pack(const std::vector<PackedEntry>& entries, const std::filesystem::path& into,
                  const std::function<Result<void>()>& good);

}  // namespace fibula
