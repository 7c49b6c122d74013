/// The tables that `all_ids` puts together, one a stage.
#pragma once

#include <fibula/ids.hpp>

#include <span>

namespace fibula {

constexpr bool is_rule = true, is_cause_only = false;

std::span<const Id> compile_ids();
std::span<const Id> link_ids();
std::span<const Id> load_ids();
std::span<const Id> rule_ids();

/// The stage that a cause belongs to: compile, link, load, run; empty for what is no cause.
std::string_view stage_of(std::string_view cause);

}  // namespace fibula
