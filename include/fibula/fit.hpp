/// The fit of a lane: what was chosen, what the compiler and the linker are given, in order, and why; and what does not
/// fit.
///
///     auto fit = fibula::fit(*project, lane, *shelf);
///     for (const fibula::Misfit& m : fit->misfits()) std::cout << m.sentence() << '\n';
#pragma once

#include <fibula/cache.hpp>
#include <fibula/chosen_library.hpp>
#include <fibula/closure.hpp>
#include <fibula/lane.hpp>
#include <fibula/link.hpp>
#include <fibula/misfit.hpp>
#include <fibula/project.hpp>
#include <fibula/result.hpp>
#include <fibula/shelf.hpp>

#include <filesystem>
#include <string>
#include <vector>

namespace fibula {

struct IncludeDirectory {
  std::filesystem::path path;
  std::string library;  ///< empty: the project's own
  std::string why;
};

struct Definition {
  std::string text;  ///< NAME or NAME=value
  std::string why;
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
  bool anew = false;                ///< choose as if there were no lock file
  Cache cache = Cache::standard();  ///< where answers of compilers and readers are kept
};

/// Several lanes; their compilers are asked side by side. One result a lane, in order.
FIBULA_API std::vector<Result<Fit>> fit_all(const Project& project, const std::vector<Lane>& lanes, const Shelf& shelf,
                                            const FitOptions& options = {});

/// What each program and shared library of a fit needs when it runs, seen from where it is built, with the fit's
/// run-time files beside it. Before it is linked, as the link inputs say.
FIBULA_API std::vector<FileClosure> closures_of(const Project& project, const Fit& fit);

}  // namespace fibula
