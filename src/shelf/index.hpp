/// `shelf.index`: one line a library version, so that a shelf is listed without reading a thousand cards, and so that
/// a plain web server can serve one. A line holds for as long as the card has the size and time it names; the digests
/// are what readers from elsewhere check.
#pragma once

#include <fibula/shelf.hpp>

namespace fibula {

struct IndexLine {
  std::string name;
  std::string version;
  uint64_t card_size = 0;
  int64_t card_time = 0;
  std::string card_sha256;
  std::string contents_sha256;
  std::string in_place;  ///< where its files are, for a library taken in place
  std::string variants;  ///< "x86_64-elf-static, x86_64-elf-shared"
};

/// The index of a shelf without libraries.
std::string empty_index();

/// Errors: malformed.
Result<std::vector<IndexLine>> parse_index(std::string_view text, const std::string& file);

/// The text of an index with these lines.
std::string index_text(const std::vector<IndexLine>& lines);
/// The line of an entry, read anew. Errors: a damaged card.
Result<IndexLine> index_line_of(const std::filesystem::path& entry);

/// The lines of what is on a shelf now, by name, newest version first; cards are read only where the index has no line
/// that holds. Errors: a damaged card.
Result<std::vector<IndexLine>> index_of(const std::filesystem::path& shelf);

/// Writes the index anew where it differs. A shelf that cannot be written to stays as it is.
void refresh_index(const std::filesystem::path& shelf);

/// Names of the folders directly inside one, sorted; hidden ones left out.
std::vector<std::string> folders_in(const std::filesystem::path& folder);

}  // namespace fibula
