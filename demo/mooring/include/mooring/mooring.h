/* mooring: how much line a boat needs.
 * SPDX-License-Identifier: MIT */
#ifndef MOORING_H
#define MOORING_H

#define MOORING_VERSION "0.9.2"

#ifdef __cplusplus
extern "C" {
#endif

/* Metres of line for a range of tide and a height of the quay, both in metres. */
double mooring_line(double range_m, double quay_m);

#ifdef __cplusplus
}
#endif
#endif
