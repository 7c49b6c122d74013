#include <fibula/stage.hpp>

#include "fit/lane_system.hpp"
#include "os/file_digest.hpp"
#include "stage/placer.hpp"
#include "stage/staged_list.hpp"

#include "loader/run_time_file.hpp"

#include <fmt/format.h>
#include <optional>

namespace fibula {
namespace {

/// The project's own folder, what is above it and what builds write are no places to hand on.
Result<void> check_place(const Project& project, const fs::path& folder) {
  const auto refuse = [&](const char* what) -> Result<void> {
    return fail({.code = Code::refused,
                 .what = what,
                 .file = folder.string(),
                 .hint = "name a folder of its own, like stage/"});
  };
  std::error_code error;
  const fs::path root = fs::weakly_canonical(project.root(), error), real = fs::weakly_canonical(folder, error);
  if (real == root) return refuse("is the project itself");
  if (is_inside(real, root)) return refuse("holds the project");
  if (is_inside(root / ".fibula", real)) return refuse("is inside .fibula, where builds keep what they make");
  if (fs::exists(real, error) && !fs::is_directory(real, error)) return refuse("is a file, not a folder");
  return {};
}

/// What leads the loader there. A library's own run path is its maker's to change; without one, an older kind of run
/// path of the program serves it too (ld.so(8), "DT_RPATH").
std::string way_to(const ClosureEntry& entry, const fs::path& product) {
  const auto asker = read_run_time_file(entry.needed_by, Arch::unknown);
  if (entry.needed_by == product || (asker && !asker->runpath.empty()))
    return fmt::format("link {} with the run path $ORIGIN: -Wl,-rpath,'$ORIGIN'",
                       fs::path(entry.needed_by).filename().string());
  return fmt::format(
      "give the output flags = [\"-Wl,--disable-new-dtags\"]: the run path of {} then serves its libraries too",
      product.filename().string());
}

/// A need that lies in the folder, and that the loader looks for elsewhere all the same.
std::optional<Misfit> stray(const ClosureEntry& entry, const fs::path& product) {
  const fs::path folder = product.parent_path();
  const std::string name = fs::path(entry.name).filename().string();
  std::error_code ignored;
  const bool found_inside = entry.status == NeedStatus::found && is_inside(folder, entry.path);
  if (found_inside || !fs::exists(folder / name, ignored)) return std::nullopt;
  return Misfit{
      .rule = "search-path",
      .subject = entry.name,
      .evidence = {fmt::format("{} asks for {}, and it lies beside it", entry.needed_by, name),
                   fmt::format("the loader takes {}: {}", entry.path.empty() ? "none" : entry.path, entry.why)},
      .remedy = way_to(entry, product)};
}

/// Everything is there; whether the loader finds it depends on how libraries were linked by others.
void check_search(const Project& project, const Fit& fit, StageReport& report) {
  std::error_code ignored;
  const fs::path folder = fs::canonical(report.folder, ignored);
  for (const auto& output : project.outputs()) {
    if (output.kind == OutputKind::static_library) continue;
    const fs::path product = folder / project.product_of(fit.lane, fit.toolchain, output).filename();
    const auto closure = closure_of(product, system_of(fit.toolchain));
    for (const auto& entry : closure ? *closure : std::vector<ClosureEntry>()) {
      if (auto misfit = stray(entry, product)) report.misfits.push_back(std::move(*misfit));
    }
  }
}

}  // namespace

std::string_view to_string(StagedFile::Change change) {
  switch (change) {
    case StagedFile::Change::kept: return "kept";
    case StagedFile::Change::added: return "added";
    case StagedFile::Change::changed: return "changed";
  }
  return "";
}

Result<StageReport> stage(const Project& project, const Fit& fit, const StageOptions& options) {
  const fs::path folder = absolute_path(options.into);
  if (auto checked = check_place(project, folder); !checked) return pass(checked);
  auto plan = plan_stage(project, fit, StageFor::others, options.licences);
  if (!plan) return pass(plan);
  if (!plan->misfits.empty()) {
    StageReport report{.folder = folder, .files = {}};
    report.misfits = std::move(plan->misfits);
    return report;
  }
  auto report = place_files(*plan, folder, folder / staged_list_name, PlaceIn::staged);
  if (report) check_search(project, fit, *report);
  return report;
}

Result<StageReport> place_runtime_files(const Project& project, const Fit& fit, bool all_made) {
  auto plan = plan_stage(project, fit, StageFor::build, false);
  if (!plan) return pass(plan);
  return place_files(*plan, fit.folder / "bin", fit.folder / "placed.sha256",
                     all_made ? PlaceIn::build : PlaceIn::build_in_part);
}

Result<StageCheck> check_stage(const fs::path& folder) {
  const fs::path file = folder / staged_list_name;
  std::error_code ignored;
  if (!fs::exists(file, ignored))
    return fail({.code = Code::absent,
                 .what = "is not there: this is no staged folder",
                 .file = file.string(),
                 .hint = "fibula stage --into DIR makes one"});
  const auto list = read_staged_list(file);
  if (!list) return fail(list.error());
  StageCheck check{.files = list->size(), .changes = {}};
  for (const auto& [path, digest] : *list) {
    const auto now = sha256_of_file(folder / path);
    if (!now) check.changes.push_back({path, now.error().code == Code::absent ? "missing" : now.error().what});
    if (now && *now != digest) check.changes.push_back({path, "changed"});
  }
  return check;
}

}  // namespace fibula
