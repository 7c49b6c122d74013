/// What was chosen of one library for a lane, and why.
#pragma once

#include <fibula/linkage.hpp>
#include <fibula/misfit.hpp>

#include <filesystem>
#include <optional>
#include <string>
#include <vector>

namespace fibula {

/// A variant that was not chosen, and the first reason why.
struct Refusal {
  std::string version;
  std::string variant;
  Misfit first;
};

struct ChosenLibrary {
  std::string name;
  std::string version;                  ///< empty when none is on the shelf
  std::string variant;                  ///< empty for headers only, and when none fits
  std::optional<Linkage> linkage = {};  ///< of the variant; none without one
  std::string why;                      ///< why this version and variant
  std::string to_build = {};            ///< of a library that comes as source and is not built yet: what is to be done
  std::string required_by = {};         ///< the library that requires it; empty: the project attaches it
  Verdict verdict = Verdict::ok;
  std::vector<Misfit> misfits = {};     ///< cautions and misfits; where nothing fits, those of the nearest variant
  std::vector<Misfit> notes = {};       ///< what looks different and is `ok`, with its reason, and what is `unknown`
  std::vector<Refusal> refused = {};    ///< where nothing fits: every variant, the nearest first
  std::string wanted = {};              ///< where nothing fits: the download to look for
  std::string licence = {};             ///< SPDX expression, where known
  std::string origin = {};              ///< where it was taken from
  std::string digest = {};              ///< of all files of the chosen version
  std::filesystem::path entry = {};     ///< where its card is
  std::vector<std::string> files = {};  ///< what is linked and run, relative to the library's files
};

}  // namespace fibula
