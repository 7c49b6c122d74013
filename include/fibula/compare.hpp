/// What changed between two versions of a library, and whether the second can stand in for the first.
///
///     auto shelf = fibula::Shelf::standard();
///     auto found = fibula::compare("tidecalc/2.1.0", "tidecalc/2.2.0", {.shelf = *shelf});
///     for (const fibula::Difference& d : found->differences) std::cout << d.name << ": " << d.why << '\n';
#pragma once

#include <fibula/cache.hpp>
#include <fibula/project.hpp>
#include <fibula/result.hpp>
#include <fibula/shelf.hpp>
#include <fibula/toolchain.hpp>

#include <string>
#include <vector>

namespace fibula {

enum class DifferenceKind {
  file,            ///< a file of a folder that is handed on
  variant,         ///< builds for a machine, a run-time and a configuration
  target,          ///< the machine that a binary is for
  symbol,          ///< a function or data, by the linker's name
  symbol_version,  ///< of an ELF library
  data_size,       ///< of data that programs use in place
  soname,          ///< the name under which loaders look for it
  need,            ///< a run-time file that it asks for
  floor,           ///< the least system or run-time that it runs on
  layout,          ///< of a structure, class or union
  enumerator,
  virtual_table,
  signature,         ///< what a C function takes and gives
  declaration,       ///< of a function in the headers
  default_argument,  ///< of such a declaration
  macro,
  header,
};
FIBULA_API std::string_view to_string(DifferenceKind kind);

enum class Alteration { removed, added, changed };
FIBULA_API std::string_view to_string(Alteration how);

/// What a difference means for programs that were made for the first version.
enum class Effect {
  none,    ///< they do not notice
  doubt,   ///< the files do not tell whether they notice
  source,  ///< they run on as they are; when they are compiled again, their source must change
  built,   ///< as they were compiled, they do not link, do not start, or misbehave
};
FIBULA_API std::string_view to_string(Effect effect);

/// Where a project uses what has changed.
struct ProjectUse {
  std::filesystem::path file;  ///< a source, or an object or library that the project links
  unsigned line = 0;           ///< of a source
  std::string name;            ///< what stands there, when it is not the thing itself: a function that takes it
};

struct Difference {
  DifferenceKind kind = DifferenceKind::symbol;
  Alteration how = Alteration::changed;
  std::string name;    ///< as people read it
  std::string file;    ///< in which it stands: of the second version, or of the first where it is gone
  std::string before;  ///< "24 bytes", "int"
  std::string after;
  Effect effect = Effect::none;
  std::string why;  ///< what it means
  std::vector<ProjectUse> used_by = {};
  std::vector<std::string> seen_as = {};   ///< names that a source has where it uses this
  std::vector<std::string> variants = {};  ///< the builds of the first version in which it is so; empty: in all
};

/// Whether programs that were built for the first version run with the second one in its place.
struct StandInAnswer {
  bool yes = true;
  std::vector<std::string> because = {};  ///< what stands against it
  std::vector<std::string> doubts = {};   ///< what might
};

struct Comparison {
  std::string first, second;  ///< what was compared: "tidecalc 2.1.0"
  std::vector<Difference> differences = {};
  StandInAnswer everyone = {};
  bool for_project = false;
  StandInAnswer project = {};                  ///< for what the project uses
  std::vector<std::string> not_compared = {};  ///< what could not be looked at, and why
  bool of_folders = false;                     ///< two folders of files to hand on, no library
};

struct CompareContext {
  const Shelf& shelf;
  const Project* project = nullptr;      ///< whose uses are looked for
  const Toolchain* toolchain = nullptr;  ///< that reads headers; null: the system's C++ compiler
  Cache cache = Cache::standard();
};

/// Compares two versions on the shelf ("tidecalc/2.1.0"; without a version the newest), two folders of libraries, two
/// files, or two folders that were staged. Symbols, versions, sizes of data, what loaders read, what headers declare
/// and define, and layouts: from debugging records where both have them, else from the headers. Errors: usage (one is a
/// file and the other a folder), absent, those of `inspect` and of `describe`.
FIBULA_API Result<Comparison> compare(const std::string& first, const std::string& second,
                                      const CompareContext& context);

}  // namespace fibula
