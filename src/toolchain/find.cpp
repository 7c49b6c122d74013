#include "base/files.hpp"
#include "base/text.hpp"

#include <fibula/lane.hpp>

#include <unistd.h>
#include <algorithm>
#include <map>

namespace fibula {
namespace {

/// `g++`, `clang++`, with a target in front (`aarch64-linux-gnu-g++`) and a version or thread model behind (`g++-12`,
/// `-posix`).
bool is_compiler_name(std::string_view name) {
  for (const std::string_view driver : {"clang++", "g++"}) {
    const size_t at = name.rfind(driver);
    if (at == std::string_view::npos) continue;
    const auto before = name.substr(0, at), after = name.substr(at + driver.size());
    const bool prefix = before.empty() || before.ends_with('-');
    const bool number =
        after.size() > 1 && after[0] == '-' && after.find_first_not_of("0123456789.", 1) == std::string_view::npos;
    if (prefix && (after.empty() || number || after == "-posix" || after == "-win32")) return true;
  }
  return false;
}

/// Of two names for one program the shorter is what people type.
bool better_name(const fs::path& a, const fs::path& b) {
  const auto left = a.filename().string(), right = b.filename().string();
  return left.size() != right.size() ? left.size() < right.size() : left < right;
}

}  // namespace

std::vector<fs::path> find_compilers() {
  std::map<fs::path, fs::path> by_program;
  const std::string path = environment("PATH").value_or("/usr/bin:/bin");
  for (const auto folder : text::split(path, ':')) {
    std::error_code error;
    for (auto entry = fs::directory_iterator(fs::path(folder), error); !error && entry != fs::directory_iterator();
         entry.increment(error)) {
      if (!is_compiler_name(entry->path().filename().string()) || ::access(entry->path().c_str(), X_OK) != 0) continue;
      const auto real = fs::canonical(entry->path(), error);
      auto& name = by_program[real];
      if (name.empty() || better_name(entry->path(), name)) name = entry->path();
    }
  }
  std::vector<fs::path> found;
  for (const auto& [real, name] : by_program) {
    // Launchers put in front of a compiler carry its name and are not compilers themselves.
    if (is_compiler_name(real.filename().string()) || real.filename().string().starts_with("clang"))
      found.push_back(name);
  }
  std::sort(found.begin(), found.end(), better_name);
  return found;
}

}  // namespace fibula
