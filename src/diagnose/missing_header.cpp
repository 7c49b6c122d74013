#include "diagnose/compile_scene.hpp"

#include "diagnose/header_places.hpp"
#include "diagnose/library_advice.hpp"
#include "diagnose/project_change.hpp"
#include "headers/well_known_headers.hpp"
#include "project/include_change.hpp"
#include "project/own_making.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

class MissingHeader : private CompileScene {
 public:
  using CompileScene::CompileScene;

  Finding find(const Complaint& complaint) {
    Finding finding = start("header-not-found", complaint.name);
    const Position at = position_of(complaint.user);
    finding.because.push_back(at.line == 0 ? fmt::format("{} includes {}", at.file, complaint.name)
                                           : fmt::format("{}:{} includes {}", at.file, at.line, complaint.name));
    const HeaderPlaces places(command_, evidence_, place(at.file), complaint.name);
    if (auto split = in_two_words()) return *split;
    if (compiler_has(complaint.name)) {
      if (auto folder = folder_in_the_way(complaint, *command_, evidence_)) return *folder;
    }
    if (const auto standard = is_quoted(at) ? StandardHeader::none : standard_header(complaint.name);
        standard != StandardHeader::none)
      return standard_missing(std::move(finding), standard);
    const bool by_system = is_of_compiler(place(at.file));
    if (by_system && is_of_c_library(complaint.name)) return part_missing(std::move(finding));
    // Nobody corrects a header of the system's.
    if (const auto hit = by_system ? std::nullopt : places.spelled_otherwise())
      return spelled(std::move(finding), at, *hit);
    if (const auto generated = places.to_be_generated()) return to_generate(std::move(finding), *generated);
    // A project uses libraries by their names: a folder that lies about is what people without one would add.
    const bool in_project = evidence_.context().project != nullptr;
    for (const bool shelf : {in_project, !in_project}) {
      const auto hit = shelf ? places.on_shelf() : std::nullopt;
      if (hit) return on_shelf(std::move(finding), at, *hit);
      const auto near = shelf ? std::nullopt : places.near();
      if (near) return in_folder(std::move(finding), complaint, *near);
    }
    if (const auto system = other_system_of_header(complaint.name, triple())) {
      finding.cause = "wrong-platform";
      finding.because.push_back(fmt::format("{} is a header of {}", complaint.name, *system));
      finding.remedy = "build for that system, or take out what needs it (its own headers test for the system first)";
      return finding;
    }
    if (const auto near = places.near_with_other_ending()) return in_folder(std::move(finding), complaint, *near);
    if (const auto near = places.near_in_other_letters()) return in_folder(std::move(finding), complaint, *near);
    if (const auto deep = places.in_system_folder()) return in_folder(std::move(finding), complaint, *deep);
    finding.because.push_back(
        fmt::format("no folder of the command has it, nor anything near, nor a library on the shelf {}",
                    evidence_.context().shelf.shown()));
    finding.remedy =
        "take the library that it belongs to onto the shelf, then attach it; or correct the name in the #include";
    return finding;
  }

 private:
  /// The command's, where its compiler is here to be asked; else null.
  const Toolchain* toolchain() const {
    const auto* asked = command_ != nullptr && can_try() ? &evidence_.toolchain(*command_) : nullptr;
    return asked != nullptr && *asked ? &**asked : nullptr;
  }

  std::string triple() const { return toolchain() != nullptr ? toolchain()->triple : std::string(); }

  /// Whether a file lies in a folder that the compiler searches by itself.
  bool is_of_compiler(const fs::path& file) const {
    if (toolchain() == nullptr) return false;
    const auto& own = toolchain()->include_directories;
    return std::any_of(own.begin(), own.end(), [&](const fs::path& folder) { return is_inside(folder, file); });
  }

  /// What comes with the compiler, and no folder of it has.
  Finding standard_missing(Finding finding, StandardHeader standard) {
    const bool cxx = standard == StandardHeader::of_cxx;
    finding.because.push_back(
        fmt::format("{} is a header of the standard library of {}", finding.subject, cxx ? "C++" : "C"));
    if (cxx && command_ != nullptr && !command_->sources.empty() && !is_cxx_command()) {
      finding.cause = "header-needs-language";
      finding.because.emplace_back("the command compiles C");
      finding.remedy = "it is C++: name the source .cpp and compile and link with a C++ compiler";
      if (can_try()) edit_command(finding, as_cxx());
      return finding;
    }
    if (auto without = without_nostdinc(finding)) return std::move(*without);
    finding.cause = "toolchain-missing";
    finding.because.emplace_back("no folder of the compiler's has it");
    for (const auto& word : command_ == nullptr ? Words() : command_->words) {
      if (word.starts_with("--sysroot=")) finding.culprits.push_back(word.substr(10));
    }
    finding.remedy =
        !finding.culprits.empty() ? "name a sysroot that has usr/include of the target system"
        : cxx ? "use a newer compiler or C++ library, where this one is too old for it; else install the C++ "
                "library's headers"
              : "install the C library's headers for what the command makes code for";
    return finding;
  }

  /// `-nostdinc`: the compiler's own folders are left out.
  std::optional<Finding> without_nostdinc(Finding finding) {
    if (!can_try()) return std::nullopt;
    Words words = command_->words;
    std::erase_if(words, [](const std::string& word) { return word == "-nostdinc" || word == "-nostdinc++"; });
    if (words == command_->words || !compiles(words)) return std::nullopt;
    finding.cause = "option-in-the-way";
    finding.because.emplace_back("the command leaves out the compiler's own folders (-nostdinc)");
    finding.remedy = "leave out -nostdinc";
    edit_command(finding, words);
    return finding;
  }

  /// Folders that the C library and the kernel's interface have anew for each machine.
  static bool is_of_c_library(const std::string& name) {
    static constexpr std::string_view folders[] = {"asm/", "bits/", "gnu/", "sys/"};
    return std::any_of(std::begin(folders), std::end(folders), [&](std::string_view f) { return name.starts_with(f); });
  }

  Finding part_missing(Finding finding) const {
    finding.cause = "toolchain-missing";
    finding.because.emplace_back("it belongs to the C library's headers, and no folder of the compiler's has it");
    finding.remedy =
        "install the C library's headers for what the command makes code for (Debian: gcc-multilib for -m32, "
        "libc6-dev-MACHINE-cross for another machine)";
    return finding;
  }

  /// In a folder of its own, that is: something keeps it from looking there.
  bool compiler_has(const std::string& name) const {
    const auto& toolchain = command_ != nullptr && can_try() ? &evidence_.toolchain(*command_) : nullptr;
    if (toolchain == nullptr || !*toolchain) return false;
    const auto& own = (*toolchain)->include_directories;
    std::error_code ignored;
    return std::any_of(own.begin(), own.end(),
                       [&](const fs::path& folder) { return fs::is_regular_file(folder / name, ignored); });
  }

  Finding spelled(Finding finding, const Position& at, const HeaderPlace& hit) {
    finding.cause = "header-name";
    finding.culprits.push_back(shown(hit.file));
    finding.because.push_back(fmt::format("{} is what is there", shown(hit.file)));
    if (hit.name == finding.subject && !is_quoted(at)) return in_quotes(std::move(finding), at, hit);
    finding.remedy = "write " + include_of(at, hit.name);
    write_include(finding, at, hit.name);
    if (command_ != nullptr && !hit.folder.empty()) {
      const Words words = with_folder(hit.folder);
      if (compiles(words)) {
        finding.remedy += fmt::format(", or add its folder: -I{}", shown(hit.folder));
        edit_command(finding, words);
      }
    }
    return finding;
  }

  /// What came is never written to: it would not be what its digests say.
  bool is_on_shelf(const fs::path& file) const {
    const auto places = evidence_.context().shelf.places();
    return std::any_of(places.begin(), places.end(),
                       [&](const Shelf& place) { return !place.folder().empty() && is_inside(place.folder(), file); });
  }

  /// Another name in an `#include`.
  void write_include(Finding& finding, const Position& at, const std::string& name) const {
    if (is_on_shelf(place(at.file))) return;
    auto change = include_change(place(at.file), at.line, finding.subject, name);
    if (!change) return;
    finding.edit = to_string(*change, folder());
    finding.changes.push_back(std::move(*change));
  }

  /// It lies beside the one who includes it, where names in angle brackets are not looked for.
  Finding in_quotes(Finding finding, const Position& at, const HeaderPlace& hit) const {
    finding.remedy = fmt::format("write #include \"{}\"", hit.name);
    write_include(finding, at, fmt::format("\"{}\"", hit.name));
    return finding;
  }

  bool is_quoted(const Position& at) const { return line_of(place(at.file), at.line).find('"') != std::string::npos; }
  /// Between the signs that the line has now.
  std::string include_of(const Position& at, const std::string& name) const {
    const bool quoted = is_quoted(at);
    return fmt::format("#include {}{}{}", quoted ? '"' : '<', name, quoted ? '"' : '>');
  }

  Finding to_generate(Finding finding, const HeaderPlace& hit) const {
    finding.cause = "header-generated";
    finding.culprits.push_back(shown(hit.file));
    if (hit.line != 0) {
      finding.because.push_back(fmt::format("{}:{} is the rule that makes it", shown(hit.file), hit.line));
      finding.remedy = "make it first: " +
                       how_to_make({hit.file, hit.line, hit.name}, shown_folder(hit.file.parent_path()), folder());
      return finding;
    }
    const bool script = hit.file.filename().string().starts_with("configure");
    finding.because.push_back(script
                                  ? fmt::format("{} says that the configure step makes it", shown(hit.file))
                                  : fmt::format("{} is the text that a configure step makes it from", shown(hit.file)));
    finding.remedy = fmt::format("run the configure step, and name the folder that gets {}", finding.subject);
    return finding;
  }

  std::string shown_folder(const fs::path& path) const { return path == folder() ? "this folder" : shown(path); }

  const std::vector<fs::path>& searched() const {
    static const std::vector<fs::path> none;
    return command_ == nullptr ? none : command_->include_folders;
  }

  Finding in_folder(Finding finding, const Complaint& complaint, const HeaderPlace& hit) {
    finding.culprits.push_back(shown(hit.file));
    finding.because.push_back(fmt::format("{} has {}, and the command does not name that folder", shown(hit.folder),
                                          hit.name == finding.subject ? "it" : hit.name));
    if (std::find(searched().begin(), searched().end(), hit.file) != searched().end())
      finding.because.push_back(fmt::format("the command names {}, a file, where a folder belongs", shown(hit.file)));
    if (hit.of_other_library && !complaint.included_from.empty()) {
      finding.cause = "header-of-other-library";
      finding.because.emplace_back("who includes it is a header of another library");
    }
    const Project* project = evidence_.context().project;
    const bool of_project = project != nullptr && is_inside(project->root(), hit.folder) &&
                            (command_ == nullptr || evidence_.context().of_project);
    finding.remedy = of_project ? fmt::format("add its folder to the output: headers = [\"{}\"]",
                                              shown_from(project->root(), hit.folder))
                                : fmt::format("add its folder: -I{}", shown(hit.folder));
    if (hit.name != finding.subject) return other_name_too(std::move(finding), complaint, hit);
    if (command_ != nullptr) edit_command(finding, with_folder(hit.folder));
    return finding;
  }

  /// The output whose build failed, where it is one of the project's.
  const Output* failed_output() const {
    const auto& context = evidence_.context();
    return context.of_project && command_ != nullptr ? output_of(*context.project, *command_) : nullptr;
  }

  /// Neither the name nor the folders of the command are right.
  Finding other_name_too(Finding finding, const Complaint& complaint, const HeaderPlace& hit) const {
    finding.cause = "header-name";
    finding.remedy = fmt::format("write {} in the #include, and {}", hit.name, finding.remedy);
    write_include(finding, position_of(complaint.user), hit.name);
    const Project* project = evidence_.context().project;
    const Output* output = failed_output();
    if (output == nullptr || finding.changes.empty()) return finding;
    finding.changes.push_back({.kind = ProjectChange::Kind::add,
                               .name = output->name,
                               .key = "headers",
                               .value = shown_from(project->root(), hit.folder)});
    return finding;
  }

  Finding on_shelf(Finding finding, const Position& at, const ShelfHeader& hit) {
    finding.culprits.push_back(hit.file.string());
    finding.because.push_back(fmt::format("{} {} has {}", hit.library, hit.version, hit.as_written ? "it" : hit.name));
    const bool attached = hit.attached;
    if (!attached || hit.as_written)
      advise_using(finding, hit.library, evidence_.context().project, "compile.rsp", failed_output());
    if (!hit.as_written) {
      finding.cause = "header-name";
      const std::string spelling = "write " + include_of(at, hit.name);
      finding.remedy = attached ? spelling : fmt::format("{}, and {}", spelling, finding.remedy);
      write_include(finding, at, hit.name);
    }
    return finding;
  }
};

}  // namespace

Finding missing_header(const Complaint& complaint, const ToolCommand* command, Evidence& evidence) {
  return MissingHeader(command, evidence).find(complaint);
}

}  // namespace fibula
