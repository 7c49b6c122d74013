/// The fit of a lane: what was chosen, what the compiler and the linker are given, in order, and why; and what does not
/// fit.
///
///     auto fit = fibula::fit(*project, lane, *shelf);
///     for (const fibula::Misfit& m : fit->misfits()) std::cout << m.sentence() << '\n';
#pragma once

#include <fibula/closure.hpp>
#include <fibula/lane.hpp>
#include <fibula/project.hpp>
#include <fibula/result.hpp>
#include <fibula/shelf.hpp>

#include <filesystem>
#include <string>
#include <vector>

namespace fibula {

enum class Verdict {
  ok,
  unknown,  ///< a fact that the rule needs is missing
  caution,  ///< will link, may bite
  misfit,   ///< will not compile, link or start
};
FIBULA_API std::string_view to_string(Verdict verdict);

/// Why a variant cannot serve a lane, or why a link cannot work.
struct FIBULA_API Misfit {
  std::string rule;  ///< the id of the rule that speaks: "architecture"
  Verdict verdict = Verdict::misfit;
  std::string subject;  ///< the file or symbol it is about
  std::string library = {};
  std::vector<std::string> evidence = {};  ///< both sides, with where each was read
  std::string remedy = {};                 ///< the one thing to do

  /// `tidecalc: architecture: lib/libtidecalc.a …; …`, on one line.
  std::string sentence() const;
};

/// A variant that was not chosen, and the first reason why.
struct Refusal {
  std::string version;
  std::string variant;
  Misfit first;
};

struct ChosenLibrary {
  std::string name;
  std::string version;           ///< empty when none is on the shelf
  std::string variant;           ///< empty for headers only, and when none fits
  std::string why;               ///< why this version and variant
  std::string required_by = {};  ///< the library that requires it; empty: the project attaches it
  Verdict verdict = Verdict::ok;
  std::vector<Misfit> misfits = {};     ///< cautions and misfits; where nothing fits, those of the nearest variant
  std::vector<Misfit> notes = {};       ///< what looks different and is `ok`, with its reason, and what is `unknown`
  std::vector<Refusal> refused = {};    ///< where nothing fits: every variant, the nearest first
  std::string wanted = {};              ///< where nothing fits: the download to look for
  std::string licence = {};             ///< SPDX expression, where known
  std::string origin = {};              ///< where it was taken from
  std::string digest = {};              ///< of all files of the chosen version
  std::filesystem::path entry = {};     ///< where its card is
  std::vector<std::string> files = {};  ///< what is linked and run, relative to the library's files
};

struct IncludeDirectory {
  std::filesystem::path path;
  std::string library;  ///< empty: the project's own
  std::string why;
};

struct Definition {
  std::string text;  ///< NAME or NAME=value
  std::string why;
};

/// One thing the linker is given.
struct LinkInput {
  std::filesystem::path path;
  std::vector<std::string> arguments;  ///< how the linker is told: the path, or "-lm"
  std::string library;                 ///< the attached library, output or "system"
  std::string why;
  int group = 0;  ///< inputs of one number above zero are searched together until nothing new is found
};

/// The link of one program or shared library of the project.
struct OutputLink {
  std::string output;
  std::vector<LinkInput> inputs;
  std::vector<LinkInput> left_out = {};  ///< files of attached libraries that nothing in the output needs
  std::vector<std::string> needs = {};   ///< shared libraries that it will ask the loader for, by soname
  LinkSettings settings = {};            ///< of the output in this lane
};

struct RuntimeFile {
  std::filesystem::path path;
  std::string library;
  std::string why;
  std::string to = {};  ///< where it belongs in a folder that is handed on; empty: beside the program
};

class FIBULA_API Fit {
 public:
  Lane lane;
  Toolchain toolchain;
  std::filesystem::path folder;  ///< where the lane's results go
  std::vector<ChosenLibrary> libraries;
  std::vector<IncludeDirectory> include_directories;
  std::vector<Definition> definitions;
  std::vector<OutputLink> links;
  std::string standard;                    ///< of the first output; empty: the compiler's own
  std::vector<RuntimeFile> runtime_files;  ///< to be put beside the program
  std::vector<RuntimeFile> plugins;        ///< of the libraries: opened while the program runs
  std::vector<RuntimeFile> data_files;     ///< of the libraries: read while the program runs
  std::vector<RuntimeFile> licence_files;  ///< of the libraries
  std::vector<Misfit> link_misfits;        ///< of the link as a whole
  std::vector<FileClosure> closures;       ///< of its programs and shared libraries, once `closures_of` told them

  /// Everything that speaks, worst first.
  std::vector<Misfit> misfits() const;
  Verdict verdict() const;
  /// The link of an output, or of the first one.
  const OutputLink* link(const std::string& output = {}) const;
};

/// Chooses versions and variants, rehearses each link on symbol tables, and derives order and missing inputs.
/// The program's own objects are used when a build has made them; before that, the names that its sources mention.
/// Errors: those of the compiler, of a damaged card or library file. A library that does not fit is no error: see
/// `Fit::misfits`.
FIBULA_API Result<Fit> fit(const Project& project, const Lane& lane, const Shelf& shelf);

struct FitOptions {
  bool anew = false;  ///< choose as if there were no lock file
};

/// Several lanes; their compilers are asked side by side. One result a lane, in order.
FIBULA_API std::vector<Result<Fit>> fit_all(const Project& project, const std::vector<Lane>& lanes, const Shelf& shelf,
                                            const FitOptions& options = {});

}  // namespace fibula
