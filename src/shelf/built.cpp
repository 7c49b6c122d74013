#include "shelf/built.hpp"

#include "card/kept_card.hpp"
#include "os/file_digest.hpp"
#include "os/folder.hpp"
#include "os/stamp.hpp"
#include "shelf/contents.hpp"
#include "shelf/storage.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {

std::optional<Card> read_built(const fs::path& folder) {
  if (!stamp_of(folder / "card.toml").is_file()) return std::nullopt;
  auto card = read_or_kept_card(folder, Cache::standard());
  if (!card) return std::nullopt;
  for (const auto& variant : card->variants) {
    for (const auto* files : {&variant.link, &variant.runtime}) {
      const auto is_gone = [&](const std::string& file) { return !stamp_of(card->root / file).is_file(); };
      if (std::any_of(files->begin(), files->end(), is_gone)) return std::nullopt;
    }
  }
  return std::move(*card);
}

Result<void> keep_built(const fs::path& store, const std::string& place, Card card, const fs::path& files) {
  auto entry = ArrivingEntry::make(store);
  if (!entry) return pass(entry);
  const auto names = files_below(files);
  if (!names) return fail(names.error());
  std::vector<std::string> listed;
  for (const auto& name : *names) listed.push_back(name.generic_string());
  if (auto copied = copy_files(files, entry->path() / "files", listed); !copied) return copied;
  auto contents = digest_files(entry->path() / "files", listed);
  if (!contents) return pass(contents);
  card.digest = digest_of(*contents);
  const auto folder = Folder::open(entry->path());
  if (!folder) return fail(folder.error());
  for (auto& file : *contents) {
    file.file = "files/" + file.file;
    folder->protect(file.file);
  }
  if (auto written = folder->write("card.toml", card_text(card)); !written) return written;
  auto digest = sha256_of_file(entry->path() / "card.toml");
  if (!digest) return pass(digest);
  contents->push_back({"card.toml", std::move(*digest)});
  if (auto written = folder->write(built_list, to_text(*contents)); !written) return written;
  return entry->publish_built(place);
}

}  // namespace fibula
