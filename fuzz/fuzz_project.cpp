// Whatever the text: names become files, and lead nowhere else.
#include "base/inside_path.hpp"

#include <fibula/project.hpp>
#include "fuzz_text.hpp"

extern "C" int LLVMFuzzerTestOneInput(const uint8_t* data, size_t size) {
  const std::string text(reinterpret_cast<const char*>(data), size);
  const auto project = fibula::Project::from_text(text, "/project");
  if (!project) return 0;
  for (const auto& lane : project->lanes()) demand(fibula::is_file_name(lane.name));
  for (const auto& output : project->outputs()) demand(fibula::is_file_name(output.name));
  for (const auto& library : project->libraries()) demand(fibula::is_plain_name(library.name));
  return 0;
}
