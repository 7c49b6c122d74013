#include "facts/system_files.hpp"

#include "base/text.hpp"

#include <algorithm>
#include <iterator>

namespace fibula {

bool is_windows_dll(const std::string& name) {
  static constexpr std::string_view names[] = {
      "advapi32", "avicap32", "avrt",       "bcrypt",  "cabinet",  "cfgmgr32",      "comctl32", "comdlg32", "credui",
      "crypt32",  "d2d1",     "d3d11",      "d3d12",   "d3d9",     "dbghelp",       "ddraw",    "dinput8",  "dnsapi",
      "dsound",   "dwmapi",   "dwrite",     "dxgi",    "gdi32",    "gdiplus",       "glu32",    "hid",      "imm32",
      "iphlpapi", "kernel32", "kernelbase", "mpr",     "msimg32",  "msvcrt",        "mswsock",  "ncrypt",   "netapi32",
      "ntdll",    "odbc32",   "ole32",      "oleacc",  "oleaut32", "opengl32",      "pdh",      "powrprof", "psapi",
      "rpcrt4",   "secur32",  "setupapi",   "shcore",  "shell32",  "shlwapi",       "ucrtbase", "urlmon",   "user32",
      "userenv",  "usp10",    "uxtheme",    "version", "wevtapi",  "windowscodecs", "winhttp",  "wininet",  "winmm",
      "winspool", "wintrust", "wldap32",    "ws2_32",  "wsock32",  "wtsapi32",      "xinput1_4"};
  static_assert(std::is_sorted(std::begin(names), std::end(names)));
  std::string plain = text::lower(name);
  if (is_api_set(name)) return true;
  if (plain.ends_with(".dll")) plain.resize(plain.size() - 4);
  if (plain.ends_with(".drv")) plain.resize(plain.size() - 4);
  return std::binary_search(std::begin(names), std::end(names), std::string_view(plain));
}

bool is_known_dll(const std::string& name) {
  static constexpr std::string_view names[] = {"advapi32.dll", "bcryptprimitives.dll",
                                               "clbcatq.dll",  "combase.dll",
                                               "comdlg32.dll", "crypt32.dll",
                                               "gdi32.dll",    "gdiplus.dll",
                                               "imagehlp.dll", "imm32.dll",
                                               "kernel32.dll", "kernelbase.dll",
                                               "msctf.dll",    "msvcrt.dll",
                                               "normaliz.dll", "nsi.dll",
                                               "ntdll.dll",    "ole32.dll",
                                               "oleaut32.dll", "psapi.dll",
                                               "rpcrt4.dll",   "sechost.dll",
                                               "setupapi.dll", "shcore.dll",
                                               "shell32.dll",  "shlwapi.dll",
                                               "ucrtbase.dll", "user32.dll",
                                               "win32u.dll",   "wldap32.dll",
                                               "ws2_32.dll"};
  static_assert(std::is_sorted(std::begin(names), std::end(names)));
  return std::binary_search(std::begin(names), std::end(names), std::string_view(text::lower(name)));
}

bool is_api_set(const std::string& name) {
  const std::string plain = text::lower(name);
  return plain.starts_with("api-ms-win-") || plain.starts_with("ext-ms-");
}

bool is_msvc_run_time(const std::string& name) {
  const std::string plain = text::lower(name);
  if (plain == "ucrtbased.dll") return true;  // the release one is part of Windows
  for (const std::string_view family : {"vcruntime", "msvcp", "msvcr", "concrt", "vcomp", "vccorlib"}) {
    // `msvcrt.dll` and `msvcp_win.dll` are Windows' own.
    if (plain.starts_with(family) && plain.size() > family.size() && text::is_digit(plain[family.size()])) return true;
  }
  return false;
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
