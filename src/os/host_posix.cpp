#include "os/files.hpp"
#include "os/host.hpp"

#include <sys/utsname.h>
#include <unistd.h>

namespace fibula {

Arch host_architecture() {
  utsname machine{};
  if (::uname(&machine) != 0) return Arch::unknown;
  const std::string_view name = machine.machine;
  if (name.size() == 4 && name[0] == 'i' && name.ends_with("86")) return Arch::x86;
  if (name.starts_with("armv")) return Arch::arm;
  return arch_named(name);
}

bool is_executable(const fs::path& path) {
  return ::access(path.c_str(), X_OK) == 0;
}

fs::path temporary_place() {
  std::error_code ignored;
  const auto named = environment("TMPDIR");
  return named && fs::is_directory(*named, ignored) ? fs::path(*named) : fs::path("/tmp");
}

}  // namespace fibula
