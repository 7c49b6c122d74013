#include "base/text.hpp"
#include "os/files.hpp"
#include "os/host.hpp"

#include <fibula/toolchain.hpp>

#include <algorithm>
#include <map>
#include <optional>

namespace fibula {
namespace {

/// `arm-none-eabi-gcc-12` in its parts: {"arm-none-eabi-", "gcc", "-12"}.
struct DriverName {
  std::string before, driver, after;
};

bool is_ending(std::string_view after) {
  if (after.empty() || after == "-posix" || after == "-win32") return true;
  return after.size() > 1 && after[0] == '-' && after.find_first_not_of("0123456789.", 1) == std::string_view::npos;
}

/// The parts of a compiler's name; nothing for other programs. The longer names of drivers stand first.
std::optional<DriverName> driver_in(std::string_view name) {
  for (const std::string_view driver : {"clang-cl", "clang++", "g++", "gcc", "clang"}) {
    const size_t at = name.rfind(driver);
    if (at == std::string_view::npos) continue;
    const auto before = name.substr(0, at), after = name.substr(at + driver.size());
    // Wrappers that POSIX asks for, around a compiler with an old standard.
    if (before == "c89-" || before == "c99-") continue;
    if ((before.empty() || before.ends_with('-')) && is_ending(after))
      return DriverName{std::string(before), std::string(driver), std::string(after)};
  }
  return std::nullopt;
}

/// Of two names for one program the shorter is what people type.
bool better_name(const fs::path& a, const fs::path& b) {
  const auto left = a.filename().string(), right = b.filename().string();
  return left.size() != right.size() ? left.size() < right.size() : left < right;
}

std::vector<fs::path> drivers_in_path() {
  std::vector<fs::path> found;
  const std::string path = environment("PATH").value_or("/usr/bin:/bin");
  for (const auto folder : text::split(path, ':')) {
    std::error_code error;
    for (auto entry = fs::directory_iterator(fs::path(folder), error); !error && entry != fs::directory_iterator();
         entry.increment(error)) {
      if (driver_in(entry->path().filename().string()) && is_executable(entry->path())) found.push_back(entry->path());
    }
  }
  return found;
}

/// A C driver is worth a line of its own only where nothing beside it compiles C++ too.
bool has_cxx_sister(const fs::path& path) {
  const auto name = driver_in(path.filename().string());
  if (!name || (name->driver != "gcc" && name->driver != "clang")) return false;
  const std::string sister = name->driver == "gcc" ? "g++" : "clang++";
  const fs::path folder = path.parent_path();
  std::error_code ignored;
  return fs::exists(folder / (name->before + sister + name->after), ignored) ||
         fs::exists(folder / (name->before + sister), ignored);
}

/// Clang is one program under many names, which change what it does.
std::string identity(const fs::path& path) {
  std::error_code error;
  const auto real = fs::canonical(path, error);
  const auto name = driver_in(path.filename().string());
  return real.string() + (name && name->driver == "clang-cl" ? " as clang-cl" : "");
}

/// Launchers put in front of a compiler carry its name and are not compilers themselves.
bool is_launcher(const fs::path& path) {
  std::error_code error;
  const std::string real = fs::canonical(path, error).filename().string();
  return !driver_in(real) && !real.starts_with("clang");
}

}  // namespace

bool is_compiler_name(const fs::path& program) {
  const std::string name = program.filename().string();
  return driver_in(name) || name == "cc" || name == "c++";
}

std::vector<fs::path> find_compilers() {
  std::map<std::string, fs::path> by_program;
  for (const auto& path : drivers_in_path()) {
    if (is_launcher(path) || has_cxx_sister(path)) continue;
    auto& name = by_program[identity(path)];
    if (name.empty() || better_name(path, name)) name = path;
  }
  std::vector<fs::path> found;
  for (const auto& [real, name] : by_program) found.push_back(name);
  std::sort(found.begin(), found.end(), better_name);
  return found;
}

}  // namespace fibula
