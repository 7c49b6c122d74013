// How fast the readers and the rehearsal are, on files that every machine with a compiler has.
#include "binary/open.hpp"
#include "link/rehearsal.hpp"

#include <benchmark/benchmark.h>
#include <fibula/fibula.hpp>

namespace {

std::filesystem::path library(const char* name, bool only_static) {
  static const auto toolchain = fibula::ask({"g++"});
  return fibula::find_library(toolchain->library_directories, name, only_static).value();
}

void read_symbols(benchmark::State& state, const char* name, bool only_static) {
  const auto path = library(name, only_static);
  size_t symbols = 0;
  for (auto _ : state) {
    const auto file = fibula::open_binary(path, fibula::want_symbols);
    if (file->image() != nullptr) symbols += file->image()->dynamic_symbols.size();
    if (file->archive() != nullptr) symbols += file->archive()->index.size();
  }
  state.SetItemsProcessed(static_cast<int64_t>(symbols));
}

void rehearse_empty_program(benchmark::State& state) {
  const auto toolchain = fibula::ask({"g++"});
  const fibula::StandIn program{.defines = {"main"}, .needs = {}};
  for (auto _ : state) {
    fibula::FileStore files;
    benchmark::DoNotOptimize(fibula::rehearse(files, fibula::whole_line(*toolchain, {}), {.stand_in = &program}));
  }
}

}  // namespace

BENCHMARK_CAPTURE(read_symbols, libstdcxx_shared, "stdc++", false);
BENCHMARK_CAPTURE(read_symbols, libstdcxx_static_index, "stdc++", true);
BENCHMARK_CAPTURE(read_symbols, libc_static_index, "c", true);
BENCHMARK(rehearse_empty_program)->Unit(benchmark::kMicrosecond);
BENCHMARK_MAIN();
