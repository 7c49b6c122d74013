/// A new project: from nothing, from the sources that are there, or with the set-up of another one.
///
///     auto begun = fibula::begin({.folder = "harbour"});
///     if (begun) std::cout << begun->project.file() << '\n';
#pragma once

#include <fibula/cache.hpp>
#include <fibula/lane.hpp>
#include <fibula/project.hpp>

#include <filesystem>
#include <string>
#include <vector>

namespace fibula {

struct BeginRequest {
  std::filesystem::path folder;         ///< made where it is not there
  std::vector<std::string> lanes = {};  ///< beside debug and release of this machine's own compiler, by name
  std::filesystem::path like = {};      ///< a project whose lanes, libraries and flags are wanted here too
  Cache cache = Cache::standard();
};

struct Begun {
  Project project;
  std::filesystem::path first_source = {};  ///< that was written, where there was none
  std::vector<ProposedLane> lanes = {};     ///< those that were asked for
  std::vector<std::string> remarks = {};    ///< what was left alone, and what to know
};

/// Writes `fibula.toml` for what lies in the folder: a program for each source with a `main`, the folders of headers
/// that their includes need, libraries that lie inside (`lib/tern/`) used where they lie. In a folder without sources a
/// first one is written. With `like` the text of the other project, with its comments, and the outputs of this folder;
/// its sources stay where they are. Errors: refused (there is a project already), those of `propose_lane_named`, of the
/// other project's file, io. Nothing is half-written.
FIBULA_API Result<Begun> begin(const BeginRequest& request);

/// Writes a lane into a project's file, behind the others; everything else of it stays as it is. Errors: those of
/// `propose_lane_named`, malformed, io.
FIBULA_API Result<ProposedLane> add_lane(const Project& project, const std::string& name, const LaneWish& wish = {},
                                         const Cache& cache = Cache::standard());

}  // namespace fibula
