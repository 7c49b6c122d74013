/// Follows needed files from one to the next.
#include <fibula/closure.hpp>

#include "base/names.hpp"
#include "binary/open.hpp"
#include "runtime/loader.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <deque>
#include <set>

namespace fibula {
namespace {

constexpr Name<NeedStatus> statuses[] = {{NeedStatus::found, "found"},
                                         {NeedStatus::system, "system"},
                                         {NeedStatus::by_luck, "by-luck"},
                                         {NeedStatus::missing, "missing"},
                                         {NeedStatus::wrong_architecture, "wrong-architecture"},
                                         {NeedStatus::lacks_version, "lacks-version"}};

/// The image in a file: its own, or the slice of a universal file for an architecture.
Result<std::optional<Image>> image_for(const OpenFile& file, Arch arch) {
  if (const Image* image = file.image()) return std::optional(*image);
  if (const auto* universal = std::get_if<Universal>(&file.content)) {
    for (const auto& slice : universal->slices) {
      if (arch != Arch::unknown && slice.target.arch != arch) continue;
      auto image = read_image(slice.bytes, want_dynamic);
      if (!image) return pass(image);
      return std::optional(std::move(*image));
    }
  }
  return std::optional<Image>();
}

class Follower {
 public:
  explicit Follower(const std::filesystem::path& root) : folder_(root.parent_path()) {}

  Result<bool> enter_root(const std::filesystem::path& path) {
    auto entered = enter(path, Arch::unknown, {});
    if (!entered) return pass(entered);
    if (!*entered) {
      return fail({.code = Code::refused,
                   .what = "needs no run-time files: only programs and shared libraries do",
                   .file = path.string(),
                   .hint = "name the program or shared library that is made from it"});
    }
    while (!pending_.empty()) {
      const Pending next = std::move(pending_.front());
      pending_.pop_front();
      follow(next);
    }
    return true;
  }

  std::vector<ClosureEntry> entries() && { return std::move(entries_); }

 private:
  struct Pending {
    Asker asker;
    Need need;
  };

  /// Queues what a file needs; false when it is none that needs files.
  Result<bool> enter(const std::filesystem::path& path, Arch arch, const std::vector<std::string>& inherited) {
    auto file = open_binary(path, want_dynamic);
    if (!file) return pass(file);
    auto image = image_for(*file, arch);
    if (!image) return pass(image);
    if (!*image || (*image)->type == ImageType::object || (*image)->type == ImageType::import_member) return false;
    const Asker asker = asker_of(path, **image, inherited);
    for (const auto& need : (*image)->needs) {
      if (known_.insert(need.name).second) pending_.push_back({asker, need});
    }
    return true;
  }

  void follow(const Pending& next) {
    ClosureEntry entry{.name = next.need.name, .needed_by = next.asker.path.string()};
    const Found found = find_as_loader(next.asker, next.need.name, folder_);
    entry.path = found.path.string();
    entry.status = found.status;
    entry.why = found.why;
    const bool there = !found.path.empty() && found.status != NeedStatus::wrong_architecture;
    if (there) check_versions(next.need, found.path, entry);
    if (there) {
      // A damaged file among the needs is told at its place, and the others are followed all the same.
      const auto entered = enter(found.path, next.asker.target.arch, next.asker.rpath);
      if (!entered) entry.why = render(entered.error());
    }
    if (next.need.kind != NeedKind::ordinary && entry.status == NeedStatus::missing)
      entry.why += fmt::format("; it is a {} need", to_string(next.need.kind));
    entries_.push_back(std::move(entry));
  }

  static void check_versions(const Need& need, const std::filesystem::path& path, ClosureEntry& entry) {
    if (need.versions.empty()) return;
    const auto file = open_binary(path, want_dynamic);
    if (!file || file->image() == nullptr) return;
    const auto& defined = file->image()->defined_versions;
    for (const auto& version : need.versions) {
      if (std::find(defined.begin(), defined.end(), version) != defined.end()) continue;
      entry.status = NeedStatus::lacks_version;
      entry.why = fmt::format("does not define version {}", version);
      return;
    }
  }

  std::filesystem::path folder_;  ///< of the file that was asked about
  std::set<std::string> known_;
  std::deque<Pending> pending_;
  std::vector<ClosureEntry> entries_;
};

}  // namespace

std::string_view to_string(NeedStatus status) {
  return name_in<NeedStatus>(statuses, status);
}

Result<std::vector<ClosureEntry>> closure_of(const std::filesystem::path& path) {
  Follower follower(std::filesystem::absolute(path));
  if (auto entered = follower.enter_root(std::filesystem::absolute(path)); !entered) return pass(entered);
  return std::move(follower).entries();
}

}  // namespace fibula
