// A checker for a code host: fits every lane, leaves results in SARIF for the host's page, and fails where a lane
// cannot be built.
#include <fibula/emit.hpp>
#include <fibula/fibula.hpp>

#include <iostream>

int main(int argc, char** argv) {
  const auto project = fibula::Project::open(argc > 1 ? argv[1] : "harbourlog");
  const auto shelf = fibula::Shelf::standard();
  if (!project || !shelf) {
    std::cerr << fibula::render(project ? shelf.error() : project.error()) << '\n';
    return 2;
  }
  std::vector<fibula::Fit> fits;
  bool bad = false;
  for (auto& fit : fibula::fit_all(*project, project->lanes(), *shelf)) {
    if (!fit) {
      std::cerr << fibula::render(fit.error()) << '\n';
      return 2;
    }
    bad = bad || fit->verdict() == fibula::Verdict::misfit;
    fits.push_back(std::move(*fit));
  }
  if (auto written = fibula::emit::write_text("fit.sarif", fibula::emit::sarif(*project, fits)); !written) {
    std::cerr << fibula::render(written.error()) << '\n';
    return 2;
  }
  // One line a misfit, in the form of compilers: people and editors find the place.
  for (const auto& line : fibula::emit::lines(*project, fits)) std::cout << line << '\n';
  std::cout << (bad ? "refused" : "good") << '\n';
}
