#include "stage/placer.hpp"

#include "os/file_digest.hpp"
#include "os/folder.hpp"
#include "stage/staged_list.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

using Change = StagedFile::Change;

/// A copy has its original's time: while both size and time are equal, it is as it was made.
bool is_as_placed(const Stamp& target, const Stamp& source) {
  return target.is_file() && !target.same_file(source) && target.size == source.size && target.time == source.time;
}

class Placer {
 public:
  Placer(const StagePlan& plan, fs::path folder, fs::path list, PlaceIn kind)
      : plan_(plan), folder_(std::move(folder)), list_(std::move(list)), kind_(kind) {}

  Result<StageReport> place() {
    report_.folder = folder_;
    report_.left = plan_.left;
    auto place = kind_ == PlaceIn::staged ? Folder::make(folder_)
                                          : Folder::make_in(list_.parent_path(), folder_.filename().string());
    if (!place) return pass(place);
    auto before = read_staged_list(list_);
    // What builds write is all ours: a list that was damaged only leaves files behind.
    if (!before && kind_ == PlaceIn::staged) return pass(before);
    if (before) before_ = std::move(*before);
    // Nothing is written before all is known to have a place.
    for (const auto& file : plan_.files) {
      if (auto judged = judge(file); !judged) return pass(judged);
    }
    if (auto announced = announce(); !announced) return pass(announced);
    for (auto& file : report_.files) {
      if (file.change == Change::kept) continue;
      if (auto done = place->copy_in(file.from, file.path); !done) return pass(done);
    }
    if (kind_ == PlaceIn::build_in_part) after_.insert(before_.begin(), before_.end());
    for (const auto& [path, digest] : before_) {
      if (!after_.contains(path)) remove_stale(*place, path, digest);
    }
    if (auto written = write_staged_list(list_, after_); !written) return pass(written);
    return std::move(report_);
  }

 private:
  Result<void> judge(StagedFile file) {
    const fs::path target = folder_ / file.path;
    std::error_code ignored;
    if (fs::is_symlink(file.from, ignored)) file.from = fs::canonical(file.from, ignored);  // no link to a link
    const Stamp source = stamp_of(file.from), there = stamp_of(target);
    if (!source.is_file())
      return fail({.code = Code::absent,
                   .what = source.there() ? "is not a regular file" : "is not there any more",
                   .file = file.from.string(),
                   .hint = "fibula shelf check tells what changed"});
    const auto known = before_.find(file.path);
    const bool same = is_as_placed(there, source) || (there.is_file() && kind_ != PlaceIn::staged &&
                                                      !there.same_file(source) && has_same_content(file.from, target));
    if (there.there() && known == before_.end() && kind_ == PlaceIn::staged) {
      if (!there.is_file() || !has_same_content(file.from, target)) return fail(in_the_way(target));
      file.change = Change::kept;  // somebody put the very same file there: it stays theirs
      report_.files.push_back(std::move(file));
      return {};
    }
    file.change = same ? Change::kept : there.there() ? Change::changed : Change::added;
    if (auto digested = add_digest(file, same && known != before_.end() ? known->second : std::string()); !digested)
      return digested;
    after_[file.path] = file.sha256;
    report_.files.push_back(std::move(file));
    return {};
  }

  /// SHA-256 is taken when a file comes in; for one that is as it was, the list has it.
  Result<void> add_digest(StagedFile& file, const std::string& known) {
    file.sha256 = known;
    if (!known.empty()) return {};
    auto digest = sha256_of_file(file.from);
    if (!digest) return pass(digest);
    file.sha256 = std::move(*digest);
    return {};
  }

  static Error in_the_way(const fs::path& target) {
    return {.code = Code::refused,
            .what = "is in the way: it is not from here, and differs from what belongs there",
            .file = target.string(),
            .hint = "move it away, or stage into another folder; nothing was changed"};
  }

  /// Before the first file is written the list has the new ones too: what an interrupted stage leaves is known for its
  /// own the next time.
  Result<void> announce() const {
    const auto is_new = [](const StagedFile& file) { return file.change == Change::added; };
    if (std::none_of(report_.files.begin(), report_.files.end(), is_new)) return {};
    StagedList both = before_;
    both.insert(after_.begin(), after_.end());
    return write_staged_list(list_, both);
  }

  void remove_stale(const Folder& place, const std::string& path, const std::string& digest) {
    const fs::path target = folder_ / path;
    if (!place.has_file(path)) return;
    const auto now = sha256_of_file(target);
    if (!now || *now != digest) {
      report_.left_alone.push_back(path);
      return;
    }
    if (!place.remove(path).value_or(false)) return;
    report_.removed.push_back(path);
    // Folders that were made for it go with the last file in them.
    for (fs::path above = fs::path(path).parent_path(); !above.empty(); above = above.parent_path()) {
      if (!place.remove(above.generic_string()).value_or(false)) break;
    }
  }

  const StagePlan& plan_;
  fs::path folder_, list_;
  PlaceIn kind_;
  StagedList before_, after_;
  StageReport report_;
};

}  // namespace

Result<StageReport> place_files(const StagePlan& plan, const fs::path& folder, const fs::path& list, PlaceIn kind) {
  return Placer(plan, folder, list, kind).place();
}

}  // namespace fibula
