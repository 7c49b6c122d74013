#include "project/outline.hpp"

#include "base/text.hpp"
#include "card/placeholders.hpp"
#include "headers/include_lines.hpp"
#include "headers/well_known_headers.hpp"
#include "making/configure_script.hpp"
#include "os/files.hpp"
#include "os/stamp.hpp"
#include "project/handed_definitions.hpp"
#include "project/program_names.hpp"
#include "take/naming.hpp"
#include "take/sources/own_macros.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <iterator>
#include <map>

namespace fibula {
namespace {

/// Folders that builds fill.
constexpr std::string_view made_folders[] = {"build", "out", "obj", "objects", "bin", "dist", "debug", "release"};

bool is_made_or_hidden(const fs::path& file) {
  const fs::path folder = file.parent_path();
  return std::any_of(folder.begin(), folder.end(), [](const fs::path& part) {
    const std::string name = text::lower(part.string());
    return name.starts_with('.') ||
           std::find(std::begin(made_folders), std::end(made_folders), name) != std::end(made_folders);
  });
}

bool is_below_one_of(const std::vector<std::string>& folders, const std::string& file) {
  return std::any_of(folders.begin(), folders.end(),
                     [&](const std::string& folder) { return file.starts_with(folder + "/"); });
}

using Files = std::set<std::string>;

/// `tide-2.1` says it, or its configure step does.
std::string version_of(const fs::path& root) {
  const std::string called = split_name(root.filename().string()).version;
  const std::string said = called.empty() ? configured_version(root) : called;
  return said.empty() ? "unknown" : said;
}

/// Which of the system's declarations are wanted: `_GNU_SOURCE`, `_FILE_OFFSET_BITS` (feature_test_macros(7)).
bool is_of_system(const std::string& macro) {
  return macro.starts_with("_FILE_OFFSET") || macro.starts_with("_LARGEFILE") || macro.ends_with("_SOURCE");
}

/// Lanes say whether they are for debugging.
bool is_for_debugging(const std::string& macro) {
  return macro == "DEBUG" || macro == "NDEBUG";
}

/// Where headers are written of which only a template is there.
constexpr const char* made_folder = "configured";

class Outline {
 public:
  Outline(fs::path root, const std::vector<fs::path>& files, std::vector<std::string> libraries, const BuildsFor& lanes)
      : root_(std::move(root)),
        libraries_(std::move(libraries)),
        version_(version_of(root_)),
        handed_(handed_definitions(root_, files)),
        tree_name_(name_of_tree(root_)),
        automake_(automake_programs(root_, files)),
        code_(root_, files, lanes, handed_names(handed_)),
        for_linux_alone_(lanes.is_for_linux_alone()) {}

  Outlined outlined() {
    Outlined found;
    if (code_.compiled().empty()) return found;
    code_.leave_out_side_programs(automake_.only_tried);
    const fs::path place = unused_folder();
    found.headers = code_.made_headers((place / "").generic_string());
    for (auto& header : found.headers) {
      header.path = (place / header.path).generic_string();
      header.text = with_version(std::move(header.text), version_);
    }
    has_configuration_ = !found.headers.empty();
    for (const auto& header : found.headers) made_.emplace(header.path.substr(place.string().size() + 1), header.text);
    used_in_headers_ = names_used_in_headers();
    leave_out_uncalled_extras();
    found.outputs = outputs();
    if (!found.headers.empty()) {
      for (auto& output : found.outputs) output.headers.push_back(place.generic_string());
    }
    found.remarks = code_.remarks();
    return found;
  }

 private:
  /// Files that no program calls and that need what is not here: for options that nobody asked for.
  void leave_out_uncalled_extras() {
    const auto& mains = code_.mains();
    if (mains.empty()) return;
    const Definers definers = definers_in(code_.compiled());
    Files reached;
    for (const auto& main : mains) reached.merge(called_by(main, definers));
    code_.leave_out_incomplete(all_but(reached), names_in_libraries());
  }

  /// Of the files in libraries that lie here.
  Files names_in_libraries() const {
    Files names;
    for (const auto& library : libraries_) {
      for (const auto& file : files_below(root_ / library).value_or(std::vector<fs::path>()))
        names.insert(file.filename().string());
    }
    return names;
  }

  std::vector<Output> outputs() const {
    const auto& mains = code_.mains();
    if (mains.size() > 1) return several(mains);
    const bool none = mains.empty();
    return {output_of(none ? tree_name_ : name_of_sole_program(tree_name_, mains.front(), automake_),
                      none ? OutputKind::static_library : OutputKind::program, code_.compiled())};
  }

  /// Nothing that is there is written over.
  fs::path unused_folder() const {
    fs::path folder = made_folder;
    for (int number = 2; stamp_of(root_ / folder).there(); ++number) folder = fmt::format("{}-{}", made_folder, number);
    return folder;
  }

  Files all_but(const Files& others) const {
    Files files;
    std::set_difference(code_.compiled().begin(), code_.compiled().end(), others.begin(), others.end(),
                        std::inserter(files, files.end()));
    return files;
  }

  /// Each program with what it calls; what none calls goes to the one that lies nearest, as plug-ins of its own do.
  std::vector<Output> several(const std::vector<std::string>& mains) const {
    const Files all_mains(mains.begin(), mains.end());
    const Definers definers = definers_in(all_but(all_mains));
    std::vector<Files> sets;
    Files reached;
    for (const auto& main : mains) {
      sets.push_back(called_by(main, definers));
      if (const auto program = automake_.by_source.find(main); program != automake_.by_source.end())
        std::erase_if(sets.back(),
                      [&](const std::string& file) { return automake_.is_of_others(program->second, file); });
      reached.insert(sets.back().begin(), sets.back().end());
    }
    for (const auto& file : all_but(reached)) sets[nearest(mains, file)].merge(called_by(file, definers));
    std::vector<Output> outputs;
    std::set<std::string> taken;
    for (size_t i = 0; i < mains.size(); ++i) {
      std::string name = name_of_program(mains[i]);
      for (int number = 2; !taken.insert(name).second; ++number)
        name = name_of_program(mains[i]) + "-" + std::to_string(number);
      outputs.push_back(output_of(name, OutputKind::program, sets[i]));
    }
    return outputs;
  }

  /// As its makefile calls it; else `tools/show/main.c` is called after its folder.
  std::string name_of_program(const std::string& main) const {
    if (const auto known = automake_.by_source.find(main); known != automake_.by_source.end())
      return name_for_output(known->second);
    const fs::path path(main);
    const std::string stem = path.stem().string();
    if (stem != "main") return name_for_output(stem);
    const std::string folder = path.parent_path().filename().string();
    return folder.empty() || folder == "src" ? tree_name_ : name_for_output(folder);
  }

  using Definers = std::map<std::string, Files>;

  Definers definers_in(const Files& files) const {
    Definers definers;
    for (const auto& file : files) {
      for (const auto& name : code_.file(file).names.defines) definers[name].insert(file);
    }
    return definers;
  }

  /// A file with all that it calls, and what that calls.
  Files called_by(const std::string& first, const Definers& definers) const {
    Files reached{first};
    std::vector<std::string> open{first};
    while (!open.empty()) {
      const std::string file = std::move(open.back());
      open.pop_back();
      for (const auto& name : code_.tree().macros().with_expansions(code_.file(file).names.mentions)) {
        const auto found = definers.find(name);
        if (found == definers.end() || code_.file(file).names.defines.contains(name)) continue;
        for (const auto& definer : nearest_to(file, found->second)) {
          if (reached.insert(definer).second) open.push_back(definer);
        }
      }
    }
    return reached;
  }

  /// Two programs may each have a function of one name, in folders of their own.
  static Files nearest_to(const std::string& asking, const Files& files) {
    size_t most = 0;
    for (const auto& file : files) most = std::max(most, common_folders(file, asking));
    Files nearest;
    std::copy_if(files.begin(), files.end(), std::inserter(nearest, nearest.end()),
                 [&](const std::string& file) { return common_folders(file, asking) == most; });
    return nearest;
  }

  static size_t nearest(const std::vector<std::string>& mains, const std::string& file) {
    size_t best = 0, most = 0;
    for (size_t i = 0; i < mains.size(); ++i) {
      const auto differ = std::mismatch(mains[i].begin(), mains[i].end(), file.begin(), file.end());
      const auto same = static_cast<size_t>(differ.first - mains[i].begin());
      if (same > most) best = i;
      most = std::max(most, same);
    }
    return best;
  }

  Output output_of(std::string name, OutputKind kind, const Files& files) const {
    Output output{.name = std::move(name),
                  .kind = kind,
                  .sources = patterns_for(files),
                  .headers = folders_for(files),
                  .definitions = definitions_for(files)};
    for (const auto& [file, systems] : code_.only_for()) {
      if (files.contains(file)) output.only_for[file] = systems;
    }
    return output;
  }

  DefinedNames names_used_in_headers() const {
    DefinedNames used;
    for (const auto& header : code_.headers()) {
      const std::string text = read_text(root_ / header).value_or("");
      note_tested_names(text, used);
      for (const auto name : text::identifiers(text)) used.emplace(name);
    }
    return used;
  }

  /// What their own build would hand to the compiler, and nothing in the tree defines.
  std::vector<std::string> definitions_for(const Files& files) const {
    DefinedNames used = used_in_headers_;
    for (const auto& file : files) {
      note_tested_names(read_text(root_ / file).value_or(""), used);
      const auto& mentions = code_.file(file).names.mentions;
      used.insert(mentions.begin(), mentions.end());
    }
    std::vector<std::string> definitions;
    std::set<std::string> given;
    if (has_configuration_ && used.contains("HAVE_CONFIG_H")) {
      definitions.emplace_back("HAVE_CONFIG_H=1");
      given.insert("HAVE_CONFIG_H");
    }
    for (const auto& one : handed_) {
      const bool wanted = one.definition && (used.contains(one.name) || is_of_system(one.name)) &&
                          !is_for_debugging(one.name) && !code_.tree().macros().is_defined_here(one.name);
      if (wanted && given.insert(one.name).second) definitions.push_back(*one.definition);
    }
    for (const auto& one : definitions_of_own_build(code_.tree(), files, tree_name_, root_)) {
      if (given.insert(one.substr(0, one.find('='))).second) definitions.push_back(with_version(one, version_));
    }
    return definitions;
  }

  /// As a person would write them: a pattern where it means these files and no others, else each file.
  std::vector<std::string> patterns_for(const Files& files) const {
    std::vector<std::string> patterns;
    Files left = files;
    while (!left.empty()) {
      const fs::path path(*left.begin());
      const std::string top = path.has_parent_path() ? path.begin()->string() : "";
      const std::string ending = path.extension().string();
      const std::string folder = path.parent_path().generic_string();
      std::vector<std::string> wider;
      if (!top.empty()) wider.push_back(top + "/**/*" + ending);
      wider.push_back(folder.empty() ? "*" + ending : folder + "/*" + ending);
      auto pattern = *left.begin();
      for (const auto& candidate : wider) {
        if (!means_only(candidate, files)) continue;
        pattern = candidate;
        break;
      }
      patterns.push_back(pattern);
      std::erase_if(left, [&](const std::string& file) { return text::glob_matches(pattern, file); });
    }
    return patterns;
  }

  bool means_only(const std::string& pattern, const Files& files) const {
    return std::all_of(code_.all().begin(), code_.all().end(), [&](const std::string& file) {
      return !text::glob_matches(pattern, file) || files.contains(file);
    });
  }

  /// The folders in which the includes of these sources, and of the headers that they reach, are found.
  std::vector<std::string> folders_for(const Files& files) const {
    std::vector<std::string> folders;
    Files seen;
    std::vector<std::pair<std::string, std::vector<IncludeLine>>> open;
    for (const auto& file : files) open.emplace_back(file, code_.file(file).includes);
    while (!open.empty()) {
      const auto [file, includes] = std::move(open.back());
      open.pop_back();
      for (const auto& line : includes) {
        if (const auto made = made_.find(line.name); made != made_.end()) {
          if (seen.insert(line.name).second)
            open.emplace_back((fs::path(made_folder) / line.name).generic_string(), include_lines(made->second));
          continue;
        }
        const std::string header = header_for(line, file, folders);
        if (header.empty()) add_folder_of_library(line.name, folders);
        if (header.empty() || !seen.insert(header).second) continue;
        open.emplace_back(header, include_lines(read_text(root_ / header).value_or("")));
      }
    }
    std::sort(folders.begin(), folders.end());
    return folders;
  }

  /// The project's header that a line means; its folder joins `folders` where the compiler would not look by itself.
  std::string header_for(const IncludeLine& line, const std::string& from, std::vector<std::string>& folders) const {
    const auto beside = (fs::path(from).parent_path() / line.name).lexically_normal().generic_string();
    if (line.quoted && std::find(code_.headers().begin(), code_.headers().end(), beside) != code_.headers().end())
      return beside;
    const bool of_system = for_linux_alone_ ? comes_with_linux(line.name) : comes_with_compilers(line.name);
    if (!line.quoted && of_system) return {};
    const std::string* best = nullptr;
    for (const auto& header : code_.headers()) {
      if ((header != line.name && !header.ends_with("/" + line.name)) || !code_.serves_lanes(header)) continue;
      // One that is found already is the one; else the nearest to the top.
      const bool known = std::find(folders.begin(), folders.end(), folder_before(header, line.name)) != folders.end();
      if (known) return header;
      if (best == nullptr || header.size() < best->size()) best = &header;
    }
    if (best == nullptr) return {};
    folders.push_back(folder_before(*best, line.name));
    return *best;
  }

  /// A library that lies here may be included by its folder's name: `<tern/line.h>` of `deps/tern/line.h`.
  void add_folder_of_library(const std::string& name, std::vector<std::string>& folders) const {
    for (const auto& library : libraries_) {
      const fs::path folder(library);
      const std::string before = folder.filename().string() + "/";
      if (!name.starts_with(before) || !stamp_of(root_ / folder / name.substr(before.size())).is_file()) continue;
      const std::string parent = folder.has_parent_path() ? folder.parent_path().generic_string() : ".";
      if (std::find(folders.begin(), folders.end(), parent) == folders.end()) folders.push_back(parent);
    }
  }

  static std::string folder_before(const std::string& header, const std::string& name) {
    return header.size() == name.size() ? "." : header.substr(0, header.size() - name.size() - 1);
  }

  fs::path root_;
  std::vector<std::string> libraries_;  ///< folders that are no part of it
  std::string version_;                 ///< of what the tree makes
  std::vector<HandedDefinition> handed_;
  std::string tree_name_;
  AutomakePrograms automake_;
  ProjectCode code_;
  bool for_linux_alone_;
  DefinedNames used_in_headers_;
  std::map<std::string, std::string> made_;  ///< texts of headers that were made, by how they are included
  bool has_configuration_ = false;           ///< headers were made that a configure step would make
};

}  // namespace

Result<Outlined> outline(const fs::path& root, const std::vector<std::string>& skipped, const BuildsFor& lanes) {
  auto files = files_below(root);
  if (!files) return pass(files);
  // What another project makes is its own.
  std::vector<std::string> others = skipped;
  for (const auto& file : *files) {
    if (file.filename() == "fibula.toml" && file.has_parent_path())
      others.push_back(file.parent_path().generic_string());
  }
  std::erase_if(*files, [&](const fs::path& file) {
    return is_made_or_hidden(file) || is_below_one_of(others, file.generic_string());
  });
  return Outline(root, *files, skipped, lanes).outlined();
}

}  // namespace fibula
