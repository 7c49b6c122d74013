#include "fit/lane_system.hpp"

#include "base/text.hpp"

namespace fibula {

ClosureOptions system_of(const Toolchain& toolchain) {
  if (!toolchain.sysroot.empty() && toolchain.sysroot != "/") return {.sysroot = toolchain.sysroot};
  std::error_code ignored;
  if (toolchain.loader.empty() || fs::exists(toolchain.loader, ignored)) return {};
  ClosureOptions options;
  for (const auto& directory : toolchain.library_directories) {
    const fs::path prefix = directory.parent_path();
    if (options.sysroot.empty() && fs::exists(prefix / toolchain.loader.relative_path(), ignored))
      options.sysroot = prefix;
  }
  options.directories = toolchain.library_directories;
  return options;
}

std::optional<fs::path> compilers_run_time(const Toolchain& toolchain, const std::string& name) {
  const std::string wanted = text::lower(name);
  for (const auto& directory : toolchain.library_directories) {
    for (const fs::path& folder : {directory, directory.parent_path() / "bin"}) {
      std::error_code ignored;
      if (fs::exists(folder / name, ignored)) return folder / name;
      if (toolchain.target.format != Format::pe) continue;
      for (const auto& entry : files_directly_in(folder)) {
        if (text::lower(entry.string()) == wanted) return folder / entry;
      }
    }
  }
  return std::nullopt;
}

}  // namespace fibula
