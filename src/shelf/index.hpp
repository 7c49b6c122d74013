/// The index of a shelf: one line a library version, so that a shelf is listed without reading a thousand cards, and so
/// that a plain web server can serve one. A line holds for as long as the card has the size and time it names; the
/// digests are what readers from elsewhere check.
///
/// It is in parts, by the digest of a library's name, so that whoever asks for one library reads little and whoever
/// adds one writes little, however many there are: `shelf.index` names the parts with their digests, and each is a file
/// `.index/<part>-<digest>` that is never written again. The last two forms of a part stay, for who reads meanwhile.
#pragma once

#include <fibula/shelf.hpp>

namespace fibula {

constexpr const char* index_file = "shelf.index";

/// Whether a folder is a shelf: what lies in it belongs to its libraries.
bool is_shelf(const std::filesystem::path& folder);
/// Where entries, and the index, are while they are written: what a killed writer left is looked for here alone.
constexpr const char* arriving_folder = ".arriving";

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

/// A part of the index, as `shelf.index` names it.
struct IndexPart {
  std::string name;    ///< two hexadecimal digits
  std::string sha256;  ///< of its file
};
/// The part in which the versions of a library are.
std::string part_of(const std::string& library);
/// Where its file is, below the shelf.
std::string part_file(const IndexPart& part);

/// The text of `shelf.index`; of no parts for a shelf without libraries.
std::string index_text(const std::vector<IndexPart>& parts);
/// Errors: malformed; unsupported (of another form).
Result<std::vector<IndexPart>> parse_index(std::string_view text, const std::string& file);
/// The same parts with this one in the place of the one of its name.
std::vector<IndexPart> with_part(std::vector<IndexPart> parts, const IndexPart& part);

/// The text of a part's file. Errors of reading one: malformed.
std::string part_text(const std::vector<IndexLine>& lines);
Result<std::vector<IndexLine>> parse_part(std::string_view text, const std::string& file);
IndexPart described_part(const std::string& name, const std::string& text);

/// The parts that a shelf's index names, and the lines of one, as they were written: nothing is read anew. Errors:
/// absent, malformed.
Result<std::vector<IndexPart>> parts_of(const std::filesystem::path& shelf);
Result<std::vector<IndexLine>> lines_of(const std::filesystem::path& shelf, const IndexPart& part);

/// The line of an entry, read anew. Errors: a damaged card.
Result<IndexLine> index_line_of(const std::filesystem::path& entry);

/// The lines of what is on a shelf now, by name, newest version first; cards are read only where the index has no line
/// that holds. Errors: a damaged card.
Result<std::vector<IndexLine>> index_of(const std::filesystem::path& shelf);
/// The same of some libraries: what the others have is not looked at.
Result<std::vector<IndexLine>> index_of(const std::filesystem::path& shelf, const std::vector<std::string>& libraries);

/// Brings the index to what the shelf has of one library; all of it where it cannot be read. A shelf that cannot be
/// written to stays as it is.
void refresh_index(const std::filesystem::path& shelf, const std::string& library);

/// Names of the folders directly inside one, sorted; hidden ones left out.
std::vector<std::string> folders_in(const std::filesystem::path& folder);

}  // namespace fibula
