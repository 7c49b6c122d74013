/* quayhand tells the hands on the quay what the night needs. */
#include <beacon.h>
#include <mooring/mooring.h>

#include <stdio.h>

int main(void) {
  printf("line for a boat: %.1f m\n", mooring_line(4.2, 3));
  printf("flashes in an hour: %d\n", beacon_flashes(3600));
  return 0;
}
