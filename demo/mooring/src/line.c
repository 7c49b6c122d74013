#include <mooring/mooring.h>

#include "knot.h"

double mooring_line(double range_m, double quay_m) {
  return 3 * range_m + quay_m + mooring_knot();
}
