/* lampbus: frames for the lamps along the quay.
 * SPDX-License-Identifier: MIT */
#ifndef LAMPBUS_H
#define LAMPBUS_H

#define LAMPBUS_VERSION "2.1.0"

#ifdef __cplusplus
extern "C" {
#endif

/* 1 where an odd number of bits is set: what lamps check a frame by. In assembly. */
unsigned lampbus_parity(unsigned bits);
/* A frame for one lamp, from 0 to 127: its number, whether it is to burn, and the parity. */
unsigned lampbus_frame(unsigned lamp, int burns);

#ifdef __cplusplus
}
#endif
#endif
