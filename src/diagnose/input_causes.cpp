/// What is wrong with the files that a link is given.
#include "base/quoting.hpp"
#include "base/text.hpp"
#include "diagnose/built_elsewhere.hpp"
#include "diagnose/findings.hpp"
#include "diagnose/library_advice.hpp"
#include "diagnose/split_words.hpp"
#include "facts/library_name.hpp"
#include "index/shelf_names.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

using StepKind = LinkStep::Kind;

class Inputs {
 public:
  explicit Inputs(const LinkScene& scene) : scene_(scene), command_(scene.command()), evidence_(scene.evidence()) {}

  std::vector<Finding> judge() {
    for (const auto& input : scene_.inputs()) {
      if (auto finding = judge_input(input)) findings_.push_back(std::move(*finding));
    }
    // A path in two words is why something is missing.
    if (auto split = findings_.empty() ? std::nullopt : path_in_two_words(command_, "link")) return {std::move(*split)};
    return std::move(findings_);
  }

 private:
  std::optional<Finding> judge_input(const SceneInput& input) {
    const StepKind kind = input.asked.step.kind;
    if (kind == StepKind::library && input.file.empty()) return not_found(input);
    if (kind != StepKind::file && kind != StepKind::library) return std::nullopt;
    if (input.compiled || input.of_unknown_form || !input.own) return std::nullopt;
    std::error_code ignored;
    if (!fs::exists(input.file, ignored)) return absent(input);
    if (const auto& facts = evidence_.facts(input.file); !facts) return unreadable(input, facts.error());
    if (auto finding = script_of_elsewhere(scene_, input)) return finding;
    if (auto finding = odd_archive(input)) return finding;
    if (auto finding = wrong_linkage(input)) return finding;
    return misfit(input);
  }

  std::string shown(const fs::path& file) const { return shown_in(scene_, file); }

  Finding start(const char* cause, const std::string& subject) const {
    return {.cause = cause, .stage = "link", .subject = subject, .certainty = "read"};
  }

  /// Another file of the same library that serves; the nearest one.
  std::optional<fs::path> another(const fs::path& instead_of, const std::string& stem) {
    for (const auto& file : evidence_.libraries_near(command_)) {
      if (file == instead_of || library_stem(file) != stem) continue;
      if (scene_.toolchain().static_link && file.extension() != ".a" && file.extension() != ".lib") continue;
      const auto& facts = evidence_.facts(file);
      if (facts && facts->kind.value != Kind::program && !is_stranger(*facts) &&
          !evidence_.misfit(file, command_, scene_.toolchain()))
        return file;
    }
    return std::nullopt;
  }

  bool is_stranger(const Facts& facts) const {
    const Target& wanted = scene_.toolchain().target;
    return facts.arch.value && (*facts.arch.value != wanted.arch ||
                                family_of(facts.format.value.value_or(wanted.format)) != family_of(wanted.format));
  }

  // A library that no directory has.

  std::optional<Finding> not_found(const SceneInput& input) {
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
    if (auto found = only_shared(input)) return found;
    if (auto found = other_name(input)) return found;
    if (const auto file = another({}, name)) {
      finding.culprits.push_back(shown(*file) + " is it");
      const fs::path folder = file->parent_path();
      finding.remedy =
          msvc ? fmt::format("name the file: {}", shown(*file)) : fmt::format("name its folder: -L{}", shown(folder));
      set_command(finding, command_,
                  msvc ? with_input_replaced(command_, input.asked.word, {shown(*file)})
                       : with_put_before(command_, {"-L" + shown(folder)}));
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
    finding.remedy = "install its development package, or take the library and attach it";
    if (!near.empty() && near != name)
      finding.remedy += fmt::format("; a library of a similar name is there: -l{}", near);
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

  std::optional<Finding> passed_over(const SceneInput& input) {
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

  std::optional<Finding> absent(const SceneInput& input) {
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

  // A file that is no library, or is damaged.

  Finding unreadable(const SceneInput& input, const Error& error) {
    const bool damaged = error.code == Code::truncated || error.code == Code::malformed;
    const bool gone = error.code == Code::absent;
    Finding finding = start(damaged ? "damaged-file" : gone ? "thin-member-gone" : "not-a-library", shown(input.file));
    finding.culprits.push_back(shown(input.file));
    finding.because.push_back(render(error));
    finding.remedy = error.hint.empty() ? "get the file again" : error.hint;
    // A description of libtool's lies beside the library that it describes.
    const bool described = input.file.extension() == ".la";
    replace_by_another(finding, input, input.file,
                       library_stem(described ? fs::path(input.file).replace_extension(".a") : input.file));
    return finding;
  }

  std::optional<Finding> odd_archive(const SceneInput& input) {
    const auto opened = evidence_.files().open(input.file, scene_.toolchain().target);
    if (!opened) {
      const bool slices = evidence_.facts(input.file) && !evidence_.facts(input.file)->slices.empty();
      if (!slices) return unreadable(input, opened.error());
      Finding finding = start("slice-missing", shown(input.file));
      finding.culprits.push_back(shown(input.file));
      finding.because = {render(opened.error()),
                         fmt::format("the command links {}", to_string(scene_.toolchain().target))};
      finding.remedy = fmt::format("get a build that has a slice for {}", to_string(scene_.toolchain().target.arch));
      replace_by_another(finding, input, input.file, library_stem(input.file));
      return finding;
    }
    const Archive* archive = (*opened)->archive();
    if (archive == nullptr) return std::nullopt;
    if (auto gone = missing_member(input, **opened, *archive)) return gone;
    if (archive->has_index || archive->members.empty() || !scene_.traits().wants_index) return std::nullopt;
    if (evidence_.misfit(input.file, command_, scene_.toolchain())) return std::nullopt;
    Finding finding = start("no-symbol-table", shown(input.file));
    finding.culprits.push_back(shown(input.file));
    finding.because = {
        fmt::format("{} has {} and no symbol table", shown(input.file), text::count(archive->members.size(), "member")),
        "linkers find members by that table"};
    finding.edit = "ranlib " + shell_word(shown(input.file));
    finding.remedy = "make the table: " + finding.edit;
    return finding;
  }

  std::optional<Finding> missing_member(const SceneInput& input, LinkFile& file, const Archive& archive) {
    if (!archive.thin) return std::nullopt;
    for (uint32_t i = 0; i < archive.members.size(); ++i) {
      const auto object = file.object(i);
      if (object || object.error().code != Code::absent) continue;
      Finding finding = start("thin-member-gone", shown(input.file));
      finding.culprits.push_back(shown(input.file));
      finding.because = {fmt::format("{} is a thin archive: its members are files of their own", shown(input.file)),
                         render(object.error())};
      finding.remedy = "bring the member's file back, or make an ordinary archive where the members are";
      replace_by_another(finding, input, input.file, library_stem(input.file));
      return finding;
    }
    return std::nullopt;
  }

  std::optional<Finding> wrong_linkage(const SceneInput& input) {
    const auto& facts = evidence_.facts(input.file);
    const bool shared = facts->kind.value == Kind::shared_library || facts->kind.value == Kind::plugin;
    if (!shared || is_stranger(*facts)) return std::nullopt;
    const bool dll = family_of(*facts->format.value) == Format::pe && command_.family == CompilerFamily::msvc;
    const bool stat = scene_.toolchain().static_link && facts->format.value == Format::elf;
    if (!dll && !stat) return std::nullopt;
    Finding finding = start("linkage", shown(input.file));
    finding.culprits.push_back(shown(input.file));
    finding.because = dll ? std::vector<std::string>{fmt::format("{} is a DLL", shown(input.file)),
                                                     "MSVC-style linkers take its import library instead"}
                          : std::vector<std::string>{fmt::format("{} is a shared library", shown(input.file)),
                                                     "the command links statically"};
    finding.remedy =
        dll ? "name the import library (.lib) that comes with it" : "name its archive (.a), or link without -static";
    replace_by_another(finding, input, input.file, library_stem(input.file));
    if (finding.command.empty() && stat) {
      Words words = command_.words;
      std::erase(words, "-static");
      if (words != command_.words) set_command(finding, command_, words);
    }
    return finding;
  }

  // A file that is sound and does not fit.

  std::optional<Finding> misfit(const SceneInput& input) {
    const auto why = evidence_.misfit(input.file, command_, scene_.toolchain());
    // What only programs meet that are started is no reason for a link to fail.
    static constexpr std::string_view other_reasons[] = {"linkage", "entry", "sanitizer", "soname"};
    if (!why || std::find(std::begin(other_reasons), std::end(other_reasons), why->rule) != std::end(other_reasons))
      return std::nullopt;
    const bool direct = command_.tool == Tool::linker;
    const bool told_by_files = why->rule == "object-format" || why->rule == "architecture";
    // A linker that is called directly has no compiler's answers to compare with.
    if (direct && !told_by_files) return std::nullopt;
    Finding finding = start("", shown(input.file));
    finding.cause = cause_of(*why, input.file);
    finding.culprits.push_back(shown(input.file));
    finding.because = why->evidence;
    finding.remedy = why->remedy;
    replace_by_another(finding, input, input.file, library_stem(input.file));
    return finding;
  }

  std::string cause_of(const Misfit& why, const fs::path& file) {
    const auto& facts = evidence_.facts(file);
    if (facts && !facts->slices.empty() && (why.rule == "architecture" || why.rule == "object-format"))
      return "slice-missing";
    if (why.rule == "toolset") return facts && facts->link_time.value ? "lto-toolset" : "toolchain-family";
    if (why.rule == "cxx-runtime" && family_of(scene_.toolchain().target.format) == Format::pe)
      return "toolchain-family";
    if (why.rule == "c-runtime" && facts && facts->c_runtime.value &&
        facts->c_runtime.value->starts_with("msvc-") != (command_.family == CompilerFamily::msvc))
      return "toolchain-family";
    return why.rule;
  }

  void replace_by_another(Finding& finding, const SceneInput& input, const fs::path& file, const std::string& stem) {
    const auto other = another(file, stem);
    if (!other) return;
    finding.remedy = fmt::format("{} fits: name that", shown(*other));
    set_command(finding, command_, with_input_replaced(command_, input.asked.word, {shown(*other)}));
  }

  const LinkScene& scene_;
  const ToolCommand& command_;
  Evidence& evidence_;
  std::vector<Finding> findings_;
};

}  // namespace

std::vector<Finding> input_findings(const LinkScene& scene) {
  return Inputs(scene).judge();
}

}  // namespace fibula
