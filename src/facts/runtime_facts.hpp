/// Which C and C++ run-times a file was made for. Each function fills its facts where the evidence allows.
#pragma once

#include "binary/image.hpp"
#include "facts/name_traits.hpp"

#include <fibula/facts.hpp>

namespace fibula {

void add_c_runtime(const Image& image, const NameTraits& traits, Facts& facts);
/// What stands in the names that the file gives to its users: those are what a program and a library must agree on.
void add_interface(const NameTraits& traits, Facts& facts);
void add_cxx_runtime(const Image& image, const NameTraits& traits, Facts& facts);
/// Exceptions, threads, sanitizers, profiling, OpenMP, Fortran.
void add_instrumentation(const Image& image, const NameTraits& traits, Facts& facts);

/// One `key=value` of the option /FAILIFMISMATCH among the directives; empty where it is not.
std::string_view mismatch_key(const Image& image, std::string_view key);

}  // namespace fibula
