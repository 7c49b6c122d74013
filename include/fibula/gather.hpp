/// The three steps of a fit, for programs that do more than one thing with it: gather, plan, act.
///
///     auto gathered = fibula::gather(*project, project->lanes(), *shelf);          // asks, reads, fetches
///     auto fit = fibula::plan(*gathered, lane, {.own = {{"harbourlog", {.objects = {"main.o"}}}}});   // pure
///     fibula::emit::lane_files(*fit);                                                // writes
///
/// `gather` has all the effects: it asks compilers, reads the lock file, cards, sources and headers, and fetches what a
/// served shelf has. `plan` starts no process, fetches and writes nothing: the same gathered things and the same own
/// code give the same fit. It reads the library files that were chosen when it first needs them. Acting is left to the
/// functions that say so: `emit::lane_files`, `place_runtime_files`, `keep_choices`, `build`, `stage`.
#pragma once

#include <fibula/cache.hpp>
#include <fibula/fit.hpp>
#include <fibula/project.hpp>
#include <fibula/result.hpp>
#include <fibula/shelf.hpp>

#include <memory>
#include <vector>

namespace fibula {

struct GatherOptions {
  bool anew = false;                ///< choose as if there were no lock file
  Cache cache = Cache::standard();  ///< where answers of compilers and readers are kept
  /// Of a program that somebody else's build compiles: object files, archives, and lists of the names that it needs,
  /// one a line, as `nm -u` prints them. Its link is for these.
  std::vector<std::filesystem::path> program = {};
};

/// What is known of some lanes of a project. Copies mean the same; not to be used by two threads at once.
class FIBULA_API Gathered {
 public:
  const Project& project() const;
  const std::vector<Lane>& lanes() const;

  struct State;
  explicit Gathered(std::shared_ptr<State> state) : state_(std::move(state)) {}
  State& state() const { return *state_; }

 private:
  std::shared_ptr<State> state_;
};

/// Compilers of several lanes are asked side by side, for 20 seconds at most; headers are read for a minute a library
/// at most. What concerns one lane alone is an error of its plan. Errors: those of `Project::files`; a damaged
/// lock file; usage (`program` for a project that makes none or several), those of reading its files.
FIBULA_API Result<Gathered> gather(const Project& project, const std::vector<Lane>& lanes, const Shelf& shelf,
                                   const GatherOptions& options = {});

/// How far a plan goes.
enum class PlanThrough {
  compiling,  ///< libraries and what the compiler is given: does not depend on the project's own code
  linking,    ///< and each link
  running,    ///< and what each program needs when it runs
};

struct PlanOptions {
  /// What there is of the project's own code, by output. An output that is not named is represented by the names that
  /// its sources mention.
  OwnCode own = {};
  PlanThrough through = PlanThrough::running;
};

/// The fit of one of the lanes that were gathered for. Errors: usage (it is none of them); those of the lane's
/// compiler, of a damaged card or library file, of an object that cannot be read. A library that does not fit is no
/// error: see `Fit::misfits`.
FIBULA_API Result<Fit> plan(const Gathered& gathered, const Lane& lane, const PlanOptions& options = {});
/// The same of all lanes that were gathered for, in their order, partly side by side. `options`: one a lane; those that
/// are not given are as if empty. Errors of a lane: as `plan`.
FIBULA_API std::vector<Result<Fit>> plan_all(const Gathered& gathered, const std::vector<PlanOptions>& options = {});

}  // namespace fibula
