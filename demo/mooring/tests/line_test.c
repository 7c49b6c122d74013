#include <mooring/mooring.h>

int main(void) {
  return mooring_line(2, 1) > 7 ? 0 : 1;
}
