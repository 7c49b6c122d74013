#include "tidecalc.h"

static const struct tide_constituent sample[] = {
    {1.72, 28.9841042, 62.0},  /* principal lunar */
    {0.54, 30.0000000, 101.0}, /* principal solar */
    {0.31, 28.4397295, 39.0},  /* larger elliptic */
    {0.12, 15.0410686, 170.0}, /* luni-solar diurnal */
};

const struct tide_constituent *tide_sample_harbour(int *count) {
  *count = (int)(sizeof sample / sizeof sample[0]);
  return sample;
}
