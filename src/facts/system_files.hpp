/// Run-time files that come with an operating system.
#pragma once

#include <string>
#include <string_view>

namespace fibula {

/// DLLs that come with Windows itself, by any spelling of case. What compilers bring is not among them.
bool is_windows_dll(const std::string& name);

/// The C run-time that is part of Windows since 10, and the names through which it is found. Downloads for older ones
/// bring copies along.
bool is_universal_run_time(const std::string& name);

/// DLLs that Windows takes from its own folder whatever lies beside the program (the registry's list of known DLLs, and
/// what they need).
bool is_known_dll(const std::string& name);

/// `api-ms-win-…`, `ext-ms-…`: contracts that Windows maps to DLLs of its own (Windows API sets).
bool is_api_set(const std::string& name);

/// The run-time of Microsoft's compiler, of release and debug builds: it is installed, or lies beside programs.
bool is_msvc_run_time(const std::string& name);

/// Whose compiler a DLL is the run-time of, for a sentence; empty for other files. Nobody links it by its name.
std::string_view maker_of_run_time_dll(const std::string& name);

/// The run-time of a compiler's debug builds: it is on no machine without that compiler, and its licence lets nobody
/// hand it on.
bool is_debug_run_time(const std::string& name);

/// Names that musl's own library stands for: its loader never looks for them (musl, ldso/dynlink.c).
bool is_musl_itself(const std::string& name);

/// The run-time of GNU compilers for C and C++, which a system with programs in C++ has.
bool is_gnu_run_time(const std::string& soname);

/// What stays with the system when a program for Linux is handed on, and why; empty: it goes along. It is the C library
/// with its loader, the compilers' run-times, which newer systems have in a newer form that serves older programs, what
/// must match the machine's drivers, and the libraries of windowing and sound systems, which speak with servers there.
std::string_view reason_to_stay(const std::string& soname);

/// An install name of macOS' own libraries and frameworks.
bool is_macos_file(const std::string& name);

}  // namespace fibula
