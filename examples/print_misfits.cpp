// Fits every lane of a project and prints what does not work, and why.
#include <fibula/fibula.hpp>

#include <iostream>

int main(int argc, char** argv) {
  const auto project = fibula::Project::open(argc > 1 ? argv[1] : "harbourlog");
  const auto shelf = fibula::Shelf::standard();
  if (!project || !shelf) {
    std::cerr << fibula::render(project ? shelf.error() : project.error()) << '\n';
    return 1;
  }
  for (const fibula::Lane& lane : project->lanes()) {
    const auto fit = fibula::fit(*project, lane, *shelf);
    if (!fit) {
      std::cerr << fibula::render(fit.error()) << '\n';
      return 1;
    }
    std::cout << lane.name << ": " << fibula::to_string(fit->verdict()) << '\n';
    for (const fibula::Misfit& misfit : fit->misfits()) std::cout << "  " << misfit.sentence() << '\n';
  }
}
