/// Macros that decide whether a compiler sees a part of a header.
#pragma once

#include "diagnose/evidence.hpp"

namespace fibula {

/// The identifiers of a text, each once, in their order.
std::vector<std::string> identifiers_of(std::string_view text);

/// Macros that headers test around a place, or around where they declare a name.
std::vector<std::string> macros_tested(const std::string& name, const fs::path& file, size_t line,
                                       const ToolCommand& command, Evidence& evidence);

/// Of `#if defined A … #elif defined B … #else #error`, and of `#if !defined A && !defined B`, with the error in that
/// line of a file: A and B. Those that compilers define by themselves are not among them; empty where the line is no
/// such place.
std::vector<std::string> macros_of_chain(const fs::path& file, size_t line);

/// Names that stand in the bounds of an array that headers near the command declare under this name.
std::vector<std::string> macros_of_bounds(const std::string& member, const ToolCommand& command, Evidence& evidence);

}  // namespace fibula
