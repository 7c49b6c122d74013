#include "fit/compile_plan.hpp"

#include "choose/source_plan.hpp"
#include "fit/shared_include.hpp"
#include "os/files.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <set>

namespace fibula {
namespace {

/// The header, archive and loader folders that the compiler searches by itself.
bool searched_already(const std::vector<fs::path>& known, const fs::path& folder) {
  std::error_code error;
  const fs::path real = fs::canonical(folder, error);
  return !error && std::find(known.begin(), known.end(), real) != known.end();
}

class CompilePlanner {
 public:
  CompilePlanner(const Project& project, const GatheredLane& lane)
      : project_(project), uses_(lane.uses), choices_(lane.choices) {
    fit_.lane = lane.lane;
    fit_.toolchain = lane.toolchain;
    fit_.folder = project.folder_of(lane.lane);
  }

  Fit plan() {
    for (const auto& output : project_.outputs()) {
      add_own(output);
      for (const auto& use : uses_.at(output.name)) add_library(use.name);
    }
    for (const auto& definition : fit_.lane.definitions)
      fit_.definitions.push_back({definition, fmt::format("lane {} asks for it", fit_.lane.name)});
    share_includes();
    for (const auto& output : project_.outputs()) add_compile(output);
    return std::move(fit_);
  }

 private:
  void add_own(const Output& output) {
    for (const auto& header : output.headers) {
      const fs::path path = absolute_path(project_.root() / header);
      const auto known = [&](const IncludeDirectory& d) { return d.path == path; };
      if (std::any_of(fit_.include_directories.begin(), fit_.include_directories.end(), known)) continue;
      fit_.include_directories.push_back({path, {}, fmt::format("headers of {}", output.name)});
    }
  }

  void add_library(const std::string& name) {
    if (!added_.insert(name).second) return;
    const Choice& choice = choices_.at(name);
    if (choice.card) {
      add_includes(choice);
      add_definitions(choice);
      add_runtime_files(choice);
      add_further_files(choice);
    }
    fit_.libraries.push_back(choice.chosen);
  }

  void add_includes(const Choice& choice) {
    // What its own steps install is known once they have run.
    if (choice.is_pending() && !choice.source->steps.empty()) return;
    for (const auto& directory : choice.card->include_directories_for(choice.variant)) {
      const fs::path path = (choice.card->root / directory).lexically_normal();
      // Naming a directory that the compiler searches anyway would change its place in the order. What lies on a shelf
      // is in none of them.
      if (choice.card->in_place && searched_already(fit_.toolchain.include_directories, path)) continue;
      fit_.include_directories.push_back({path, choice.use.name, fmt::format("headers of {}", choice.use.name)});
    }
  }

  /// Add-ons whose headers expect to lie among those of the library they belong to get one directory with it.
  void share_includes() {
    std::map<std::string, std::vector<const Card*>> together;  // by the library that they belong to
    for (const auto& [name, choice] : choices_) {
      if (!choice.card) continue;
      for (const auto& requirement : choice.card->requirements) {
        const auto base = choices_.find(requirement.library);
        if (!requirement.shared_include || base == choices_.end() || !base->second.card) continue;
        auto& cards = together[requirement.library];
        if (cards.empty()) cards.push_back(base->second.card);
        cards.push_back(choice.card);
      }
    }
    for (const auto& [base, cards] : together) {
      fit_.shared_headers.push_back({fit_.folder / "include" / base, headers_side_by_side(cards)});
      replace_includes(base, cards, fit_.shared_headers.back().folder);
    }
  }

  void replace_includes(const std::string& base, const std::vector<const Card*>& cards, const fs::path& folder) {
    std::string names;
    for (const Card* card : cards) names += (names.empty() ? "" : " and ") + card->name;
    const auto belongs = [&](const IncludeDirectory& directory) {
      return std::any_of(cards.begin(), cards.end(), [&](const Card* card) { return card->name == directory.library; });
    };
    auto& all = fit_.include_directories;
    const auto first = std::find_if(all.begin(), all.end(), belongs);
    const auto place = first - all.begin();
    std::erase_if(all, belongs);
    all.insert(all.begin() + std::min<std::ptrdiff_t>(place, std::ssize(all)),
               {folder, base, fmt::format("headers of {}, which expect to lie together", names)});
  }

  void add_compile(const Output& output) {
    OutputCompile compile{.output = output.name, .standard = output.standard, .definitions = {}, .flags = {}};
    for (const auto& flag : fit_.flags) compile.flags.push_back(flag.text);
    compile.flags.insert(compile.flags.end(), output.flags.begin(), output.flags.end());
    for (const auto& definition : output.definitions)
      compile.definitions.push_back({definition, fmt::format("output {} asks for it", output.name)});
    compile.definitions.insert(compile.definitions.end(), fit_.definitions.begin(), fit_.definitions.end());
    fit_.compiles.push_back(std::move(compile));
  }

  void add_definitions(const Choice& choice) {
    if (!choice.variant) return;
    for (const auto& definition : choice.variant->definitions) {
      fit_.definitions.push_back({definition, fmt::format("users of {} need it", choice.use.name)});
    }
    for (const auto& flag : choice.variant->flags)
      fit_.flags.push_back({flag, fmt::format("users of {} need it", choice.use.name)});
  }

  void add_runtime_files(const Choice& choice) {
    if (!choice.variant) return;
    for (const auto& file : choice.variant->runtime) {
      const fs::path path = choice.card->root / file;
      if (choice.card->in_place && searched_already(fit_.toolchain.library_directories, path.parent_path())) continue;
      fit_.runtime_files.push_back(
          {path, choice.use.name, fmt::format("the loader asks for it under the name {}", path.filename().string())});
    }
  }

  /// Where a file lies beside the program that lies among the library's files: as it does to a run-time file of the
  /// library, which lies beside the program; else `lib` and `bin` are where a prefix keeps what does.
  static std::string place_beside_program(const Choice& choice, const std::string& file) {
    for (const auto& runtime : choice.variant ? choice.variant->runtime : std::vector<std::string>()) {
      const std::string folder = fs::path(runtime).parent_path().generic_string();
      if (!folder.empty() && file.starts_with(folder + "/")) return file.substr(folder.size() + 1);
    }
    std::string to = file;
    for (const std::string_view folder : {"lib/", "bin/"}) {
      if (to.starts_with(folder)) to.erase(0, folder.size());
    }
    return to;
  }

  /// Plugins, data and licences keep the places that they have among the library's files.
  void add_further_files(const Choice& choice) {
    const auto add = [&](std::vector<RuntimeFile>& into, const std::vector<std::string>& files, std::string_view why) {
      for (const auto& file : files) {
        into.push_back({choice.card->root / file, choice.use.name, fmt::format("{} {}", choice.use.name, why),
                        place_beside_program(choice, file)});
      }
    };
    if (choice.variant) add(fit_.plugins, choice.variant->plugins, "opens it while the program runs");
    add(fit_.data_files, choice.card->files.data, "reads it while the program runs");
    for (const auto& licence : choice.card->files.licences)
      fit_.licence_files.push_back(
          {choice.card->root / licence, choice.use.name, fmt::format("licence of {}", choice.use.name),
           fmt::format("licences/{}/{}", choice.use.name, fs::path(licence).filename().string())});
  }

  const Project& project_;
  const std::map<std::string, std::vector<LibraryUse>>& uses_;
  const std::map<std::string, Choice>& choices_;
  std::set<std::string> added_;  ///< libraries
  Fit fit_;
};

}  // namespace

Fit compile_plan(const Project& project, const GatheredLane& lane) {
  return CompilePlanner(project, lane).plan();
}

void add_words(Fit& fit, const std::string& name, std::vector<Misfit> said) {
  if (said.empty()) return;
  for (auto& library : fit.libraries) {
    if (library.name != name) continue;
    for (auto& word : said) (objects(word) ? library.misfits : library.notes).push_back(std::move(word));
    library.verdict = std::max(library.verdict, worst(library.misfits));
  }
}

}  // namespace fibula
