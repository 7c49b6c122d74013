/// What one text of code says of itself.
#pragma once

#include "headers/branches.hpp"

#include <set>
#include <string>
#include <string_view>

namespace fibula {

/// The text outside of every `#if`: what is there in each build.
std::string without_conditionals(std::string_view content);

/// Whether a text says `#error` anywhere.
bool has_error(std::string_view text);

/// Whether a build meets an `#error` for want of a macro: `#ifndef TIDE_BUS`, but no `#if TIDE_LEVEL > 3`, which
/// nobody works out here. `seen`: what the build sees of the content, line by line.
bool lacks_macro(std::string_view content, std::string_view seen);

/// Whether builds for a system, for which these names are defined, refuse a source whatever its own build finds out;
/// one that stands in for functions of the system's library is refused where its own build finds nothing to do it with.
/// `defines`: what it defines for others.
bool is_refused(std::string_view content, const DefinedNames& defined, bool windows,
                const std::set<std::string>& defines);

/// Whether an ordinary build makes a program of a source: one whose `main` a macro asks for is none.
bool is_program(std::string_view content);

}  // namespace fibula
