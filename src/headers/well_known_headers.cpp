#include "headers/well_known_headers.hpp"

#include "base/text.hpp"

#include <algorithm>
#include <iterator>

namespace fibula {
namespace {

constexpr std::string_view of_c[] = {"assert.h",   "complex.h",  "ctype.h",  "errno.h",       "fenv.h",    "float.h",
                                     "inttypes.h", "iso646.h",   "limits.h", "locale.h",      "math.h",    "setjmp.h",
                                     "signal.h",   "stdalign.h", "stdarg.h", "stdatomic.h",   "stdbool.h", "stddef.h",
                                     "stdint.h",   "stdio.h",    "stdlib.h", "stdnoreturn.h", "string.h",  "tgmath.h",
                                     "threads.h",  "time.h",     "uchar.h",  "wchar.h",       "wctype.h"};

constexpr std::string_view of_cxx[] = {"algorithm",
                                       "any",
                                       "array",
                                       "atomic",
                                       "barrier",
                                       "bit",
                                       "bitset",
                                       "cassert",
                                       "cctype",
                                       "cerrno",
                                       "cfenv",
                                       "cfloat",
                                       "charconv",
                                       "chrono",
                                       "cinttypes",
                                       "climits",
                                       "clocale",
                                       "cmath",
                                       "codecvt",
                                       "compare",
                                       "complex",
                                       "concepts",
                                       "condition_variable",
                                       "coroutine",
                                       "csetjmp",
                                       "csignal",
                                       "cstdarg",
                                       "cstddef",
                                       "cstdint",
                                       "cstdio",
                                       "cstdlib",
                                       "cstring",
                                       "ctime",
                                       "cuchar",
                                       "cwchar",
                                       "cwctype",
                                       "deque",
                                       "exception",
                                       "execution",
                                       "expected",
                                       "filesystem",
                                       "flat_map",
                                       "flat_set",
                                       "format",
                                       "forward_list",
                                       "fstream",
                                       "functional",
                                       "future",
                                       "generator",
                                       "initializer_list",
                                       "iomanip",
                                       "ios",
                                       "iosfwd",
                                       "iostream",
                                       "istream",
                                       "iterator",
                                       "latch",
                                       "limits",
                                       "list",
                                       "locale",
                                       "map",
                                       "mdspan",
                                       "memory",
                                       "memory_resource",
                                       "mutex",
                                       "new",
                                       "numbers",
                                       "numeric",
                                       "optional",
                                       "ostream",
                                       "print",
                                       "queue",
                                       "random",
                                       "ranges",
                                       "ratio",
                                       "regex",
                                       "scoped_allocator",
                                       "semaphore",
                                       "set",
                                       "shared_mutex",
                                       "source_location",
                                       "span",
                                       "spanstream",
                                       "sstream",
                                       "stack",
                                       "stacktrace",
                                       "stdexcept",
                                       "stdfloat",
                                       "stop_token",
                                       "streambuf",
                                       "string",
                                       "string_view",
                                       "strstream",
                                       "syncstream",
                                       "system_error",
                                       "thread",
                                       "tuple",
                                       "type_traits",
                                       "typeindex",
                                       "typeinfo",
                                       "unordered_map",
                                       "unordered_set",
                                       "utility",
                                       "valarray",
                                       "variant",
                                       "vector",
                                       "version"};

/// What compilers bring for their machines, and systems' own that are asked for everywhere.
constexpr std::string_view of_compilers[] = {
    "arm_acle.h",  "arm_neon.h",  "arm_sve.h", "arm_fp16.h",     "altivec.h",       "cpuid.h",     "wasm_simd128.h",
    "mm_malloc.h", "stdatomic.h", "unwind.h",  "cxxabi.h",       "omp.h",           "quadmath.h",  "cet.h",
    "gcov.h",      "windows.h",   "avr/io.h",  "avr/pgmspace.h", "avr/interrupt.h", "util/delay.h"};

constexpr std::string_view anybodys[] = {
    "config.h", "version.h", "common.h",  "types.h",    "util.h",    "utils.h",    "error.h",    "errors.h",
    "debug.h",  "log.h",     "main.h",    "global.h",   "globals.h", "defs.h",     "misc.h",     "list.h",
    "queue.h",  "hash.h",    "options.h", "platform.h", "private.h", "internal.h", "resource.h", "stdafx.h",
    "buffer.h", "file.h",    "port.h",    "compat.h",   "system.h",  "macros.h",   "settings.h", "constants.h"};

template <class List>
bool is_in(const List& list, std::string_view name) {
  return std::find(std::begin(list), std::end(list), name) != std::end(list);
}

}  // namespace

StandardHeader standard_header(std::string_view name) {
  if (is_in(of_c, name)) return StandardHeader::of_c;
  return is_in(of_cxx, name) ? StandardHeader::of_cxx : StandardHeader::none;
}

bool comes_with_compilers(std::string_view name) {
  // C++ headers have no ending; a library's own without one lie in a folder.
  if (name.find_first_of("./") == std::string_view::npos && name == text::lower(name)) return true;
  if (name.ends_with("intrin.h") || name.starts_with("sanitizer/")) return true;
  return is_in(of_c, name) || is_in(of_compilers, name);
}

bool is_anybodys_header(std::string_view name) {
  while (name.starts_with("./") || name.starts_with("../")) name.remove_prefix(name.find('/') + 1);
  return is_in(anybodys, name);
}

}  // namespace fibula
