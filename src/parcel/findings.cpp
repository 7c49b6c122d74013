#include "parcel/findings.hpp"

#include "base/text.hpp"
#include "binary/debug_types.hpp"
#include "compare/differences.hpp"
#include "facts/system_files.hpp"
#include "os/files.hpp"
#include "os/host.hpp"
#include "os/mapped_file.hpp"

#include <fibula/facts.hpp>
#include <fibula/judge.hpp>
#include <fibula/trial.hpp>

#include <fmt/format.h>
#include <algorithm>
#include <optional>
#include <set>

namespace fibula {
namespace {

std::set<std::string> binaries_of(const Card& card) {
  std::set<std::string> files;
  for (const auto& variant : card.variants) {
    for (const auto* list : {&variant.link, &variant.runtime, &variant.plugins})
      files.insert(list->begin(), list->end());
  }
  return files;
}

bool is_of_a_machine(const std::string& path) {
  return path.starts_with('/') && !path.starts_with("/usr/") && !path.starts_with("/lib");
}

void add_path_findings(const std::string& file, const Facts& facts, std::vector<ParcelFinding>& findings) {
  for (const auto* list : {&facts.rpath, &facts.runpath}) {
    for (const auto& path : list->value.value_or(std::vector<std::string>())) {
      if (is_of_a_machine(path))
        findings.push_back({file,
                            fmt::format("looks for its run-time files in {}, a folder of the machine that it was "
                                        "built on",
                                        path),
                            "link it with -Wl,-rpath,'$ORIGIN', or without a run path", true});
    }
  }
  const auto& paths = facts.build_paths.value;
  if (!paths || paths->empty()) return;
  findings.push_back({file,
                      fmt::format("names {} of the machine that it was built on: {}{}",
                                  text::count(paths->size(), "path"), paths->front(), paths->size() > 1 ? ", …" : ""),
                      "compile with -ffile-prefix-map=FOLDER=., or leave the debugging records out"});
}

void add_debug_findings(const Variant& variant, const std::string& file, const Facts& facts,
                        std::vector<ParcelFinding>& findings) {
  if (variant.configuration != "release") return;
  for (const auto& need : facts.needs.value.value_or(std::vector<Need>())) {
    if (is_debug_run_time(need.name))
      findings.push_back(
          {file,
           fmt::format("is a release build and asks for {}, which is on no machine without the compiler", need.name),
           "build it with the release run-time: /MD or /MT", true});
  }
}

/// A compiler of this machine whose best variant is this one.
const Toolchain* compiler_for(const Card& card, const Variant& variant, const std::vector<Result<Toolchain>>& all) {
  for (const auto& toolchain : all) {
    if (!toolchain || !same_family(toolchain->target, variant.target)) continue;
    const Lane lane{.name = "trial", .compiler = toolchain->compiler.string(), .configuration = variant.configuration};
    const auto judged = judge(card, lane, *toolchain, {.name = card.name, .linkage = variant.linkage});
    if (!judged.empty() && judged.front().verdict != Verdict::misfit && judged.front().variant->id == variant.id)
      return &*toolchain;
  }
  return nullptr;
}

Result<std::vector<Trial>> trial_of(const Shelf& shelf, const Card& card, const Variant* variant,
                                    const Toolchain& toolchain, const fs::path& root) {
  Lane lane{.name = variant == nullptr ? "headers" : variant->id, .compiler = toolchain.compiler.string()};
  lane.configuration = variant != nullptr && variant->configuration == "debug" ? "debug" : "release";
  LibraryUse use{.name = card.name, .version = "=" + card.version};
  if (variant != nullptr) use.linkage = variant->linkage;
  auto project = Project::from_values({.root = root, .libraries = {use}, .lanes = {lane}});
  if (!project) return pass(project);
  return try_libraries(*project, {lane}, shelf, card.name);
}

void keep_trial(const std::string& subject, const Result<std::vector<Trial>>& trials, Parcel& parcel) {
  if (!trials) {
    parcel.not_tried.push_back(fmt::format("{}: {}", subject, trials.error().what));
    return;
  }
  parcel.tried.push_back(subject);
  for (const auto& trial : *trials) {
    for (const auto& order : trial.in_order)
      parcel.findings.push_back({subject, "a header that does not compile alone does so: " + order, "", false});
    if (trial.outcome == TrialOutcome::failed)
      parcel.findings.push_back({subject, fmt::format("{} fails: {}", to_string(trial.step), trial.detail),
                                 "see it in a project: fibula trial " + parcel.name, true});
  }
}

/// What debugging records of a file say of types, beside what the headers say to the compiler that would use it.
void add_layout_findings(const Card& card, const Variant& variant, const Toolchain& toolchain, Parcel& parcel) {
  std::optional<HeaderFacts> headers;
  for (const auto& file : variant.linkage == Linkage::shared ? variant.runtime : variant.link) {
    const auto mapping = MappedFile::open(card.root / file);
    auto types = mapping ? debug_types_of((*mapping)->bytes()) : Result<DebugTypes>(fail({}));
    if (!types || types->layouts.empty()) continue;
    if (!headers) headers = read_header_facts(card, &toolchain, {}, variant.definitions);
    if (!headers->read) return;
    Differences differences;
    std::set<std::string> told;
    compare_types({*types, headers->types}, {*headers, *headers}, file, told, differences);
    for (const auto& difference : differences) {
      const bool counts = difference.kind == DifferenceKind::layout || difference.kind == DifferenceKind::enumerator;
      if (!counts || difference.effect != Effect::built) continue;
      parcel.findings.push_back({file,
                                 fmt::format("{} is {} in the file, by its debugging records, and {} in the headers",
                                             difference.name, difference.before.empty() ? "not" : difference.before,
                                             difference.after.empty() ? "not" : difference.after),
                                 "the headers are of another version, or want a definition that the build had", true});
    }
  }
}

}  // namespace

std::vector<ParcelFinding> binary_findings(const Card& card) {
  std::vector<ParcelFinding> findings;
  const auto files = binaries_of(card);
  std::vector<fs::path> paths;
  for (const auto& file : files) paths.push_back(card.root / file);
  const auto read = inspect_all(paths);
  size_t i = 0;
  for (const auto& file : files) {
    const auto& facts = read[i++];
    std::error_code ignored;
    if (!facts || fs::is_symlink(card.root / file, ignored)) continue;
    add_path_findings(file, *facts, findings);
    for (const auto& variant : card.variants) {
      if (std::find(variant.runtime.begin(), variant.runtime.end(), file) != variant.runtime.end())
        add_debug_findings(variant, file, *facts, findings);
    }
  }
  return findings;
}

void try_variants(const Shelf& shelf, const Card& card, Parcel& parcel) {
  std::vector<Question> questions;
  for (const auto& compiler : find_compilers()) questions.push_back({.compiler = compiler.string()});
  const auto toolchains = ask_all(questions);
  const auto folder = TemporaryFolder::make(temporary_place(), "fibula-parcel-");
  if (!folder) return;
  for (const auto& variant : card.variants) {
    const Toolchain* toolchain = compiler_for(card, variant, toolchains);
    if (toolchain == nullptr) {
      parcel.not_tried.push_back(fmt::format("{}: no compiler here would choose it", variant.id));
    } else {
      keep_trial(variant.id, trial_of(shelf, card, &variant, *toolchain, folder->path()), parcel);
      add_layout_findings(card, variant, *toolchain, parcel);
    }
  }
  if (!card.headers_only()) return;
  const auto native = ask({.compiler = "g++"});
  if (native) keep_trial("headers", trial_of(shelf, card, nullptr, *native, folder->path()), parcel);
  if (!native) parcel.not_tried.push_back("headers: " + native.error().what);
}

}  // namespace fibula
