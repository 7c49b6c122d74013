/// Which headers only some systems have, by the names under which programs include them.
#include "base/text.hpp"
#include "headers/well_known_headers.hpp"

#include <algorithm>
#include <iterator>
#include <set>
#include <string>

namespace fibula {
namespace {

/// The Windows SDK, "Win32 API reference", as far as no other library has a header of the same name.
constexpr std::string_view of_windows[] = {"accctrl.h",
                                           "aclapi.h",
                                           "activscp.h",
                                           "afunix.h",
                                           "afxres.h",
                                           "audioclient.h",
                                           "audiopolicy.h",
                                           "avrt.h",
                                           "basetsd.h",
                                           "bcrypt.h",
                                           "bluetoothapis.h",
                                           "bthdef.h",
                                           "cfgmgr32.h",
                                           "combaseapi.h",
                                           "comdef.h",
                                           "commctrl.h",
                                           "commdlg.h",
                                           "comutil.h",
                                           "conio.h",
                                           "corecrt.h",
                                           "crtdbg.h",
                                           "d2d1.h",
                                           "d2d1_1.h",
                                           "d3d.h",
                                           "d3d10.h",
                                           "d3d10_1.h",
                                           "d3d11.h",
                                           "d3d11_1.h",
                                           "d3d11_2.h",
                                           "d3d11_3.h",
                                           "d3d11_4.h",
                                           "d3d11on12.h",
                                           "d3d11sdklayers.h",
                                           "d3d12.h",
                                           "d3d12sdklayers.h",
                                           "d3d12shader.h",
                                           "d3d8.h",
                                           "d3d9.h",
                                           "d3dcommon.h",
                                           "d3dcompiler.h",
                                           "d3dx9.h",
                                           "dbghelp.h",
                                           "dcomp.h",
                                           "ddraw.h",
                                           "debugapi.h",
                                           "delayimp.h",
                                           "devguid.h",
                                           "devicetopology.h",
                                           "devpkey.h",
                                           "devpropdef.h",
                                           "dinput.h",
                                           "direct.h",
                                           "dsound.h",
                                           "dwmapi.h",
                                           "dwrite.h",
                                           "dwrite_1.h",
                                           "dwrite_2.h",
                                           "dwrite_3.h",
                                           "dxgi.h",
                                           "dxgi1_2.h",
                                           "dxgi1_3.h",
                                           "dxgi1_4.h",
                                           "dxgi1_5.h",
                                           "dxgi1_6.h",
                                           "dxgidebug.h",
                                           "dxgiformat.h",
                                           "dxgitype.h",
                                           "dxva2api.h",
                                           "endpointvolume.h",
                                           "evntprov.h",
                                           "evntrace.h",
                                           "exdisp.h",
                                           "fileapi.h",
                                           "functiondiscoverykeys_devpkey.h",
                                           "gdiplus.h",
                                           "guiddef.h",
                                           "handleapi.h",
                                           "heapapi.h",
                                           "hidclass.h",
                                           "hidpi.h",
                                           "hidsdi.h",
                                           "hidusage.h",
                                           "imagehlp.h",
                                           "initguid.h",
                                           "intsafe.h",
                                           "io.h",
                                           "iphlpapi.h",
                                           "iptypes.h",
                                           "knownfolders.h",
                                           "ksmedia.h",
                                           "libloaderapi.h",
                                           "mapi.h",
                                           "mfapi.h",
                                           "mferror.h",
                                           "mfidl.h",
                                           "mfobjects.h",
                                           "mfreadwrite.h",
                                           "mftransform.h",
                                           "minwindef.h",
                                           "mmdeviceapi.h",
                                           "mmreg.h",
                                           "mmsystem.h",
                                           "msacm.h",
                                           "mscoree.h",
                                           "mshtml.h",
                                           "mstcpip.h",
                                           "mswsock.h",
                                           "ncrypt.h",
                                           "netioapi.h",
                                           "ntddscsi.h",
                                           "ntddser.h",
                                           "ntsecapi.h",
                                           "ntstatus.h",
                                           "oaidl.h",
                                           "objbase.h",
                                           "objidl.h",
                                           "ocidl.h",
                                           "ole2.h",
                                           "oleauto.h",
                                           "olectl.h",
                                           "powrprof.h",
                                           "process.h",
                                           "processthreadsapi.h",
                                           "profileapi.h",
                                           "propidl.h",
                                           "propkey.h",
                                           "propsys.h",
                                           "propvarutil.h",
                                           "psapi.h",
                                           "richedit.h",
                                           "roapi.h",
                                           "rpcdce.h",
                                           "rpcndr.h",
                                           "sapi.h",
                                           "sddl.h",
                                           "sdkddkver.h",
                                           "setupapi.h",
                                           "shellapi.h",
                                           "shellscalingapi.h",
                                           "shlobj.h",
                                           "shlwapi.h",
                                           "shobjidl.h",
                                           "shtypes.h",
                                           "specstrings.h",
                                           "strmif.h",
                                           "strsafe.h",
                                           "synchapi.h",
                                           "sysinfoapi.h",
                                           "tchar.h",
                                           "tlhelp32.h",
                                           "unknwn.h",
                                           "urlmon.h",
                                           "usbioctl.h",
                                           "usbiodef.h",
                                           "userenv.h",
                                           "uxtheme.h",
                                           "versionhelpers.h",
                                           "vfw.h",
                                           "wbemidl.h",
                                           "wia.h",
                                           "winbase.h",
                                           "wincodec.h",
                                           "wincon.h",
                                           "wincrypt.h",
                                           "windef.h",
                                           "windns.h",
                                           "windows.h",
                                           "windowsx.h",
                                           "winerror.h",
                                           "winevt.h",
                                           "wingdi.h",
                                           "winhttp.h",
                                           "wininet.h",
                                           "winioctl.h",
                                           "winldap.h",
                                           "winnls.h",
                                           "winnt.h",
                                           "winreg.h",
                                           "winresrc.h",
                                           "winscard.h",
                                           "winsock.h",
                                           "winsock2.h",
                                           "winspool.h",
                                           "winstring.h",
                                           "winsvc.h",
                                           "winternl.h",
                                           "wintrust.h",
                                           "winusb.h",
                                           "winuser.h",
                                           "winver.h",
                                           "wlanapi.h",
                                           "wmsdk.h",
                                           "ws2bth.h",
                                           "ws2def.h",
                                           "ws2ipdef.h",
                                           "ws2tcpip.h",
                                           "wspiapi.h",
                                           "wtsapi32.h",
                                           "wtypes.h",
                                           "xaudio2.h",
                                           "xinput.h"};

/// POSIX.1-2017, "Headers", and what Linux and macOS both add.
constexpr std::string_view of_posix[] = {
    "aio.h",        "arpa/inet.h",   "arpa/nameser.h", "dlfcn.h",       "fmtmsg.h",       "fnmatch.h",
    "grp.h",        "ifaddrs.h",     "langinfo.h",     "mqueue.h",      "net/ethernet.h", "net/if.h",
    "netdb.h",      "netinet/in.h",  "netinet/ip.h",   "netinet/tcp.h", "netinet/udp.h",  "nl_types.h",
    "poll.h",       "pthread.h",     "pwd.h",          "sys/ioctl.h",   "sys/ipc.h",      "sys/mman.h",
    "sys/msg.h",    "sys/poll.h",    "sys/resource.h", "sys/select.h",  "sys/sem.h",      "sys/shm.h",
    "sys/socket.h", "sys/statvfs.h", "sys/times.h",    "sys/uio.h",     "sys/un.h",       "sys/utsname.h",
    "sys/wait.h",   "syslog.h",      "termios.h",      "ucontext.h",    "unistd.h",       "utmpx.h",
    "wordexp.h"};
constexpr std::string_view of_linux[] = {"asm/ioctl.h",        "asm/types.h",     "byteswap.h",     "mntent.h",
                                         "netpacket/packet.h", "sys/auxv.h",      "sys/epoll.h",    "sys/eventfd.h",
                                         "sys/inotify.h",      "sys/prctl.h",     "sys/sendfile.h", "sys/signalfd.h",
                                         "sys/sysinfo.h",      "sys/sysmacros.h", "sys/timerfd.h",  "sys/vfs.h"};
/// C libraries of Linux have given up the last (glibc 2.32).
constexpr std::string_view of_bsd[] = {"net/bpf.h",   "net/if_dl.h",  "net/if_media.h", "net/if_types.h",
                                       "sys/event.h", "sys/sockio.h", "sys/sysctl.h"};
constexpr std::string_view of_macos[] = {"Availability.h", "AvailabilityMacros.h", "TargetConditionals.h", "os/lock.h",
                                         "os/log.h"};
constexpr std::string_view of_avr[] = {"util/atomic.h", "util/delay.h"};

struct FolderRow {
  std::string_view folder, system;
};
constexpr FolderRow folders[] = {{"avr/", "AVR controllers"}, {"dev/usb/", "BSD systems"}, {"libkern/", "macOS"},
                                 {"linux/", "Linux"},         {"mach-o/", "macOS"},        {"mach/", "macOS"}};

/// Frameworks: `AudioUnit/AudioUnit.h`, and all else that lies in their folders.
constexpr std::string_view frameworks[] = {"AVFoundation",
                                           "AVKit",
                                           "Accelerate",
                                           "AppKit",
                                           "ApplicationServices",
                                           "AudioToolbox",
                                           "AudioUnit",
                                           "CFNetwork",
                                           "Carbon",
                                           "Cocoa",
                                           "CoreAudio",
                                           "CoreAudioKit",
                                           "CoreBluetooth",
                                           "CoreData",
                                           "CoreFoundation",
                                           "CoreGraphics",
                                           "CoreHaptics",
                                           "CoreImage",
                                           "CoreLocation",
                                           "CoreMIDI",
                                           "CoreML",
                                           "CoreMedia",
                                           "CoreServices",
                                           "CoreTelephony",
                                           "CoreText",
                                           "CoreVideo",
                                           "CoreWLAN",
                                           "DiskArbitration",
                                           "ForceFeedback",
                                           "GLKit",
                                           "GameController",
                                           "GameKit",
                                           "HIServices",
                                           "IOBluetooth",
                                           "IOKit",
                                           "IOSurface",
                                           "ImageIO",
                                           "LocalAuthentication",
                                           "MediaPlayer",
                                           "MessageUI",
                                           "MetalKit",
                                           "MetalPerformanceShaders",
                                           "MobileCoreServices",
                                           "ModelIO",
                                           "OpenGLES",
                                           "QuartzCore",
                                           "QuickTime",
                                           "ReplayKit",
                                           "SceneKit",
                                           "ServiceManagement",
                                           "SpriteKit",
                                           "StoreKit",
                                           "SystemConfiguration",
                                           "UIKit",
                                           "UserNotifications",
                                           "VideoToolbox",
                                           "WatchKit"};

/// Frameworks whose names other libraries have for folders too: only the header of the same name is theirs.
constexpr std::string_view plain_frameworks[] = {"Contacts", "Foundation", "Metal",  "OpenAL", "OpenGL",
                                                 "Photos",   "Security",   "Vision", "WebKit"};

/// The names of a table in small letters: it is asked for each header of a tree.
template <class List>
std::set<std::string, std::less<>> small_names(const List& list) {
  std::set<std::string, std::less<>> names;
  for (const std::string_view name : list) names.insert(text::lower(std::string(name)));
  return names;
}

/// Case counts here: these come from file systems where it often does not, and are written as their makers did.
bool is_of_framework(std::string_view name) {
  const size_t slash = name.find('/');
  if (slash == std::string_view::npos) return false;
  const auto folder = name.substr(0, slash), rest = name.substr(slash + 1);
  const auto is_folder = [&](std::string_view framework) { return framework == folder; };
  if (std::any_of(std::begin(frameworks), std::end(frameworks), is_folder)) return true;
  return std::any_of(std::begin(plain_frameworks), std::end(plain_frameworks), is_folder) &&
         (rest == std::string(folder) + ".h" || rest == "gl.h" || rest == "gl3.h" || rest == "glu.h");
}

}  // namespace

std::optional<std::string_view> system_of_header(std::string_view name) {
  const std::string small = text::lower(std::string(name));
  for (const auto& row : folders) {
    if (small.starts_with(row.folder)) return row.system;
  }
  struct Table {
    std::set<std::string, std::less<>> names;
    std::string_view system;
  };
  static const Table tables[] = {
      {small_names(of_windows), "Windows"},     {small_names(of_posix), "POSIX systems"},
      {small_names(of_linux), "Linux"},         {small_names(of_bsd), "BSD systems and macOS"},
      {small_names(of_avr), "AVR controllers"}, {small_names(of_macos), "macOS"}};
  for (const auto& table : tables) {
    if (table.names.contains(small)) return table.system;
  }
  return is_of_framework(name) ? std::optional<std::string_view>("macOS") : std::nullopt;
}

std::optional<std::string_view> other_system_of_header(std::string_view name, std::string_view triple) {
  struct TripleRow {
    std::string_view word, system;
  };
  static constexpr TripleRow rows[] = {{"linux", "Linux"},
                                       {"linux", "POSIX systems"},
                                       {"mingw", "Windows"},
                                       {"windows", "Windows"},
                                       {"darwin", "macOS"},
                                       {"apple", "macOS"},
                                       {"darwin", "POSIX systems"},
                                       {"avr", "AVR controllers"},
                                       {"bsd", "BSD systems"},
                                       {"bsd", "POSIX systems"},
                                       {"bsd", "BSD systems and macOS"},
                                       {"darwin", "BSD systems and macOS"},
                                       {"apple", "BSD systems and macOS"},
                                       {"apple", "POSIX systems"}};
  const auto system = system_of_header(name);
  const bool own = system && std::any_of(std::begin(rows), std::end(rows), [&](const TripleRow& row) {
                     return row.system == *system && triple.find(row.word) != std::string_view::npos;
                   });
  return own ? std::nullopt : system;
}

}  // namespace fibula
