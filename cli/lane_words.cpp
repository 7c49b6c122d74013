#include "lane_words.hpp"

#include "print.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

namespace cli {
namespace {

std::string value_of(const fibula::Toolchain& t, const std::string& id) {
  const auto* answer = t.answer(id);
  return answer == nullptr ? "" : answer->value;
}

}  // namespace

std::string run_time_of(const fibula::Toolchain& t) {
  std::vector<std::string> parts;
  const auto add = [&](const std::string& first, const std::string& second) {
    if (!first.empty()) parts.push_back(second.empty() ? first : first + " " + second);
  };
  add(value_of(t, "c-runtime"), value_of(t, "libc"));
  if (value_of(t, "cxx-runtime") != "msvc") add(value_of(t, "cxx-runtime"), value_of(t, "cxx"));
  if (const auto threads = value_of(t, "threads"); !threads.empty()) add(threads, "threads");
  if (const auto floats = value_of(t, "float-abi"); !floats.empty()) add(floats, "float");
  return fmt::format("{}", fmt::join(parts, ", "));
}

void print_added(const std::vector<fibula::ProposedLane>& lanes) {
  for (const auto& [lane, toolchain, does_not_start] : lanes) {
    print_line(fmt::format("added lane {}: {}, {} {}, {}", styled(lane.name, Style::strong), lane.compiler,
                           fibula::to_string(toolchain.family), toolchain.version,
                           fibula::to_string(toolchain.target)));
    if (!does_not_start.empty()) {
      print_sentence(fmt::format("its programs are built but not started here: {}", does_not_start), "note: ");
    } else if (!lane.start_through.empty()) {
      print_sentence(fmt::format("its programs start here through {}: tried", lane.start_through));
    }
  }
}

}  // namespace cli
