#include "shelf/publish.hpp"

#include "base/address.hpp"
#include "base/inside_path.hpp"
#include "os/download.hpp"
#include "os/folder.hpp"
#include "os/host.hpp"
#include "shelf/built.hpp"
#include "shelf/index.hpp"
#include "shelf/served.hpp"

#include <fmt/format.h>

namespace fibula {
namespace {

/// The list of an outcome comes last: who finds it finds everything that it names.
Result<bool> put(const std::string& url, const std::string& place, const fs::path& folder) {
  const std::string there = fmt::format("{}/{}", url, url_path(place));
  const auto known = download_text(fmt::format("{}/{}", there, built_list), 64U << 20U);
  if (known) return false;
  if (known.error().code != Code::absent) return fail(known.error());
  const auto files = files_below(folder);
  if (!files) return fail(files.error());
  for (const auto& file : *files) {
    if (file == built_list) continue;
    if (auto done = upload(fmt::format("{}/{}", there, url_path(file.generic_string())), folder / file); !done)
      return pass(done);
  }
  if (auto done = upload(fmt::format("{}/{}", there, built_list), folder / fs::path(built_list)); !done)
    return pass(done);
  return true;
}

/// A server that has no shelf yet gets an empty one: readers ask for its index first.
Result<void> see_to_index(const std::string& url) {
  const std::string index = url + "/shelf.index";
  const auto known = download_text(index, 64U << 20U);
  if (known || known.error().code != Code::absent) return known ? Result<void>() : fail(known.error());
  const auto folder = TemporaryFolder::make(temporary_place(), "fibula-");
  if (!folder) return fail(folder.error());
  if (auto written = write_in(folder->path(), "shelf.index", empty_index(), Flush::later); !written) return written;
  return upload(index, folder->path() / "shelf.index");
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
  if (keys.empty())
    return fail({.code = Code::absent,
                 .what = fmt::format("nothing was built of {} {} here", name, version),
                 .file = shelf.string(),
                 .hint = "build a project that uses it; only what comes as source is built"});
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
