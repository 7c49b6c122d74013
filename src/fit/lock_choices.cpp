#include <fibula/lock.hpp>

#include "choose/lock.hpp"
#include "shelf/contents.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <set>

namespace fibula {
namespace {

/// The digests of these files, as they were when the library was taken.
std::map<std::string, std::string> digests_of(const ChosenLibrary& chosen) {
  std::map<std::string, std::string> digests;
  const auto contents = read_contents(chosen.entry / "contents.sha256");
  for (const auto& content : contents.value_or(DigestList())) {
    if (std::find(chosen.files.begin(), chosen.files.end(), content.file) != chosen.files.end())
      digests[content.file] = content.sha256;
  }
  return digests;
}

/// Its locked version was not there: the lock stays as it is until somebody decides.
bool is_unsettled(const ChosenLibrary& chosen) {
  return chosen.version.empty() || std::any_of(chosen.misfits.begin(), chosen.misfits.end(),
                                               [](const Misfit& misfit) { return misfit.rule == "locked"; });
}

void add_fit(const Fit& fit, const Lock& before, LockWriter& writer) {
  const std::string& lane = fit.lane.name;
  for (const auto& chosen : fit.libraries) {
    if (is_unsettled(chosen) || chosen.verdict == Verdict::misfit) {
      writer.add_kept(before, lane, chosen.name);
      continue;
    }
    Locked choice{{}, chosen.name, chosen.version, chosen.variant, chosen.digest};
    const Locked* known = before.find(lane, chosen.name);
    const bool same = known != nullptr && known->version == choice.version && known->variant == choice.variant &&
                      known->digest == choice.digest;
    choice.files = same ? known->files : digests_of(chosen);
    writer.add(lane, std::move(choice));
  }
}

}  // namespace

Result<bool> keep_choices(const Project& project, const std::vector<Fit>& fits, const Shelf& shelf) {
  const auto before = Lock::read(project);
  if (!before) return fail(before.error());
  LockWriter writer(project);
  for (const auto& lane : project.lanes()) {
    const auto fit = std::find_if(fits.begin(), fits.end(), [&](const Fit& one) { return one.lane.name == lane.name; });
    if (fit != fits.end()) {
      add_fit(*fit, *before, writer);
      continue;
    }
    for (const auto& use : project.libraries()) writer.add_kept(*before, lane.name, use.name);
  }
  std::set<std::string> noted;
  for (const auto& fit : fits) {
    for (const auto& chosen : fit.libraries) {
      if (!chosen.entry.empty() && noted.insert(chosen.name + " " + chosen.version).second)
        project.shelf(shelf).note_use(chosen.entry, project.root());
    }
  }
  return writer.write();
}

namespace {

std::string shown(const std::string& version, const std::string& variant, const std::string& digest) {
  const std::string chosen = variant.empty() ? version : fmt::format("{}, {}", version, variant);
  // Other files under the same version must look different here too.
  return fmt::format("{} ({})", chosen, digest.substr(0, digest.find(':') + 9));
}

void compare_lane(const Fit& fit, const Lock& lock, std::vector<LockChange>& changes) {
  std::set<std::string> used;
  for (const auto& chosen : fit.libraries) {
    used.insert(chosen.name);
    const Locked* known = lock.find(fit.lane.name, chosen.name);
    LockChange change{fit.lane.name, chosen.name, {}, {}};
    if (known != nullptr) change.before = shown(known->version, known->variant, known->digest);
    if (chosen.verdict != Verdict::misfit) change.after = shown(chosen.version, chosen.variant, chosen.digest);
    if (change.before != change.after) changes.push_back(std::move(change));
  }
  for (const auto& library : lock.libraries(fit.lane.name)) {
    const Locked* known = lock.find(fit.lane.name, library);
    if (!used.contains(library))
      changes.push_back({fit.lane.name, library, shown(known->version, known->variant, known->digest), {}});
  }
}

}  // namespace

Result<std::vector<LockChange>> compare_with_lock(const Project& project, const std::vector<Fit>& fits) {
  const auto lock = Lock::read(project);
  if (!lock) return fail(lock.error());
  std::vector<LockChange> changes;
  for (const auto& fit : fits) compare_lane(fit, *lock, changes);
  return changes;
}

Result<void> check_as_locked(const Project& project, const std::vector<Fit>& fits) {
  const auto changes = compare_with_lock(project, fits);
  if (!changes) return fail(changes.error());
  if (changes->empty()) return {};
  std::string told;
  for (const auto& change : *changes)
    told += fmt::format("{}{} in lane {}: {} is locked, {} is here", told.empty() ? "" : "; ", change.library,
                        change.lane, change.before.empty() ? "nothing" : change.before,
                        change.after.empty() ? "nothing that fits" : change.after);
  return fail({.code = Code::refused,
               .what = "cannot be had as it is locked: " + told,
               .file = (project.root() / "fibula.lock").string(),
               .hint = "take what is missing from where it came, or choose anew: fibula fit without --as-locked"});
}

}  // namespace fibula
