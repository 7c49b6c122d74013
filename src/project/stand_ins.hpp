/// Sources that stand in for what some systems' C libraries lack.
#pragma once

#include "project/builds_for.hpp"
#include "take/sources/code_tree.hpp"

#include <filesystem>
#include <set>
#include <string>

namespace fibula {

class StandIns {
 public:
  StandIns(std::filesystem::path root, const BuildsFor& lanes, const CodeTree& tree);

  /// Whether a source is one, and each lane's system has what it stands in for.
  bool has(const std::string& file) const;

 private:
  bool is_of_gettext(const std::filesystem::path& folder) const;
  bool is_there_by_itself(const std::string& function) const;
  bool is_replaced(const std::string& stem, const std::set<std::string>& defines) const;
  bool has_header_of_its_own(const std::string& header) const;
  bool is_usual_stand_in(const std::string& stem, const std::set<std::string>& defines) const;

  std::filesystem::path root_;
  const BuildsFor& lanes_;
  const CodeTree& tree_;
  std::set<std::string> replaced_;  ///< functions that the configure script brings where a system has none
};

}  // namespace fibula
