#include "gauge.h"

int gauge_mean(const int* readings, int count) {
  long sum = 0;
  for (int i = 0; i < count; ++i) sum += readings[i];
  return count == 0 ? 0 : (int)(sum / count);
}
