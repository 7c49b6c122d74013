#include "fit/lock.hpp"

#include "base/files.hpp"
#include "base/toml.hpp"
#include "shelf/contents.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <set>
#include <tuple>

namespace fibula {
namespace {

fs::path file_of(const Project& project) {
  return project.root() / "fibula.lock";
}

Result<Locked> read_choice(const toml::Value& value, const fs::path& file) {
  toml::Reader reader(*value.table(), file, "[[chosen]]", value.line);
  for (const char* key : {"lanes", "library", "version", "digest"}) reader.require(key);
  Locked locked{.lanes = reader.texts("lanes"), .library = reader.text("library"), .version = reader.text("version")};
  locked.variant = reader.text("variant");
  locked.digest = reader.text("digest");
  if (const toml::Table* files = reader.table("files")) {
    for (const auto& [name, digest] : files->entries) {
      if (digest.text() != nullptr) locked.files[name] = *digest.text();
    }
  }
  if (auto done = reader.finish(); !done) return pass(done);
  return locked;
}

std::string text_of(const Locked& locked) {
  std::string text =
      fmt::format("\n[[chosen]]\nlanes = {}\nlibrary = {}\nversion = {}\n", toml::quote_list(locked.lanes),
                  toml::quote(locked.library), toml::quote(locked.version));
  if (!locked.variant.empty()) text += fmt::format("variant = {}\n", toml::quote(locked.variant));
  text += fmt::format("digest = {}\n", toml::quote(locked.digest));
  if (!locked.files.empty()) text += "\n[chosen.files]\n";
  for (const auto& [name, digest] : locked.files)
    text += fmt::format("{} = {}\n", toml::quote(name), toml::quote(digest));
  return text;
}

/// The digests of these files, as they were when the library was taken.
std::map<std::string, std::string> digests_of(const ChosenLibrary& chosen) {
  std::map<std::string, std::string> digests;
  const auto contents = read_contents(chosen.entry / "contents.sha256");
  for (const auto& content : contents.value_or(std::vector<Content>())) {
    if (std::find(chosen.files.begin(), chosen.files.end(), content.file) != chosen.files.end())
      digests[content.file] = content.sha256;
  }
  return digests;
}

}  // namespace

Result<Lock> Lock::read(const Project& project) {
  Lock lock;
  const fs::path file = file_of(project);
  std::error_code ignored;
  if (!fs::exists(file, ignored)) return lock;
  auto table = toml::read(file);
  if (!table) {
    table.error().hint = "it is written by fibula fit: restore it, or remove it to choose anew";
    return pass(table);
  }
  toml::Reader reader(*table, file, "the lock file", 1);
  for (const auto* value : reader.tables("chosen")) {
    auto choice = read_choice(*value, file);
    if (!choice) return pass(choice);
    for (const auto& lane : choice->lanes) lock.by_lane_[{lane, choice->library}] = lock.choices_.size();
    lock.choices_.push_back(std::move(*choice));
  }
  if (auto done = reader.finish(); !done) return pass(done);
  return lock;
}

const Locked* Lock::find(const std::string& lane, const std::string& library) const {
  const auto found = by_lane_.find({lane, library});
  return found == by_lane_.end() ? nullptr : &choices_[found->second];
}

std::vector<std::string> Lock::libraries(const std::string& lane) const {
  std::vector<std::string> names;
  for (auto entry = by_lane_.lower_bound({lane, ""}); entry != by_lane_.end() && entry->first.first == lane; ++entry)
    names.push_back(entry->first.second);
  return names;
}

/// Puts a lock together, choice by choice; equal ones of several lanes become one.
class LockWriter {
 public:
  explicit LockWriter(const Project& project) : project_(project) {}

  void add(const std::string& lane, Locked choice) {
    for (auto& known : choices_) {
      if (std::tie(known.library, known.version, known.variant, known.digest) !=
          std::tie(choice.library, choice.version, choice.variant, choice.digest))
        continue;
      if (known.files.empty()) known.files = std::move(choice.files);
      known.lanes.push_back(lane);
      return;
    }
    choice.lanes = {lane};
    choices_.push_back(std::move(choice));
  }

  void add_kept(const Lock& before, const std::string& lane, const std::string& library) {
    if (const Locked* known = before.find(lane, library)) add(lane, *known);
  }

  Result<bool> write() {
    const fs::path file = file_of(project_);
    std::error_code error;
    if (choices_.empty()) return fs::remove(file, error);
    std::sort(choices_.begin(), choices_.end(), [](const Locked& a, const Locked& b) {
      return std::tie(a.library, a.version, a.variant) < std::tie(b.library, b.version, b.variant);
    });
    std::string text =
        "# What was chosen for each lane, so that the same fit can be had elsewhere. Written by fibula fit;\n"
        "# fibula attach NAME lets it choose a library anew.\n";
    for (const auto& choice : choices_) text += text_of(choice);
    return write_if_changed(file, text);
  }

 private:
  const Project& project_;
  std::vector<Locked> choices_;
};

namespace {

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

Result<bool> forget_lock(const Project& project, const std::string& library) {
  const auto before = Lock::read(project);
  if (!before) return fail(before.error());
  LockWriter writer(project);
  for (const auto& lane : project.lanes()) {
    for (const auto& use : project.libraries()) {
      if (use.name != library) writer.add_kept(*before, lane.name, use.name);
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

}  // namespace fibula
