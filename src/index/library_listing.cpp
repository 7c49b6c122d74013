#include "index/library_listing.hpp"

#include "os/files.hpp"

#include <map>

namespace fibula {
namespace {

/// How well a name serves: what `-l` finds is best; a versioned run-time file is found by its path only.
enum class NameKind { not_a_library, run_time_only, searched };

NameKind kind_of(std::string_view name) {
  if (name.ends_with(".lib")) return NameKind::searched;
  if (!name.starts_with("lib")) return NameKind::not_a_library;
  for (const std::string_view ending : {".so", ".a", ".dylib", ".tbd"}) {
    if (name.ends_with(ending)) return NameKind::searched;
  }
  return name.find(".so.") == std::string_view::npos ? NameKind::not_a_library : NameKind::run_time_only;
}

/// Better names first: kind, then length.
bool is_better(const fs::path& name, const fs::path& than) {
  const NameKind kind = kind_of(name.filename().string()), other = kind_of(than.filename().string());
  return kind != other ? kind > other : name.native().size() < than.native().size();
}

}  // namespace

std::vector<ListedLibrary> list_libraries(const fs::path& directory) {
  std::vector<ListedLibrary> libraries;
  std::map<std::pair<uint64_t, uint64_t>, size_t> known;  // by device and number
  for (const auto& name : files_directly_in(directory)) {
    if (kind_of(name.filename().string()) == NameKind::not_a_library) continue;
    const fs::path path = directory / name.filename();
    const auto stamp = stamp_of(path);
    if (!stamp.is_file()) continue;
    const auto [at, fresh] = known.try_emplace({stamp.device, stamp.number}, libraries.size());
    if (fresh) {
      libraries.push_back({path, stamp});
    } else if (is_better(path, libraries[at->second].path)) {
      libraries[at->second].path = path;
    }
  }
  return libraries;
}

}  // namespace fibula
