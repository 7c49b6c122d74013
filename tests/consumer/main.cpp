// A program of somebody else's that uses the installed library.
#include <fibula/fibula.hpp>

#include <iostream>

int main(int argc, char** argv) {
  const auto facts = fibula::inspect(argc > 0 ? argv[0] : "");
  if (!facts) return 1;
  std::cout << fibula::to_string(*facts->kind.value) << '\n';
}
