#include "tidecalc.h"

#include <math.h>

static const double mean_level_m = 2.9;
static const double radians_per_degree = 3.14159265358979323846 / 180.0;

double tide_height(const struct tide_constituent *constituents, int count, double hours) {
  double height = mean_level_m;
  for (int i = 0; i < count; ++i) {
    const double angle = constituents[i].degrees_per_hour * hours - constituents[i].phase_degrees;
    height += constituents[i].amplitude_m * cos(angle * radians_per_degree);
  }
  return height;
}
