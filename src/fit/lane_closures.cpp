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

class LaneClosures {
 public:
  LaneClosures(const Project& project, const Fit& fit, const OwnCode& own, const std::set<std::string>& placed,
               const Cache& cache)
      : project_(project), fit_(fit), own_(own), options_(system_of(fit.toolchain)), system_(options_) {
    options_.cache = cache;
    for (const auto& file : fit.runtime_files) placed_.emplace(file.path.filename().string(), file.path);
    for (const auto& name : placed) hidden_.insert(fit.folder / "bin" / name);
  }

  Result<std::vector<FileClosure>> follow() {
    std::vector<FileClosure> closures;
    for (const auto& output : project_.outputs()) {
      if (output.kind == OutputKind::static_library) continue;
      auto root = root_of(output);
      if (!root) return pass(root);
      if (*root)
        closures.push_back(
            {.path = (*root)->path, .entries = closure_of(output, *root), .foreseen = !is_linked(output)});
    }
    return closures;
  }

 private:
  bool is_linked(const Output& output) const {
    const auto own = own_.find(output.name);
    return own != own_.end() && !own->second.product.empty();
  }

  Result<std::shared_ptr<const RunTimeFile>> root_of(const Output& output) const {
    if (is_linked(output)) {
      auto file = read_run_time_file(own_.find(output.name)->second.product, fit_.toolchain.target.arch);
      if (!file) return pass(file);
      return std::make_shared<const RunTimeFile>(std::move(*file));
    }
    const OutputLink* link = fit_.link(output.name);
    if (link == nullptr) return std::shared_ptr<const RunTimeFile>();
    const fs::path product = project_.product_of(fit_.lane, fit_.toolchain, output);
    return std::make_shared<const RunTimeFile>(foreseen(product, fit_, *link));
  }

  std::vector<ClosureEntry> closure_of(const Output& output, const std::shared_ptr<const RunTimeFile>& root) {
    auto plugins = project_.files_for(output.plugins);
    for (const auto& plugin : fit_.plugins) plugins.push_back(plugin.path);
    std::vector<ClosureEntry> entries;
    do {
      const ClosureRoot from{root, placed_, plugins, hidden_};
      // What is not linked yet is no file that could be seen to change.
      entries = is_linked(output) ? followed_or_kept(system_, from, options_) : follow_needs(files_, system_, from);
    } while (add_compilers_run_times(entries));
    return entries;
  }

  /// What is missing and comes with the compiler will be put beside the program too; true when there was such a file.
  bool add_compilers_run_times(const std::vector<ClosureEntry>& entries) {
    bool added = false;
    for (const auto& entry : entries) {
      if (entry.status != NeedStatus::missing || entry.name.find('/') != std::string::npos) continue;
      if (is_debug_run_time(entry.name) || placed_.contains(entry.name)) continue;
      const auto path = compilers_run_time(fit_.toolchain, entry.name);
      if (path) added = placed_.emplace(entry.name, *path).second || added;
    }
    return added;
  }

  const Project& project_;
  const Fit& fit_;
  const OwnCode& own_;
  RunTimeFiles files_;
  ClosureOptions options_;
  TargetSystem system_;
  std::map<std::string, fs::path> placed_;
  std::set<fs::path> hidden_;
};

}  // namespace

Result<std::vector<FileClosure>> closures_of_lane(const Project& project, const Fit& fit, const OwnCode& own,
                                                  const std::set<std::string>& placed, const Cache& cache) {
  return LaneClosures(project, fit, own, placed, cache).follow();
}

}  // namespace fibula
