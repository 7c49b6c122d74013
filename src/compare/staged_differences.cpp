#include "compare/staged_differences.hpp"

#include "base/text.hpp"
#include "os/stamp.hpp"
#include "stage/staged_list.hpp"

#include <fmt/format.h>

namespace fibula {
namespace {

std::string size_of(const fs::path& file) {
  return text::count(stamp_of(file).size, "byte");
}

}  // namespace

Result<std::vector<Difference>> compare_staged(const fs::path& first, const fs::path& second) {
  auto before = read_staged_list(first / staged_list_name), after = read_staged_list(second / staged_list_name);
  if (!before) return pass(before);
  if (!after) return pass(after);
  std::vector<Difference> found;
  const auto add = [&](Alteration how, const std::string& file, std::string was, std::string is, const char* why) {
    found.push_back({.kind = DifferenceKind::file,
                     .how = how,
                     .name = file,
                     .file = file,
                     .before = std::move(was),
                     .after = std::move(is),
                     .why = why});
  };
  for (const auto& [file, digest] : *before) {
    const auto now = after->find(file);
    if (now == after->end())
      add(Alteration::removed, file, size_of(first / file), {}, "a patch takes it away");
    else if (now->second != digest)
      add(Alteration::changed, file, size_of(first / file), size_of(second / file), "a patch brings it");
  }
  for (const auto& [file, digest] : *after) {
    if (!before->contains(file)) add(Alteration::added, file, {}, size_of(second / file), "a patch brings it");
  }
  return found;
}

}  // namespace fibula
