/// The ids under which things are said: rules of a fit, and causes that `check` and `explain` find. A closed list; ids
/// are stable, and stand in JSON, SARIF and the pages of the documentation.
#pragma once

#include <fibula/export.hpp>

#include <string_view>
#include <vector>

namespace fibula {

/// One id, explained. A rule and a cause of one name are the same fact, seen before and after a tool failed.
struct Id {
  std::string_view name;   ///< "architecture"
  std::string_view stage;  ///< of the cause: compile, link, load, run; empty where it is a rule only
  bool rule = false;       ///< `fit` judges by it
  std::string_view means;
  std::string_view evidence;  ///< what is read to know it
  std::string_view remedy;    ///< what mends it as a rule; a finding says what mends this one
};

/// All of them: causes in the order of their stages, then rules that are no causes.
FIBULA_API std::vector<Id> all_ids();

}  // namespace fibula
