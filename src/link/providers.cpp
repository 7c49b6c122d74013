#include "link/providers.hpp"

#include "base/quoting.hpp"
#include "base/text.hpp"
#include "facts/library_name.hpp"
#include "index/defined_names.hpp"
#include "index/shelf_names.hpp"
#include "os/files.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

/// Looks for the names still open in one file and notes what it finds.
class ProviderSearch {
 public:
  ProviderSearch(FileStore& files, const Target& target, std::set<std::string, std::less<>> open)
      : files_(files), target_(target), open_(std::move(open)) {}

  bool done() const { return open_.empty(); }
  std::vector<std::string> open() const { return {open_.begin(), open_.end()}; }
  std::map<std::string, Provider> found;

  void look_into(const fs::path& path, const std::string& library) {
    auto file = files_.open(path);
    // A file that is damaged or for another machine provides nothing; others are looked at.
    if (!file || ((*file)->is_shared() && !same_family((*file)->image().target, target_))) return;
    const bool for_scanners = is_made_for_scanners(path);
    each_defined_name((*file)->content(), [&](std::string_view name) {
      const auto wanted = open_.find(name);
      if (wanted == open_.end() || (is_of_scanners(name) && !for_scanners)) return;
      found[*wanted] = {path, library};
      open_.erase(wanted);
    });
  }

 private:
  static bool is_made_for_scanners(const fs::path& path) {
    const std::string stem = library_stem(path);
    return stem == "fl" || stem == "l" || stem == "y";
  }

  FileStore& files_;
  Target target_;
  std::set<std::string, std::less<>> open_;
};

void search_shelf(ProviderSearch& search, const Shelf& shelf, const Cache& cache, const Target& target) {
  for (const auto& name : libraries_defining(shelf, cache, search.open())) {
    const auto cards = shelf.versions(name);
    if (!cards || cards->empty() || search.done()) continue;
    for (const auto& variant : cards->front().variants) {
      if (!same_family(variant.target, target)) continue;
      for (const auto& link : variant.link) search.look_into(cards->front().root / link, name);
    }
  }
}

/// Import libraries that stand for many others ("Windows umbrella libraries"): the library itself is meant.
bool is_umbrella(const fs::path& path) {
  const std::string stem = text::lower(library_stem(path));
  return stem.starts_with("mincore") || stem.starts_with("onecore") || stem.starts_with("windowsapp");
}

/// Run-times of sanitizers define what they put themselves before: `dlopen`, `pthread_create`. They come by their flag.
bool puts_itself_before_others(const fs::path& path) {
  static constexpr std::string_view stems[] = {"asan", "tsan", "lsan", "ubsan", "hwasan"};
  const std::string stem = library_stem(path);
  return stem.starts_with("clang_rt.") || std::find(std::begin(stems), std::end(stems), stem) != std::end(stems);
}

/// What people write of several files that have a name: what comes with the C library before others, what a linker
/// takes first of one library before its archive, and the archive that a linker script stands for (`libm-2.36.a`) last.
int rank(const fs::path& path) {
  if (is_umbrella(path)) return 4;
  const std::string stem = library_stem(path);
  const bool archive = path.extension() == ".a" && path.stem().extension() != ".dll";
  if (stem == "c" || is_companion_of_c_library(stem)) return archive ? 1 : 0;
  const bool versioned = archive && stem.find_last_of('-') != std::string::npos &&
                         stem.find_first_of("0123456789", stem.find_last_of('-')) != std::string::npos;
  return versioned ? 3 : 2;
}

/// Before an archive the shared form of it, which `-l` takes.
void put_shared_forms_first(std::vector<fs::path>& files) {
  for (size_t i = 0; i < files.size(); ++i) {
    if (files[i].extension() != ".a") continue;
    const auto at = files.begin() + static_cast<std::ptrdiff_t>(i);
    const fs::path shared = fs::path(files[i]).replace_extension(".so");
    if (const auto behind = std::find(at, files.end(), shared); behind != files.end())
      std::rotate(at, behind, behind + 1);
  }
}

void search_system(ProviderSearch& search, const ProviderIndices& index) {
  for (const auto& name : search.open()) {
    auto files = index.files_with(name);
    std::erase_if(files, puts_itself_before_others);
    std::stable_sort(files.begin(), files.end(),
                     [](const fs::path& a, const fs::path& b) { return rank(a) < rank(b); });
    put_shared_forms_first(files);
    for (const auto& path : files) search.look_into(path, {});
  }
}

}  // namespace

Result<bool> defines(FileStore& files, const fs::path& path, std::string_view symbol) {
  auto file = files.open(path);
  if (!file) return pass(file);
  bool found = false;
  each_defined_name((*file)->content(), [&](std::string_view name) { found = found || name == symbol; });
  return found;
}

bool is_companion_of_c_library(std::string_view stem) {
  static constexpr std::string_view companions[] = {"m", "pthread", "dl", "rt", "resolv", "util", "anl", "atomic"};
  return std::find(std::begin(companions), std::end(companions), stem) != std::end(companions);
}

bool is_of_scanners(std::string_view name) {
  return name.starts_with("yy");
}

std::string_view but_inside(std::string_view name) {
  return is_of_scanners(name) ? ", but for what scanners and parsers in some may have for themselves" : "";
}

std::string attach_command(const Provider& provider) {
  if (!provider.library.empty()) return "fibula attach " + shell_word(provider.library);
  const std::string path = provider.path.string();
  const bool system = path.starts_with("/usr/") || path.starts_with("/lib");
  return fmt::format("fibula take {0} --library {1} --in-place && fibula attach {1}",
                     shell_word(system ? "/usr" : provider.path.parent_path().parent_path().string()),
                     shell_word(library_stem(path)));
}

std::map<std::string, Provider> find_providers(FileStore& files, ProviderStore& providers,
                                               const std::set<std::string>& symbols, const Toolchain& toolchain,
                                               const Shelf& shelf) {
  ProviderSearch search(files, toolchain.target, {symbols.begin(), symbols.end()});
  if (!symbols.empty()) search_shelf(search, shelf, providers.cache(), toolchain.target);
  if (!search.done()) search_system(search, providers.over(toolchain.library_directories));
  return std::move(search.found);
}

}  // namespace fibula
