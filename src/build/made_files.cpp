/// What records say of files that builds made; and removing these.
#include <fibula/build.hpp>

#include "build/lane_build.hpp"
#include "os/file_lock.hpp"
#include "os/folder.hpp"

#include <algorithm>

namespace fibula {
namespace {

MadeFile made_file(const std::string& lane, BuildRecord& record, const std::string& product) {
  MadeFile made{.lane = lane, .path = product, .state = record.cause_by_inputs(product), .inputs = {}};
  for (const auto& state : record.states_of(product)) {
    if (state.stamp.is_folder()) continue;
    const Stamp now = stamp_at(state.path.c_str());
    const bool same =
        now == state.stamp || (state.digest != 0 && now.is_file() && content_digest(state.path, now) == state.digest);
    made.inputs.push_back({state.path, same ? "" : now.there() ? "changed" : "gone"});
  }
  return made;
}

/// The lane's own record, and those of libraries that lie open to changes.
std::vector<fs::path> records_of(const Project& project, const Lane& lane) {
  std::vector<fs::path> records{record_file(project, lane)};
  for (const auto& use : project.libraries()) {
    fs::path record = own_store_of(project, lane) / use.name / "record";
    if (stamp_of(record).is_file()) records.push_back(std::move(record));
  }
  return records;
}

}  // namespace

std::vector<MadeFile> why_made(const Project& project, const std::vector<Lane>& lanes, const fs::path& file) {
  std::vector<MadeFile> found;
  const std::string path = absolute_path(file).string();
  for (const auto& lane : lanes) {
    for (const auto& file_of_record : records_of(project, lane)) {
      BuildRecord record(file_of_record);
      for (const auto& product : record.products()) {
        const auto inputs = record.inputs_of(product);
        if (product == path || std::find(inputs.begin(), inputs.end(), path) != inputs.end())
          found.push_back(made_file(lane.name, record, product));
      }
    }
  }
  return found;
}

Result<size_t> clean(const Project& project, const std::vector<Lane>& lanes) {
  size_t removed = 0;
  const fs::path work = project.root() / ".fibula";
  // A link in its place leads to what is not ours.
  if (!stamp_of_link(work).is_folder()) return removed;
  const auto opened = Folder::open(work);
  if (!opened) return fail(opened.error());
  const auto lock = FileLock::take(work / "lock");
  if (!lock) return fail(lock.error());
  for (const auto& lane : lanes) {
    const fs::path folder = project.folder_of(lane);
    if (!stamp_of_link(folder).is_folder()) continue;
    removed += files_below(folder).value_or(std::vector<fs::path>()).size();
    if (auto gone = opened->remove_tree(lane.name); !gone) return pass(gone);
  }
  return removed;
}

}  // namespace fibula
