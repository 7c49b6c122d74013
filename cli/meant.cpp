#include "meant.hpp"

#include <algorithm>
#include <numeric>

namespace cli {
namespace {

/// Letters to add, drop or change, or neighbours to swap, to get from one word to the other.
size_t distance(const std::string& a, const std::string& b) {
  std::vector<size_t> before(b.size() + 1), last, row(b.size() + 1);
  std::iota(before.begin(), before.end(), size_t{0});
  last = before;
  for (size_t i = 1; i <= a.size(); ++i) {
    row[0] = i;
    for (size_t j = 1; j <= b.size(); ++j) {
      row[j] = std::min({last[j] + 1, row[j - 1] + 1, last[j - 1] + (a[i - 1] == b[j - 1] ? 0U : 1U)});
      const bool swapped = i > 1 && j > 1 && a[i - 1] == b[j - 2] && a[i - 2] == b[j - 1];
      if (swapped) row[j] = std::min(row[j], before[j - 2] + 1);
    }
    before = std::exchange(last, row);
  }
  return last[b.size()];
}

}  // namespace

std::string closest_word(const std::string& word, const std::vector<std::string>& candidates) {
  std::string best;
  size_t least = std::max<size_t>(1, word.size() / 3) + 1;
  for (const auto& candidate : candidates) {
    const size_t now = distance(word, candidate);
    if (now >= least) continue;
    least = now;
    best = candidate;
  }
  return best;
}

}  // namespace cli
