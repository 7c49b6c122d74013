/// What the files of a sysroot tell beyond the compiler's words.
#include "base/version.hpp"
#include "binary/open.hpp"
#include "os/files.hpp"
#include "toolchain/answers.hpp"

#include <fmt/format.h>

namespace fibula {
namespace {

/// musl says nothing of itself in its macros, on purpose; its loader's name does.
void tell_musl(Toolchain& toolchain) {
  const std::string loader = toolchain.loader.filename().string();
  if (loader.starts_with("ld-musl"))
    toolchain.answers["c-runtime"] = {"musl", fmt::format("loader {}", toolchain.loader.string())};
}

/// The highest version with this prefix that a shared library defines: "3.4.30" of libstdc++.
std::string highest_defined(const Image& image, std::string_view prefix) {
  std::string best;
  for (const auto version : image.defined_versions) {
    if (!version.starts_with(prefix)) continue;
    const std::string number(version.substr(prefix.size()));
    if (number.empty() || number[0] < '0' || number[0] > '9') continue;
    if (best.empty() || compare_versions(number, best) > 0) best = number;
  }
  return best;
}

void tell_cxx_version(Toolchain& toolchain) {
  const Answer* run_time = toolchain.answer("cxx-runtime");
  if (run_time == nullptr || run_time->value != "libstdc++" || toolchain.target.format != Format::elf) return;
  for (const auto& folder : toolchain.library_directories) {
    for (const char* name : {"libstdc++.so", "libstdc++.so.6"}) {
      const fs::path path = folder / name;
      std::error_code ignored;
      if (!fs::exists(path, ignored)) continue;
      const auto file = open_binary(path, want_dynamic);
      if (!file || file->image() == nullptr || file->image()->target.arch != toolchain.target.arch) continue;
      const auto version = highest_defined(*file->image(), "GLIBCXX_");
      if (!version.empty())
        toolchain.answers["cxx"] = {version, fmt::format("versions that {} defines", path.string())};
      return;
    }
  }
}

}  // namespace

void read_sysroot_answers(Toolchain& toolchain) {
  tell_musl(toolchain);
  tell_cxx_version(toolchain);
}

}  // namespace fibula
