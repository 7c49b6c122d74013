/* quayhand tells the hands on the quay what the night needs. */
#include <beacon.h>
#include <gauge.h>
#include <lampbus.h>
#include <mooring/mooring.h>

#include <stdio.h>

int main(void) {
  const int readings[] = {402, 418, 440};
  printf("water at the quay: %d cm\n", gauge_mean(readings, 3));
  printf("line for a boat: %.1f m\n", mooring_line(4.2, 3));
  printf("flashes in an hour: %d\n", beacon_flashes(3600));
  printf("frame that lights lamp 5: 0x%02x\n", lampbus_frame(5, 1));
  return 0;
}
