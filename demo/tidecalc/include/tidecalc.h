/* tidecalc: heights of the tide at a harbour, from its harmonic constituents.
 * SPDX-License-Identifier: MIT */
#ifndef TIDECALC_H
#define TIDECALC_H

#define TIDECALC_VERSION "2.1.0"

#ifdef __cplusplus
extern "C" {
#endif

/* One constituent: half the range it adds, its speed, and its phase at hour zero. */
struct tide_constituent {
  double amplitude_m;
  double degrees_per_hour;
  double phase_degrees;
};

/* The sample harbour's constituents; count is set to their number. */
const struct tide_constituent *tide_sample_harbour(int *count);

/* Height in metres over chart datum, `hours` after hour zero. */
double tide_height(const struct tide_constituent *constituents, int count, double hours);

/* Hours of the next high water at or after `hours`, to about a minute. */
double tide_next_high_water(const struct tide_constituent *constituents, int count, double hours);

#ifdef __cplusplus
}
#endif
#endif
