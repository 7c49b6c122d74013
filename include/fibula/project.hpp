/// A project: what it makes, which libraries it uses, in which lanes it must build. Read from `fibula.toml`.
#pragma once

#include <fibula/lane.hpp>
#include <fibula/shelf.hpp>

#include <filesystem>
#include <map>
#include <optional>
#include <string>
#include <vector>

namespace fibula {

enum class OutputKind { program, static_library, shared_library };
FIBULA_API std::string_view to_string(OutputKind kind);

/// One thing that a project makes: a block `[[output]]`.
struct Output {
  std::string name;
  OutputKind kind = OutputKind::program;
  std::vector<std::string> sources;  ///< patterns relative to the project, "src/**/*.cpp"; objects and archives too
  /// By pattern of the sources, where they are not for every lane: systems (linux, windows, macos, bare-metal) and
  /// lanes.
  std::map<std::string, std::vector<std::string>> only_for = {};
  std::vector<std::string> headers = {};              ///< include directories of its own, relative to the project
  std::optional<std::vector<std::string>> uses = {};  ///< libraries and other outputs; none: every attached library
  std::string standard = {};                          ///< "c++17"
  std::vector<std::string> definitions = {};
  std::vector<std::string> flags = {};
  LinkSettings link = {};
  std::vector<std::string> data = {};                 ///< patterns relative to the project: read while the program runs
  std::vector<std::string> plugins = {};              ///< the same for libraries that it opens while it runs
  std::map<std::string, std::string> placement = {};  ///< the region in which a function or section must lie
  std::vector<std::string> image = {};                ///< further forms of a program for a device: "hex", "bin"
  bool made_elsewhere = false;                 ///< by a build of the user's own: only what it is given is planned
  unsigned line = 0;                           ///< of fibula.toml; 0: it stands in none
  std::map<std::string, unsigned> lines = {};  ///< where each pattern and folder stands there
};

/// What a project file says, as values: for programs that keep such settings in a form of their own.
struct ProjectValues {
  std::filesystem::path root;  ///< its folder; what other paths are relative to
  std::vector<Output> outputs = {};
  std::vector<LibraryUse> libraries = {};
  std::vector<Lane> lanes = {};
  std::vector<std::string> compile_through = {};
  std::vector<std::string> shelves = {};  ///< folders and addresses
  bool check_licences = false;
  unsigned jobs = 0;        ///< commands at a time; 0: as many as the machine has cores
  unsigned time_limit = 0;  ///< seconds for each command; 0: none
};

/// The files of an output, absolute and sorted.
struct OutputFiles {
  std::vector<std::filesystem::path> sources;  ///< compiled or assembled
  std::vector<std::filesystem::path> given;    ///< objects and archives, linked as they are
};

class FIBULA_API Project {
 public:
  /// A project without a file. Errors: malformed, for what a file with these values would be refused for.
  static Result<Project> from_values(ProjectValues values);

  /// Opens the project of a folder: its `fibula.toml`, or that of the nearest folder above. Errors: absent, malformed
  /// (with file and line).
  static Result<Project> open(const std::filesystem::path& folder);

  /// Reads a text as if it were the `fibula.toml` of a folder. Errors: malformed.
  static Result<Project> from_text(std::string_view text, const std::filesystem::path& root);

  const std::filesystem::path& root() const { return root_; }
  std::filesystem::path file() const { return root_ / "fibula.toml"; }
  const std::vector<Output>& outputs() const { return outputs_; }
  const std::vector<LibraryUse>& libraries() const { return libraries_; }
  const std::vector<Lane>& lanes() const { return lanes_; }
  /// Put before every compile command: a compiler cache or a compile farm.
  const std::vector<std::string>& compile_through() const { return compile_through_; }

  /// The places of the project's own shelves, in order: absolute folders, and addresses.
  const std::vector<std::string>& shelves() const { return shelves_; }
  /// The project's own shelves before the user's.
  Shelf shelf(const Shelf& users) const;

  /// Commands that a build runs at a time; 0: as many as the machine has cores, or as a known compile farm has slots.
  unsigned jobs() const { return jobs_; }
  /// Seconds that a command of a build may take; 0: as long as it likes.
  unsigned time_limit() const { return time_limit_; }

  /// Of the text that it was read from, to see whether it is still that; 0 where there is none.
  uint64_t text_digest() const { return text_digest_; }

  /// Whether licences that ask something of statically linked programs are told.
  bool check_licences() const { return check_licences_; }

  /// The project as a fit sees it: where it names no output, somebody else's build makes a program that uses every
  /// attached library.
  Project with_program_made_elsewhere() const;

  /// Lanes by name; no names: all of them. Errors: usage, with the lanes that there are.
  Result<std::vector<Lane>> lanes_named(const std::vector<std::string>& names) const;
  /// The libraries that an output uses in a lane, with what the lane overrides.
  std::vector<LibraryUse> uses(const Output& output, const Lane& lane) const;
  /// The files of an output that are compiled or assembled, as they are now, absolute and sorted.
  std::vector<std::filesystem::path> sources(const Output& output) const;
  /// Both of every output, in the order of `outputs`, after a look whether everything that they name is there: files,
  /// at least one for each pattern, header folders. Errors: absent, usage (a source outside of the project, or none
  /// that a compiler takes), with the line.
  Result<std::vector<OutputFiles>> files() const;
  /// Files of the project that match the patterns of an output's `data` and `plugins`, absolute and sorted.
  std::vector<std::filesystem::path> files_for(const std::vector<std::string>& patterns) const;
  /// Where a lane's results go: `.fibula/<lane>`.
  std::filesystem::path folder_of(const Lane& lane) const { return root_ / ".fibula" / lane.name; }
  /// Where a build puts the object of a source: `.fibula/<lane>/objects/<output>/<source>.o`.
  std::filesystem::path object_of(const Lane& lane, const Output& output, const std::filesystem::path& source) const;
  /// Where a build puts the output itself, under the name that the lane's system gives it: `.fibula/<lane>/bin/<name>`
  /// or `<name>.exe`, `lib<name>.a` or `<name>.lib`, `lib<name>.so`, `<name>.dll` or `lib<name>.dylib`.
  std::filesystem::path product_of(const Lane& lane, const Toolchain& toolchain, const Output& output) const;

 private:
  friend struct ProjectReader;
  std::filesystem::path root_;
  std::vector<Output> outputs_;
  std::vector<LibraryUse> libraries_;
  std::vector<Lane> lanes_;
  std::vector<std::string> compile_through_;
  std::vector<std::string> shelves_;
  bool check_licences_ = false;
  unsigned jobs_ = 0, time_limit_ = 0;
  uint64_t text_digest_ = 0;
};

/// The shelf inside a project's folder; where it has none yet, `shelf` beside its file, which then names it. Errors:
/// absent (no project), malformed, io.
FIBULA_API Result<Shelf> own_shelf(const std::filesystem::path& folder);

}  // namespace fibula
