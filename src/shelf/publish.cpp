#include "shelf/publish.hpp"

#include "base/inside_path.hpp"
#include "os/download.hpp"
#include "os/files.hpp"
#include "os/upload.hpp"
#include "shelf/built.hpp"
#include "shelf/index.hpp"
#include "shelf/served.hpp"

#include <fmt/format.h>

namespace fibula {
namespace {

/// The list of an outcome comes last: who finds it finds everything that it names.
Result<bool> put(const std::string& url, const std::string& place, const fs::path& folder) {
  const std::string there = fmt::format("{}/{}", url, url_path(place));
  const auto known = fetch_text(fmt::format("{}/{}", there, built_list), 64U << 20U);
  if (!known) return fail(known.error());
  if (known->there) return false;
  const auto files = files_below(folder);
  if (!files) return fail(files.error());
  for (const auto& file : *files) {
    if (file == built_list) continue;
    auto done = put_file(fmt::format("{}/{}", there, url_path(file.generic_string())), folder / file, {});
    if (!done) return pass(done);
  }
  auto done = put_file(fmt::format("{}/{}", there, built_list), folder / fs::path(built_list), {});
  if (!done) return pass(done);
  return true;
}

/// A server that has no shelf yet gets an empty one: readers ask for its index first.
Result<void> see_to_index(const std::string& url) {
  const auto known = fetch_text(url + "/shelf.index", 64U << 20U);
  if (!known) return fail(known.error());
  if (known->there) return {};
  auto done = put_text(url + "/shelf.index", index_text({}), {.when = PutCondition::When::not_there});
  return done ? Result<void>() : pass(done);
}

Result<bool> copy(const fs::path& shelf, const std::string& place, const fs::path& folder) {
  if (read_built(shelf / place)) return false;
  auto card = read_built(folder);
  if (!card) return false;
  if (auto kept = keep_built(shelf, place, std::move(*card), folder / "files"); !kept) return pass(kept);
  return true;
}

}  // namespace

Result<size_t> publish_built(const fs::path& shelf, const std::string& name, const std::string& version,
                             const std::string& place) {
  const std::string below = fmt::format("{}/{}/{}", built_folder, name, version);
  const bool named = is_plain_name(name) && is_plain_name(version) && !shelf.empty();
  const auto keys = named ? folders_in(shelf / below) : std::vector<std::string>();
  if (keys.empty()) return size_t{0};
  const bool served = is_url(place);
  const std::string url = place.substr(0, place.find_last_not_of('/') + 1);
  if (served) {
    if (auto index = see_to_index(url); !index) return pass(index);
  }
  size_t handed_on = 0;
  for (const auto& key : keys) {
    const std::string inside = fmt::format("{}/{}", below, key);
    auto done = served ? put(url, inside, shelf / inside) : copy(absolute_path(place), inside, shelf / inside);
    if (!done) return pass(done);
    handed_on += *done ? 1U : 0U;
  }
  return handed_on;
}

}  // namespace fibula
