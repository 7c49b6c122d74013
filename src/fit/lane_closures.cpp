#include "fit/lane_closures.hpp"

#include <fibula/facts.hpp>

#include "facts/system_files.hpp"
#include "fit/lane_system.hpp"
#include "loader/kept_closures.hpp"

namespace fibula {
namespace {

/// The DLL that an import library stands for.
std::optional<Need> dll_behind(const LinkInput& input) {
  const auto facts = inspect(input.path);
  if (!facts || facts->kind.value != Kind::import_library || !facts->soname) return std::nullopt;
  return Need{.name = *facts->soname.value};
}

/// What a program will be once it is linked, as far as its link inputs say.
RunTimeFile foreseen(const fs::path& product, const Fit& fit, const OutputLink& link) {
  RunTimeFile file{.path = product, .target = fit.toolchain.target, .type = ImageType::pie_program};
  file.interpreter = fit.toolchain.loader.string();
  file.rpath = {file.target.format == Format::macho ? "@loader_path" : "$ORIGIN"};
  for (const auto& name : link.needs) file.needs.push_back({.name = name});
  for (const auto& input : file.target.format == Format::pe ? link.inputs : std::vector<LinkInput>()) {
    if (auto need = dll_behind(input)) file.needs.push_back(std::move(*need));
  }
  return file;
}

}  // namespace

LaneClosures::LaneClosures(const Project& project, const Fit& fit)
    : project_(project), fit_(fit), options_(system_of(fit.toolchain)), system_(options_) {
  for (const auto& file : fit.runtime_files) placed_.emplace(file.path.filename().string(), file.path);
}

Result<std::shared_ptr<const RunTimeFile>> LaneClosures::root_of(const Output& output) const {
  const fs::path product = project_.product_of(fit_.lane, fit_.toolchain, output);
  std::error_code ignored;
  if (fs::exists(product, ignored)) {
    auto file = read_run_time_file(product, fit_.toolchain.target.arch);
    if (!file) return pass(file);
    return std::make_shared<const RunTimeFile>(std::move(*file));
  }
  const OutputLink* link = fit_.link(output.name);
  if (link == nullptr) return std::shared_ptr<const RunTimeFile>();
  return std::make_shared<const RunTimeFile>(foreseen(product, fit_, *link));
}

/// What is missing and comes with the compiler will be put beside the program too; true when there was such a file.
bool LaneClosures::add_compilers_run_times(const std::vector<ClosureEntry>& entries) {
  bool added = false;
  for (const auto& entry : entries) {
    if (entry.status != NeedStatus::missing || entry.name.find('/') != std::string::npos) continue;
    if (is_debug_run_time(entry.name) || placed_.contains(entry.name)) continue;
    const auto path = compilers_run_time(fit_.toolchain, entry.name);
    if (path) added = placed_.emplace(entry.name, *path).second || added;
  }
  return added;
}

Result<std::vector<FileClosure>> LaneClosures::follow() {
  std::vector<FileClosure> closures;
  std::error_code ignored;
  for (const auto& output : project_.outputs()) {
    if (output.kind == OutputKind::static_library) continue;
    auto root = root_of(output);
    if (!root) return pass(root);
    if (!*root) continue;
    FileClosure closure{.path = (*root)->path};
    auto plugins = project_.files_for(output.plugins);
    for (const auto& plugin : fit_.plugins) plugins.push_back(plugin.path);
    do {
      // What is not linked yet is no file that could be seen to change.
      const ClosureRoot from{*root, placed_, plugins};
      closure.entries = fs::exists((*root)->path, ignored) ? followed_or_kept(system_, from, options_)
                                                           : follow_needs(files_, system_, from);
    } while (add_compilers_run_times(closure.entries));
    closures.push_back(std::move(closure));
  }
  return closures;
}

std::vector<FileClosure> closures_of(const Project& project, const Fit& fit) {
  auto followed = LaneClosures(project, fit).follow();
  if (!followed) return {{.path = project.root(), .problem = followed.error()}};
  return std::move(*followed);
}

}  // namespace fibula
