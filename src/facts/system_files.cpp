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
  if (plain.starts_with("api-ms-win-") || plain.starts_with("ext-ms-win-")) return true;
  if (plain.ends_with(".dll")) plain.resize(plain.size() - 4);
  if (plain.ends_with(".drv")) plain.resize(plain.size() - 4);
  return std::binary_search(std::begin(names), std::end(names), std::string_view(plain));
}

bool is_macos_file(const std::string& name) {
  return name.starts_with("/usr/lib/") || name.starts_with("/System/");
}

}  // namespace fibula
