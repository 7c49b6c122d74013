/// What a preprocessor that was told to say everything prints: macros, its search directories, and itself.
#include "base/text.hpp"
#include "os/files.hpp"
#include "toolchain/answers.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

std::string version_from(const Macros& macros) {
  const bool clang = macros.has("__clang__");
  return fmt::format("{}.{}.{}", macros.value(clang ? "__clang_major__" : "__GNUC__"),
                     macros.value(clang ? "__clang_minor__" : "__GNUC_MINOR__"),
                     macros.value(clang ? "__clang_patchlevel__" : "__GNUC_PATCHLEVEL__"));
}

std::string line_after(std::string_view err, std::string_view start) {
  for (const auto line : text::lines(err)) {
    if (line.starts_with(start)) return std::string(text::trim(line.substr(start.size())));
  }
  return {};
}

}  // namespace

std::vector<fs::path> search_directories(std::string_view err) {
  std::vector<fs::path> found;
  bool inside = false;
  for (const auto line : text::lines(err)) {
    if (line.starts_with("#include <...>")) inside = true;
    if (line.starts_with("End of search list")) break;
    if (!inside || !line.starts_with(' ')) continue;
    std::error_code error;
    const auto path = fs::canonical(fs::path(text::trim(line)), error);
    const bool of_question = path.filename().string().starts_with("fibula-question");
    if (!error && !of_question && std::find(found.begin(), found.end(), path) == found.end()) found.push_back(path);
  }
  return found;
}

// The C++ library has a stdlib.h of its own, which fails without the C library's: stdio.h tells whether that is there.
const std::string_view question_source = R"(#ifdef __has_include
# if __has_include(<stdio.h>)
#  include <stdio.h>
#  define FIBULA_HAS_C_LIBRARY 1
#  ifdef __cplusplus
#   if __has_include(<cstddef>)
#    include <cstddef>
#   endif
#  endif
# endif
# if __has_include(<avr/version.h>)
#  include <avr/version.h>
# endif
# ifdef __has_feature
#  if __has_feature(address_sanitizer)
#   define __SANITIZE_ADDRESS__ 1
#  endif
#  if __has_feature(thread_sanitizer)
#   define __SANITIZE_THREAD__ 1
#  endif
# endif
#endif
)";

bool read_macro_answer(std::string_view out, std::string_view err, Toolchain& toolchain) {
  const Macros macros(out);
  if (!macros.has("__SIZEOF_POINTER__") && !macros.has("_MSC_VER")) return false;
  if (toolchain.family != CompilerFamily::msvc)
    toolchain.family = macros.has("__clang__") ? CompilerFamily::clang : CompilerFamily::gcc;
  toolchain.cxx = macros.has("__cplusplus");
  toolchain.version = version_from(macros);
  toolchain.triple = line_after(err, "Target:");
  toolchain.target = target_from(macros);
  toolchain.include_directories = search_directories(err);
  read_abi_answers(macros, err, toolchain);
  return true;
}

}  // namespace fibula
