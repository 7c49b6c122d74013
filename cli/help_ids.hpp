/// What `fibula help` tells of rules and causes.
#pragma once

#include "session.hpp"

#include <string>
#include <vector>

namespace cli {

/// All ids, as words for TOPIC.
std::vector<std::string> id_names();
/// The list of the rules, or that of the causes.
void print_rules();
void print_causes();
/// One of them in full; false: there is none of this name.
bool print_id(const std::string& name);
/// All of them, or the one that is named, as JSON.
void print_ids_json(const std::string& name);

}  // namespace cli
