#include "fit/include_check.hpp"

#include "base/text.hpp"
#include "base/toml.hpp"
#include "headers/header_folders.hpp"
#include "headers/include_lines.hpp"
#include "headers/well_known_headers.hpp"
#include "index/header_search.hpp"
#include "os/files.hpp"
#include "os/stamp.hpp"
#include "project/include_change.hpp"
#include "project/own_making.hpp"
#include "project/source_kind.hpp"
#include "shelf/header_lookup.hpp"
#include "shelf/index.hpp"
#include "take/sources/template_header.hpp"
#include "toolchain/options.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <map>
#include <set>
#include <utility>

namespace fibula {
namespace {

/// Looking through a folder is for projects, not for disks.
constexpr size_t most_looked_at = 20'000;

class IncludeCheck {
 public:
  IncludeCheck(Gathered::State& state, const GatheredLane& lane, const Fit& fit)
      : state_(state), lane_(lane), toolchain_(fit.toolchain) {
    for (const auto& directory : fit.include_directories) directories_.push_back(directory.path);
    for (const auto& shared : fit.shared_headers) {
      for (const auto& [name, path] : shared.headers) shared_.insert(name);
    }
    add_folders(lane.lane.flags);
    for (const auto& output : state.project.outputs()) add_folders(output.flags);
  }

  std::vector<Misfit> check() {
    for (const auto& output : state_.project.outputs()) {
      if (is_pending(output)) continue;
      output_ = &output;
      for (const auto& source : state_.sources_for(output, lane_.lane)) {
        if (source_kind(source) == SourceKind::nasm) continue;
        begin(source);
        read(source);
      }
    }
    return std::move(said_);
  }

 private:
  /// A C driver looks elsewhere for the headers of a C++ source.
  void begin(const fs::path& source) {
    source_ = source;
    const auto kind = source_kind(source);
    const bool as_cxx = (kind == SourceKind::cxx || kind == SourceKind::objective_cxx) && !toolchain_.cxx &&
                        !toolchain_.cxx_include_directories.empty();
    const auto* system = as_cxx ? &toolchain_.cxx_include_directories : &toolchain_.include_directories;
    if (system != system_) found_.clear();
    system_ = system;
  }

  void add_folders(const std::vector<std::string>& flags) {
    for (auto& folder : include_folders_in(flags))
      directories_.push_back(absolute_path(state_.project.root() / folder));
  }

  /// Headers that a library's build makes are not there before it.
  bool is_pending(const Output& output) const {
    const auto& uses = lane_.uses.at(output.name);
    return std::any_of(uses.begin(), uses.end(), [&](const LibraryUse& use) {
      const auto choice = lane_.choices.find(use.name);
      return choice == lane_.choices.end() || !choice->second.card || choice->second.is_pending();
    });
  }

  void read(const fs::path& file) {
    if (!seen_.insert(file).second) return;
    const auto content = read_text(file);
    if (!content) return;
    for (const auto& line : include_lines(*content)) {
      const auto found = find(line, file);
      if (!found && !line.conditional) tell(line, file);
      // Libraries' headers are read with the compiler.
      const bool own = found && is_inside(state_.project.root(), *found) && is_header_name(found->string());
      if (own && !belongs_to_library(*found) && !line.conditional) read(*found);
    }
  }

  bool belongs_to_library(const fs::path& file) const {
    return std::any_of(lane_.choices.begin(), lane_.choices.end(), [&](const auto& choice) {
      return choice.second.card != nullptr && is_inside(choice.second.card->root, file);
    });
  }

  std::optional<fs::path> find(const IncludeLine& line, const fs::path& from) {
    if (fs::path(line.name).is_absolute())
      return is_file(line.name) ? std::optional(fs::path(line.name)) : std::nullopt;
    if (line.quoted) {
      const fs::path beside = (from.parent_path() / line.name).lexically_normal();
      if (is_file(beside)) return beside;
    }
    if (shared_.contains(line.name)) return fs::path();
    const auto [known, fresh] = found_.try_emplace(line.name);
    if (!fresh) return known->second;
    for (const auto* directories : {&std::as_const(directories_), system_}) {
      for (const auto& directory : *directories) {
        const fs::path path = (directory / line.name).lexically_normal();
        if (is_file(path)) return known->second = path;
      }
    }
    return std::nullopt;
  }

  static bool is_file(const fs::path& path) {
    const Stamp stamp = stamp_of(path);
    return stamp.there() && !stamp.is_folder();
  }

  void tell(const IncludeLine& line, const fs::path& file) {
    if (!told_.insert(line.name).second) return;
    const std::string shown = shown_from(state_.project.root(), file);
    Misfit misfit{.rule = "include",
                  .subject = line.name,
                  .library = output_->name,
                  .evidence = {fmt::format("{}:{} includes {}", shown, line.line, line.name),
                               fmt::format("none of the {} include directories of lane {} has it",
                                           directories_.size() + system_->size(), lane_.lane.name)},
                  .place = {file.string(), line.line}};
    advise(line, misfit);
    said_.push_back(std::move(misfit));
  }

  /// From what is nearest to what is farthest.
  void advise(const IncludeLine& line, Misfit& misfit) {
    const std::string& name = line.name;
    const auto standard = line.quoted ? StandardHeader::none : standard_header(name);
    if (standard != StandardHeader::none) return of_standard(name, standard, misfit);
    if (in_used_libraries(name, misfit) || in_project(name, misfit) || is_to_be_made(name, misfit) ||
        in_other_libraries(name, misfit))
      return;
    if (const auto system = other_system_of_header(name, toolchain_.triple)) {
      misfit.evidence.push_back(fmt::format("{} is a header of {}", name, *system));
      misfit.remedy = fmt::format("include it only where the program is built for {} (#if), or do without it", *system);
      return;
    }
    misfit.evidence.push_back(
        fmt::format("no attached library and none on the shelf {} has a header of that name", state_.shelf.shown()));
    misfit.remedy = "correct the name, or take the library that it belongs to and attach it";
  }

  /// No library has it: the compiler brings it, or nobody does.
  void of_standard(const std::string& name, StandardHeader standard, Misfit& misfit) const {
    const bool cxx = standard == StandardHeader::of_cxx;
    misfit.evidence.push_back(fmt::format("{} is a header of the standard library of {}", name, cxx ? "C++" : "C"));
    if (cxx && source_kind(source_) == SourceKind::c) {
      const std::string shown = shown_from(state_.project.root(), source_);
      misfit.evidence.push_back(fmt::format("{} is C, by its name", shown));
      misfit.remedy =
          fmt::format("it is C++: rename {} to {}", shown, fs::path(shown).replace_extension(".cpp").generic_string());
      return;
    }
    const std::string_view first = cxx ? "cstddef" : "stdio.h";
    const bool has_others = std::any_of(system_->begin(), system_->end(),
                                        [&](const fs::path& directory) { return is_file(directory / first); });
    if (!has_others)
      misfit.evidence.push_back(
          fmt::format("the compiler has no {} library: {} is not there either", cxx ? "C++" : "C", first));
    misfit.remedy = fmt::format("choose a {} whose {} library has it, or do without it",
                                has_others ? "newer compiler" : "compiler", cxx ? "C++" : "C");
  }

  bool in_used_libraries(const std::string& name, Misfit& misfit) const {
    for (const auto& [library, choice] : lane_.choices) {
      if (!choice.card) continue;
      const auto hit = header_meant(*choice.card, name);
      if (!hit) continue;
      if (!hit->as_written) {
        misfit.evidence.push_back(fmt::format("{} {} has {}", library, choice.card->version, hit->name));
        misfit.remedy = fmt::format("write #include <{}>", hit->name);
        if (auto change = include_change(misfit.place.file, misfit.place.line, name, hit->name))
          misfit.changes.push_back(std::move(*change));
        return true;
      }
      if (choice.chosen.verdict == Verdict::misfit) continue;
      misfit.evidence.push_back(fmt::format("{} has it, in {}", library, hit->path.string()));
      misfit.remedy = fmt::format(
          "it is in none of the include directories of the variant that was chosen, {}: correct "
          "directories in its card",
          choice.chosen.variant);
      return true;
    }
    return false;
  }

  bool in_project(const std::string& name, Misfit& misfit) {
    for (const auto& header : own_headers()) {
      const std::string shown = header.generic_string();
      const bool whole = shown == name;
      if (!whole && !shown.ends_with("/" + name)) continue;
      const std::string folder = whole ? "." : shown.substr(0, shown.size() - name.size() - 1);
      auto folders = output_->headers;
      folders.push_back(folder);
      misfit.evidence.push_back(fmt::format("the project has {}", shown));
      misfit.remedy = fmt::format("give output {} headers = {}", output_->name, toml::quote_list(folders));
      misfit.changes.push_back(
          {.kind = ProjectChange::Kind::add, .name = output_->name, .key = "headers", .value = folder});
      return true;
    }
    return false;
  }

  /// By a configure step that did not run: from a template, or as its script says.
  bool is_to_be_made(const std::string& name, Misfit& misfit) {
    const fs::path root = state_.project.root();
    const auto making = own_making(name, fs::path(misfit.place.file).parent_path(), root);
    if (making && making->line == 0) {
      misfit.evidence.push_back(
          fmt::format("{} says that the configure step makes it", shown_from(root, making->file)));
      misfit.remedy = fmt::format("run the configure step: it makes {}", making->made);
      return true;
    }
    own_headers();
    const std::string last = text::lower(fs::path(name).filename().string());
    for (const auto& file : templates_) {
      if (header_of_template(file.generic_string()) != last) continue;
      misfit.evidence.push_back(
          fmt::format("{} is the text that a configure step makes it from", file.generic_string()));
      misfit.remedy = fmt::format("run the configure step of {}'s folder", file.generic_string());
      return true;
    }
    if (!making) return false;
    const std::string makefile = shown_from(root, making->file);
    misfit.evidence.push_back(fmt::format("{}:{} is the rule that makes it", makefile, making->line));
    const fs::path folder = making->file.parent_path();
    misfit.remedy =
        "make it first: " + how_to_make(*making, folder == root ? "this folder" : shown_from(root, folder), root);
    return true;
  }

  const std::vector<fs::path>& own_headers() {
    if (own_headers_) return *own_headers_;
    own_headers_.emplace();
    std::map<fs::path, bool> foreign_folders;  // at the top: hidden ones, and shelves
    for (const auto& file : files_below(state_.project.root(), most_looked_at).value_or(std::vector<fs::path>())) {
      const auto [foreign, fresh] = foreign_folders.try_emplace(*file.begin());
      if (fresh)
        foreign->second = foreign->first.string().starts_with(".") || is_shelf(state_.project.root() / foreign->first);
      if (foreign->second) continue;
      if (is_header_name(file.string())) own_headers_->push_back(file);
      if (!header_of_template(file.string()).empty()) templates_.push_back(file);
    }
    return *own_headers_;
  }

  /// Attached to the project and not used by this output, or on the shelf alone.
  bool in_other_libraries(const std::string& name, Misfit& misfit) const {
    if (is_anybodys_header(name)) return false;
    const auto& attached = state_.project.libraries();
    for (const auto& library : libraries_to_ask(state_.shelf, state_.cache, {name})) {
      const auto versions = state_.shelf.versions(library);
      if (!versions || versions->empty()) continue;
      const auto hit = header_meant(versions->front(), name);
      if (!hit || !hit->as_written) continue;
      misfit.evidence.push_back(fmt::format("{} {} has it", library, versions->front().version));
      const bool known =
          std::any_of(attached.begin(), attached.end(), [&](const auto& use) { return use.name == library; });
      misfit.remedy = known ? fmt::format("add \"{}\" to uses of output {}", library, output_->name)
                            : fmt::format("attach it: fibula attach {}", library);
      misfit.changes.push_back(
          known
              ? ProjectChange{.kind = ProjectChange::Kind::add, .name = output_->name, .key = "uses", .value = library}
              : ProjectChange{.kind = ProjectChange::Kind::attach, .name = library});
      return true;
    }
    return false;
  }

  Gathered::State& state_;
  const GatheredLane& lane_;
  const Output* output_ = nullptr;
  fs::path source_;  ///< through which the files are read
  const Toolchain& toolchain_;
  std::vector<fs::path> directories_;              ///< the project's and its libraries'
  const std::vector<fs::path>* system_ = nullptr;  ///< the compiler's own, for the source's language
  std::set<std::string> shared_;                   ///< names in folders that are not made yet
  std::set<fs::path> seen_;
  std::set<std::string> told_;
  std::map<std::string, std::optional<fs::path>> found_;
  std::optional<std::vector<fs::path>> own_headers_;
  std::vector<fs::path> templates_;  ///< of headers that a configure step makes; filled with the headers
  std::vector<Misfit> said_;
};

}  // namespace

std::vector<Misfit> missing_includes(Gathered::State& state, const GatheredLane& lane, const Fit& fit) {
  // A compiler that does not tell where it looks, and one that looks into frameworks, find what is not seen here.
  if (fit.toolchain.include_directories.empty() || fit.toolchain.target.format == Format::macho) return {};
  return IncludeCheck(state, lane, fit).check();
}

}  // namespace fibula
