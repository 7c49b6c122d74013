/* The gauges of the quay: quayhand's own library. */
#ifndef GAUGE_H
#define GAUGE_H

/* The middle of the last readings, in centimetres. */
int gauge_mean(const int* readings, int count);

#endif
