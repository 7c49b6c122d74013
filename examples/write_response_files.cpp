// Writes the response files of one lane, so that any build can use them.
#include <fibula/fibula.hpp>

#include <fstream>
#include <iostream>

int main() {
  const auto project = fibula::Project::open("harbourlog");
  const auto shelf = fibula::Shelf::standard();
  if (!project || !shelf) return 1;
  const auto fit = fibula::fit(*project, project->lanes().front(), *shelf);
  if (!fit) return 1;
  if (const auto written = fibula::emit::response_files(*fit, "out"); !written) {
    std::cerr << fibula::render(written.error()) << '\n';
    return 1;
  }
  for (const char* name : {"out/compile.rsp", "out/link.rsp"})
    std::cout << name << ":\n" << std::ifstream(name).rdbuf();
}
