#include "stage/staged_list.hpp"

#include "os/digest_list.hpp"
#include "os/folder.hpp"

namespace fibula {

Result<StagedList> read_staged_list(const fs::path& file) {
  StagedList list;
  std::error_code ignored;
  if (!fs::exists(file, ignored)) return list;
  auto read = read_digest_list(file, "stage into a new folder; what lies in this one is not touched");
  if (!read) return pass(read);
  for (auto& [path, digest] : *read) list.emplace(std::move(path), std::move(digest));
  return list;
}

Result<void> write_staged_list(const fs::path& file, const StagedList& list) {
  DigestList lines;
  for (const auto& [path, digest] : list) lines.push_back({path, digest});
  return without_value(write_if_changed_in(file.parent_path(), file.filename().string(), to_text(lines)));
}

}  // namespace fibula
