/// What a library asks of others, where that was not known yet when it was taken.
#pragma once

#include <fibula/card.hpp>
#include <fibula/shelf.hpp>

namespace fibula {

/// Finds the libraries of the shelf that have what the card's headers asked for in vain when it was taken; what nobody
/// has is no requirement.
void complete_requirements(Card& card, const Shelf& shelf);

}  // namespace fibula
