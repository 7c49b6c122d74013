/// Parts of a log in the Static Analysis Results Interchange Format (SARIF 2.1.0, OASIS Standard, 2020).
#pragma once

#include <fibula/fit.hpp>

#include <filesystem>
#include <string>
#include <vector>

namespace fibula::emit {

/// One result; `rule`: an id of a rule or a cause.
struct SarifResult {
  std::string rule;
  bool error = true;  ///< else a warning
  std::string message;
  Place place = {};  ///< empty: it is about no file of people's
};

/// What fits object to, each thing once for all lanes.
std::vector<SarifResult> results_of(const Project& project, const std::vector<Fit>& fits);

/// A whole log: files below `root` are told from there.
std::string sarif_log(const std::filesystem::path& root, const std::vector<SarifResult>& results);

}  // namespace fibula::emit
