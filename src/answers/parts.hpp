/// Parts that several answers have.
#pragma once

#include <fibula/answers.hpp>

#include "base/json_text.hpp"

namespace fibula::answers {

using nlohmann::ordered_json;

/// A document: its schema, then its members.
std::string document(std::string_view schema, const ordered_json& members);

/// `code`, `what`, and of `file`, `line`, `place`, `hint` those that there are.
ordered_json error_json(const Error& error);
ordered_json findings_json(const std::vector<Finding>& findings);

}  // namespace fibula::answers
