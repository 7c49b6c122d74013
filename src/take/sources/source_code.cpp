/// Which sources make up a library that comes as source: those that define what its public headers declare, what these
/// need in turn, and what lies with them. Programs, tests, samples and other systems' files do not.
#include "base/text.hpp"
#include "headers/declarations.hpp"
#include "headers/header_roots.hpp"
#include "headers/include_lines.hpp"
#include "os/files.hpp"
#include "take/file_roles.hpp"
#include "take/naming.hpp"
#include "take/source.hpp"
#include "take/sources/alternatives.hpp"
#include "take/sources/bindings.hpp"
#include "take/sources/build_steps.hpp"
#include "take/sources/bundled_code.hpp"
#include "take/sources/code_tree.hpp"
#include "take/sources/compared_names.hpp"
#include "take/sources/extras.hpp"
#include "take/sources/for_all_machines.hpp"
#include "take/sources/fragments.hpp"
#include "take/sources/left_out.hpp"
#include "take/sources/made_headers.hpp"
#include "take/sources/makefile_macros.hpp"
#include "take/sources/own_definitions.hpp"
#include "take/sources/own_macros.hpp"
#include "take/sources/program_folders.hpp"
#include "take/sources/public_headers.hpp"
#include "take/sources/reached_sources.hpp"
#include "take/sources/rivals.hpp"
#include "take/sources/script_templates.hpp"
#include "take/sources/source_directories.hpp"
#include "take/sources/source_system.hpp"
#include "take/sources/switches.hpp"
#include "take/sources/template_header.hpp"
#include "take/sources/unlisted.hpp"
#include "take/sources/values_in_vain.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <set>

namespace fibula {
namespace {

class Selection {
 public:
  explicit Selection(Source& source)
      : source_(source), handed_(handed_by_makefiles(source)), tree_(source, is_called_a_test, handed_names(handed_)) {}

  SourceCode select() {
    SourceCode code;
    const auto without = switches_without(source_, tree_);
    DefinedNames switches;
    for (const auto& [macro, header] : without) switches.insert(macro);
    if (!switches.empty()) tree_.hand(switches);
    left_out_.included = tree_.parts();
    leave_out_programs();
    note_declared();
    leave_out_beside_programs();
    leave_out_bindings();
    leave_out_fragments();
    leave_undefined();
    reach();
    leave_out_unlisted();
    leave_out_included();
    if (kept_.empty()) return code;
    steps_for(code);
    if (!code.steps.empty()) {
      forget_made(source_);
      return code;
    }
    take_in_bundled();
    code.headers = made_headers(source_, tree_, kept_, "the card", templates_by_script(source_, tree_));
    code.definitions = definitions_for(source_, tree_, kept_, handed_, without, !code.headers.empty());
    if (!code.headers.empty() && has_asked_configuration()) code.definitions.emplace_back("HAVE_CONFIG_H=1");
    leave_out_extras();
    place(code);
    tell();
    code.include_directories = source_directories(source_, tree_, kept_);
    return code;
  }

 private:
  void leave_out_extras() {
    for (auto& [header, files] : extras_among(source_, tree_, kept_, declared_)) {
      for (const auto& file : files) kept_.erase(file);
      auto& known = left_out_.incomplete[header];
      known.insert(known.end(), files.begin(), files.end());
    }
  }

  void take_in_bundled() {
    const auto found = bundled_code(source_, tree_, kept_);
    if (found.empty()) return;
    kept_.insert(found.begin(), found.end());
    source_.remarks.push_back(told_of(found, "is code of a library that came along, and compiled: its sources call it",
                                      "are code of libraries that came along, and compiled: its sources call them"));
  }

  /// Whether no source or header would ask in vain for `config.h` once it is told that there is one.
  bool has_asked_configuration() const {
    const auto asks_in_vain = [&](const std::vector<IncludeLine>& includes) {
      return std::any_of(includes.begin(), includes.end(), [&](const IncludeLine& line) {
        return line.conditional && line.name == "config.h" && !tree_.came(line.name);
      });
    };
    return std::none_of(kept_.begin(), kept_.end(),
                        [&](const std::string& file) { return asks_in_vain(tree_.file(file).includes); }) &&
           std::none_of(source_.headers.begin(), source_.headers.end(), [&](const std::string& header) {
             return asks_in_vain(include_lines(read_text(source_.root / header).value_or("")));
           });
  }

  void leave_out_programs() {
    for (const auto& [file, code] : tree_.files()) {
      if (code.is_program) {
        left_out_.programs.push_back(file);
      } else if (!code.only_includes) {
        kept_.insert(file);
      } else {
        left_out_.collections.push_back(file);
      }
    }
  }

  void note_declared() {
    const auto& macros = tree_.macros();
    const auto undefined = [&](std::string_view name) {
      return macros.is_left_undefined(name) && macros.is_never_defined(name);
    };
    for (const auto& header : source_.headers) {
      if (tree_.is_switched_off(header)) continue;
      const std::string text = branches_without(read_text(source_.root / header).value_or(""), undefined);
      for (const auto name : text::identifiers(text)) mentioned_.emplace(name);
      for (const auto& name : functions_left_to_a_binary(text)) {
        // Macros may give it another name.
        for (const auto& meant : tree_.macros().with_expansions({name})) {
          wanted_[meant].push_back(header);
          declared_.insert(meant);
        }
      }
    }
  }

  bool defines_declared(const std::string& file) const {
    const auto& defines = tree_.file(file).names.defines;
    return std::any_of(defines.begin(), defines.end(),
                       [&](const std::string& name) { return declared_.contains(name); });
  }

  /// What lies with programs is theirs, but for folders with something that users call.
  void leave_out_beside_programs() {
    std::set<std::string> own, left;
    for (const auto& file : kept_) {
      if (defines_declared(file)) own.insert(folder_of(file));
    }
    for (const auto& file : kept_) {
      if (lies_in_one_of(source_.program_folders, file) && !own.contains(folder_of(file))) left.insert(file);
    }
    if (left.size() == kept_.size()) return;
    for (const auto& file : left) kept_.erase(file);
    left_out_.beside_programs.assign(left.begin(), left.end());
  }

  void leave_out_bindings() {
    left_out_.incomplete = bindings_among(tree_, kept_, declared_, source_.elsewhere);
    for (const auto& [header, files] : left_out_.incomplete) {
      for (const auto& file : files) kept_.erase(file);
    }
    left_out_.bindings = for_other_languages(tree_, kept_, declared_);
    for (const auto& file : left_out_.bindings) kept_.erase(file);
  }

  void leave_out_fragments() {
    left_out_.fragments = fragments_among(tree_, kept_);
    for (const auto& file : left_out_.fragments) kept_.erase(file);
  }

  /// As far as it is known now which sources there are; nothing is told.
  std::vector<SourceHeader> headers_to_make() const {
    Source source = source_;
    CodeTree tree = tree_;
    return made_headers(source, tree, kept_, "", templates_by_script(source, tree));
  }

  /// What would be made of templates leaves the wishes of a configure step undefined: what only these ask for is not
  /// needed.
  void leave_undefined() {
    DefinedNames undefined;
    for (const auto& header : headers_to_make()) {
      for (auto& name : names_left_undefined(header.text)) undefined.insert(std::move(name));
    }
    if (undefined.empty()) return;
    tree_.leave_undefined(undefined);
    for (auto* names : {&declared_, &mentioned_}) names->clear();
    wanted_.clear();
    note_declared();
  }

  /// What the public headers declare needs these, and no others.
  void reach() {
    const auto reached = reached_sources(tree_, kept_, wanted_);
    // Declared by macros or templates, or not at all: then nothing is known, and nothing left out.
    if (std::none_of(reached.begin(), reached.end(),
                     [&](const std::string& file) { return tree_.system_of(file).everywhere(); })) {
      is_unknown_ = true;
      return;
    }
    std::set<std::string> folders;
    for (const auto& file : reached) folders.insert(folder_of(file));
    for (auto file = kept_.begin(); file != kept_.end();) {
      const bool stays =
          reached.contains(*file) || (folders.contains(folder_of(*file)) && is_complete(*file) && !is_nobodys(*file));
      if (!stays) left_out_.unreached.push_back(*file);
      file = stays ? std::next(file) : kept_.erase(file);
    }
  }

  void leave_out_unlisted() {
    for (const auto& file : unlisted_sources(source_, tree_, kept_, wanted_)) {
      kept_.erase(file);
      left_out_.unlisted.push_back(file);
    }
  }

  bool is_in_bodies_of_headers(const std::set<std::string>& names) const {
    return std::any_of(tree_.macros().expansions().begin(), tree_.macros().expansions().end(), [&](const auto& entry) {
      return std::any_of(names.begin(), names.end(),
                         [&](const std::string& name) { return entry.second.contains(name); });
    });
  }

  /// C that defines things of which no public header has a word, nor any header more than a declaration. What macros
  /// define is not seen, and may be anybody's.
  bool is_nobodys(const std::string& file) const {
    const auto& defines = tree_.file(file).names.defines;
    return !source_is_cxx(file) && !defines.empty() && !is_in_bodies_of_headers(defines) &&
           std::none_of(defines.begin(), defines.end(), [&](const std::string& name) {
             return mentioned_.contains(name) || tree_.macros().may_be_pasted(name);
           });
  }

  /// Whether every header that it needs in each build is there, or is what the public ones need too.
  bool is_complete(const std::string& file) const {
    const auto& needs = tree_.file(file).needs;
    return std::all_of(needs.begin(), needs.end(), [&](const std::string& name) {
      return tree_.is_there(name, file) || source_.elsewhere.contains(name);
    });
  }

  /// It has what it needs, and defines what users call: others may take it in besides.
  bool stands_alone(const std::string& file) const {
    const auto& needs = tree_.file(file).needs;
    return defines_declared(file) && std::any_of(needs.begin(), needs.end(), [&](const std::string& name) {
             return !comes_with_system(name) || !tree_.own_header(name, file).empty();
           });
  }

  /// A source that the library's other files take in with #include is no source of its own.
  void leave_out_included() {
    std::set<std::string> included;
    for (const auto& file : kept_) {
      for (const auto& name : tree_.file(file).takes_in) {
        const std::string beside = (fs::path(file).parent_path() / name).lexically_normal().generic_string();
        for (const auto& other : kept_) {
          const bool is_it = other != file && (other == beside || other.ends_with("/" + name));
          if (is_it && !stands_alone(other)) included.insert(other);
        }
      }
    }
    // Where a header takes one in, each of its users has all of it already.
    const auto by_headers = tree_.taken_in_by_headers();
    std::set_intersection(by_headers.begin(), by_headers.end(), kept_.begin(), kept_.end(),
                          std::inserter(included, included.end()));
    for (const auto& file : included) {
      kept_.erase(file);
      left_out_.included.push_back(file);
    }
  }

  /// A library whose sources ask for what a configure step finds out is built by its own steps.
  void steps_for(SourceCode& code) {
    code.steps =
        proposed_steps(source_, tree_.asked_by(kept_, source_.headers), kept_, [&] { return has_values_in_vain(); });
    if (code.steps.empty()) return;
    source_.remarks.push_back(
        std::find(code.steps.begin(), code.steps.end(), "autoreconf -fi") != code.steps.end()
            ? "its sources need build steps, of which GNU Autoconf makes the first from configure.ac: they run in a "
              "sandbox when a build is told --allow-steps"
            : "it has build steps of its own, which its sources need: they run in a sandbox when a build is told "
              "--allow-steps");
  }

  /// Whether templates alone would leave out a value that the code needs.
  bool has_values_in_vain() const {
    const auto made = headers_to_make();
    if (!values_in_vain(source_, kept_, made).empty() || !handed_in_vain(source_, tree_, kept_).empty()) return true;
    return says_error_in_vain(source_, tree_, kept_, [&] {
      auto definitions = definitions_by_makefiles(handed_, source_, tree_, kept_);
      for (auto& macro : macros_of_own_build(source_, tree_, kept_, split_name(source_.called).name))
        definitions.push_back(std::move(macro));
      return definitions;
    });
  }

  /// Sources for all builds, for some systems, and those of which one is to be chosen.
  void place(SourceCode& code) {
    std::map<std::string, PlacedSource> placed;
    for (const auto& file : kept_) {
      PlacedSource source{tree_.system_of(file), names_to_compare(tree_, kept_, declared_, file)};
      if (source.system.foreign) {
        left_out_.foreign.push_back(file);
      } else {
        placed.emplace(file, std::move(source));
      }
    }
    settle_machines(placed, source_, tree_, handed_names(handed_));
    left_out_.outdone = settle_rivals(placed);
    for (const auto& file : left_out_.outdone) kept_.erase(file);
    std::map<std::pair<std::vector<std::string>, std::vector<std::string>>, std::vector<std::string>> parts;
    std::map<std::string, std::set<std::string>> open;  ///< files for everybody, with what they always define
    for (auto& [file, source] : placed) {
      if (source.system.everywhere()) {
        open[file] = std::move(source.names);
      } else {
        parts[{source.system.systems, source.system.archs}].push_back(file);
      }
    }
    for (const auto& file : left_out_.foreign) kept_.erase(file);
    code.choices = alternatives_among(open);
    for (const auto& choice : code.choices) {
      for (const auto& one : choice.alternatives) {
        for (const auto& file : one.set.compile) open.erase(file);
      }
      source_.remarks.push_back(fmt::format("{} of its sources define the same: a project can choose {} = {}",
                                            choice.alternatives.size(), choice.name, names_of(choice)));
    }
    for (const auto& [file, names] : open) code.compile.push_back(file);
    for (auto& [when, files] : parts)
      code.parts.push_back({.systems = when.first, .set = {.compile = std::move(files)}});
    size_t at = 0;
    for (const auto& [when, files] : parts) code.parts[at++].archs = when.second;
  }

  static std::string names_of(const SourceChoice& choice) {
    std::vector<std::string> names;
    for (const auto& one : choice.alternatives) names.push_back(one.name);
    return text::join(names, ", ");
  }

  void tell() {
    if (is_unknown_ && !source_.headers.empty())
      source_.remarks.emplace_back(
          "none of its sources is seen to define what its headers declare: where these serve alone, --headers-only");
    for (auto& remark : remarks_of(left_out_)) source_.remarks.push_back(std::move(remark));
    if (!source_.samples.empty())
      source_.remarks.push_back(told_of(source_.samples, "is a sample or a test, and not compiled into the library",
                                        "are samples and tests, and not compiled into the library"));
    for (const auto& file : kept_) {
      for (const auto& name : tree_.file(file).needs) {
        // What other systems bring is not looked for here.
        const auto systems = system_of_source(file, {name}).systems;
        const bool elsewhere = systems.size() == 1 && systems.front() != "linux";
        if (!tree_.is_there(name, file) && !elsewhere) source_.elsewhere.emplace(name, file);
      }
    }
  }

  Source& source_;
  std::vector<HandedDefinition> handed_;
  CodeTree tree_;
  std::set<std::string> kept_;
  std::set<std::string> declared_;                          ///< functions of the public headers
  std::set<std::string> mentioned_;                         ///< every word of the public headers
  std::map<std::string, std::vector<std::string>> wanted_;  ///< the same, with the headers that declare each
  LeftOut left_out_;
  bool is_unknown_ = false;  ///< which of the sources define what the public headers declare
};

}  // namespace

SourceCode code_to_compile(Source& source) {
  return Selection(source).select();
}

}  // namespace fibula
