#include "project/side_programs.hpp"

#include "base/text.hpp"
#include "os/files.hpp"
#include "project/own_making.hpp"

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

}  // namespace

SidePrograms::SidePrograms(const fs::path& root) : with_tests_(!own_build_in(root).empty()) {}

bool SidePrograms::has(const std::string& file) const {
  const fs::path folder = fs::path(file).parent_path();
  return std::any_of(folder.begin(), folder.end(), [&](const fs::path& part) {
    return is_called(shows, part) || (with_tests_ && is_called(tries, part));
  });
}

}  // namespace fibula
