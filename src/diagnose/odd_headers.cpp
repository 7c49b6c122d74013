/// Files that lie where a header belongs, and are none.
#include "base/text.hpp"
#include "binary/foreign.hpp"
#include "diagnose/compile_scene.hpp"
#include "os/mapped_file.hpp"

#include <algorithm>

namespace fibula {
namespace {

struct Oddity {
  std::string what;
  std::string remedy;
};

/// A text of one word that is the path of a header: what is left of a link where links cannot be kept.
std::optional<Oddity> flattened(std::string_view text) {
  const auto line = text::trim(text);
  constexpr size_t longest_path = 512;
  if (line.empty() || line.size() > longest_path || line.find_first_of(" \t\r\n\"'<>;(") != std::string_view::npos)
    return std::nullopt;
  if (!line.ends_with(".h") && !line.ends_with(".hpp") && !line.ends_with(".hh")) return std::nullopt;
  return Oddity{fmt::format("is a flattened link to {}", line),
                "the copy lost its links: unpack the original where links can be kept"};
}

/// What a merge leaves where both sides changed a place.
std::optional<Oddity> unmerged(std::string_view text) {
  const auto lines = text::lines(text);
  const auto has = [&](std::string_view mark) {
    return std::any_of(lines.begin(), lines.end(), [&](std::string_view line) { return line.starts_with(mark); });
  };
  if (!has("<<<<<<< ") || !has(">>>>>>> ")) return std::nullopt;
  return Oddity{"has marks of a merge that was not finished", "decide between its two sides, and take the marks out"};
}

std::optional<Oddity> oddity_of(Bytes bytes) {
  if (auto link = flattened(bytes.text())) return link;
  if (auto marks = unmerged(bytes.text())) return marks;
  const Error foreign = name_foreign(bytes);
  // "is a web page, not a library": what it is stands before the comma.
  const std::string what = foreign.what.substr(0, foreign.what.find(','));
  if (!what.starts_with("is a") || what.ends_with(" text") || what == "is a text file") return std::nullopt;
  return Oddity{what, foreign.hint};
}

}  // namespace

std::optional<Finding> odd_header(const Complaint& complaint, const fs::path& folder) {
  const fs::path file = (folder / position_of(complaint.user).file).lexically_normal();
  const auto mapped = MappedFile::open(file);
  const auto odd = mapped ? oddity_of((*mapped)->bytes()) : std::nullopt;
  if (!odd) return std::nullopt;
  const std::string shown = shown_from(folder, file);
  Finding finding{.cause = "not-a-header", .stage = "compile", .subject = shown, .certainty = "read"};
  finding.culprits = {shown};
  finding.because = {fmt::format("{} {}", shown, odd->what)};
  finding.remedy = odd->remedy;
  return finding;
}

}  // namespace fibula
