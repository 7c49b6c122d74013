#include "tidecalc.h"

double tide_next_high_water(const struct tide_constituent *constituents, int count, double hours) {
  const double step = 1.0 / 60.0;
  double before = tide_height(constituents, count, hours);
  double now = tide_height(constituents, count, hours + step);
  for (hours += step;; hours += step) {
    const double after = tide_height(constituents, count, hours + step);
    if (now >= before && now > after) return hours;
    before = now;
    now = after;
  }
}
