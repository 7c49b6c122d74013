#include "stage/stage_plan.hpp"

#include "base/text.hpp"
#include "base/version.hpp"
#include "facts/system_files.hpp"
#include "fit/lane_closures.hpp"
#include "os/file_digest.hpp"
#include "os/stamp.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <set>

namespace fibula {
namespace {

/// The products that are there.
OwnCode built_code(const Project& project, const Fit& fit) {
  OwnCode own;
  for (const auto& output : project.outputs()) {
    fs::path product = project.product_of(fit.lane, fit.toolchain, output);
    if (stamp_of(product).is_file()) own[output.name].product = std::move(product);
  }
  return own;
}

class StagePlanner {
 public:
  StagePlanner(const Project& project, const Fit& fit, StageFor purpose)
      : project_(project), fit_(fit), purpose_(purpose) {
    for (const auto& plugin : fit.plugins) plugins_.insert(plugin.path);
    for (const auto& output : project.outputs()) {
      for (auto& plugin : project.files_for(output.plugins)) plugins_.insert(std::move(plugin));
    }
  }

  Result<StagePlan> plan(bool licences) {
    // What is handed on is what is on the disk, whatever the fit was planned from.
    auto closures = purpose_ == StageFor::build
                        ? Result<std::vector<FileClosure>>(fit_.closures)
                        : closures_of_lane(project_, fit_, built_code(project_, fit_), {}, cache_);
    if (!closures) return pass(closures);
    for (const auto& closure : *closures) {
      if (auto added = add_output(closure); !added) return pass(added);
    }
    if (closures->empty()) {
      // Nothing is linked yet, and nothing will be by this project: what the fit says is all there is.
      for (const auto& file : fit_.runtime_files) {
        if (auto added = add(file.path.filename().string(), file.path, file.library, file.why); !added)
          return pass(added);
      }
    }
    if (auto added = add_further_files(licences); !added) return pass(added);
    std::sort(plan_.files.begin(), plan_.files.end(), [](const auto& a, const auto& b) { return a.path < b.path; });
    return std::move(plan_);
  }

 private:
  Result<void> add(const std::string& to, const fs::path& from, const std::string& library, const std::string& why) {
    const std::string key = fit_.toolchain.target.format == Format::pe ? text::lower(to) : to;
    const auto [known, fresh] = by_name_.try_emplace(key, from);
    if (fresh) {
      plan_.files.push_back({.path = to, .from = from, .library = library, .why = why});
      return {};
    }
    if (known->second == from || has_same_content(known->second, from)) return {};
    return fail({.code = Code::refused,
                 .what = fmt::format("and {} would both be {} in one folder", known->second.string(), to),
                 .file = from.string(),
                 .hint = "rename one of them, or leave one out"});
  }

  Result<void> add_output(const FileClosure& closure) {
    if (closure.problem) return fail(*closure.problem);

    std::error_code ignored;
    const std::string name = closure.path.filename().string();
    const bool linked = fs::exists(closure.path, ignored);
    if (!linked && purpose_ == StageFor::others)
      return fail({.code = Code::absent,
                   .what = "is not built yet",
                   .file = closure.path.string(),
                   .hint = fmt::format("fibula build --lane {}", fit_.lane.name)});
    if (purpose_ == StageFor::others) {
      if (auto added = add(name, closure.path, {}, fmt::format("made in lane {}", fit_.lane.name)); !added)
        return added;
    }
    for (const auto& entry : closure.entries) {
      if (auto added = add_need(name, entry); !added) return added;
    }
    return {};
  }

  Result<void> add_need(const std::string& program, const ClosureEntry& entry) {
    if (fit_.lane.configuration == "release" && is_debug_run_time(entry.name)) return say_debug_run_time(entry);
    if (is_bad(entry)) return purpose_ == StageFor::others ? say_bad(program, entry) : Result<void>();
    const std::string name = fs::path(entry.name).filename().string();
    if (stays(entry, name)) return note_left(entry, name);
    // Programs made here lie where they are built already, and so do the project's own libraries.
    const bool own = fs::path(entry.path).parent_path() == fit_.folder / "bin";
    if (own && purpose_ == StageFor::build) return {};
    if (plugins_.contains(entry.path)) return {};
    const auto is_it = [&](const RuntimeFile& one) { return one.path == entry.path; };
    const auto file = std::find_if(fit_.runtime_files.begin(), fit_.runtime_files.end(), is_it);
    return add(name, entry.path, file == fit_.runtime_files.end() ? "" : file->library,
               fmt::format("{} needs it", fs::path(entry.needed_by).filename().string()));
  }

  /// What the system's loader finds by itself stays there in the build; of that only what belongs to a system stays
  /// there when the program is handed on.
  bool stays(const ClosureEntry& entry, const std::string& name) const {
    const bool of_system = entry.status == NeedStatus::system;
    if (purpose_ == StageFor::build || fit_.toolchain.target.format != Format::elf)
      return of_system || entry.path.empty();
    return entry.path.empty() || (of_system && !reason_to_stay(name).empty());
  }

  Result<void> note_left(const ClosureEntry& entry, const std::string& name) {
    const auto known = [&](const LeftToSystem& one) { return one.name == name; };
    if (purpose_ == StageFor::build || std::any_of(plan_.left.begin(), plan_.left.end(), known)) return {};
    const std::string_view reason = reason_to_stay(name);
    plan_.left.push_back({name, reason.empty() ? entry.why : std::string(reason), least_version(entry)});
    return {};
  }

  /// The newest of the versions that files outside of the system need of it: only those are handed on.
  std::string least_version(const ClosureEntry& entry) {
    std::string least;
    for (const auto& asker : entry.asked_by) {
      const Looked& looked = files_.at(asker, fit_.toolchain.target.arch);
      if (looked.there != Looked::There::file) continue;
      for (const auto& need : looked.file->needs) {
        if (need.name != entry.name || !reason_to_stay(fs::path(asker).filename().string()).empty()) continue;
        for (const auto& version : need.versions) raise(least, version);
      }
    }
    return least;
  }

  /// Versions of one series are compared; those of a library's main series, which comes first, are told.
  static void raise(std::string& least, const std::string& version) {
    const size_t at = version.find_first_of("0123456789");
    if (at == std::string::npos || version.compare(0, 7, "CXXABI_") == 0) return;
    const bool same_series = least.compare(0, at, version, 0, at) == 0;
    if (least.empty() || (same_series && compare_versions(version.substr(at), least.substr(at)) > 0)) least = version;
  }

  Result<void> say_bad(const std::string& program, const ClosureEntry& entry) {
    plan_.misfits.push_back({.rule = "closure",
                             .subject = entry.name,
                             .evidence = {fmt::format("{} asks for {}", entry.needed_by, entry.name),
                                          entry.path.empty() ? entry.why : fmt::format("{} {}", entry.path, entry.why)},
                             .remedy = fmt::format("attach the library that has it, or take it along with the one that "
                                                   "asks; without it {} does not start",
                                                   program)});
    return {};
  }

  Result<void> say_debug_run_time(const ClosureEntry& entry) {
    plan_.misfits.push_back(
        {.rule = "runtime-flavour",
         .subject = entry.name,
         .evidence = {fmt::format("{} asks for {}", entry.needed_by, entry.name),
                      fmt::format("lane {} makes a release, and {} is the run-time of debug builds, which may not be "
                                  "handed on",
                                  fit_.lane.name, entry.name)},
         .remedy = fmt::format("take a release build of {}", fs::path(entry.needed_by).filename().string())});
    return {};
  }

  /// Plugins and data go along in both folders: a program finds them from its own place.
  Result<void> add_further_files(bool licences) {
    for (const auto* files : {&fit_.plugins, &fit_.data_files, licences ? &fit_.licence_files : nullptr}) {
      if (files == nullptr) continue;
      for (const auto& file : *files) {
        if (auto added = add(file.to, file.path, file.library, file.why); !added) return added;
      }
    }
    for (const auto& output : project_.outputs()) {
      for (const auto& [patterns, why] :
           {std::pair{&output.data, "reads it while it runs"}, {&output.plugins, "opens it while it runs"}}) {
        for (const auto& path : project_.files_for(*patterns)) {
          if (auto added = add(shown_from(project_.root(), path), path, {}, fmt::format("{} {}", output.name, why));
              !added)
            return added;
        }
      }
    }
    return {};
  }

  const Project& project_;
  const Fit& fit_;
  StageFor purpose_;
  RunTimeFiles files_;
  const Cache cache_ = Cache::standard();
  std::set<fs::path> plugins_;  ///< the libraries' and the project's: they have places of their own
  std::map<std::string, fs::path> by_name_;
  StagePlan plan_;
};

}  // namespace

Result<StagePlan> plan_stage(const Project& project, const Fit& fit, StageFor purpose, bool licences) {
  return StagePlanner(project, fit, purpose).plan(licences);
}

}  // namespace fibula
