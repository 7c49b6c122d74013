// Says which variant of an unpacked download serves a compiler: no shelf, no project.
#include <fibula/judge.hpp>
#include <fibula/take.hpp>

#include <iostream>

int main() {
  const auto described = fibula::describe("prebuilt/tidecalc-2.1.0");
  if (!described) {
    std::cerr << fibula::render(described.error()) << '\n';
    return 1;
  }
  for (const auto& flags : {std::vector<std::string>{}, {"-m32"}}) {
    const fibula::Lane lane{.name = flags.empty() ? "desk" : "desk32", .compiler = "g++", .flags = flags};
    const auto toolchain = fibula::ask({lane.compiler, lane.flags});
    if (!toolchain) return 1;
    std::cout << lane.name << ", " << fibula::to_string(toolchain->target) << ":\n";
    for (const auto& judged : fibula::judge(described->card, lane, *toolchain)) {
      std::cout << "  " << judged.variant->id << ": " << fibula::to_string(judged.verdict) << '\n';
      for (const auto& misfit : judged.misfits) std::cout << "    " << misfit.rule << ": " << misfit.remedy << '\n';
    }
  }
}
