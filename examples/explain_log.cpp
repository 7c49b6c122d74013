// Says what is wrong with a build of somebody else, from what it printed.
#include <fibula/explain.hpp>

#include <iostream>

int main() {
  const auto shelf = fibula::Shelf::standard();
  if (!shelf) return 1;
  const char* log =
      "g++ -c src/tides.cpp -o tides.o\n"
      "g++ tides.o -o tides\n"
      "/usr/bin/ld: tides.o: in function `main':\n"
      "tides.cpp:(.text+0x1d): undefined reference to `tide_next_high_water'\n"
      "collect2: error: ld returned 1 exit status\n";
  for (const auto& finding : fibula::explain(log, {.shelf = *shelf, .may_ask = false})) {
    std::cout << finding.cause << ": " << finding.subject << '\n';
    for (const auto& because : finding.because) std::cout << "  " << because << '\n';
    std::cout << "  remedy: " << finding.remedy << " (" << finding.certainty << ")\n";
  }
}
