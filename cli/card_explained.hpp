#pragma once

#include <fibula/shelf.hpp>

namespace cli {

/// Prints a card with what each of its lines means, and how each fact was learnt.
void print_explained(const fibula::Card& card);

}  // namespace cli
