/// Structures that a program and a library which it calls lay out differently: it links, and goes wrong while it runs.
/// Read from debugging records on both sides; a program's sources are compiled with records of their own.
#include "base/text.hpp"
#include "binary/debug_types.hpp"
#include "diagnose/findings.hpp"
#include "diagnose/layout_words.hpp"
#include "diagnose/tested_macros.hpp"
#include "os/mapped_file.hpp"

#include <fibula/closure.hpp>
#include <fibula/symbols.hpp>

#include <fmt/format.h>
#include <algorithm>
#include <set>

namespace fibula {
namespace {

/// Reading records takes a second for 30 MB: what is larger is not looked into.
constexpr uint64_t largest_file = 16U << 20U;

DebugTypes types_in(const fs::path& file) {
  const auto mapping = MappedFile::open(file);
  if (!mapping || (*mapping)->bytes().size() > largest_file) return {};
  return debug_types_of((*mapping)->bytes()).value_or(DebugTypes());
}

/// A program's object, program or library, with what it asks others for.
struct User {
  fs::path file;
  std::string shown;
  DebugTypes types = {};
  std::set<std::string, std::less<>> needs = {};
};

User user_of(const fs::path& file, std::string shown) {
  User user{file, std::move(shown), types_in(file)};
  if (user.types.layouts.empty()) return user;
  const auto visited = visit_symbols(file, [&](const SymbolView& symbol) {
    if (!symbol.defines) user.needs.emplace(symbol.name);
  });
  if (!visited) user.needs.clear();
  return user;
}

/// A structure of which both sides have another picture, and a function that takes or gives it.
struct Difference {
  std::string name;
  std::string function;
  Layout user, library;
};

/// All structures that a call hands over, those inside of them and behind their pointers too.
void collect(const DebugTypes& types, const TypeText& type, std::set<std::string>& into) {
  for (const auto& name : structures_in(type.form)) {
    const auto layout = types.layouts.find(name);
    if (layout == types.layouts.end() || !into.insert(name).second) continue;
    for (const auto& member : layout->second.members) collect(types, member.type, into);
  }
}

std::vector<Difference> differences(const User& user, const DebugTypes& library) {
  std::vector<Difference> found;
  std::set<std::string> told;
  for (const auto& [function, signature] : library.functions) {
    if (!user.needs.contains(function)) continue;
    std::set<std::string> names;
    collect(library, signature.result, names);
    for (const auto& parameter : signature.parameters) collect(library, parameter, names);
    for (const auto& name : names) {
      const auto own = user.types.layouts.find(name);
      const auto& theirs = library.layouts.at(name);
      if (own == user.types.layouts.end() || !lie_differently(own->second, theirs)) continue;
      if (told.insert(name).second) found.push_back({name, function, own->second, theirs});
    }
  }
  return found;
}

Finding finding_of(const Difference& difference, const User& user, const std::string& library) {
  Finding finding{.cause = "version-skew", .stage = "run", .subject = difference.name, .certainty = "read"};
  finding.culprits.push_back(library);
  finding.because = {fmt::format("{} calls {} of {}, which takes or gives a {}", user.shown,
                                 readable_name(difference.function), library, difference.name),
                     told_apart(difference.user, user.shown, difference.library, library)};
  finding.remedy =
      fmt::format("compile {} with the headers that belong to {}, and with the definitions that it was built with",
                  user.shown, library);
  return finding;
}

/// Looks for the definition with which both pictures are one.
class Definitions {
 public:
  Definitions(const ToolCommand& command, Evidence& evidence, const fs::path& source)
      : command_(command), evidence_(evidence), source_(source) {}

  void try_all(Finding& finding, const Difference& difference) {
    const auto values = bounds_in(difference.library);
    for (const auto& macro : macros(difference)) {
      for (const auto& option : options(macro, values)) {
        if (tries_++ == most_tries) return;
        Words words = without(macro);
        if (!option.empty()) words.insert(words.begin() + 1, option);
        if (words == command_.words || !agrees(words, difference)) continue;
        finding.cause = "definition-mismatch";
        finding.because.push_back(option.empty() ? fmt::format("without a definition of {} they are one", macro)
                                                 : fmt::format("with {} they are one", option));
        finding.remedy = option.empty() ? fmt::format("compile without {}, as the library was", macro)
                                        : fmt::format("compile with {}, as the library was", option);
        set_command(finding, command_, std::move(words));
        finding.tried = true;
        return;
      }
    }
  }

 private:
  static constexpr int most_tries = 12;

  std::vector<std::string> macros(const Difference& difference) {
    std::vector<std::string> found;
    const auto add = [&](std::vector<std::string> more) {
      for (auto& macro : more) {
        if (std::find(found.begin(), found.end(), macro) == found.end()) found.push_back(std::move(macro));
      }
    };
    for (const auto& word : words_to_look_for(difference.name, difference.user, difference.library)) {
      add(macros_of_bounds(word, command_, evidence_));
      add(macros_tested(word, {}, 0, command_, evidence_));
    }
    return found;
  }

  /// What is told of a macro in place of what the command says: nothing, that it is there, a number.
  static std::vector<std::string> options(const std::string& macro, const std::vector<std::string>& values) {
    std::vector<std::string> all{"-D" + macro};
    for (const auto& value : values) all.push_back(fmt::format("-D{}={}", macro, value));
    all.emplace_back();
    return all;
  }

  Words without(const std::string& macro) const {
    Words words = command_.words;
    const std::string plain = "-D" + macro;
    std::erase_if(words, [&](const std::string& w) { return w == plain || w.starts_with(plain + "="); });
    return words;
  }

  bool agrees(const Words& words, const Difference& difference) {
    ToolCommand changed = read_command(words, command_.folder);
    changed.compile_words.emplace_back("-g");
    const auto& compiled = evidence_.compile(changed, source_);
    if (!compiled.good) return false;
    const auto types = types_in(compiled.object);
    const auto layout = types.layouts.find(difference.name);
    return layout != types.layouts.end() && !lie_differently(layout->second, difference.library);
  }

  const ToolCommand& command_;
  Evidence& evidence_;
  const fs::path& source_;
  int tries_ = 0;
};

struct Library {
  std::string shown;
  DebugTypes types;
};

std::vector<Library> libraries_of(const LinkScene& scene) {
  std::vector<Library> libraries;
  for (const auto& input : scene.inputs()) {
    if (!input.own || input.compiled || input.file.empty()) continue;
    const auto& facts = scene.evidence().facts(input.file);
    if (!facts || facts->kind.value == Kind::object) continue;
    Library library{shown_in(scene, input.file), types_in(input.file)};
    if (!library.types.functions.empty()) libraries.push_back(std::move(library));
  }
  return libraries;
}

}  // namespace

std::vector<Finding> layout_findings(const LinkScene& scene) {
  const ToolCommand& command = scene.command();
  const auto libraries = libraries_of(scene);
  if (libraries.empty() || command.family == CompilerFamily::msvc) return {};
  ToolCommand with_records = command;
  with_records.compile_words.emplace_back("-g");
  std::vector<Finding> findings;
  for (const auto& input : scene.inputs()) {
    if (input.file.empty()) continue;
    const auto& facts = scene.evidence().facts(input.file);
    if (!facts || facts->kind.value != Kind::object) continue;
    const fs::path source = input.compiled ? fs::path(input.asked.step.name) : fs::path();
    const User user = user_of(input.compiled ? scene.evidence().compile(with_records, source).object : input.file,
                              shown_in(scene, input.file));
    for (const auto& library : libraries) {
      for (const auto& difference : differences(user, library.types)) {
        findings.push_back(finding_of(difference, user, library.shown));
        if (input.compiled) Definitions(command, scene.evidence(), source).try_all(findings.back(), difference);
      }
    }
  }
  return findings;
}

std::vector<Finding> layout_findings(const fs::path& program, const std::vector<ClosureEntry>& closure,
                                     const fs::path& folder) {
  std::vector<Library> libraries;
  for (const auto& entry : closure) {
    // The system's own libraries were made with the headers that everybody has.
    if (entry.path.empty() || entry.path.starts_with("/usr/lib") || entry.path.starts_with("/lib")) continue;
    Library library{shown_from(folder, entry.path), types_in(entry.path)};
    if (!library.types.functions.empty()) libraries.push_back(std::move(library));
  }
  std::vector<Finding> findings;
  if (libraries.empty()) return findings;
  const User user = user_of(program, shown_from(folder, program));
  for (const auto& library : libraries) {
    for (const auto& difference : differences(user, library.types))
      findings.push_back(finding_of(difference, user, library.shown));
  }
  return findings;
}

}  // namespace fibula
