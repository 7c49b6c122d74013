#include "diagnose/link_scene.hpp"

#include "base/text.hpp"
#include "binary/script.hpp"
#include "commands/command_change.hpp"
#include "take/units.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {

using StepKind = LinkStep::Kind;

LinkerTraits traits_of(const Toolchain& toolchain) {
  const std::string said = text::lower(toolchain.linker_version + " " + toolchain.linker.filename().string());
  const auto says = [&](std::string_view word) { return said.find(word) != std::string::npos; };
  const bool msvc = toolchain.family == CompilerFamily::msvc, lld = says("lld"), mold = says("mold");
  const bool gold = says("gold"), macho = family_of(toolchain.target.format) == Format::macho;
  const bool elf = family_of(toolchain.target.format) == Format::elf;
  return {.any_order = msvc || macho || lld || mold,
          .passes_strangers = !lld && !msvc,
          .wants_index = !lld && !mold && !msvc && !macho,
          .weighs_needs = !mold && !gold && !msvc && !macho,
          .weighs_versions = elf && !mold,
          .weighs_threads = elf && !mold,
          .refuses_hidden = elf && !mold && !gold && !lld};
}

namespace {

/// By its name something that linkers link; other files may be anything: scripts, lists, resources.
bool is_link_file(const fs::path& file) {
  const std::string ending = text::lower(file.extension().string());
  return has_library_name(file) || ending == ".o" || ending == ".obj" || ending == ".lo" || ending == ".la";
}

}  // namespace

LinkScene::LinkScene(const ToolCommand& command, const Toolchain& toolchain, Evidence& evidence)
    : command_(command), toolchain_(toolchain), evidence_(evidence), traits_(traits_of(toolchain)) {
  if (command.trusts_shared) traits_.weighs_needs = traits_.weighs_versions = false;
  resolve();
}

LinkScene LinkScene::changed(const std::vector<std::string>& words) const {
  return {read_command(words, command_.folder), toolchain_, evidence_};
}

std::vector<fs::path> LinkScene::folders() const {
  std::vector<fs::path> all = command_.library_folders;
  all.insert(all.end(), toolchain_.library_directories.begin(), toolchain_.library_directories.end());
  // MSVC-style linkers look where they are started, first.
  if (command_.family == CompilerFamily::msvc) all.insert(all.begin(), command_.folder);
  return all;
}

void LinkScene::resolve() {
  bool only_static = toolchain_.static_link;
  for (const auto& asked : command_.inputs) {
    SceneInput input{.asked = asked};
    if (asked.step.kind == StepKind::only_static) only_static = true;
    if (asked.step.kind == StepKind::any_linkage) only_static = toolchain_.static_link;
    if (asked.step.kind == StepKind::library) {
      resolve_library(input, only_static);
    } else if (asked.step.kind == StepKind::file) {
      input.file = asked.step.name;
      if (is_source_name(input.file)) {
        compile_source(input);
      } else if (!is_link_file(input.file)) {
        std::error_code ignored;
        input.of_unknown_form = fs::exists(input.file, ignored) && !evidence_.facts(input.file);
        incomplete_ = incomplete_ || input.of_unknown_form;
      }
    }
    inputs_.push_back(std::move(input));
  }
}

void LinkScene::resolve_library(SceneInput& input, bool only_static) {
  const Linking linking = linking_of(toolchain_);
  for (const auto& folder : folders()) {
    // Each directory by itself: what it has for another machine is passed over, and the next one is looked at.
    auto found = find_library({folder}, input.asked.step.name, only_static, linking);
    if (!found) continue;
    const auto& facts = evidence_.facts(*found);
    const bool known =
        facts && facts->arch.value && facts->format.value && !facts->mixed && facts->kind.value != Kind::script;
    const bool stranger = known && !same_family(variant_target(*facts), toolchain_.target) && facts->slices.empty() &&
                          !facts->link_time.value;
    if (stranger && traits_.passes_strangers) {
      input.passed_over.push_back(*found);
      // An archive of the same name beside a shared library is tried too.
      const auto archive = only_static ? std::nullopt : find_library({folder}, input.asked.step.name, true, linking);
      if (!archive || *archive == *found) continue;
      const auto& other = evidence_.facts(*archive);
      if (!other || !other->arch.value || *other->arch.value != toolchain_.target.arch) continue;
      found = archive;
    }
    const auto& own = command_.library_folders;
    input.own = std::find(own.begin(), own.end(), folder) != own.end() || command_.family == CompilerFamily::msvc;
    input.file = *found;
    return;
  }
}

void LinkScene::compile_source(SceneInput& input) {
  std::error_code ignored;
  if (!fs::exists(input.file, ignored)) return;
  const auto& compiled = evidence_.compile(command_, input.file);
  input.compiled = true;
  if (compiled.good) {
    input.file = compiled.object;
    return;
  }
  input.file.clear();
  incomplete_ = true;
  if (compile_failure_.empty()) compile_failure_ = compiled.said;
}

Result<Rehearsal> LinkScene::rehearse() const {
  LinkLine line{.linking = linking_of(toolchain_),
                .target = toolchain_.target,
                .weak_serves_others = linking_of(toolchain_) != Linking::gnu_pe || traits_.any_order,
                .steps = {},
                .search = folders()};
  // What a script names is looked for where the linker runs, too (ld's manual, "Commands Dealing with Files").
  const bool has_script = std::any_of(inputs_.begin(), inputs_.end(), [&](const SceneInput& input) {
    return !input.file.empty() && evidence_.facts(input.file) &&
           evidence_.facts(input.file)->kind.value == Kind::script;
  });
  if (has_script) line.search.push_back(command_.folder);
  bool only_static = toolchain_.static_link;
  const auto add_own = [&] {
    if (traits_.any_order) line.steps.push_back({StepKind::group_begin});
    for (const auto& input : inputs_) {
      const StepKind kind = input.asked.step.kind;
      const bool group = kind == StepKind::group_begin || kind == StepKind::group_end;
      if (traits_.any_order && group) continue;
      if (!input.file.empty()) {
        line.steps.push_back({StepKind::file, input.file.string()});
      } else if (!input.compiled) {
        line.steps.push_back(input.asked.step);
      }
    }
    if (traits_.any_order) line.steps.push_back({StepKind::group_end});
  };
  for (const auto& step : toolchain_.link_steps) {
    if (step.kind == StepKind::only_static) only_static = true;
    if (step.kind == StepKind::any_linkage) only_static = false;
    if (step.kind == StepKind::user_inputs) {
      add_own();
    } else if (step.kind == StepKind::library) {
      const auto found = find_library(line.search, step.name, only_static, line.linking);
      line.steps.push_back(found ? LinkStep{StepKind::file, found->string()} : step);
    } else {
      line.steps.push_back(step);
    }
  }
  std::vector<std::string> given = command_.given_names;
  for (const auto& script : command_.scripts) {
    const auto text = read_text(script);
    const auto names = text ? assigned_symbols(*text) : std::vector<std::string>();
    given.insert(given.end(), names.begin(), names.end());
  }
  // What is wrapped is asked for under other names, which only the linker knows.
  for (const auto& name : command_.wrapped) given.insert(given.end(), {name, "__real_" + name, "__wrap_" + name});
  return fibula::rehearse(evidence_.files(), line,
                          {.allow_unresolved = !command_.refuses_unresolved || command_.relocatable,
                           .script_symbols = given.empty() ? nullptr : &given});
}

std::string shown_in(const LinkScene& scene, const fs::path& file) {
  for (const auto& input : scene.inputs()) {
    if (input.compiled && input.file == file) return shown_from(scene.command().folder, input.asked.step.name);
  }
  return shown_from(scene.command().folder, file);
}

std::string shown_user(const LinkScene& scene, const Unresolved& missing) {
  for (const auto& input : scene.inputs()) {
    if (input.compiled && input.file == missing.file) return shown_in(scene, missing.file);
  }
  return missing.needed_by;
}

bool is_object(const LinkScene& scene, const SceneInput& input) {
  if (input.compiled) return true;
  const auto& facts = scene.evidence().facts(input.file);
  return facts && facts->kind.value == Kind::object;
}

std::vector<std::string> with_object(const LinkScene& scene, const fs::path& object) {
  const ToolCommand& command = scene.command();
  size_t last = 0;
  for (const auto& input : scene.inputs()) {
    const bool file = input.asked.step.kind == StepKind::file || input.compiled;
    if (file && is_object(scene, input)) last = input.asked.word;
  }
  const std::string shown = shown_in(scene, object);
  if (last == 0) return with_appended(command, {shown});
  Words words = command.words;
  words.insert(words.begin() + static_cast<std::ptrdiff_t>(last) + 1, shown);
  return words;
}

}  // namespace fibula
