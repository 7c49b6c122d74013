/// What the names of a file's symbols give away: the run-times they belong to, and what the compiler was told to do.
#pragma once

#include "binary/image.hpp"

#include <array>
#include <string_view>

namespace fibula {

enum class Trait : unsigned {
  cxx,       ///< Itanium mangling
  msvc_cxx,  ///< MSVC mangling
  rust,
  go,
  new_string,  ///< libstdc++'s std::__cxx11
  old_string,  ///< libstdc++'s reference-counted string
  cxx_given,   ///< Itanium or MSVC mangling in a name that is given to others
  new_string_given,
  old_string_given,
  libstdcxx,
  libcxx,
  stl_debug,
  table_exceptions,
  seh_exceptions,
  sjlj_exceptions,
  posix_threads,
  win32_threads,
  address_sanitizer,
  thread_sanitizer,
  memory_sanitizer,
  undefined_sanitizer,
  leak_sanitizer,
  gcov,
  llvm_profile,
  gprof,
  libgomp,
  libomp,
  gfortran,
  flang,
  glibc,
  bionic,
  newlib,
  avr_libc,
  ucrt,
  msvcrt,
  count,
};

/// Whether the format puts an underscore before every C name: Mach-O does, and COFF of 32-bit x86, but not its images.
bool has_c_underscore(const Target& target);

/// The first name that shows each trait; empty where none does.
class NameTraits {
 public:
  explicit NameTraits(const Target& target);
  enum class Role {
    needed,
    wished,  ///< needed weakly: it is used only where somebody else brings it
    defined,
    given,  ///< defined for others, and no copy of an inline function
  };
  void look_at(std::string_view name, Role role);
  std::string_view shown_by(Trait trait) const { return first_[static_cast<size_t>(trait)]; }
  bool has(Trait trait) const { return !shown_by(trait).empty(); }

 private:
  void look_at_mangled(std::string_view name, Role role);
  void note(Trait trait, std::string_view name) {
    auto& first = first_[static_cast<size_t>(trait)];
    if (first.empty()) first = name;
  }

  bool underscore_;
  bool windows_;
  std::array<std::string_view, static_cast<size_t>(Trait::count)> first_{};
};

}  // namespace fibula
