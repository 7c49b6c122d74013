/// The order of Windows' documentation on the DLL search, with safe search on: API sets and known DLLs, the program's
/// folder, the system's.
#include "loader/search.hpp"

#include "base/text.hpp"
#include "facts/system_files.hpp"

#include <algorithm>

namespace fibula {
namespace {

/// Windows does not tell letter case apart: the name in the folder that is meant, or the name itself.
std::string name_in_folder(const Surroundings& around, const std::string& name) {
  const std::string wanted = text::lower(name);
  for (const auto& [placed, path] : around.placed) {
    if (text::lower(placed) == wanted) return placed;
  }
  for (const auto& entry : files_directly_in(around.folder)) {
    if (text::lower(entry.filename().string()) == wanted) return entry.filename().string();
  }
  return name;
}

std::string missing_text(const std::string& name) {
  const std::string lower = text::lower(name);
  const auto starts = [&](std::initializer_list<std::string_view> words) {
    return std::any_of(words.begin(), words.end(), [&](std::string_view word) { return lower.starts_with(word); });
  };
  if (is_debug_run_time(lower))
    return "not beside the program; it comes with the compiler only, and may not be handed on";
  if (is_msvc_run_time(lower)) return "not beside the program; the compiler's redistributable brings it";
  if (starts({"libgcc_s", "libstdc++", "libwinpthread", "libgomp", "libssp", "libgfortran", "libquadmath"}))
    return "not beside the program; it lies among the compiler's own files";
  return "not beside the program, and no part of Windows";
}

}  // namespace

Found find_windows(const Surroundings& around, const Asker& asker, const std::string& name) {
  if (is_api_set(name))
    return {.status = NeedStatus::system, .why = "an API set, which Windows maps to a DLL of its own"};
  const std::string real = name_in_folder(around, name);
  Search search(around, asker.file->target, {.passes_other_machines = false});
  if (is_known_dll(name)) {
    Found found{.status = NeedStatus::system, .why = "part of Windows"};
    std::error_code ignored;
    if (fs::exists(around.folder / real, ignored)) {
      found.passed_over.push_back((around.folder / real).string());
      found.why = "part of Windows; it is one of the DLLs that are never taken from the program's folder";
    }
    return found;
  }
  search.in(around.folder, real, NeedStatus::found, "beside the program");
  if (!search.over() && is_windows_dll(name)) return {.status = NeedStatus::system, .why = "part of Windows"};
  const fs::path beside = asker.file->path.parent_path();
  if (beside != around.folder && !search.over()) {
    search.at(beside / name, NeedStatus::by_luck,
              "lies beside the file that needs it, where Windows looks only when that was opened by its path");
  } else if (beside != around.folder) {
    search.compare(beside / name);
  }
  return std::move(search).result(missing_text(name));
}

}  // namespace fibula
