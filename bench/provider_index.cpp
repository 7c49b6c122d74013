/// Builds the index of who defines what over some folders, anew and again with nothing changed, and looks names up;
/// then writes the same pairs for bench/provider_stores.py to put into other stores. usage: provider-index PAIRS_FILE
/// FOLDER...
#include "index/provider_index.hpp"

#include "base/digest.hpp"
#include "index/defined_names.hpp"
#include "index/library_listing.hpp"

#include <chrono>
#include <fstream>
#include <iostream>

namespace {

using namespace fibula;

double milliseconds(const std::function<void()>& work) {
  const auto start = std::chrono::steady_clock::now();
  work();
  return std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - start).count();
}

uint64_t build(const std::vector<std::filesystem::path>& folders) {
  uint64_t names = 0;
  for (const auto& folder : folders) names += ProviderIndex::over(folder, Cache::standard()).names();
  return names;
}

}  // namespace

int main(int argc, char** argv) {
  if (argc < 3) return 2;
  const std::vector<std::filesystem::path> folders(argv + 2, argv + argc);
  uint64_t names = 0;
  const double fresh = milliseconds([&] { names = build(folders); });
  const double again = milliseconds([&] { build(folders); });
  std::vector<std::string> wanted;
  std::ofstream pairs(argv[1]);
  uint32_t number = 0;
  for (const auto& folder : folders) {
    for (const auto& library : list_libraries(folder)) {
      ++number;
      const auto file = open_binary(library.path, want_symbols | want_dynamic);
      if (!file) continue;
      each_defined_name(*file, [&](std::string_view name) {
        pairs << static_cast<int64_t>(quick_digest(name)) << ' ' << number << '\n';
        if (wanted.size() < 1000) wanted.emplace_back(name);
      });
    }
  }
  size_t found = 0;
  std::vector<ProviderIndex> indices;
  for (const auto& folder : folders) indices.push_back(ProviderIndex::over(folder, Cache::standard()));
  const double looked = milliseconds([&] {
    for (const auto& name : wanted) {
      for (const auto& index : indices) found += index.files_with(name).size();
    }
  });
  std::cout << names << " names of " << number << " files; built anew " << fresh << " ms, with nothing changed "
            << again << " ms; a lookup " << looked * 1000 / static_cast<double>(wanted.size()) << " us (" << found
            << " found)\n";
}
