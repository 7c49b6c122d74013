// Who defines this name, who needs it, who declares it: over everything on the shelf.
#include <fibula/locate.hpp>

#include <iostream>

int main(int argc, char** argv) {
  const auto shelf = fibula::Shelf::standard();
  if (!shelf) return 1;
  const auto hits = fibula::locate(argc > 1 ? argv[1] : "tide_height", {.shelf = *shelf});
  if (!hits) {
    std::cerr << fibula::render(hits.error()) << '\n';
    return 1;
  }
  for (const auto& hit : *hits) {
    std::cout << fibula::to_string(hit.role) << ' ' << hit.library << ' ' << hit.path.filename().string();
    std::cout << (hit.member.empty() ? "" : "(" + hit.member + ")") << '\n';
  }
}
