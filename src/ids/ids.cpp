#include "ids/ids.hpp"

namespace fibula {

std::vector<Id> all_ids() {
  std::vector<Id> all;
  for (const auto table : {compile_ids(), link_ids(), load_ids(), rule_ids()})
    all.insert(all.end(), table.begin(), table.end());
  return all;
}

std::string_view stage_of(std::string_view cause) {
  for (const auto table : {compile_ids(), link_ids(), load_ids()}) {
    for (const auto& id : table) {
      if (id.name == cause) return id.stage;
    }
  }
  return {};
}

}  // namespace fibula
