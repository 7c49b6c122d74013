/// Run-time files where the loader finds them: beside the program after each build, and in a folder to hand on.
///
///     auto staged = fibula::stage(*project, *fit, {.into = "harbourlog-1.0"});
///     for (const fibula::Misfit& m : staged->misfits) std::cout << m.sentence() << '\n';
#pragma once

#include <fibula/closure.hpp>
#include <fibula/fit.hpp>

namespace fibula {

struct StagedFile {
  enum class Change {
    kept,     ///< it was there already, as it should be
    added,    ///< it was not there
    changed,  ///< an older one was replaced
  };
  std::string path;            ///< relative to the folder
  std::filesystem::path from;  ///< what it was copied from
  std::string library;         ///< empty: the project's own
  std::string why;             ///< "harbourlog needs it"
  std::string sha256 = {};     ///< of a folder to hand on
  Change change = Change::kept;
};

FIBULA_API std::string_view to_string(StagedFile::Change change);

/// A run-time file that is not staged, since the system has it.
struct LeftToSystem {
  std::string name;
  std::string why;
  std::string least = {};  ///< the newest symbol version that staged files need of it: "GLIBC_2.34"
};

struct StageOptions {
  std::filesystem::path into;  ///< the folder to hand on; it is made
  bool licences = false;       ///< also the licences of the libraries, under `licences/<library>`
};

struct StageReport {
  std::filesystem::path folder;
  std::vector<StagedFile> files;        ///< sorted by path
  std::vector<std::string> removed;     ///< of an earlier stage, not needed any more
  std::vector<std::string> left_alone;  ///< the same, but somebody changed them since: they stay
  std::vector<LeftToSystem> left;
  std::vector<Misfit> misfits;  ///< why the folder would not start elsewhere; nothing is written then
};

/// A folder with everything that the programs and shared libraries of a lane need on a machine without the libraries:
/// them, their run-time files under the names by which the loader asks, plugins, data files of the libraries and of the
/// project. What belongs to the system stays there: the C library and its loader, the compilers' run-times of Linux,
/// drivers, what is part of Windows or macOS. Files are copied only when they changed; a list with their digests is
/// written (`staged.sha256`), and files of an earlier list that are not needed any more are removed, if nobody changed
/// them. Files that are not on the list are never touched. Errors: absent (not built yet, a file left the shelf),
/// refused (the folder is the project or holds it; a file of somebody else is in the way; two files of one name), io.
FIBULA_API Result<StageReport> stage(const Project& project, const Fit& fit, const StageOptions& options);

/// What a staged folder differs in from its list.
struct StageChange {
  std::string path;
  std::string what;  ///< "missing", "changed"
};
struct StageCheck {
  size_t files = 0;  ///< on the list
  std::vector<StageChange> changes;
};
/// Compares a staged folder with its list. Errors: absent (no list in there), malformed, unreadable.
FIBULA_API Result<StageCheck> check_stage(const std::filesystem::path& folder);

/// Puts what the programs of a lane need beside them (`<lane folder>/bin`): the same files, without those that the
/// system's loader finds by itself. Files of an earlier build that are not needed any more are removed, unless a
/// program could not be made this time (`all_made` is false): it may need them. Where a program is not linked yet, the
/// fit's run-time files. Errors: as `stage`.
FIBULA_API Result<StageReport> place_runtime_files(const Project& project, const Fit& fit, bool all_made = true);

}  // namespace fibula
