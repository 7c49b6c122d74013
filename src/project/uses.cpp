#include "project/uses.hpp"

#include "base/text.hpp"
#include "os/files.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <set>

namespace fibula {
namespace {

/// Outputs that use each other could not be made one after the other.
Result<void> check_circles(const std::vector<Output>& outputs, const fs::path& file) {
  std::set<std::string> done;
  bool progress = true;
  const auto is_ready = [&](const Output& output) {
    const auto& uses = output.uses.value_or(std::vector<std::string>{});
    return std::all_of(uses.begin(), uses.end(), [&](const std::string& name) {
      const auto is_output = [&](const Output& other) { return other.name == name; };
      return done.contains(name) || std::none_of(outputs.begin(), outputs.end(), is_output);
    });
  };
  while (progress) {
    progress = false;
    for (const auto& output : outputs) {
      if (!done.contains(output.name) && is_ready(output)) progress = done.insert(output.name).second;
    }
  }
  std::string circle;
  unsigned line = 0;
  for (const auto& output : outputs) {
    if (done.contains(output.name)) continue;
    circle += (circle.empty() ? "" : ", ") + output.name;
    if (line == 0) line = output.line;
  }
  if (circle.empty()) return {};
  return fail({.code = Code::malformed,
               .what = fmt::format("outputs use each other in a circle: {}", circle),
               .file = file.string(),
               .line = line,
               .hint = "take one of them out of the other's uses"});
}

}  // namespace

Result<void> check_outputs(const std::vector<Output>& outputs, const fs::path& file) {
  std::set<std::string> names;
  for (const auto& output : outputs) {
    if (names.insert(output.name).second) continue;
    return fail({.code = Code::malformed,
                 .what = fmt::format("two outputs are called {}", output.name),
                 .file = file.string(),
                 .line = output.line,
                 .hint = "give one of them another name"});
  }
  return check_circles(outputs, file);
}

Result<void> check_uses(const std::vector<LibraryUse>& libraries, const std::vector<Output>& outputs,
                        const fs::path& file) {
  std::vector<std::string> known;
  for (const auto& use : libraries) known.push_back(use.name);
  for (const auto& output : outputs) known.push_back(output.name);
  for (const auto& output : outputs) {
    for (const auto& name : output.uses.value_or(std::vector<std::string>{})) {
      if (std::find(known.begin(), known.end(), name) != known.end()) continue;
      const std::string meant = text::closest(name, known);
      return fail({.code = Code::malformed,
                   .what = fmt::format("output {} uses {}, which is neither attached nor an output", output.name, name),
                   .file = file.string(),
                   .line = output.line,
                   .hint = meant.empty() ? fmt::format("attach it: fibula attach {}", name)
                                         : fmt::format("did you mean {}?", meant)});
    }
  }
  return {};
}

}  // namespace fibula
