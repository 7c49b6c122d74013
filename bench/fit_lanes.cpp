// Fits every lane of a project once, as a program with warm caches on disk does, and prints the milliseconds of its
// parts: opening the project, fitting all lanes, the JSON of the result. Called by bench/lanes.py.
//   fit_lanes PROJECT
#include <fibula/fibula.hpp>

#include <chrono>
#include <cstdio>

namespace {

double since(std::chrono::steady_clock::time_point start) {
  return std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - start).count();
}

}  // namespace

int main(int argc, char** argv) {
  if (argc != 2) return 2;
  const auto start = std::chrono::steady_clock::now();
  const auto project = fibula::Project::open(argv[1]);
  const auto shelf = fibula::Shelf::standard();
  if (!project || !shelf) return 3;
  const double opened = since(start);
  std::vector<fibula::Fit> fits;
  for (auto& fit : fibula::fit_all(*project, project->lanes(), *shelf)) {
    if (!fit) return 3;
    fits.push_back(std::move(*fit));
  }
  const double fitted = since(start);
  const size_t bytes = fibula::emit::json(fits).size();
  std::printf("%.2f %.2f %.2f %zu\n", opened, fitted - opened, since(start) - fitted, bytes);
}
