#include "os/folder.hpp"
#include "project/edit.hpp"

#include <fibula/project.hpp>

namespace fibula {

Result<Shelf> own_shelf(const fs::path& folder) {
  auto project = Project::open(folder);
  if (!project) return pass(project);
  for (const auto& place : project->shelves()) {
    if (is_inside(project->root(), place)) return Shelf::at(place);
  }
  auto before = read_text(project->file());
  if (!before) return pass(before);
  std::vector<std::string> places{"shelf"};
  for (const auto& place : project->shelves()) places.push_back(shown_from(project->root(), place));
  if (auto written =
          write_in(project->root(), project->file().filename().string(), with_shelves(*before, places), Flush::now);
      !written)
    return pass(written);
  return Shelf::at(project->root() / "shelf");
}

}  // namespace fibula
