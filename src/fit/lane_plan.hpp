/// The plan of a lane, link by link: for those who make the project's own code while they plan.
#pragma once

#include "fit/gathered.hpp"

#include <set>

namespace fibula {

class LanePlan {
 public:
  /// Libraries and what the compiler is given. Errors: usage (the lane is none of those that were gathered for); why
  /// there is no fit for it.
  static Result<LanePlan> open(const Gathered& gathered, const Lane& lane);

  /// What is planned so far.
  const Fit& fit();
  Fit take() { return fit(), std::move(fit_); }
  /// What is there of the project's own code may have changed since this plan, or one of the same gathering, read it.
  void refresh(const OwnCode& own);

  /// Looks up what the project's sources include.
  void judge_includes();

  /// The libraries that an output uses and that do not fit: it cannot be made.
  bool is_refused(const Output& output) const;
  /// Plans the link of an output that is no static library, anew if that was done before; true when it can work.
  /// Errors: those of a damaged file on the line.
  Result<bool> plan_link(const Output& output, const OwnCode& own);
  /// Follows what the programs need when they run. `placed` are names of files that were put beside them, beside those
  /// that were gathered. Errors: those of a product that cannot be read.
  Result<void> follow(const OwnCode& own);

 private:
  LanePlan(Gathered::State& state, const GatheredLane& lane);
  void judge_headers();
  bool is_defined_here(const std::string& name) const;
  void judge_set();
  void judge_closure(const FileClosure& closure);

  Gathered::State& state_;
  const GatheredLane& lane_;
  Fit fit_;
  std::map<std::string, std::vector<Misfit>> link_misfits_;  ///< by output
  std::map<std::string, size_t> link_positions_;             ///< of an output's link in the fit
  bool links_changed_ = false;                               ///< since the fit's list of misfits was made
};

}  // namespace fibula
