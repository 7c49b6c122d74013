#include "tables.hpp"

#include <cstdlib>
#include <iostream>

int main(int argc, char** argv) {
  const int days = argc > 1 ? std::atoi(argv[1]) : 3;
  std::cout << "harbourlog, the next " << days << " days\n\n";
  print_tides(std::cout, days);
  std::cout << '\n';
  print_moon(std::cout, days);
}
