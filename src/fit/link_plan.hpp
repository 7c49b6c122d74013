/// From the chosen libraries to the link of one output: objects or mentions, order, system inputs, and what is left
/// over.
#pragma once

#include "fit/gathered.hpp"

namespace fibula {

struct LinkPlan {
  OutputLink link;
  std::vector<Misfit> misfits;
};

/// What a plan is made from.
struct LinkQuestion {
  const Project& project;
  const Lane& lane;
  const Toolchain& toolchain;
  const Shelf& shelf;
  const Output& output;
  std::vector<Choice> choices;  ///< of the libraries that the output uses
  const OwnCode& own;
};

/// Errors: those of a damaged file on the line.
Result<LinkPlan> plan_link(Gathered::State& state, const LinkQuestion& question);

}  // namespace fibula
