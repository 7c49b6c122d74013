/// DLLs of Windows, by their names.
#include "base/text.hpp"
#include "facts/system_files.hpp"

#include <algorithm>
#include <iterator>

namespace fibula {

namespace {

/// What lies in the system's folder of Windows 10 and 11, whatever was installed: of the DLLs for which mingw-w64 has
/// import libraries, and of those that they and compilers' run-times need, without redistributables (DirectX before
/// 2012, Microsoft's run-times) and without what servers or drivers bring.
constexpr std::string_view windows_dlls =
    " "
    "aclui activeds adsldpc advapi32 advpack amsi apphelp atl atlthunk authz avicap32 avifil32 avrt bcrypt "
    "bcryptprimitives bluetoothapis browseui cabinet certcli cfgmgr32 clbcatq clusapi combase comctl32 comdlg32 "
    "comsvcs coremessaging credui crypt32 cryptbase cryptdll cryptnet cryptsp cryptui cryptxml cscapi d2d1 d3d10 "
    "d3d10_1 d3d10core d3d11 d3d12 d3d9 d3dcompiler_47 davclnt dbgcore dbgeng dbghelp dciman32 dcomp ddraw "
    "devobj dhcpcsvc dhcpcsvc6 dinput dinput8 directmanipulation dnsapi dpapi dsound dsrole dsuiext dwmapi "
    "dwrite dxcore dxgi dxva2 eappcfg efsadu esent evr explorerframe faultrep fltlib fontsub fwpuclnt gdi32 "
    "gdi32full gdiplus glu32 gpedit hid hlink hnetcfg httpapi icm32 imagehlp imgutil imm32 inetcomm iphlpapi "
    "iscsidsc jscript kerberos kernel32 kernelbase ksuser ktmw32 linkinfo loadperf logoncli lz32 magnification "
    "mapi32 mf mfplat mfplay mfreadwrite mlang mmdevapi mpr mprapi msacm32 mscms mscoree msctf msdelta msdmo "
    "msdrm msftedit mshtml msi msimg32 msls31 mspatcha mstask msv1_0 msvcp_win msvcrt msvfw32 mswsock msxml3 "
    "msxml6 ncrypt ndfapi netapi32 netutils newdev ninput normaliz nsi ntdll ntdsapi ntmarta ntshrui odbc32 "
    "odbccp32 ole32 oleacc oleaut32 oledlg olepro32 opengl32 p2p pdh powrprof printui profapi propsys psapi "
    "quartz qwave rasapi32 rasdlg rasman resutils riched20 riched32 rpcns4 rpcrt4 rstrtmgr rtutils rtworkq "
    "samcli samlib scarddlg schannel scrrun sechost secur32 security sensapi setupapi sfc sfc_os shcore shdocvw "
    "shell32 shfolder shlwapi slc slcext slwga snmpapi sppc srclient srvcli sspicli sti sxs t2embed tapi32 "
    "taskschd tbs tdh traffic txfw32 ucrtbase uianimation uiautomationcore uiribbon url urlmon user32 userenv "
    "usp10 uxtheme vbscript version virtdisk vssapi webauthn webservices websocket wecapi wer wevtapi wimgapi "
    "win32u winbio windows.storage windowscodecs windowscodecsext winhttp wininet winmm winnsi winscard winspool "
    "winsqlite3 winsta wintrust wintypes winusb wkscli wlanapi wldap32 wofutil ws2_32 ws2help wscapi wsdapi "
    "wsnmp32 wsock32 wtsapi32 wuapi xaudio2_8 xaudio2_9 xinput1_4 xinput9_1_0 xmllite xolehlp xpsprint ";

}  // namespace

bool is_windows_dll(const std::string& name) {
  std::string plain = text::lower(name);
  if (is_api_set(name)) return true;
  if (plain.ends_with(".dll") || plain.ends_with(".drv")) plain.erase(plain.size() - 4);
  return windows_dlls.find(" " + plain + " ") != std::string_view::npos;
}

bool is_universal_run_time(const std::string& name) {
  return is_api_set(name) || text::lower(name) == "ucrtbase.dll";
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

}  // namespace fibula
