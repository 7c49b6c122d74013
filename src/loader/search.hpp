/// One need on its way through the places where a loader looks.
#pragma once

#include <fibula/closure.hpp>

#include "loader/run_time_file.hpp"
#include "loader/target_system.hpp"

namespace fibula {

/// A directory of a run path, with the file that says it.
struct RunPath {
  std::string directory;  ///< expanded; relative ones depend on where the program is started
  std::string from;       ///< the file's name
};

/// A file that needs others.
struct Asker {
  std::shared_ptr<const RunTimeFile> file;
  std::vector<RunPath> searched = {};  ///< for its own needs
  std::vector<RunPath> given_on = {};  ///< to the files that it needs
};

/// The program's surroundings, which every search of one closure shares.
struct Surroundings {
  TargetSystem& system;
  RunTimeFiles& files;
  fs::path folder;  ///< of the program, or of the library that was asked about
  bool musl = false;
  /// Files that will lie beside the program and are elsewhere yet, by the name they will have.
  std::map<std::string, fs::path> placed = {};
};

struct Found {
  std::shared_ptr<const RunTimeFile> file = {};
  fs::path path = {};
  NeedStatus status = NeedStatus::missing;
  std::string why = {};
  std::vector<std::string> passed_over = {};
};

/// What a loader does with a file that it cannot use.
struct Patience {
  bool passes_other_machines = true;
  bool passes_unloadable = false;
};

class Search {
 public:
  Search(const Surroundings& around, const Target& wanted, Patience patience)
      : around_(around), wanted_(wanted), patience_(patience) {}

  /// Looks at a path; true when the search is over: found, or the loader stops here.
  bool at(const fs::path& path, NeedStatus status, const std::string& why);
  /// The same for a name in a directory.
  bool in(const fs::path& directory, const std::string& name, NeedStatus status, const std::string& why);
  bool over() const { return over_; }
  /// A place where the loader would have looked later, or never does: told when another file lies there.
  void compare(const fs::path& path);
  /// What was found; else what was passed over; else `missing`.
  Found result(std::string missing) &&;

 private:
  bool judge(const fs::path& path, NeedStatus status, const std::string& why);

  const Surroundings& around_;
  Target wanted_;
  Patience patience_;
  bool over_ = false;
  Found found_;
  Found unusable_;  ///< the first that was passed over
};

/// A path or name with its tokens replaced: `$ORIGIN` and its kin stand for the folder of the file that says them
/// (ld.so(8), "Dynamic string tokens"; dyld(1)).
std::string expanded(std::string text, const RunTimeFile& file);

Asker asker_of(std::shared_ptr<const RunTimeFile> file, const std::vector<RunPath>& inherited,
               const Surroundings& around);
Found find_elf(const Surroundings& around, const Asker& asker, const std::string& name);
Found find_windows(const Surroundings& around, const Asker& asker, const std::string& name);
Found find_macos(const Surroundings& around, const Asker& asker, const std::string& name);

}  // namespace fibula
