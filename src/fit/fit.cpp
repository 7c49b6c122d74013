#include <fibula/fit.hpp>

#include "choose/library_set.hpp"
#include "choose/set_rules.hpp"
#include "fit/header_check.hpp"
#include "fit/header_order.hpp"
#include "headers/inclusions.hpp"
#include "fit/link_plan.hpp"
#include "fit/shared_include.hpp"
#include "os/files.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <map>
#include <optional>

namespace fibula {
namespace {

/// The header, archive and loader folders that the compiler searches by itself.
bool searched_already(const std::vector<fs::path>& known, const fs::path& folder) {
  std::error_code error;
  const fs::path real = fs::canonical(folder, error);
  return !error && std::find(known.begin(), known.end(), real) != known.end();
}

class Fitter {
 public:
  Fitter(const Cache& cache, FileStore& files, ProviderStore& providers, CardStore& cards, const Lock& lock, const Project& project,
         const Lane& lane, const Toolchain& toolchain)
      : cache_(cache), files_(files), providers_(providers), cards_(cards), lock_(lock), project_(project) {
    fit_.lane = lane;
    fit_.toolchain = toolchain;
    fit_.folder = project.folder_of(lane);
  }

  Result<Fit> fit() {
    find_uses();
    if (auto chosen = choose_libraries(); !chosen) return pass(chosen);
    for (const auto& output : project_.outputs()) {
      add_own(output);
      for (const auto& use : uses_.at(output.name)) add_library(use.name);
    }
    for (const auto& definition : fit_.lane.definitions)
      fit_.definitions.push_back({definition, fmt::format("lane {} asks for it", fit_.lane.name)});
    if (auto shared = share_includes(); !shared) return pass(shared);
    read_headers();
    judge_set();
    for (const auto& output : project_.outputs()) {
      if (output.kind == OutputKind::static_library) continue;
      if (auto planned = add_link(output); !planned) return pass(planned);
    }
    return std::move(fit_);
  }

 private:
  /// What every output uses, and what every library is used for.
  void find_uses() {
    for (const auto& output : project_.outputs()) {
      auto& uses = uses_[output.name] = project_.uses(output, fit_.lane);
      for (const auto& use : uses) {
        auto [purpose, fresh] = purposes_.try_emplace(use.name);
        auto& [program, shared, definitions] = purpose->second;
        if (fresh) definitions = fit_.lane.definitions;
        program = program || output.kind == OutputKind::program;
        shared = shared || output.kind == OutputKind::shared_library;
        definitions.insert(definitions.end(), output.definitions.begin(), output.definitions.end());
      }
    }
  }

  Chooser chooser() const { return {project_, fit_.lane, fit_.toolchain, cards_, &lock_}; }

  void add_own(const Output& output) {
    if (fit_.standard.empty()) fit_.standard = output.standard;
    for (const auto& header : output.headers) {
      const fs::path path = absolute_path(project_.root() / header);
      const auto known = [&](const IncludeDirectory& d) { return d.path == path; };
      if (std::any_of(fit_.include_directories.begin(), fit_.include_directories.end(), known)) continue;
      fit_.include_directories.push_back({path, {}, fmt::format("headers of {}", output.name)});
    }
  }

  /// One version of each library, of those that are required too; what uses the one then uses the other.
  Result<void> choose_libraries() {
    std::vector<Wanted> wanted;
    for (const auto& output : project_.outputs()) {
      for (const auto& use : uses_.at(output.name)) {
        const auto known = [&](const Wanted& one) { return one.use.name == use.name; };
        if (std::none_of(wanted.begin(), wanted.end(), known)) wanted.push_back({use, purposes_.at(use.name)});
      }
    }
    auto set = choose_set(wanted, chooser());
    if (!set) return pass(set);
    choices_ = std::move(set->choices);
    for (auto& [output, uses] : uses_) {
      for (size_t i = 0; i < uses.size(); ++i) {
        for (const auto& required : set->requires_[uses[i].name]) {
          const auto known = [&](const LibraryUse& use) { return use.name == required; };
          if (std::none_of(uses.begin(), uses.end(), known)) uses.push_back(choices_.at(required).use);
        }
      }
    }
    return {};
  }

  void add_library(const std::string& name) {
    const auto known = [&](const ChosenLibrary& library) { return library.name == name; };
    if (std::any_of(fit_.libraries.begin(), fit_.libraries.end(), known)) return;
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
    for (const auto& directory : choice.card->include_directories_for(choice.variant)) {
      const fs::path path = (choice.card->root / directory).lexically_normal();
      // Naming a directory that the compiler searches anyway would change its place in the order. What lies on a shelf
      // is in none of them.
      if (choice.card->in_place && searched_already(fit_.toolchain.include_directories, path)) continue;
      fit_.include_directories.push_back({path, choice.use.name, fmt::format("headers of {}", choice.use.name)});
    }
  }

  /// Add-ons whose headers expect to lie among those of the library they belong to get one directory with it.
  Result<void> share_includes() {
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
      const fs::path folder = fit_.folder / "include" / base;
      if (auto gathered = gather_headers(folder, cards); !gathered) return gathered;
      replace_includes(base, cards, folder);
    }
    return {};
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

  void add_definitions(const Choice& choice) {
    if (!choice.variant) return;
    for (const auto& definition : choice.variant->definitions) {
      fit_.definitions.push_back({definition, fmt::format("users of {} need it", choice.use.name)});
    }
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

  /// Plugins, data and licences keep the places that they have among the library's files; `lib` and `bin` are where a
  /// prefix keeps what lies beside the program here.
  void add_further_files(const Choice& choice) {
    const auto add = [&](std::vector<RuntimeFile>& into, const std::vector<std::string>& files, std::string_view why) {
      for (const auto& file : files) {
        std::string to = file;
        for (const std::string_view folder : {"lib/", "bin/"}) {
          if (to.starts_with(folder)) to.erase(0, folder.size());
        }
        into.push_back({choice.card->root / file, choice.use.name, fmt::format("{} {}", choice.use.name, why), to});
      }
    };
    if (choice.variant) add(fit_.plugins, choice.variant->plugins, "opens it while the program runs");
    add(fit_.data_files, choice.card->files.data, "reads it while the program runs");
    for (const auto& licence : choice.card->files.licences)
      fit_.licence_files.push_back(
          {choice.card->root / licence, choice.use.name, fmt::format("licence of {}", choice.use.name),
           fmt::format("licences/{}/{}", choice.use.name, fs::path(licence).filename().string())});
  }

  /// What the headers say comes last: it needs every include directory and definition of the lane.
  void read_headers() {
    static const Variant no_binaries;
    const auto files = cxx_files();
    HeaderLane lane{fit_.toolchain, fit_.toolchain.cxx && !files.empty(), fit_.lane.flags, {}, {}, fit_.standard};
    for (const auto& definition : fit_.definitions) lane.definitions.push_back(definition.text);
    for (const auto& directory : fit_.include_directories) lane.include_directories.push_back(directory.path);
    const auto included = included_as_cxx(files);
    std::vector<LibraryHeaders> libraries;
    for (const auto& [name, choice] : choices_) libraries.push_back(headers_of(choice, included));
    const auto readings = fibula::read_headers(lane, libraries, cache_);
    size_t at = 0;
    for (const auto& [name, choice] : choices_) {
      const HeaderReading& reading = readings[at++];
      if (!choice.card || choice.card->public_headers.empty()) continue;
      const Variant& variant = choice.variant ? *choice.variant : no_binaries;
      add_words(name, match_headers(pairing_of(*choice.card, variant, choice, chooser()), reading));
    }
  }

  /// The project's own C++: sources, and the headers beside them when there are such sources.
  std::vector<fs::path> cxx_files() const {
    std::vector<fs::path> files;
    const auto is_cxx = [](const fs::path& path) {
      return path.extension() != ".c" && path.extension() != ".s" && path.extension() != ".S";
    };
    for (const auto& output : project_.outputs()) {
      for (auto& source : project_.sources(output)) {
        if (is_cxx(source)) files.push_back(std::move(source));
      }
    }
    if (files.empty()) return files;
    for (const auto& output : project_.outputs()) {
      for (const auto& folder : output.headers) {
        for (auto& header : files_matching(project_.root(), folder + "/**/*.h*")) files.push_back(std::move(header));
      }
    }
    return files;
  }

  void judge_set() {
    std::vector<const Choice*> chosen;
    for (const auto& [name, choice] : choices_) chosen.push_back(&choice);
    for (auto& word : match_set(chosen, fit_.toolchain)) {
      const std::string library = word.library;
      add_words(library, {std::move(word)});
    }
    for (auto& word : hidden_headers(fit_.include_directories, choices_)) {
      const std::string library = word.library;
      add_words(library, {std::move(word)});
    }
  }

  void add_words(const std::string& name, std::vector<Misfit> said) {
    for (auto& library : fit_.libraries) {
      if (library.name != name) continue;
      for (auto& word : said) (objects(word) ? library.misfits : library.notes).push_back(std::move(word));
      library.verdict = std::max(library.verdict, worst(library.misfits));
    }
  }

  Result<void> add_link(const Output& output) {
    LinkQuestion question{project_, fit_.lane, fit_.toolchain, cards_.shelf(), output, {}};
    for (const auto& use : uses_.at(output.name)) question.choices.push_back(choices_.at(use.name));
    auto plan = plan_link(files_, providers_, question);
    if (!plan) return pass(plan);
    fit_.links.push_back(std::move(plan->link));
    // A library that was refused explains what is missing; saying it twice would hide the cause.
    const auto refused = [](const Choice& choice) { return choice.chosen.verdict == Verdict::misfit; };
    if (std::any_of(question.choices.begin(), question.choices.end(), refused)) return {};
    for (auto& misfit : plan->misfits) fit_.link_misfits.push_back(std::move(misfit));
    return {};
  }

  const Cache& cache_;
  FileStore& files_;
  ProviderStore& providers_;
  CardStore& cards_;
  const Lock& lock_;
  const Project& project_;
  Fit fit_;
  std::map<std::string, std::vector<LibraryUse>> uses_;  ///< by output
  std::map<std::string, Purpose> purposes_;              ///< by library
  std::map<std::string, Choice> choices_;
};

}  // namespace

std::vector<Misfit> Fit::misfits() const {
  std::vector<Misfit> all = link_misfits;
  for (const auto& library : libraries) all.insert(all.end(), library.misfits.begin(), library.misfits.end());
  std::stable_sort(all.begin(), all.end(), [](const Misfit& a, const Misfit& b) { return a.verdict > b.verdict; });
  return all;
}

Verdict Fit::verdict() const {
  Verdict verdict = worst(link_misfits);
  for (const auto& library : libraries) verdict = std::max(verdict, library.verdict);
  return verdict;
}

const OutputLink* Fit::link(const std::string& output) const {
  for (const auto& link : links) {
    if (output.empty() || link.output == output) return &link;
  }
  return nullptr;
}

namespace {

/// A lane in which nothing of the project can be made: microcontrollers have nobody to load a shared library.
std::optional<Error> useless(const Project& project, const Lane& lane, const Toolchain& toolchain) {
  const auto& outputs = project.outputs();
  const auto is_shared = [](const Output& output) { return output.kind == OutputKind::shared_library; };
  if (outputs.empty() || !toolchain.bare_metal() || !std::all_of(outputs.begin(), outputs.end(), is_shared))
    return std::nullopt;
  return Error{.code = Code::refused,
               .what = fmt::format("lane {} can make none of the outputs: all are shared libraries, and {} makes code "
                                   "for a machine without a loader",
                                   lane.name, lane.compiler),
               .file = project.file().string(),
               .place = lane.place,
               .hint = "remove the lane, or add an output of kind program or static-library"};
}

}  // namespace

std::vector<Result<Fit>> fit_all(const Project& project, const std::vector<Lane>& lanes, const Shelf& shelf,
                                 const FitOptions& options) {
  std::vector<Question> questions;
  for (const auto& lane : lanes) questions.push_back({lane.compiler, lane.flags});
  auto answers = ask_all(questions, options.cache);
  FileStore files;
  ProviderStore providers(options.cache);
  const Shelf shelves = project.shelf(shelf);
  CardStore cards(shelves);
  cards.read_ahead(project.libraries());
  const auto lock = options.anew ? Result<Lock>(Lock()) : Lock::read(project);
  std::vector<Result<Fit>> fits;
  if (!lock) return {lanes.size(), fail(lock.error())};
  for (size_t i = 0; i < lanes.size(); ++i) {
    if (!answers[i]) {
      Error error = answers[i].error();
      error.what = fmt::format("compiler of lane {}: {}", lanes[i].name, error.file + " " + error.what);
      error.file = project.file().string();
      error.place = lanes[i].place;
      fits.emplace_back(fail(std::move(error)));
      continue;
    }
    if (auto error = useless(project, lanes[i], *answers[i])) {
      fits.emplace_back(fail(std::move(*error)));
      continue;
    }
    fits.push_back(Fitter(options.cache, files, providers, cards, *lock, project, lanes[i], *answers[i]).fit());
  }
  return fits;
}

Result<Fit> fit(const Project& project, const Lane& lane, const Shelf& shelf) {
  return std::move(fit_all(project, {lane}, shelf, {}).front());
}

}  // namespace fibula
