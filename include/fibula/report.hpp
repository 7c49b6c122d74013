/// Everything about a project on one page.
///
///     auto page = fibula::report(*project, project->lanes(), *shelf);
///     if (page) fibula::emit::write_text("report.html", page->html());
#pragma once

#include <fibula/fit.hpp>
#include <fibula/lock.hpp>
#include <fibula/project.hpp>
#include <fibula/result.hpp>
#include <fibula/shelf.hpp>

#include <cstdint>
#include <filesystem>
#include <string>
#include <vector>

namespace fibula {

/// What one library puts into a linked output: the bytes of the functions and data in it that have a library's names.
struct AddedBytes {
  std::string lane, output, library;  ///< library empty: the project's own code, and what nothing names
  uint64_t bytes = 0;
};

/// Who needs whom: an output, a library or a file of the system, and what it needs.
struct NeedEdge {
  std::string from, to;
  bool to_system = false;
};

struct FIBULA_API Report {
  std::string project;  ///< its folder's name
  std::vector<Fit> fits;
  std::vector<LockChange> changes;  ///< what was chosen otherwise than the lock file says
  std::vector<AddedBytes> added;    ///< of outputs that are built
  std::vector<NeedEdge> edges;
  std::string drawing;     ///< of these, as SVG; empty where it could not be drawn
  std::string no_drawing;  ///< why not
  std::vector<Error> lanes_without_fit;

  /// One page that needs nothing else: no network, no other file.
  std::string html() const;
  std::string markdown() const;
  /// Schema fibula.report/1.
  std::string json() const;
};

/// Fits the lanes, follows what they need when they run, and reads what is built. Writes nothing but the cache. Errors:
/// those of `gather`.
FIBULA_API Result<Report> report(const Project& project, const std::vector<Lane>& lanes, const Shelf& shelf);

/// Writes a page to `.fibula/report.html` of the project, and gives its path. Errors: io.
FIBULA_API Result<std::filesystem::path> keep_report(const Project& project, const std::string& page);

}  // namespace fibula
