#include "lampbus.h"

unsigned lampbus_frame(unsigned lamp, int burns) {
  unsigned bits = (lamp & 0x7f) << 1 | (burns != 0);
  return bits << 1 | lampbus_parity(bits);
}
