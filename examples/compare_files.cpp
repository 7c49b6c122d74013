// Can the second library stand in for the first? The symbols, names and layouts of two files, compared.
#include <fibula/compare.hpp>

#include <iostream>

int main(int argc, char** argv) {
  const std::string first = argc > 2 ? argv[1] : "prebuilt/tidecalc-2.1.0/lib/libtidecalc.so";
  const std::string second = argc > 2 ? argv[2] : "prebuilt/tidecalc-2.1.0/lib/libtidecalc.a";
  const auto shelf = fibula::Shelf::standard();
  if (!shelf) return 1;
  const auto found = fibula::compare(first, second, {.shelf = *shelf});
  if (!found) {
    std::cerr << fibula::render(found.error()) << '\n';
    return 1;
  }
  for (const auto& difference : found->differences)
    std::cout << fibula::to_string(difference.kind) << ' ' << difference.name << ' '
              << fibula::to_string(difference.how) << ": " << difference.why << '\n';
  std::cout << (found->everyone.yes ? "it can stand in" : "it cannot stand in") << '\n';
}
