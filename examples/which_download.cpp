// Which of these downloads is for my compiler? Archives are looked into without being unpacked to a place of their own.
#include <fibula/folder.hpp>
#include <fibula/judge.hpp>
#include <fibula/take.hpp>

#include <algorithm>
#include <iostream>

int main(int argc, char** argv) {
  std::vector<std::string> downloads(argv + 1, argv + argc);
  if (downloads.empty()) downloads = {"prebuilt/tidecalc-2.1.0", "prebuilt/moonphase-1.3.0", "for32/tidecalc-2.1.0"};
  const fibula::Lane lane{.name = "desk", .compiler = "g++"};
  const auto toolchain = fibula::ask({lane.compiler, lane.flags});
  if (!toolchain) {
    std::cerr << fibula::render(toolchain.error()) << '\n';
    return 1;
  }
  for (const auto& download : downloads) {
    const auto described = fibula::describe(download);
    if (!described) {
      std::cout << download << ": " << described.error().what << '\n';
      continue;
    }
    const auto judged = fibula::judge(described->card, lane, *toolchain);
    const auto fits = std::find_if(judged.begin(), judged.end(),
                                   [](const auto& one) { return one.verdict != fibula::Verdict::misfit; });
    std::cout << download << ": ";
    if (fits != judged.end()) {
      std::cout << fits->variant->id << '\n';
    } else {
      std::cout << (judged.empty() ? "headers only" : judged.front().misfits.front().sentence()) << '\n';
    }
  }
}
