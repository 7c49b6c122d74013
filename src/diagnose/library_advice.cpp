#include "diagnose/library_advice.hpp"

#include "base/quoting.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {

bool is_attached(const Project* project, const std::string& library) {
  if (project == nullptr) return false;
  const auto& uses = project->libraries();
  return std::any_of(uses.begin(), uses.end(), [&](const LibraryUse& use) { return use.name == library; });
}

void advise_using(Finding& finding, const std::string& library, const Project* project, std::string_view response_file,
                  const Output* of) {
  if (of != nullptr && is_attached(project, library)) {
    const bool unused = of->uses && std::find(of->uses->begin(), of->uses->end(), library) == of->uses->end();
    finding.remedy =
        unused ? fmt::format("{} is attached, and output {} does not use it: add it to its uses", library, of->name)
               : fmt::format("{} is attached: fibula fit says what of it was chosen, and why", library);
    if (!unused) return;
    finding.changes.push_back({.kind = ProjectChange::Kind::add, .name = of->name, .key = "uses", .value = library});
    finding.edit = to_string(finding.changes.back(), project->root());
    return;
  }
  if (is_attached(project, library)) {
    finding.remedy = fmt::format("{} is attached: build with fibula build, or hand @.fibula/<lane>/{} to the compiler",
                                 library, response_file);
    return;
  }
  finding.changes.push_back({.kind = ProjectChange::Kind::attach, .name = library});
  finding.edit = "fibula attach " + shell_word(library);
  finding.remedy = "attach it: " + finding.edit;
}

}  // namespace fibula
