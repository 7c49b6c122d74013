#include "facts/system_files.hpp"

#include "base/text.hpp"

#include <algorithm>
#include <iterator>

namespace fibula {

bool is_msvc_run_time(const std::string& name) {
  const std::string plain = text::lower(name);
  if (plain == "ucrtbased.dll") return true;  // the release one is part of Windows
  for (const std::string_view family : {"vcruntime", "msvcp", "msvcr", "concrt", "vcomp", "vccorlib"}) {
    // `msvcrt.dll` and `msvcp_win.dll` are Windows' own.
    if (plain.starts_with(family) && plain.size() > family.size() && text::is_digit(plain[family.size()])) return true;
  }
  return false;
}

std::string_view maker_of_run_time_dll(const std::string& name) {
  if (is_msvc_run_time(name)) return "Microsoft's compiler";
  const std::string plain = text::lower(name);
  if (!plain.ends_with(".dll")) return {};
  const auto is_of = [&](std::string_view family) { return plain.starts_with(family); };
  constexpr std::string_view gnu[] = {"libgcc_s_",  "libstdc++-",   "libwinpthread-", "libgomp-",
                                      "libatomic-", "libquadmath-", "libssp-",        "libgfortran-"};
  if (std::any_of(std::begin(gnu), std::end(gnu), is_of)) return "GCC";
  return plain == "libc++.dll" || plain == "libunwind.dll" ? "Clang" : "";
}

bool is_debug_run_time(const std::string& name) {
  std::string plain = text::lower(name);
  if (!plain.ends_with("d.dll")) return false;
  plain.resize(plain.size() - 5);
  for (const std::string_view family : {"msvcr", "msvcp", "vcruntime", "concrt", "ucrtbase", "vcomp", "mfc"}) {
    if (!plain.starts_with(family)) continue;
    const std::string rest = plain.substr(family.size());
    return rest.find_first_not_of("0123456789_u") == std::string::npos || rest == "t";
  }
  return false;
}

bool is_musl_itself(const std::string& name) {
  constexpr std::string_view reserved[] = {"c.", "pthread.", "rt.", "m.", "dl.", "util.", "xnet."};
  if (!name.starts_with("lib")) return false;
  return std::any_of(std::begin(reserved), std::end(reserved),
                     [&](std::string_view word) { return std::string_view(name).substr(3).starts_with(word); });
}

bool is_gnu_run_time(const std::string& soname) {
  return soname.starts_with("libstdc++.so") || soname.starts_with("libgcc_s.so");
}

std::string_view reason_to_stay(const std::string& soname) {
  struct Row {
    std::string_view name;  ///< up to `.so`
    std::string_view why;
  };
  constexpr std::string_view libc = "part of the C library, which belongs to the system",
                             language = "the compiler's run-time, which the system has",
                             driver = "it must match the machine's drivers";
  static constexpr Row rows[] = {{"libc", libc},
                                 {"libm", libc},
                                 {"libpthread", libc},
                                 {"libdl", libc},
                                 {"librt", libc},
                                 {"libresolv", libc},
                                 {"libutil", libc},
                                 {"libanl", libc},
                                 {"libnsl", libc},
                                 {"libmvec", libc},
                                 {"libthread_db", libc},
                                 {"libBrokenLocale", libc},
                                 {"libgcc_s", language},
                                 {"libstdc++", language},
                                 {"libgomp", language},
                                 {"libatomic", language},
                                 {"libgfortran", language},
                                 {"libquadmath", language},
                                 {"libGL", driver},
                                 {"libGLX", driver},
                                 {"libGLdispatch", driver},
                                 {"libEGL", driver},
                                 {"libOpenGL", driver},
                                 {"libvulkan", driver},
                                 {"libdrm", driver},
                                 {"libcuda", driver},
                                 {"libOpenCL", driver}};
  if (soname.starts_with("ld-") || soname.starts_with("ld64.so") || soname.starts_with("ld.so") ||
      soname.find("/ld-") != std::string::npos)
    return "the system's loader";
  if (soname.starts_with("libc.musl")) return libc;
  // They speak with servers of the same system, each in its own version.
  struct Family {
    std::string_view start;
    std::string_view why;
  };
  constexpr std::string_view windows = "part of the windowing system that the program speaks with",
                             sound = "part of the sound system that the program speaks with";
  static constexpr Family families[] = {{"libX", windows},         {"libxcb", windows},     {"libwayland-", windows},
                                        {"libxkbcommon", windows}, {"libSM.", windows},     {"libICE.", windows},
                                        {"libdecor-", windows},    {"libgbm", driver},      {"libva.", driver},
                                        {"libva-", driver},        {"libvdpau", driver},    {"libasound", sound},
                                        {"libpulse", sound},       {"libpipewire-", sound}, {"libjack", sound}};
  for (const auto& [start, why] : families) {
    if (soname.starts_with(start)) return why;
  }
  const std::string_view plain = std::string_view(soname).substr(0, soname.find(".so"));
  const auto found = std::find_if(std::begin(rows), std::end(rows), [&](const Row& row) { return row.name == plain; });
  return found == std::end(rows) ? std::string_view() : found->why;
}

bool is_macos_file(const std::string& name) {
  return name.starts_with("/usr/lib/") || name.starts_with("/System/");
}

}  // namespace fibula
