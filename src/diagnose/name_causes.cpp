/// Why names have no definition.
#include "base/quoting.hpp"
#include "base/text.hpp"
#include "diagnose/findings.hpp"
#include "diagnose/forms_on_line.hpp"
#include "diagnose/name_suppliers.hpp"
#include "diagnose/near_files.hpp"
#include "diagnose/own_sources.hpp"
#include "diagnose/unlinked_definitions.hpp"
#include "diagnose/well_known_names.hpp"
#include "facts/library_name.hpp"
#include "index/defined_names.hpp"
#include "link/providers.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <set>
#include <unordered_map>

namespace fibula {
namespace {

using StepKind = LinkStep::Kind;

class Names {
 public:
  Names(const LinkScene& scene, const Rehearsal& rehearsal)
      : scene_(scene), command_(scene.command()), evidence_(scene.evidence()), rehearsal_(rehearsal), forms_(scene) {}

  std::vector<Finding> explain() {
    for (const auto& missing : rehearsal_.unresolved) {
      if (missing.by_shared && !scene_.traits().weighs_needs) continue;
      add(missing);
    }
    return std::move(findings_);
  }

 private:
  /// One finding for each cause and culprit; further names become evidence.
  void add(const Unresolved& missing) {
    Finding finding = cause_of(missing);
    for (auto& known : findings_) {
      if (known.cause != finding.cause || known.culprits != finding.culprits) continue;
      if (known.because.size() < 4) known.because.insert(known.because.begin() + 1, needs(missing));
      return;
    }
    finding.because.insert(finding.because.begin(), needs(missing));
    findings_.push_back(std::move(finding));
  }

  Finding cause_of(const Unresolved& missing) {
    for (const auto look :
         {&Names::entry, &Names::well_known, &Names::defined_on_line, &Names::hidden, &Names::other_form,
          &Names::library, &Names::own_or_system, &Names::run_time_type, &Names::unlinked, &Names::declared}) {
      if (auto finding = (this->*look)(missing)) return std::move(*finding);
    }
    return undefined_name(scene_, missing);
  }

  std::string needs(const Unresolved& missing) const {
    return fmt::format("{} needs {}", shown_user(scene_, missing), readable_name(missing.symbol));
  }
  std::string shown(const fs::path& file) const { return shown_in(scene_, file); }

  /// Whether the link with these words has what was missing; true also when it cannot be told.
  bool mends(const Words& words, const std::string& symbol) const {
    const auto after = scene_.changed(words).rehearse();
    return after && std::none_of(after->unresolved.begin(), after->unresolved.end(),
                                 [&](const Unresolved& left) { return left.symbol == symbol; });
  }

  // The program's beginning.

  std::optional<Finding> entry(const Unresolved& missing) {
    if (!is_beginning(missing.symbol) && missing.symbol != "mainCRTStartup") return std::nullopt;
    // What the program calls itself is no beginning.
    for (const auto& input : scene_.inputs()) {
      if (input.file == missing.file && input.own && is_object(scene_, input)) return std::nullopt;
    }
    Finding finding = missing_name("entry", missing);
    finding.because.emplace_back("it is where programs begin, and no object of the link has it");
    if (auto other = own_source(missing)) {
      other->cause = "entry";
      other->because.insert(other->because.begin(), finding.because.front());
      return other;
    }
    finding.remedy = "link the object that has main, or make a library of it (-shared, or ar)";
    if (missing.symbol == "WinMain" && (has_own("wWinMain") || has_own("wmain"))) {
      finding.because.emplace_back("the program begins with the form of it for wide characters");
      finding.remedy = "say so: -municode";
      set_command(finding, command_, with_put_before(command_, {"-municode"}));
    }
    return finding;
  }

  bool has_own(const std::string& symbol) const {
    return std::any_of(scene_.inputs().begin(), scene_.inputs().end(), [&](const SceneInput& input) {
      return !input.file.empty() && input.own && gives_out(input.file, symbol);
    });
  }

  // Names that compilers make.

  std::optional<Finding> well_known(const Unresolved& missing) {
    const auto known = well_known_name(missing.symbol, command_);
    if (!known) return std::nullopt;
    Finding finding = missing_name(known->cause, missing);
    finding.because.push_back(known->why);
    Words words = command_.words;
    if (known->driver.empty()) {
      words = with_appended(command_, known->flags);
    } else {
      words[0] = known->driver;
    }
    finding.remedy = known->remedy;
    if (scene_.command().tool == Tool::driver) set_command(finding, command_, words);
    return finding;
  }

  // The file is on the line already.

  std::optional<Finding> defined_on_line(const Unresolved& missing) {
    for (const auto& input : scene_.inputs()) {
      if (input.file.empty() || input.compiled) continue;
      const auto has = defines(evidence_.files(), input.file, missing.symbol);
      if (!has || !*has) continue;
      if (is_object(scene_, input)) continue;
      Finding finding = missing_name("order", missing);
      finding.culprits.push_back(shown(input.file));
      finding.because.push_back(fmt::format("{} defines it, and stands before what needs it", shown(input.file)));
      return reorder(std::move(finding), input, missing);
    }
    return std::nullopt;
  }

  Finding reorder(Finding finding, const SceneInput& input, const Unresolved& missing) {
    const std::string word = command_.words[input.asked.word], user = shown_user(scene_, missing);
    finding.remedy = fmt::format("put {} behind {}", shown(input.file), user);
    if (word.starts_with("-Wl,")) return finding;
    const bool apart = input.asked.word > 0 && command_.words[input.asked.word - 1] == "-l";
    const Words moved_word{apart ? "-l" + word : word};
    const auto helps = [&](const Words& words) {
      if (!mends(words, missing.symbol) || left(words) >= left(command_.words)) return false;
      set_command(finding, command_, words);
      return true;
    };
    const ToolCommand without = read_command(without_input(command_, input.asked.word), command_.folder);
    if (helps(with_appended(without, moved_word))) return finding;
    // It needs what stands at the end: it may go no further than behind its user, or its user must come before it.
    const SceneInput* needy = input_of(missing.file);
    if (needy != nullptr && needy->asked.word > input.asked.word) {
      if (helps(with_moved_behind(command_, input.asked.word, needy->asked.word))) return finding;
      const ToolCommand rest = read_command(without_input(command_, needy->asked.word), command_.folder);
      if (is_object(scene_, *needy) && helps(with_put_before(rest, {command_.words[needy->asked.word]}))) {
        finding.remedy = fmt::format("put {} before {}", user, shown(input.file));
        return finding;
      }
    }
    // An archive that is needed before and behind others is one of a circle.
    finding.cause = "circular";
    finding.because.back() = fmt::format("{} defines it, and itself needs what stands behind it", shown(input.file));
    finding.remedy = fmt::format("name {} once more, at the end", shown(input.file));
    set_command(finding, command_, with_appended(command_, moved_word));
    return finding;
  }

  const SceneInput* input_of(const fs::path& file) const {
    const auto found = std::find_if(scene_.inputs().begin(), scene_.inputs().end(),
                                    [&](const SceneInput& input) { return input.file == file; });
    return found == scene_.inputs().end() ? nullptr : &*found;
  }

  /// Of the program itself: linked wherever it stands.
  size_t left(const Words& words) const {
    const auto after = scene_.changed(words).rehearse();
    return after ? after->unresolved.size() : SIZE_MAX;
  }

  /// An object or library that has it and shows it to nobody.
  std::optional<Finding> hidden(const Unresolved& missing) {
    for (const auto& input : scene_.inputs()) {
      if (input.file.empty() || !input.own) continue;
      bool kept = false;
      const auto look = [&](const SymbolView& symbol) {
        const bool is_kept = symbol.binding == Binding::local || symbol.visibility == Visibility::hidden ||
                             symbol.visibility == Visibility::internal;
        kept = kept || (symbol.defines && is_kept && symbol.name == missing.symbol);
      };
      const bool read = visit_all_symbols(input.file, look).has_value();
      const auto dll = read && !kept ? dll_that_keeps(input, missing.symbol) : std::nullopt;
      if ((!read || !kept) && !dll) continue;
      Finding finding = missing_name("hidden-symbol", missing);
      finding.culprits.push_back(shown(input.file));
      finding.because.push_back(
          dll ? fmt::format("{} has it, and does not export it", shown(*dll))
              : fmt::format("{} has it, and keeps it to itself (hidden visibility or static)", shown(input.file)));
      finding.remedy = "have it exported where that file is made, or link the archive that is made of the same sources";
      return finding;
    }
    return std::nullopt;
  }

  /// The DLL beside an import library that has a function, and gives out others.
  std::optional<fs::path> dll_that_keeps(const SceneInput& input, const std::string& symbol) const {
    const auto& facts = evidence_.facts(input.file);
    if (!facts || facts->kind.value != Kind::import_library || !facts->soname.value) return std::nullopt;
    for (const auto& file : evidence_.libraries_near(command_)) {
      if (file.filename() == *facts->soname.value && keeps_to_itself(file, symbol)) return file;
    }
    return std::nullopt;
  }

  Result<uint64_t> visit_all_symbols(const fs::path& file, const SymbolVisitor& visit) const {
    auto opened = open_binary(file, want_symbols | want_dynamic | want_locals);
    if (!opened) return pass(opened);
    const Image* image = opened->image();
    for (const auto& symbol : image == nullptr ? std::vector<ImageSymbol>() : image->symbols) {
      visit(
          {.name = symbol.name, .defines = symbol.defined, .binding = symbol.binding, .visibility = symbol.visibility});
    }
    return uint64_t{0};
  }

  // The line has the function in another form.

  std::optional<Finding> other_form(const Unresolved& missing) {
    const auto form = forms_.find(missing.symbol);
    if (!form) return std::nullopt;
    const bool own = std::any_of(scene_.inputs().begin(), scene_.inputs().end(), [&](const SceneInput& input) {
      return input.file == form->file && is_object(scene_, input);
    });
    Finding finding = missing_name(form->difference.cause, missing);
    finding.culprits.push_back(shown(form->file));
    if (form->difference.asks != readable_name(missing.symbol))
      finding.because.push_back(fmt::format("{} asks for {}", shown_user(scene_, missing), form->difference.asks));
    finding.because.push_back(
        form->difference.has == readable_name(form->name)
            ? fmt::format("{} has {}", shown(form->file), form->difference.has)
            : fmt::format("{} has {}: {}", shown(form->file), form->difference.has, readable_name(form->name)));
    finding.remedy = remedy_for(*form, missing, own);
    if (auto other = copy_with(scene_, missing.symbol, form->file)) {
      finding.remedy = fmt::format("{} has it as it is asked for: link that", shown(*other));
      replace_input(finding, scene_, form->file, *other);
    }
    return finding;
  }

  std::string remedy_for(const OtherForm& form, const Unresolved& missing, bool own) const {
    const std::string_view cause = form.difference.cause;
    if (cause == "language-linkage" && form.difference.asks == "a C++ function")
      return "include its header inside extern \"C\" { }, or put that into the header for C++ (#ifdef __cplusplus)";
    if (cause == "language-linkage")
      return fmt::format("declare it extern \"C\" where {} is made, or call it from C++", shown(form.file));
    if (cause == "import-define")
      return "define what its header tests for static use (often NAME_STATIC), then compile again";
    if (cause == "import-for-static")
      return "compile again without what its header tests for static use (often NAME_STATIC), or link its static "
             "library";
    if (cause == "decoration")
      return "declare the same calling convention on both sides, or use an import library made with it";
    if (cause == "string-abi")
      return "compile both with the same _GLIBCXX_USE_CXX11_ABI, or get a build with the other one";
    if (cause == "stl-debug") return "compile both with, or both without _GLIBCXX_DEBUG";
    if (cause == "cxx-runtime") return "build both with one C++ library: -stdlib=libc++ on both sides, or on none";
    return own ? fmt::format("make the declaration and the definition in {} the same", shown(form.file))
               : fmt::format("use the headers that belong to {}: {} was compiled with others", shown(form.file),
                             shown_user(scene_, missing));
  }

  // A library or source that is not on the line.

  std::optional<Finding> library(const Unresolved& missing) {
    auto other = fibula::other_copy(scene_, missing);
    return other ? other : fibula::near_library(scene_, missing);
  }

  std::optional<Finding> own_or_system(const Unresolved& missing) {
    auto own = own_source(missing);
    return own ? own : fibula::known_library(scene_, missing);
  }

  std::optional<Finding> own_source(const Unresolved& missing) {
    const auto own = own_definer(missing.symbol, scene_);
    if (!own) return std::nullopt;
    Finding finding = missing_name("missing-source", missing);
    const std::string file = shown(own->file);
    finding.culprits.push_back(own->proved ? file + " defines it" : file + " has a definition of that name");
    finding.because.push_back(fmt::format("{} is not on the command", file));
    finding.remedy = fmt::format("add {} to the link", file);
    if (command_.tool == Tool::driver || !is_source_name(own->file))
      set_command(finding, command_, with_object(scene_, own->file));
    return finding;
  }

  /// The class is there, and its type's record is not: it was compiled without them.
  std::optional<Finding> run_time_type(const Unresolved& missing) {
    if (!missing.symbol.starts_with("_ZTI")) return std::nullopt;
    const std::string table = "_ZTV" + missing.symbol.substr(4);
    for (const auto& input : scene_.inputs()) {
      bool has = false;
      if (input.file.empty() ||
          !visit_symbols(input.file, [&](const SymbolView& s) { has = has || (s.defines && s.name == table); }))
        continue;
      if (!has) continue;
      Finding finding = missing_name("rtti", missing);
      finding.culprits.push_back(shown(input.file));
      finding.because.push_back(fmt::format("{} has {} without the type's record: it was compiled with -fno-rtti",
                                            shown(input.file), readable_name(table)));
      finding.remedy = "compile the user with -fno-rtti too, or get a build with run-time types";
      return finding;
    }
    return std::nullopt;
  }

  std::optional<Finding> unlinked(const Unresolved& missing) { return unlinked_definition(scene_, missing); }

  /// A header near declares it: of a library that is linked, it is of another version; else it is the program's own.
  std::optional<Finding> declared(const Unresolved& missing) {
    const auto header = header_that_declares(missing.symbol, scene_);
    if (!header) return std::nullopt;
    const SceneInput* library = nullptr;
    for (const auto& input : scene_.inputs()) {
      if (input.file.empty() || input.compiled || !input.own) continue;
      const auto& facts = evidence_.facts(input.file);
      const fs::path root = input.file.parent_path().parent_path();
      if (facts && facts->kind.value != Kind::object && is_inside(root, *header) &&
          root != command_.folder.parent_path() &&
          (root != command_.folder || header->parent_path() != command_.folder))
        library = &input;
    }
    Finding finding = missing_name(library == nullptr ? "missing-source" : "version-skew", missing);
    finding.because.push_back(fmt::format("{} declares it", shown(*header)));
    if (library == nullptr) {
      finding.because.emplace_back("no input defines it, and no source or library that was found does");
      finding.remedy = "write its definition, or add the source or library that has it";
      finding.certainty = "derived";
      return finding;
    }
    finding.culprits = {shown(library->file), shown(*header)};
    finding.because.push_back(fmt::format("{} does not define it", shown(library->file)));
    finding.remedy = "get headers and library of one version, or a build of it that has this part";
    return finding;
  }

  const LinkScene& scene_;
  const ToolCommand& command_;
  Evidence& evidence_;
  const Rehearsal& rehearsal_;
  FormsOnLine forms_;
  std::vector<Finding> findings_;
};

}  // namespace

std::vector<Finding> name_findings(const LinkScene& scene, const Rehearsal& rehearsal) {
  return Names(scene, rehearsal).explain();
}

}  // namespace fibula
