/// Builds the libraries that come as source and are not built yet, for all lanes, in the schedule of the project's own
/// code. What is made is kept: on the shelf for everybody, or in the project for what lies open to changes.
#pragma once

#include "build/library_build.hpp"

#include <deque>
#include <map>
#include <memory>
#include <set>

namespace fibula {

class LibraryBuilds {
 public:
  /// What is told while the runner runs.
  struct Told {
    std::function<void(const std::string& lane, BuildStep step)> stepped;  ///< a command has ended
    /// All libraries of a lane are built, or cannot be: these, with why. Called once for each lane that has some.
    std::function<void(const std::string& lane, std::map<std::string, Misfit> failed)> lane_ended;
  };

  /// All that is given outlives this, and this the runner.
  LibraryBuilds(const Gathered& gathered, const Shelf& shelf, const BuildOptions& options, JobRunner& runner,
                Told told);

  /// Whether a lane has libraries to build.
  bool builds_for(const std::string& lane) const { return open_.contains(lane); }
  /// Gives the runner what waits for nothing; the rest follows as it ends.
  void begin() { advance(); }
  /// What kept one from being begun: io.
  const std::optional<Error>& error() const { return error_; }

 private:
  void collect(const GatheredLane& lane);
  void advance();
  bool go_on(LibraryBuild& build, const GatheredLane& lane);
  void tell_ended_lanes();
  const LibraryBuild* twin_of(const LibraryBuild& build) const;
  const LibraryBuild* build_of(const std::string& lane, const std::string& library) const;
  const Choice* built_choice(const Choice& pending, const GatheredLane& lane);

  const Project& project_;
  const Shelf& shelf_;
  const BuildOptions& options_;
  JobRunner& runner_;
  Told told_;
  std::vector<std::unique_ptr<LibraryBuild>> builds_;
  std::vector<const GatheredLane*> lanes_;  ///< of each build
  std::set<std::string> open_;              ///< lanes whose libraries are not all built
  std::deque<Card> cards_;
  std::deque<Choice> choices_;
  std::optional<Error> error_;
  bool advancing_ = false;
};

}  // namespace fibula
