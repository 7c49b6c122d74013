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
#include <functional>
#include <map>
#include <set>
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

/// How the sources of one output are compiled, beside what holds for all outputs of the lane.
struct OutputCompile {
  std::string output;
  std::string standard;                 ///< "c++17"; empty: the compiler's own
  std::vector<Definition> definitions;  ///< its own, then those of the lane and its libraries
  std::vector<std::string> flags = {};  ///< those of its libraries, then its own
};

/// A folder below the lane's that is to hold headers of several libraries, which expect to lie side by side.
struct SharedHeaders {
  std::filesystem::path folder;
  std::map<std::string, std::filesystem::path> headers;  ///< by the name under which they are included
};

class FIBULA_API Fit {
 public:
  Lane lane;
  Toolchain toolchain;
  std::filesystem::path folder;  ///< where the lane's results go
  std::vector<ChosenLibrary> libraries;
  std::vector<IncludeDirectory> include_directories;
  std::vector<Definition> definitions;  ///< that hold for all outputs
  std::vector<Definition> flags;        ///< that libraries ask of all who use them
  std::vector<SharedHeaders> shared_headers;
  std::vector<OutputCompile> compiles;  ///< one an output, in the project's order
  std::vector<OutputLink> links;
  std::vector<RuntimeFile> runtime_files;  ///< to be put beside the program
  std::vector<RuntimeFile> plugins;        ///< of the libraries: opened while the program runs
  std::vector<RuntimeFile> data_files;     ///< of the libraries: read while the program runs
  std::vector<RuntimeFile> licence_files;  ///< of the libraries
  std::vector<Misfit> compile_misfits;     ///< of the project's own sources
  std::vector<Misfit> link_misfits;        ///< of the link as a whole
  std::vector<Misfit> run_misfits;         ///< what programs need when they run, and lack
  std::vector<FileClosure> closures;       ///< of its programs and shared libraries, linked or not yet

  /// Everything that speaks, worst first.
  std::vector<Misfit> misfits() const;
  Verdict verdict() const;
  /// How an output is compiled, or the first one; null where there is none.
  const OutputCompile* compile(const std::string& output = {}) const;
  /// The link of an output, or of the first one; null where there is none.
  const OutputLink* link(const std::string& output = {}) const;
};

/// What there is of one output of the project when a link is planned.
struct OwnOutput {
  std::vector<std::filesystem::path> objects = {};  ///< made from its sources as they are now, in their order
  std::filesystem::path product = {};               ///< made from these objects; empty: not yet
  std::set<std::string> names = {};  ///< that its code needs, where there are no objects: as object files have them
};

/// By the output's name. Objects that are older than their sources do not belong here: they say what the program
/// needed, not what it needs.
using OwnCode = std::map<std::string, OwnOutput, std::less<>>;

struct FitOptions {
  bool anew = false;                ///< choose as if there were no lock file
  Cache cache = Cache::standard();  ///< where answers of compilers and readers are kept
  OwnCode own = {};                 ///< see `PlanOptions::own`
};

/// Gathers what the lane needs and plans it (see gather.hpp): versions and variants, what the compiler is given, each
/// link rehearsed on symbol tables, its order and missing inputs derived, run-time files followed. Writes nothing but
/// the cache. Errors: those of the compiler, of a damaged card or library file. A library that does not fit is no
/// error: see `Fit::misfits`.
FIBULA_API Result<Fit> fit(const Project& project, const Lane& lane, const Shelf& shelf,
                           const FitOptions& options = {});

/// Several lanes; their compilers are asked side by side. One result a lane, in order.
FIBULA_API std::vector<Result<Fit>> fit_all(const Project& project, const std::vector<Lane>& lanes, const Shelf& shelf,
                                            const FitOptions& options = {});

}  // namespace fibula
