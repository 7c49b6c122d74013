/// Trials: a minimal program for each library and lane, which proves that its headers compile, that what they declare
/// links, and that a program with it starts.
#pragma once

#include <fibula/project.hpp>
#include <fibula/shelf.hpp>

#include <string>
#include <vector>

namespace fibula {

enum class TrialStep { compile, link, run };
enum class TrialOutcome {
  good,
  failed,
  not_tried,  ///< a step before it failed, or nothing here can do it
};
FIBULA_API std::string_view to_string(TrialStep step);
FIBULA_API std::string_view to_string(TrialOutcome outcome);

struct Trial {
  std::string library;
  std::string lane;
  TrialStep step = TrialStep::compile;
  TrialOutcome outcome = TrialOutcome::not_tried;
  std::string detail = {};  ///< what was done, or what is wrong
  /// Public headers that compile behind another one of the library alone, each with that one in front.
  std::vector<std::string> in_order = {};
};

/// The library of this name, or all that are attached, in these lanes: three steps each, in order. Each public header
/// is compiled alone; a program is linked that refers to every function which the headers declare and the binaries
/// define (or only to `functions`), and run; it prints what the library says is its version, where it has a function
/// for that. Works in `.fibula/trial`, where what did not change is not done again. Errors: usage (no such library),
/// those of `build`.
FIBULA_API Result<std::vector<Trial>> try_libraries(const Project& project, const std::vector<Lane>& lanes,
                                                    const Shelf& shelf, const std::string& name = {},
                                                    const std::vector<std::string>& functions = {});

}  // namespace fibula
