#include "beacon.h"
#include "config.h"

int beacon_flashes(int seconds) {
  return seconds / BEACON_PERIOD;
}
