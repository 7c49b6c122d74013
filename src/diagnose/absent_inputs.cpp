/// Inputs of a link that are not found: libraries by their names, files by their paths.
#include "base/text.hpp"
#include "diagnose/input_scene.hpp"
#include "diagnose/library_advice.hpp"
#include "index/shelf_names.hpp"

#include <algorithm>

namespace fibula {
namespace {

class Absent : private InputScene {
 public:
  using InputScene::InputScene;

  Finding not_found(const SceneInput& input) {
    const bool msvc = command_.family == CompilerFamily::msvc;
    const std::string name = msvc ? library_stem(input.asked.step.name) : input.asked.step.name;
    const std::string asked = msvc ? input.asked.step.name : "-l" + name;
    if (!input.passed_over.empty()) return passed_over(input);
    if (auto path = path_behind_l(input)) return *path;
    Finding finding = start("library-not-found", name);
    std::vector<std::string> searched;
    for (const auto& folder : command_.library_folders) searched.push_back(shown(folder));
    finding.because.push_back(
        searched.empty()
            ? fmt::format("the command names no folder for {}, and the compiler's own have none", asked)
            : fmt::format("{} is neither in {} nor in the compiler's own folders", asked, text::join(searched, ", ")));
    if (auto found = only_shared(input)) return *found;
    if (auto found = other_name(input)) return *found;
    if (const auto file = another({}, name)) {
      finding.culprits.push_back(shown(*file) + " is it");
      const fs::path folder = file->parent_path();
      const bool by_name =
          !msvc && find_library({folder}, name, scene_.toolchain().static_link, linking_of(scene_.toolchain()));
      finding.remedy = by_name ? fmt::format("name its folder: -L{}", shown(folder))
                               : fmt::format("name the file: {}", shown(*file));
      set_command(finding, command_,
                  by_name ? with_put_before(command_, {"-L" + shown(folder)})
                          : with_input_replaced(command_, input.asked.word, {shown(*file)}));
      return finding;
    }
    return nowhere(std::move(finding), input);
  }

  /// `-llib/libtide.a`: the file is there, and -l takes names.
  std::optional<Finding> path_behind_l(const SceneInput& input) {
    const fs::path& name = input.asked.step.name;
    const fs::path file = (command_.folder / name).lexically_normal();
    std::error_code ignored;
    if (!name.has_parent_path() || !fs::is_regular_file(file, ignored)) return std::nullopt;
    Finding finding = start("library-name", name.string());
    finding.culprits = {shown(file)};
    finding.because = {fmt::format("-l takes the name of a library, and {} is a path", name.string())};
    finding.remedy = fmt::format("name the file itself: {}", shown(file));
    set_command(finding, command_, with_input_replaced(command_, input.asked.word, {shown(file)}));
    return finding;
  }

  Finding nowhere(Finding finding, const SceneInput& input) {
    const std::string& name = input.asked.step.name;
    for (const auto& file : evidence_.libraries_near(command_)) {
      if (library_stem(file) != name) continue;
      // It is there, and does not serve: that is what keeps it from being found.
      if (auto why = evidence_.misfit(file, command_, scene_.toolchain())) {
        finding.cause = cause_of(*why, file);
        finding.culprits.push_back(shown(file));
        finding.because = why->evidence;
        finding.remedy = why->remedy;
        return finding;
      }
    }
    const Shelf& shelf = evidence_.context().shelf;
    const std::vector<std::string> file_names{
        "lib" + name + ".so",  "lib" + name + ".a", "lib" + name + ".dll.a", "lib" + name + ".dylib",
        "lib" + name + ".tbd", name + ".lib",       "lib" + name + ".lib",   name + ".a"};
    for (const auto& library : libraries_with_file(shelf, evidence_.context().cache, file_names)) {
      const auto cards = shelf.versions(library);
      for (const auto& variant : cards && !cards->empty() ? cards->front().variants : std::vector<Variant>()) {
        for (const auto& link : variant.link) {
          if (library_stem(link) != name || !same_family(variant.target, scene_.toolchain().target)) continue;
          finding.culprits.push_back((cards->front().root / link).string());
          finding.because.push_back(fmt::format("{} {} has it", library, cards->front().version));
          return advise_library(std::move(finding), library, cards->front().root / link, input);
        }
      }
    }
    std::vector<std::string> stems;
    for (const auto& folder : scene_.folders()) {
      for (const auto& file : files_directly_in(folder)) {
        if (has_library_name(file)) stems.push_back(library_stem(file));
      }
    }
    const std::string near = text::closest(name, stems);
    const std::string elsewhere = "install its development package, or take the library and attach it";
    const bool misspelt = !near.empty() && near != name;
    if (misspelt) finding.because.push_back(fmt::format("a library of a similar name is there: {}", near));
    finding.remedy = misspelt ? fmt::format("write -l{}, if that is meant; if not, {}", near, elsewhere) : elsewhere;
    return finding;
  }

  Finding advise_library(Finding finding, const std::string& library, const fs::path& file, const SceneInput& input) {
    const Project* project = evidence_.context().project;
    if (project != nullptr) {
      advise_using(finding, library, project, "link.rsp");
      return finding;
    }
    finding.remedy = "name the file: " + file.string();
    set_command(finding, command_, with_input_replaced(command_, input.asked.word, {file.string()}));
    return finding;
  }

  Finding passed_over(const SceneInput& input) {
    const fs::path& file = input.passed_over.front();
    Finding finding = start("architecture", input.asked.step.name);
    if (const auto why = evidence_.misfit(file, command_, scene_.toolchain())) {
      finding.cause = cause_of(*why, file);
      finding.because = why->evidence;
      finding.remedy = why->remedy;
    }
    finding.culprits.push_back(shown(file) + ", which linkers pass over");
    replace_by_another(finding, input, file, input.asked.step.name);
    return finding;
  }

  /// A static link, and only the shared form is there.
  std::optional<Finding> only_shared(const SceneInput& input) {
    const auto found = find_library(scene_.folders(), input.asked.step.name, false, linking_of(scene_.toolchain()));
    if (!found) return std::nullopt;
    Finding finding = start("linkage", input.asked.step.name);
    finding.culprits.push_back(shown(*found));
    finding.because = {fmt::format("{} is the only form of it that is there", shown(*found)),
                       "the command links statically: only archives are looked for"};
    finding.remedy = "get its archive (.a), or link without -static";
    Words words = command_.words;
    std::erase(words, "-static");
    std::erase(words, "-Wl,-Bstatic");
    if (words != command_.words) set_command(finding, command_, words);
    return finding;
  }

  /// The file is in a folder that is searched, in a form of name that the linker does not look for.
  std::optional<Finding> other_name(const SceneInput& input) {
    const std::string& name = input.asked.step.name;
    std::vector<fs::path> folders = command_.library_folders;
    if (folders.empty()) folders.push_back(command_.folder);
    if (!scene_.toolchain().library_directories.empty())
      folders.insert(folders.end(), scene_.toolchain().library_directories.begin(),
                     scene_.toolchain().library_directories.end());
    for (const auto& folder : folders) {
      for (const auto& each : files_directly_in(folder)) {
        const fs::path file = folder / each;
        if (!reads_as(file, name)) continue;
        const auto& facts = evidence_.facts(file);
        if (!facts || facts->kind.value == Kind::program || is_stranger(*facts)) continue;
        // Where folder is not searched, the folder is what is wrong.
        const bool searched = std::find(command_.library_folders.begin(), command_.library_folders.end(), folder) !=
                              command_.library_folders.end();
        if (!searched && folder == command_.folder &&
            find_library({folder}, name, false, linking_of(scene_.toolchain())))
          continue;
        Finding finding = start("library-name", name);
        finding.culprits.push_back(shown(file) + " is it");
        finding.because.push_back(fmt::format("for -l{} linkers look for lib{}.so and lib{}.a, and not for {}", name,
                                              name, name, file.filename().string()));
        finding.remedy = fmt::format("name the file itself: {}", shown(file));
        set_command(finding, command_, with_input_replaced(command_, input.asked.word, {shown(file)}));
        return finding;
      }
    }
    return std::nullopt;
  }

  /// `tide.a`, `libTide.a`, `libtide.so.2`, `libtide.lib` for `-ltide`; also `-llibtide` and `-ltide.a`.
  static bool reads_as(const fs::path& file, const std::string& name) {
    if (!has_library_name(file)) return false;
    std::string wanted = text::lower(fs::path(name).filename().string());
    for (const std::string_view ending : {".a", ".so", ".lib", ".dylib"}) {
      if (wanted.ends_with(ending)) wanted.erase(wanted.size() - ending.size());
    }
    std::string stem = text::lower(library_stem(file));
    if (stem == wanted) return true;
    if (wanted.starts_with("lib")) wanted.erase(0, 3);
    if (stem.starts_with("lib")) stem.erase(0, 3);
    return stem == wanted;
  }

  // A file that is named and not there.

  Finding absent(const SceneInput& input) {
    const size_t word = input.asked.word;
    const bool library = has_library_name(input.file);
    Finding finding = start(library ? "library-not-found" : "file-not-found", shown(input.file));
    finding.because.push_back(fmt::format("{} is not there", shown(input.file)));
    if (library) {
      if (const auto file = another(input.file, library_stem(input.file))) {
        finding.culprits.push_back(shown(*file));
        finding.remedy = fmt::format("name {}", shown(*file));
        set_command(finding, command_, with_input_replaced(command_, word, {shown(*file)}));
        return finding;
      }
    }
    finding.remedy =
        library ? "correct its path, or take the library and attach it" : "make it first, or correct its path";
    return finding;
  }
};

}  // namespace

Finding library_not_found(const LinkScene& scene, const SceneInput& input) {
  return Absent(scene).not_found(input);
}

Finding file_not_found(const LinkScene& scene, const SceneInput& input) {
  return Absent(scene).absent(input);
}

}  // namespace fibula
