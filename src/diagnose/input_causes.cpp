/// What is wrong with the files that a link is given.
#include "base/quoting.hpp"
#include "base/text.hpp"
#include "diagnose/built_elsewhere.hpp"
#include "diagnose/input_scene.hpp"
#include "diagnose/split_words.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

using StepKind = LinkStep::Kind;

class Inputs : private InputScene {
 public:
  using InputScene::InputScene;

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
    if (kind == StepKind::library && input.file.empty()) return library_not_found(scene_, input);
    if (kind != StepKind::file && kind != StepKind::library) return std::nullopt;
    if (input.compiled || input.of_unknown_form || !input.own) return std::nullopt;
    std::error_code ignored;
    if (!fs::exists(input.file, ignored)) return file_not_found(scene_, input);
    if (const auto& facts = evidence_.facts(input.file); !facts) return unreadable(input, facts.error());
    if (auto finding = script_of_elsewhere(scene_, input)) return finding;
    if (auto finding = odd_archive(input)) return finding;
    if (auto finding = wrong_linkage(input)) return finding;
    return misfit(input);
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

  Finding program(const SceneInput& input) {
    Finding finding = start("linkage", shown(input.file));
    finding.culprits = {shown(input.file)};
    finding.because = {fmt::format("{} is a program: linkers take objects and libraries", shown(input.file))};
    finding.remedy = "link the objects that it was made of, or make a library of them (-shared, or ar)";
    replace_by_another(finding, input, input.file, library_stem(input.file));
    return finding;
  }

  std::optional<Finding> wrong_linkage(const SceneInput& input) {
    const auto& facts = evidence_.facts(input.file);
    if (facts->kind.value == Kind::program && facts->format.value == Format::elf) return program(input);
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
    if (evidence_.facts(input.file)->kind.value == Kind::object && finding.cause == "architecture")
      finding.remedy = fmt::format("compile it again, for {}", to_string(scene_.toolchain().target));
    replace_by_another(finding, input, input.file, library_stem(input.file));
    return finding;
  }

  std::vector<Finding> findings_;
};

}  // namespace

std::vector<Finding> input_findings(const LinkScene& scene) {
  return Inputs(scene).judge();
}

}  // namespace fibula
