#include "project/side_programs.hpp"

#include "base/text.hpp"
#include "os/files.hpp"
#include "os/stamp.hpp"

#include <algorithm>

namespace fibula {
namespace {

constexpr std::string_view shows[] = {"example", "examples", "sample",  "samples",    "demo",
                                      "demos",   "doc",      "docs",    "contrib",    "bench",
                                      "fuzz",    "fuzzing",  "fuzzers", "benchmarks", "benchmark"};
constexpr std::string_view tries[] = {"test", "tests", "testing", "testsuite", "regression", "regress", "check", "t"};

template <size_t count>
bool is_called(const std::string_view (&names)[count], const fs::path& folder) {
  return std::find(std::begin(names), std::end(names), text::lower(folder.string())) != std::end(names);
}

bool has_own_build(const fs::path& root) {
  constexpr const char* names[] = {"configure",   "configure.ac", "configure.in", "Makefile",   "makefile",
                                   "GNUmakefile", "Makefile.in",  "Makefile.am",  "autogen.sh", "bootstrap"};
  return std::any_of(std::begin(names), std::end(names),
                     [&](const char* name) { return stamp_of(root / name).is_file(); });
}

}  // namespace

SidePrograms::SidePrograms(const fs::path& root) : with_tests_(has_own_build(root)) {}

bool SidePrograms::has(const std::string& file) const {
  const fs::path folder = fs::path(file).parent_path();
  return std::any_of(folder.begin(), folder.end(), [&](const fs::path& part) {
    return is_called(shows, part) || (with_tests_ && is_called(tries, part));
  });
}

}  // namespace fibula
