#include <fibula/folder.hpp>
#include <fibula/judge.hpp>
#include <fibula/take.hpp>

#include "os/files.hpp"
#include "os/stamp.hpp"

#include <algorithm>
#include <tuple>

namespace fibula {
namespace {

/// How far what keeps it from serving is from a build that would: another system's files are farthest.
int distance(const JudgedPath& judged) {
  if (judged.problem) return 9;
  if (judged.verdict != Verdict::misfit || !judged.first) return 0;
  static constexpr std::string_view far[] = {"object-format", "architecture", "float-abi", "cpu-level"};
  for (size_t i = 0; i < std::size(far); ++i) {
    if (judged.first->rule == far[i]) return static_cast<int>(std::size(far) - i) + 1;
  }
  return 1;
}

void judge_card(const Card& card, const Lane& lane, const Toolchain& toolchain, JudgedPath& judged) {
  const auto all = judge(card, lane, toolchain);
  if (all.empty()) {
    judged.verdict = Verdict::ok;
    judged.what = card.comes_as_source() ? "source, compiled for each lane" : "headers only";
    return;
  }
  const auto& best = all.front();
  judged.verdict = best.verdict;
  judged.variant = best.variant->id;
  const auto worst_first = std::max_element(best.misfits.begin(), best.misfits.end(),
                                            [](const Misfit& a, const Misfit& b) { return a.verdict < b.verdict; });
  if (worst_first != best.misfits.end()) judged.first = *worst_first;
}

JudgedPath judge_path(const fs::path& path, const Lane& lane, const Toolchain& toolchain) {
  JudgedPath judged{.path = path};
  fs::path place = path;
  std::optional<LookedInto> looked;
  if (is_download(path)) {
    auto into = look_into(path);
    if (!into) {
      judged.problem = std::move(into.error());
      return judged;
    }
    looked = std::move(*into);
    place = looked->root;
  }
  const auto described = describe(place);
  if (!described) {
    judged.problem = described.error();
    if (looked) judged.problem->file = path.string();
    return judged;
  }
  judge_card(described->card, lane, toolchain, judged);
  return judged;
}

}  // namespace

std::vector<JudgedPath> judge_paths(const std::vector<fs::path>& paths, const Lane& lane, const Toolchain& toolchain) {
  std::vector<JudgedPath> all;
  for (const auto& path : paths) all.push_back(judge_path(path, lane, toolchain));
  std::stable_sort(all.begin(), all.end(), [](const JudgedPath& a, const JudgedPath& b) {
    const auto key = [](const JudgedPath& one) { return std::tuple(distance(one), one.verdict); };
    return key(a) < key(b);
  });
  return all;
}

}  // namespace fibula
