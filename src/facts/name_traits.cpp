#include "facts/name_traits.hpp"

#include "base/text.hpp"

namespace fibula {
namespace {

struct Row {
  std::string_view start;
  Trait trait;
  bool whole = false;  ///< the name is exactly this
};

/// Plain names of compilers' run-times, after the format's own underscore.
constexpr Row plain_names[] = {
    {"__gxx_personality_v0", Trait::table_exceptions, true},
    {"__gxx_personality_seh0", Trait::seh_exceptions, true},
    {"__CxxFrameHandler", Trait::seh_exceptions},
    {"__gxx_personality_sj0", Trait::sjlj_exceptions, true},
    {"__asan_", Trait::address_sanitizer},
    {"__hwasan_", Trait::address_sanitizer},
    {"__tsan_", Trait::thread_sanitizer},
    {"__msan_", Trait::memory_sanitizer},
    {"__ubsan_handle_", Trait::undefined_sanitizer},
    {"__lsan_", Trait::leak_sanitizer},
    {"__gcov_", Trait::gcov},
    {"__llvm_profile_", Trait::llvm_profile},
    {"__llvm_prf_", Trait::llvm_profile},
    {"__fentry__", Trait::gprof, true},
    {"mcount", Trait::gprof, true},
    {"_mcount", Trait::gprof, true},
    {"__gnu_mcount_nc", Trait::gprof, true},
    {"GOMP_", Trait::libgomp},
    {"__kmpc_", Trait::libomp},
    {"_gfortran_", Trait::gfortran},
    {"_FortranA", Trait::flang},
    {"__isoc99_", Trait::glibc},
    {"__isoc23_", Trait::glibc},
    {"__printf_chk", Trait::glibc, true},
    {"__fprintf_chk", Trait::glibc, true},
    {"__sprintf_chk", Trait::glibc, true},
    {"__snprintf_chk", Trait::glibc, true},
    {"__memcpy_chk", Trait::glibc, true},
    {"__sF", Trait::bionic, true},
    {"__android_log_", Trait::bionic},
    {"_impure_ptr", Trait::newlib, true},
    {"__getreent", Trait::newlib, true},
    {"__do_copy_data", Trait::avr_libc, true},
    {"__do_clear_bss", Trait::avr_libc, true},
    {"__stdio_common_", Trait::ucrt},
    {"__iob_func", Trait::msvcrt, true},
    {"_iob", Trait::msvcrt, true},
    {"__gthr_win32_", Trait::win32_threads},
    {"pthread_", Trait::posix_threads},
    {"go:", Trait::go},
    {"runtime.", Trait::go},
};

bool is_sanitizer(Trait trait) {
  return trait >= Trait::address_sanitizer && trait <= Trait::leak_sanitizer;
}

/// What a compiler does to code on request, and for which it then needs a run-time.
bool is_on_request(Trait trait) {
  return trait >= Trait::address_sanitizer && trait <= Trait::libomp;
}

/// Rust's first mangling looks like C++'s and ends in a hash: `17h` and sixteen hexadecimal digits.
bool has_rust_hash(std::string_view name) {
  return name.size() > 20 && name.ends_with('E') && name.substr(name.size() - 20, 3) == "17h";
}

/// Where the name begins of what a special one is about (5.1.4.4): `TV` and the like are two letters, and a thunk's
/// offsets stand in front of what it leads to, `Thn16_` or `Tv0_n24_`.
size_t after_special(std::string_view name) {
  if (!name.starts_with("_ZT")) return 2;
  if (!name.starts_with("_ZTh") && !name.starts_with("_ZTv") && !name.starts_with("_ZTc")) return 4;
  const size_t start = name.find_first_not_of("hvcn_0123456789", 3);
  // The length of the name's first part is a number too, and no underscore ends it.
  const size_t end = name.substr(0, std::min(start, name.size())).rfind('_');
  return end == std::string_view::npos ? 2 : end + 1;
}

/// `Ss`, `So`, `Si` or `Sd`.
bool is_abbreviation(std::string_view name, size_t at) {
  return name[at] == 'S' && at + 1 < name.size() &&
         std::string_view("soid").find(name[at + 1]) != std::string_view::npos;
}

/// Where the next part of a mangled name begins behind a sign that is no name. Numbers that are not lengths belong to
/// the sign: `C1` and `D0` (5.1.4.3), `S5_` (5.1.10), `T0_` (5.1.5.9), `A10_` (5.1.5.5), and literals up to their `E`
/// (5.1.6).
size_t after_sign(std::string_view name, size_t at) {
  const auto has = [&](size_t place, std::string_view any) {
    return place < name.size() && any.find(name[place]) != std::string_view::npos;
  };
  constexpr std::string_view digits = "0123456789";
  const auto behind = [&](char end) {
    const size_t found = name.find(end, at);
    return found == std::string_view::npos ? name.size() : found + 1;
  };
  switch (name[at]) {
    case 'C': return at + (has(at + 1, "12345") ? 2 : has(at + 1, "I") ? 3 : 1);
    case 'D': return at + (has(at + 1, "012345") ? 2 : 1);
    case 'S': {
      const size_t end = name.find_first_not_of("0123456789ABCDEFGHIJKLMNOPQRSTUVWXYZ", at + 1);
      // The `S` of an operator, as in `aS`, has something else behind it.
      if (end == at + 1) return at + 2;
      return has(end, "_") ? end + 1 : at + 1;
    }
    case 'T':
    case 'A': return has(at + 1, digits) ? behind('_') : at + 1;
    case 'L': return has(at + 1, "wbcahstijlmxynofdeg") ? behind('E') : at + 1;
    default: return at + 1;
  }
}

}  // namespace

bool has_c_underscore(const Target& target) {
  return target.format == Format::macho || target.format == Format::stub ||
         (target.format == Format::coff && target.arch == Arch::x86);
}

NameTraits::NameTraits(const Target& target)
    : underscore_(has_c_underscore(target)), windows_(target.format == Format::coff || target.format == Format::pe) {}

void NameTraits::look_at(std::string_view name, Role role) {
  const bool given = role == Role::given;
  if (name.starts_with('?')) {
    if (given) note(Trait::cxx_given, name);
    return note(Trait::msvc_cxx, name);
  }
  std::string_view plain = name;
  if (plain.starts_with("__imp_")) plain.remove_prefix(6);
  if (underscore_ && plain.starts_with('_')) plain.remove_prefix(1);
  if (plain.starts_with("_Z")) return look_at_mangled(name.substr(name.size() - plain.size()), role);
  if (plain.starts_with("_R")) return note(Trait::rust, name);
  if (plain.empty() || std::string_view("_mGpgr").find(plain[0]) == std::string_view::npos) return;
  for (const auto& row : plain_names) {
    if (row.whole ? plain != row.start : !plain.starts_with(row.start)) continue;
    const bool thread_trait = row.trait == Trait::posix_threads || row.trait == Trait::win32_threads;
    // Who defines a sanitizer's functions is its run-time, or stands in for it; who needs them is instrumented.
    const bool defines = role == Role::defined || role == Role::given;
    const bool own_run_time = is_sanitizer(row.trait) && defines;
    // A C library for bare machines defines the checking functions too, and is no other for that.
    const bool own_checks = row.trait == Trait::glibc && row.whole && defines;
    // Code that asks weakly, in case a program has such a run-time, was made without.
    const bool optional = is_on_request(row.trait) && role == Role::wished;
    if ((!thread_trait || windows_) && !own_run_time && !own_checks && !optional) note(row.trait, name);
    return;
  }
}

/// Walks the mangled name part by part (Itanium C++ ABI, section 5.1): source names are lengths and letters, and `Ss`,
/// `So`, `Si`, `Sd` stand for libstdc++'s own string and streams (5.1.10), which libc++ keeps elsewhere.
void NameTraits::look_at_mangled(std::string_view name, Role role) {
  bool given = role == Role::given;
  if (has_rust_hash(name)) return note(Trait::rust, name);
  note(Trait::cxx, name);
  // Names of types, and of what lies in std (`St`, `Ss`, `Sa`, …), are no library's own.
  for (const std::string_view foreign : {"_ZT", "_ZNS", "_ZNKS", "_ZSt"}) given = given && !name.starts_with(foreign);
  if (given) note(Trait::cxx_given, name);
  // libstdc++ has these on Windows only with POSIX threads, before GCC 13.
  if (windows_ && (name.starts_with("_ZNSt6thread") || name.starts_with("_ZNSt18condition_variable")))
    note(Trait::posix_threads, name);
  for (size_t at = after_special(name); at < name.size();) {
    if (!text::is_digit(name[at])) {
      if (is_abbreviation(name, at)) {
        const char which = name[at + 1];
        if (which == 's') note(Trait::old_string, name);
        if (which == 's' && given) note(Trait::old_string_given, name);
        note(Trait::libstdcxx, name);
      }
      at = after_sign(name, at);
      continue;
    }
    size_t length = 0;
    while (at < name.size() && text::is_digit(name[at]) && length < name.size()) {
      length = length * 10 + static_cast<size_t>(name[at++] - '0');
    }
    if (length > name.size() - at) return;
    const auto word = name.substr(at, length);
    at += length;
    if (word.size() < 3 || (word[0] != '_' && word[0] != 'c')) continue;
    if (word == "__cxx11" || word == "cxx11") {
      note(Trait::new_string, name);
      if (given) note(Trait::new_string_given, name);
      note(Trait::libstdcxx, name);
    }
    if (word.starts_with("__throw_")) note(Trait::libstdcxx, name);
    if (word == "__1" || word == "__ndk1") note(Trait::libcxx, name);
    // The library itself defines the part that both kinds of lists share.
    if (word == "__cxx1998" && name.find("15_List_node_base", at) == at && role != Role::needed) continue;
    if (word == "__debug" || word == "__cxx1998" || word == "__libcpp_debug_function") note(Trait::stl_debug, name);
  }
}

}  // namespace fibula
