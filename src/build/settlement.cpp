#include "build/settlement.hpp"

#include <fibula/version.hpp>

#include "base/packed.hpp"
#include "base/text.hpp"
#include "choose/source_plan.hpp"
#include "os/file_digest.hpp"
#include "os/files.hpp"
#include "toolchain/cache.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <set>

namespace fibula {
namespace {

/// Whether what is to be built is what a file says: of values nothing tells that they are others now.
bool stands_in_a_file(const Project& project, const Lane& lane) {
  const auto& lanes = project.lanes();
  return project.text_digest() != 0 && std::find(lanes.begin(), lanes.end(), lane) != lanes.end();
}

/// What decides beside files.
std::string surroundings(const Project& project, const Lane& lane, const Shelf& shelf) {
  std::string text =
      fmt::format("{}\n{}\n{}\n{}\n", version(), lane.name, project.shelf(shelf).shown(), project.text_digest());
  for (const auto& variable : influencing_environment()) text += variable + "\n";
  for (const char* name : {"PATH", "LD_LIBRARY_PATH", "WINEPATH", "FIBULA_SHELF"})
    text += environment(name).value_or("") + "\n";
  return text;
}

/// Collects states of files.
class Premises {
 public:
  explicit Premises(int64_t began) : began_(began) {}

  /// Read by this build: no change after its beginning may be taken for known.
  void read(const fs::path& path) { add(path, sure_stamp(path), 0); }
  /// A folder of which this build read the names.
  void looked_through(const fs::path& folder) {
    const Stamp stamp = sure_stamp(folder);
    add(folder, stamp, quick_digest_of_names(folder));
  }
  /// Written by this build, or found not to matter what it holds.
  void wrote(const fs::path& path) { add(path, stamp_of(path), 0); }
  /// The same of a folder, whose names matter from now on.
  void wrote_in(const fs::path& folder) {
    const Stamp stamp = stamp_of(folder);
    add(folder, stamp, quick_digest_of_names(folder));
  }

  /// Written by this build too, so that its time tells nothing of others.
  bool changed_since_began(const fs::path& path) const { return stamp_of(path).changed + stamp_tick >= began_; }
  void doubt() { sure_ = false; }

  std::optional<std::vector<FileState>> take() {
    if (!sure_) return std::nullopt;
    int64_t last = 0;
    for (const auto& state : states_) last = std::max(last, state.stamp.changed);
    wait_for_tick_after(last);
    return std::move(states_);
  }

 private:
  Stamp sure_stamp(const fs::path& path) {
    const Stamp stamp = stamp_of(path);
    sure_ = sure_ && stamp.changed + stamp_tick < began_;
    return stamp;
  }
  void add(const fs::path& path, const Stamp& stamp, uint64_t digest) {
    if (known_.insert(path.string()).second)
      states_.push_back({.path = path.string(), .stamp = stamp, .digest = digest});
  }

  int64_t began_;
  bool sure_ = true;
  std::set<std::string> known_;
  std::vector<FileState> states_;
};

void read_toolchain(const Toolchain& toolchain, Premises& premises) {
  std::error_code ignored;
  premises.read(toolchain.compiler);
  premises.read(fs::canonical(toolchain.compiler, ignored));
  premises.read(toolchain.linker);
  // What is installed later can be what a link lacks, or comes first.
  for (const auto& folder : toolchain.library_directories) premises.read(folder);
}

/// Whether the outputs' patterns find what they found when the build began.
bool finds_the_same(const Gathered::State& gathered) {
  const auto files = gathered.project.files();
  if (!files) return false;
  for (size_t i = 0; i < files->size(); ++i) {
    const std::string& name = gathered.project.outputs()[i].name;
    if ((*files)[i].sources != gathered.sources.at(name) || (*files)[i].given != gathered.given.at(name)) return false;
  }
  return true;
}

void read_sources(const Gathered::State& gathered, Premises& premises) {
  const Project& project = gathered.project;
  for (const auto& output : project.outputs()) {
    for (const auto* patterns : {&output.sources, &output.data, &output.plugins}) {
      for (const auto& pattern : *patterns) {
        for (const auto& folder : folders_searched(project.root(), pattern)) {
          folder == project.root() ? premises.wrote_in(folder) : premises.looked_through(folder);
        }
      }
    }
    for (const auto& file : project.files_for(output.data)) premises.read(file);
    for (const auto& file : project.files_for(output.plugins)) premises.read(file);
    for (const auto& folder : output.headers) premises.wrote_in(project.root() / folder);
  }
  // Builds write into the project's own folder, so it is looked through once more after its stamp was taken.
  if (premises.changed_since_began(project.root()) && !finds_the_same(gathered)) premises.doubt();
}

/// Libraries that came as source: where they lie open to changes, every file that counts by its content, and the
/// folders in which others can appear; and where what was built of them is kept.
void read_own_libraries(const Gathered::State& gathered, const Lane& lane, Premises& premises) {
  const GatheredLane* found = gathered.lane_named(lane.name);
  if (found == nullptr) return;
  for (const auto& [name, choice] : found->choices) {
    if (!choice.source) continue;
    for (const auto& file : choice.source->watched) {
      premises.read(file);
      premises.read(file.parent_path());
    }
    if (choice.source->card->is_open()) premises.read(choice.source->card->root);
    for (const auto& file : choice.variant != nullptr ? choice.variant->link : std::vector<std::string>())
      premises.wrote(choice.card->root / file);
  }
}

}  // namespace

std::string settlement_text(const Project& project, const Lane& lane, const Shelf& shelf, const BuildReport& report,
                            uint64_t recipe) {
  Packer packed;
  packed.value(surroundings(project, lane, shelf));
  packed.number(recipe);
  Pack{packed}(report.target.format, report.target.arch, report.target.bits, report.target.endian);
  packed.number(report.misfits.size());
  for (const auto& m : report.misfits) Pack{packed}(m.rule, m.verdict, m.subject, m.library, m.evidence, m.remedy);
  packed.number(report.products.size());
  for (const auto& product : report.products) {
    Pack{packed}(product.output, product.kind, product.path.string());
    packed.number(product.memory.size());
    for (const auto& use : product.memory) Pack{packed}(use.region, use.used, use.length);
    packed.number(product.placements.size());
    for (const auto& one : product.placements)
      Pack{packed}(one.name, one.wanted, one.address, one.section, one.region, one.found, one.judged);
  }
  return packed.take();
}

bool read_settlement(const std::string& text, const Project& project, const Lane& lane, const Shelf& shelf,
                     BuildReport& report, uint64_t& recipe) {
  if (!stands_in_a_file(project, lane)) return false;
  Unpacker from(text);
  std::string around;
  from.value(around);
  if (around != surroundings(project, lane, shelf)) return false;
  recipe = from.number();
  Unpack{from}(report.target.format, report.target.arch, report.target.bits, report.target.endian);
  for (size_t left = from.count(); left > 0; --left) {
    Misfit& m = report.misfits.emplace_back();
    Unpack{from}(m.rule, m.verdict, m.subject, m.library, m.evidence, m.remedy);
  }
  for (size_t left = from.count(); left > 0; --left) {
    BuiltOutput& product = report.products.emplace_back();
    std::string path;
    Unpack{from}(product.output, product.kind, path);
    product.path = std::move(path);
    for (size_t uses = from.count(); uses > 0; --uses) {
      MemoryUse& use = product.memory.emplace_back();
      Unpack{from}(use.region, use.used, use.length);
    }
    for (size_t uses = from.count(); uses > 0; --uses) {
      Placement& one = product.placements.emplace_back();
      Unpack{from}(one.name, one.wanted, one.address, one.section, one.region, one.found, one.judged);
    }
  }
  report.good = from.good();
  return report.good;
}

std::optional<std::vector<FileState>> premises_of(const Gathered::State& gathered, const Fit& fit, int64_t began) {
  const Project& project = gathered.project;
  if (!stands_in_a_file(project, fit.lane)) return std::nullopt;
  Premises premises(began);
  // The project was read before the build began: it is compared with what is there now.
  premises.wrote(project.file());
  if (stamp_of(project.file()).is_file() && quick_digest_of_file(project.file()).value_or(0) != project.text_digest())
    return std::nullopt;
  read_toolchain(fit.toolchain, premises);
  read_sources(gathered, premises);
  for (const auto& library : fit.libraries) premises.read(library.entry / "card.toml");
  read_own_libraries(gathered, fit.lane, premises);
  for (const auto* files : {&fit.runtime_files, &fit.plugins, &fit.data_files}) {
    for (const auto& file : *files) premises.read(file.path);
  }
  for (const auto& closure : fit.closures) {
    for (const auto& entry : closure.entries) {
      if (!entry.path.empty() && !is_inside(fit.folder, entry.path)) premises.read(entry.path);
    }
  }
  // What this build wrote: damaged or removed, it is written again.
  for (const auto& name : files_directly_in(fit.folder / "bin")) premises.wrote(fit.folder / "bin" / name);
  for (const auto& name : files_directly_in(fit.folder)) {
    if (name != "record") premises.wrote(fit.folder / name);
  }
  premises.wrote(project.root() / "fibula.lock");
  premises.wrote(project.root() / "compile_commands.json");
  return premises.take();
}

}  // namespace fibula
