// What a program or library needs when it runs, found as its loader would find it, without running it.
#include <fibula/closure.hpp>

#include <iostream>

int main(int argc, char** argv) {
  const auto closure = fibula::closure_of(argc > 1 ? argv[1] : "prebuilt/tidecalc-2.1.0/lib/libtidecalc.so");
  if (!closure) {
    std::cerr << fibula::render(closure.error()) << '\n';
    return 1;
  }
  for (const auto& entry : *closure)
    std::cout << entry.name << ": " << fibula::to_string(entry.status) << (is_bad(entry) ? ", and that is bad" : "")
              << '\n';
}
