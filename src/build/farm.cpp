#include "build/farm.hpp"

#include "base/text.hpp"
#include "os/process.hpp"

#include <charconv>

namespace fibula {

unsigned jobs_at_a_time(const Project& project) {
  if (project.jobs() != 0) return project.jobs();
  for (const auto& word : project.compile_through()) {
    if (std::filesystem::path(word).filename() != "distcc") continue;
    // distcc(1): "-j displays distcc's concurrency level".
    const auto told = run({.argv = {word, "-j"}, .limit = std::chrono::seconds(5)});
    unsigned slots = 0;
    if (told && told->good()) std::from_chars(told->out.data(), told->out.data() + told->out.size(), slots);
    return slots;
  }
  return 0;
}

}  // namespace fibula
