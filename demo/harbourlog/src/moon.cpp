#include "tables.hpp"

#include <iomanip>
#include <moonphase/moonphase.hpp>

void print_moon(std::ostream& out, int days) {
  constexpr double age_on_first_day = 9.2;
  out << "moon\n  day    age  phase\n";
  for (int day = 0; day < days; ++day) {
    const double age = moonphase::age(age_on_first_day + day);
    out << "  " << std::setw(3) << day + 1 << "  " << std::fixed << std::setprecision(1) << std::setw(5) << age << "  "
        << moonphase::name(age) << '\n';
  }
}
