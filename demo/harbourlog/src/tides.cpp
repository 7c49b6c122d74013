#include "tables.hpp"

#include <tidecalc.h>
#include <iomanip>

void print_tides(std::ostream& out, int days) {
  int count = 0;
  const tide_constituent* harbour = tide_sample_harbour(&count);
  out << "high waters\n  day   time   height\n";
  for (double hours = tide_next_high_water(harbour, count, 0.0); hours < 24.0 * days;
       hours = tide_next_high_water(harbour, count, hours + 1.0)) {
    const int minutes = static_cast<int>(hours * 60.0);
    out << "  " << std::setw(3) << minutes / 1440 + 1 << "  " << std::setfill('0') << std::setw(2) << minutes / 60 % 24
        << ':' << std::setw(2) << minutes % 60 << std::setfill(' ') << "  " << std::fixed << std::setprecision(2)
        << std::setw(5) << tide_height(harbour, count, hours) << " m\n";
  }
}
