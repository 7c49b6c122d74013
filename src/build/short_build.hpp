/// A build of a lane in which nothing changed but files that a few of its compiles read, since a build left nothing to
/// do: these are run again, and where the objects show linkers what they showed before, what is made of them is made as
/// it was planned. Else the lane is planned anew, with the objects that are there.
#pragma once

#include "build/recipe.hpp"
#include "jobs/runner.hpp"
#include "link/object_interface.hpp"

#include <optional>
#include <vector>

namespace fibula {

class ShortBuild {
 public:
  /// `stale`: the products that are out of date, by their inputs alone. Nothing where that is more than a few compiles,
  /// or not known how they were made. The record outlives it. `ended` is called for jobs that ended well.
  static std::optional<ShortBuild> open(BuildRecord& record, const std::vector<std::string>& stale,
                                        std::string_view recipe, JobRunner::Done ended);

  /// Gives the runner the compiles; what follows is given as they end. It stays where it is until all have ended.
  void begin(JobRunner& runner);
  /// After the run: everything is as a whole build would make it.
  bool is_whole() const { return whole_; }

 private:
  struct Compile {
    Job job;
    ObjectInterface before;
  };

  ShortBuild(BuildRecord& record, Recipe recipe, JobRunner::Done ended)
      : record_(&record), recipe_(std::move(recipe)), ended_(std::move(ended)) {}
  bool add(const std::string& object);
  void find_users();
  void one_compiled(bool good);
  bool shows_the_same() const;
  void go_on();
  bool is_waiting(size_t other) const;

  BuildRecord* record_;
  Recipe recipe_;
  JobRunner::Done ended_;
  JobRunner* runner_ = nullptr;
  std::vector<Compile> compiles_;
  size_t compiling_ = 0;
  enum class Phase : uint8_t { waiting, running, made };
  std::vector<Phase> phases_;               ///< of the recipe's others
  std::vector<std::vector<size_t>> needs_;  ///< of each of them: others whose products it reads
  bool failed_ = false;
  bool whole_ = false;
};

}  // namespace fibula
