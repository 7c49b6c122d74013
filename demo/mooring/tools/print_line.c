/* A stray tool: prints how much line one boat needs. */
#include <mooring/mooring.h>
#include <stdio.h>

int main(void) {
  printf("%.1f m\n", mooring_line(4.2, 3));
  return 0;
}
