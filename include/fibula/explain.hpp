/// What a compile, a link or the start of a program would meet, and why one failed: from commands, logs and the real
/// files.
///
///     auto findings = fibula::check({"g++", "main.o", "-ltidecalc"}, {.shelf = *fibula::Shelf::standard()});
///     for (const fibula::Finding& finding : *findings) std::cout << finding.cause << ": " << finding.remedy << '\n';
#pragma once

#include <fibula/lane.hpp>
#include <fibula/misfit.hpp>
#include <fibula/project.hpp>
#include <fibula/project_change.hpp>
#include <fibula/shelf.hpp>

#include <filesystem>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace fibula {

class Fit;

struct Finding {
  std::string cause;                       ///< an id: "header-not-found", "library-not-linked"
  std::string stage;                       ///< compile, assemble, link, load, run
  std::string subject;                     ///< the header, symbol, library or file that it is about
  std::vector<std::string> culprits = {};  ///< files, with the fact
  std::vector<std::string> because = {};   ///< evidence, both sides
  std::string remedy = {};
  std::string edit = {};                  ///< a command that mends it, or the change of the failing command
  std::string certainty = {};             ///< "read" when the files prove it, "guessed" when only the text says so
  std::vector<std::string> command = {};  ///< the failing command as it should be; empty: another edit, or none
  bool tried = false;  ///< the edit was tried: the link rehearsed, the source compiled, without what was wrong
  std::vector<ProjectChange> changes =
      {};            ///< of the project's files, which `make_changes` makes; together they are the edit
  Place place = {};  ///< the line at which a compiler complained; empty where none was told
};

/// Where to look. Everything but the shelf may be missing.
struct ExplainContext {
  const Shelf& shelf;
  const Project* project = nullptr;
  const Toolchain* toolchain = nullptr;
  std::vector<std::string> command = {};  ///< the words that were run, where they are known
  std::filesystem::path folder = {};      ///< where they were run, or the log begins; empty: the current one
  /// Compilers that the command or the log names may be run, to ask what they target and to try edits in a scratch
  /// folder; never ones inside `folder`, or with options that load other code. False: only files are read.
  bool may_ask = true;
  /// The commands are those of a build of `project`: edits are changes of its files, where it has a key for them.
  bool of_project = false;
  /// The user typed the command: its compiler may be run whatever it is and loads.
  bool typed = false;
  Cache cache = Cache::standard();
};

/// Findings, at most three, root causes first; empty when the log holds no failure. What the files prove is told before
/// what only the text says; a failure that nothing is known of gives one finding with the cause `unknown`, and an error
/// of the language in the program's own code `not-about-libraries`. Reads the output of GCC, Clang, MSVC-style
/// compilers, of BFD, gold, LLD, mold, MSVC-style and Apple's linkers, and of the loaders of glibc, musl, Windows with
/// its stand-in, and macOS, in English wording; commands of make, ninja and shells that stand in it.
FIBULA_API std::vector<Finding> explain(std::string_view log, const ExplainContext& context);

/// What a command would meet that is not there yet or does not fit: of a compile, a link, or the start of a program.
/// Nothing is written but scratch files. Errors: usage (no words, or nothing that can be looked into), missing_tool,
/// those of `ask`.
FIBULA_API Result<std::vector<Finding>> check(const std::vector<std::string>& command, const ExplainContext& context);

/// The same for every command that a log, a script or a compilation database holds, each finding once.
FIBULA_API std::vector<Finding> check_all(std::string_view text, const ExplainContext& context);

/// Findings for editors and code hosts, as SARIF 2.1.0: at the line that was complained about, else at the first one to
/// change. Files below `folder` are told from there.
FIBULA_API std::string sarif(const std::vector<Finding>& findings, const std::filesystem::path& folder);
/// The same of a build: what the fits object to, and what its failures come from.
FIBULA_API std::string sarif(const Project& project, const std::vector<Fit>& fits,
                             const std::vector<Finding>& findings);

/// The words of a command line as a shell reads them; of several commands the last one.
FIBULA_API std::vector<std::string> words_of(std::string_view line);

}  // namespace fibula
