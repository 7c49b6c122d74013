/// What a file among an output's sources is, by the ending of its name, as GCC and Clang decide.
#pragma once

#include <filesystem>

namespace fibula {

enum class SourceKind {
  c,
  cxx,
  objective_c,
  objective_cxx,
  assembly,   ///< the compiler's own: .S through the preprocessor, .s
  nasm,       ///< .asm
  object,     ///< goes into the link as it is
  archive,    ///< the same
  no_source,  ///< headers, texts and what else lies there
};

SourceKind source_kind(const std::filesystem::path& file);

inline bool is_compiled(SourceKind kind) {
  return kind < SourceKind::object;
}

}  // namespace fibula
