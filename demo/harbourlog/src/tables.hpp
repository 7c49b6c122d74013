#pragma once

#include <ostream>

/// High waters of the first days, one line each.
void print_tides(std::ostream& out, int days);

/// The moon's age and phase of the first days.
void print_moon(std::ostream& out, int days);
