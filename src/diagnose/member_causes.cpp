/// Names that are defined twice, code for fixed addresses, objects that only register themselves.
#include "diagnose/findings.hpp"
#include "diagnose/own_sources.hpp"
#include "facts/library_name.hpp"
#include "facts/mangling.hpp"
#include "headers/shared_definition.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

using StepKind = LinkStep::Kind;

class Members {
 public:
  Members(const LinkScene& scene, const Rehearsal& rehearsal)
      : scene_(scene), command_(scene.command()), evidence_(scene.evidence()), rehearsal_(rehearsal) {}

  std::vector<Finding> explain() {
    for (const auto& duplicate : rehearsal_.duplicates) {
      add(twice(duplicate));
    }
    if (auto finding = fixed_address()) add(std::move(*finding));
    if (findings_.empty()) registrations();
    return std::move(findings_);
  }

 private:
  void add(Finding finding) {
    for (auto& known : findings_) {
      if (known.cause != finding.cause || known.culprits != finding.culprits) continue;
      if (known.because.size() < 4) known.because.push_back(finding.because.front());
      return;
    }
    findings_.push_back(std::move(finding));
  }

  std::string shown(const fs::path& file) const { return shown_in(scene_, file); }

  /// The file of "lib/libtide.a(tide.o)".
  const SceneInput* input_of(const std::string& label) const {
    const std::string name = label.substr(0, label.find('('));
    for (const auto& input : scene_.inputs()) {
      if (!input.file.empty() && (input.file.filename() == name || input.file.string() == name)) return &input;
    }
    return nullptr;
  }
  std::string shown_label(const std::string& label) const {
    const SceneInput* input = input_of(label);
    if (input == nullptr) return label;
    const size_t bracket = label.find('(');
    return shown(input->file) + (bracket == std::string::npos ? "" : label.substr(bracket));
  }

  Finding twice(const Duplicate& duplicate) {
    const SceneInput *first = input_of(duplicate.first), *second = last_input_of(duplicate.second);
    Finding finding{
        .cause = "duplicate", .stage = "link", .subject = readable_name(duplicate.symbol), .certainty = "read"};
    finding.because = {fmt::format("{} and {} both define {}", shown_label(duplicate.first),
                                   shown_label(duplicate.second), readable_name(duplicate.symbol))};
    for (const SceneInput* each : {first, second}) {
      if (each != nullptr && (finding.culprits.empty() || finding.culprits.back() != shown(each->file)))
        finding.culprits.push_back(shown(each->file));
    }
    const bool one_library = first != nullptr && second != nullptr && is_library(*first) && is_library(*second) &&
                             library_stem(first->file) == library_stem(second->file);
    if (one_library) finding.cause = "two-copies";
    finding.remedy = "keep the definition in one of them";
    if (const auto header = header_of_both(first, second, duplicate.symbol)) {
      finding.culprits.push_back(shown(*header));
      finding.because.push_back(fmt::format("{} defines it in every source that includes it", shown(*header)));
      finding.remedy =
          fmt::format("define it in one source, and only declare it in {}; a function can stay there as static inline",
                      shown(*header));
    }
    const bool is_entry = duplicate.symbol == "main" || duplicate.symbol == "_main";
    for (const SceneInput* each : {second, first}) {
      // The program is the one that has main, and not what can be left out.
      if (is_entry && each != nullptr && is_library(*each))
        finding.remedy = fmt::format("get a build of {} without main: that is the program's", shown(each->file));
      if (each == nullptr || (is_entry && !is_library(*each)) || !is_superfluous(*each)) continue;
      finding.remedy = fmt::format("leave out {}: the rest of the link does not need it", shown(each->file));
      set_command(finding, command_, without_input(command_, each->asked.word));
      break;
    }
    return finding;
  }

  /// The header from which two sources of the command, or those of its objects, have a definition.
  std::optional<fs::path> header_of_both(const SceneInput* first, const SceneInput* second,
                                         const std::string& symbol) const {
    if (first == nullptr || second == nullptr || first == second) return std::nullopt;
    std::vector<fs::path> sources;
    for (const SceneInput* each : {first, second}) {
      const auto source = source_of(*each, scene_);
      // A library's sources are elsewhere: its header says enough.
      if (!source && !is_library(*each)) return std::nullopt;
      if (source) sources.push_back(*source);
    }
    if (sources.empty()) return std::nullopt;
    std::string name = without_parameters(readable_name(symbol));
    name = name.substr(name.rfind(':') + 1);
    return header_that_defines(name, sources, command_.include_folders);
  }

  /// Of a file that is named twice, the second time.
  const SceneInput* last_input_of(const std::string& label) const {
    const SceneInput* found = input_of(label);
    for (const auto& input : scene_.inputs()) {
      if (found != nullptr && input.file == found->file) found = &input;
    }
    return found;
  }

  bool is_library(const SceneInput& input) const {
    const auto& facts = evidence_.facts(input.file);
    return facts && facts->kind.value != Kind::object;
  }

  bool is_superfluous(const SceneInput& input) const {
    const auto without = scene_.changed(without_input(command_, input.asked.word)).rehearse();
    return without && without->unresolved.empty() && without->duplicates.size() < rehearsal_.duplicates.size();
  }

  /// Only code that is pulled counts; 32-bit x86 linkers mend it with a warning.
  std::optional<Finding> fixed_address() const {
    const Target& target = scene_.toolchain().target;
    const bool movable = command_.shared || scene_.toolchain().pie;
    if (target.format != Format::elf || target.arch == Arch::x86 || !movable) return std::nullopt;
    for (const auto& input : scene_.inputs()) {
      const auto file =
          input.file.empty() || !input.own ? Result<LinkFile*>(fail({})) : evidence_.files().open(input.file, target);
      if (!file || (*file)->archive() != nullptr || (*file)->is_shared() || (*file)->script() != nullptr) continue;
      const auto object = (*file)->object(0);
      if (auto finding = object ? fixed_address_in(**object) : std::nullopt) return finding;
    }
    for (const LinkObject* member : rehearsal_.members) {
      const bool own = std::any_of(scene_.inputs().begin(), scene_.inputs().end(),
                                   [&](const SceneInput& input) { return input.own && input.file == member->file; });
      if (auto finding = own ? fixed_address_in(*member) : std::nullopt) return finding;
    }
    return std::nullopt;
  }

  std::optional<Finding> fixed_address_in(const LinkObject& object) const {
    const auto image = read_image(object.bytes, want_relocations);
    if (!image || !image->pic || image->pic->level == Pic::yes) return std::nullopt;
    if (!command_.shared && image->pic->level == Pic::programs_only) return std::nullopt;
    Finding finding{.cause = "pic", .stage = "link", .subject = shown_label(object.label), .certainty = "read"};
    finding.culprits = {shown(object.file)};
    finding.because = {
        fmt::format("{} is not position independent: {} in section {} at {:#x}", shown_label(object.label),
                    image->pic->relocation, image->pic->section, image->pic->offset),
        command_.shared ? "the command makes a shared library" : "the command makes a position-independent program"};
    finding.remedy = command_.shared ? "compile it with -fPIC, or link its shared library"
                                     : "compile it with -fPIE, or link with -no-pie";
    if (!command_.shared) set_command(finding, command_, with_put_before(command_, {"-no-pie"}));
    if (command_.shared) shared_form(finding, object.file);
    return finding;
  }

  void shared_form(Finding& finding, const fs::path& archive) const {
    for (const auto& file : evidence_.libraries_near(command_)) {
      const auto& facts = evidence_.facts(file);
      const bool fits = library_stem(file) == library_stem(archive) && file != archive && facts && facts->pic.value &&
                        facts->pic.value->level == Pic::yes;
      const bool shared =
          facts && library_stem(file) == library_stem(archive) && facts->kind.value == Kind::shared_library;
      if ((!fits && !shared) || evidence_.misfit(file, command_, scene_.toolchain())) continue;
      for (const auto& input : scene_.inputs()) {
        if (input.file != archive) continue;
        finding.remedy = fmt::format("link {} instead", shown(file));
        return set_command(finding, command_, with_input_replaced(command_, input.asked.word, {shown(file)}));
      }
    }
  }

  /// An archive on the line of which nothing is pulled, and whose members have code that runs at the start.
  void registrations() {
    for (const auto& input : scene_.inputs()) {
      if (input.file.empty() || !input.own || rehearsal_.used.contains(input.file)) continue;
      auto file = evidence_.files().open(input.file, scene_.toolchain().target);
      const Archive* archive = file ? (*file)->archive() : nullptr;
      if (archive == nullptr || archive->members.empty()) continue;
      const auto member = registering_member(**file, *archive);
      if (!member) continue;
      Finding finding{
          .cause = "registration-dropped", .stage = "link", .subject = shown(input.file), .certainty = "read"};
      finding.culprits = {shown(input.file)};
      finding.because = {
          fmt::format("{} runs code when the program starts, and nothing in the link needs a name of it", *member),
          "linkers take a member of an archive only for a name that is needed: its code is not in the program"};
      finding.remedy = fmt::format("take all of {}: -Wl,--whole-archive before it, -Wl,--no-whole-archive behind it",
                                   shown(input.file));
      const std::string word = command_.words[input.asked.word];
      const bool apart = command_.words[input.asked.word - 1] == "-l";
      if (command_.tool == Tool::driver && command_.family == CompilerFamily::gcc)
        set_command(finding, command_,
                    with_input_replaced(command_, input.asked.word,
                                        {"-Wl,--whole-archive", apart ? "-l" + word : word, "-Wl,--no-whole-archive"}));
      findings_.push_back(std::move(finding));
    }
  }

  static std::optional<std::string> registering_member(LinkFile& file, const Archive& archive) {
    for (uint32_t i = 0; i < archive.members.size(); ++i) {
      const auto object = file.object(i);
      if (!object) continue;
      // A member with names of its own is one to be called: that nothing calls it is no fault.
      const auto& symbols = (*object)->symbols;
      const bool offers = std::any_of(symbols.begin(), symbols.end(), [](const LinkSymbol& symbol) {
        return symbol.defined && !symbol.weak && !symbol.hidden && symbol.group < 0;
      });
      const auto image = offers ? Result<Image>(fail({})) : read_image((*object)->bytes, want_sections);
      if (!image) continue;
      for (const auto& section : image->sections) {
        const bool runs = section.name.starts_with(".init_array") || section.name.starts_with(".ctors") ||
                          section.name == "__mod_init_func" || section.name.starts_with(".CRT$XCU");
        if (runs && section.size > 0) return (*object)->label;
      }
    }
    return std::nullopt;
  }

  const LinkScene& scene_;
  const ToolCommand& command_;
  Evidence& evidence_;
  const Rehearsal& rehearsal_;
  std::vector<Finding> findings_;
};

}  // namespace

std::vector<Finding> member_findings(const LinkScene& scene, const Rehearsal& rehearsal) {
  return Members(scene, rehearsal).explain();
}

}  // namespace fibula
