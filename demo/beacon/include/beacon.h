/* beacon: how often the harbour's lights flash.
 * SPDX-License-Identifier: MIT */
#ifndef BEACON_H
#define BEACON_H

#define BEACON_VERSION "1.5.0"

#ifdef __cplusplus
extern "C" {
#endif

/* Flashes within so many seconds. */
int beacon_flashes(int seconds);

#ifdef __cplusplus
}
#endif

#endif
