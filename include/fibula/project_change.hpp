/// Changes of a project's files that mend what was found, made on request, and taken back.
///
///     for (const auto& finding : fibula::explain(log, {.shelf = shelf, .project = &project, .of_project = true}))
///       fibula::make_changes(project.root(), shelf, finding.changes);
#pragma once

#include <fibula/shelf.hpp>

#include <filesystem>
#include <string>
#include <vector>

namespace fibula {

struct ProjectChange {
  enum class Kind {
    attach,          ///< a library of the shelf
    line,            ///< another text on a line of a file
    set,             ///< a key of an output gets a value
    add,             ///< a list of an output gets one more value, in front
    add_to_library,  ///< the same for a list of a library
  };
  Kind kind = Kind::attach;
  std::string name = {};  ///< the library, or the output
  std::string key = {};   ///< of the output or library: "definitions", "standard"
  std::string value = {};
  std::filesystem::path file = {};  ///< absolute
  size_t line = 0;                  ///< from 1
  std::string before = {}, after = {};
  bool operator==(const ProjectChange&) const = default;
};

/// "fibula attach tidecalc", "main.cpp:3: #include <tide.h>", "in fibula.toml, output harbourlog: add \"TIDE\" to
/// definitions". Files as seen from `root`.
FIBULA_API std::string to_string(const ProjectChange& change, const std::filesystem::path& root);

/// Makes changes of the project of a folder, all or none: what stood there before is kept. Errors: absent (no project),
/// refused (a file is not as it was when the change was found, or lies outside of the project; a key that cannot be
/// edited), those of `attach`, io.
FIBULA_API Result<void> make_changes(const std::filesystem::path& folder, const Shelf& shelf,
                                     const std::vector<ProjectChange>& changes);

/// Makes the files what they were before the last `make_changes`, and gives them. Errors: absent (no project), refused
/// (there was none; a file was changed since), io.
FIBULA_API Result<std::vector<std::filesystem::path>> undo_changes(const std::filesystem::path& folder);

}  // namespace fibula
