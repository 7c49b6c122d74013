/// Building: everything that the lanes need, in one schedule over the cores. Nothing is made again without a cause, and
/// what is made is what a clean build would make.
///
///     auto reports = fibula::build_all(*project, project->lanes(), *shelf);
#pragma once

#include <fibula/device_memory.hpp>
#include <fibula/fit.hpp>
#include <fibula/gather.hpp>
#include <fibula/take.hpp>

#include <filesystem>
#include <functional>
#include <optional>
#include <string>
#include <vector>

namespace fibula {

/// One command that was run.
struct BuildStep {
  enum class Kind { compile, archive, link, image, steps };
  Kind kind;
  std::string lane;
  std::string subject;  ///< the source, the output, or the library with its own steps
  std::vector<std::string> command;
  std::string library = {};  ///< that it was run for; empty: for the project's own code
  bool good = true;
  std::string log = {};    ///< what it printed
  std::string cause = {};  ///< why it was run: "tide.h changed"
};

/// "compile", "archive", "link", "image", "steps".
FIBULA_API std::string_view to_string(BuildStep::Kind kind);

/// How far a build is.
struct BuildProgress {
  size_t done = 0;   ///< commands that have ended
  size_t known = 0;  ///< of so many that are known to be needed; links are known once their objects are there
};

/// Build steps that a library brings, which run only when somebody agrees.
struct StepsQuestion {
  std::string library;
  std::string version;
  std::vector<std::string> steps;  ///< lines for the shell
  std::string where;               ///< the tree in which they would run a copy
};

struct BuildOptions {
  unsigned jobs = 0;        ///< processes at a time; 0: as many as the machine has cores, or the project says
  bool keep_going = false;  ///< after a failure, with everything that does not depend on it
  bool whole = false;       ///< plan the fit even where nothing has changed since the last build
  /// Whether a library's own steps may run; asked once for each set of steps and tree, and remembered for this user
  /// when the answer is yes. Not set: no. They run in a sandbox.
  std::function<bool(const StepsQuestion&)> consent = {};
  bool unsandboxed = false;  ///< the steps run as this user, with all rights
  /// Asked often; true ends what runs, and the build.
  std::function<bool()> stop = {};
  /// Called after each command, from the calling thread.
  std::function<void(const BuildStep&, const BuildProgress&)> progress = {};
  /// Called once, while the first commands of a build with many, and with libraries, run: what `plan` foresees of its
  /// lanes from what their sources mention. A forecast stops nothing: each link is judged when its objects are there.
  std::function<void(const std::vector<Fit>&)> forecast = {};
  /// Called when another build of the project runs, which is waited for.
  std::function<void()> waiting = {};
};

/// Something that a lane makes, where it lies.
struct BuiltOutput {
  std::string output;
  OutputKind kind = OutputKind::program;
  std::filesystem::path path;
  std::vector<Placement> placements = {};  ///< of what must lie in a region of a device
  std::vector<MemoryUse> memory = {};      ///< of a device, where the output has a linker script with regions
};

struct BuildReport {
  std::string lane;
  bool good = false;
  bool stopped = false;    ///< `BuildOptions::stop` ended it
  Target target;           ///< of the machine that its programs are for
  std::optional<Fit> fit;  ///< with the objects of this build; none where nothing had to be planned since the last one
  std::vector<Misfit> misfits = {};   ///< what the fit says, worst first; as it did where nothing was planned
  std::vector<BuildStep> steps = {};  ///< that were run
  std::vector<BuiltOutput> products = {};
  std::vector<std::string> not_made = {};  ///< outputs
};

/// Builds the lanes: compiles, archives, plans each link from its objects once they are there, links, puts run-time
/// files beside the programs, writes what `emit::lane_files` does and the compilation database, and keeps the choices
/// in the lock file. An output that does not fit stops those that use it, and nothing else. One result a lane, in
/// order. Commands run as long as they like, unless the project sets a limit. Two builds of one project wait for each
/// other. Errors of all: sources that are not there (absent), a damaged lock file, io. Errors of a lane: those of
/// `plan`. A command that fails is no error: see `BuildReport::good`.
FIBULA_API Result<std::vector<Result<BuildReport>>> build_all(const Project& project, const std::vector<Lane>& lanes,
                                                              const Shelf& shelf, const BuildOptions& options = {});
/// The same for one lane.
FIBULA_API Result<BuildReport> build(const Project& project, const Lane& lane, const Shelf& shelf,
                                     const BuildOptions& options = {});

/// Whether a step failed and `explain` can say why: of the project's own code, or the compile of a library's.
FIBULA_API bool can_be_explained(const BuildStep& step);
/// What failed in a build, as a log: each command of such a step, and what it printed. Empty where none did.
FIBULA_API std::string failure_log(const Project& project, const BuildReport& report);
/// Where the last `build_all` of a project left those of all its lanes; not there when nothing failed.
FIBULA_API std::filesystem::path last_failure_log(const Project& project);

/// What earlier builds of the lane made of the project's own code and is still right: objects whose command, source and
/// headers are as they were, and products made from them. For `PlanOptions::own`. Errors: those of `plan`.
FIBULA_API Result<OwnCode> own_code(const Gathered& gathered, const Lane& lane);

/// Takes a library that the project makes onto a shelf: its headers, and its builds of all lanes that are up to date.
/// `request` says version, name and the rest; its sources are not asked for. Errors: refused (no such output, nothing
/// built of it, no headers), those of `take`.
FIBULA_API Result<Taken> take_output(const Shelf& shelf, const Project& project, const std::string& output,
                                     TakeRequest request);

/// Why a file that builds made is as it is.
struct MadeFile {
  std::string lane;
  std::filesystem::path path;
  std::string state;  ///< why a build would make it again; empty: it is up to date
  struct Input {
    std::filesystem::path path;
    std::string state;  ///< "changed", "gone"; empty: as it was
  };
  std::vector<Input> inputs = {};
};
/// What the records of the lanes say of a file: a product, or a source or header that went into some. Empty when it is
/// in none of them.
FIBULA_API std::vector<MadeFile> why_made(const Project& project, const std::vector<Lane>& lanes,
                                          const std::filesystem::path& file);

/// Removes what builds made in these lanes. Gives the number of files. Errors: io.
FIBULA_API Result<size_t> clean(const Project& project, const std::vector<Lane>& lanes);

}  // namespace fibula
