// Checks a folder that is to be handed on: its files against their list, and what they need against a system's root.
#include <fibula/stage.hpp>

#include <iostream>

int main(int argc, char** argv) {
  const std::filesystem::path folder = argc > 1 ? argv[1] : "staged";
  const auto check = fibula::check_stage(folder);
  if (!check) {
    std::cerr << fibula::render(check.error()) << '\n';
    return 1;
  }
  std::cout << check->files << " files on the list\n";
  for (const auto& change : check->changes) std::cout << change.path << ": " << change.what << '\n';
  bool good = check->changes.empty();
  for (const auto& closure : fibula::closures_of({folder}, {.sysroot = argc > 2 ? argv[2] : "/"})) {
    for (const auto& entry : closure.entries) {
      good = good && !fibula::is_bad(entry);
      std::cout << closure.path.filename().string() << " needs " << entry.name << ": "
                << fibula::to_string(entry.status) << '\n';
    }
  }
  return good ? 0 : 1;
}
