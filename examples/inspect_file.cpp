// Reads the facts of one library file and says what it is for.
#include <fibula/fibula.hpp>

#include <iostream>

int main(int argc, char** argv) {
  const auto facts = fibula::inspect(argc > 1 ? argv[1] : "prebuilt/tidecalc-2.1.0/lib/libtidecalc.a");
  if (!facts) {
    std::cerr << fibula::render(facts.error()) << '\n' << facts.error().hint << '\n';
    return 1;
  }
  for (const auto& row : fibula::rows(*facts)) {
    if (row.id != "toolset")
      std::cout << row.id << ": " << fibula::to_text(row.value) << " (" << fibula::to_string(row.certainty) << ")\n";
  }
  std::cout << facts->defined_count << " symbols defined, " << facts->undefined_count << " needed\n";
}
