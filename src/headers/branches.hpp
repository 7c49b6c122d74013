/// One text, many builds: what the branches of its conditionals make of it.
#pragma once

#include "headers/condition.hpp"

#include <functional>
#include <string>
#include <string_view>
#include <vector>

namespace fibula {

/// Texts of one source in each of which every `#if` has one of its branches, so that braces and statements are whole.
/// Together they hold each branch at least once, apart from `#if 0`; of deep nests at most eight are made. Lines keep
/// their numbers: those of other branches, and the directives of conditionals, are empty.
std::vector<std::string> branch_texts(std::string_view text);

/// Whether a conditional of a text lacks its beginning or its end (C17, 6.10.1): it is a part of another text.
bool has_loose_conditionals(std::string_view text);

/// The text that a build sees in which these names are defined, with what it defines itself, and nothing else. Where a
/// condition asks for a name of which `is_open` says that it may be defined or not, none of the branches is seen. Lines
/// keep their numbers.
std::string text_where(std::string_view text, DefinedNames defined, const NameQuestion& is_open = {});

/// The text without branches that ask for a macro which nobody ever defines. Conditions that say more than that a macro
/// is there, or that several are, stay. Lines keep their numbers.
std::string text_without(std::string_view text, const NameQuestion& is_never_defined);
/// The same with its conditionals and definitions, for who reads each of the alternatives by itself.
std::string branches_without(std::string_view text, const NameQuestion& is_never_defined);

/// Names that a text defines or undefines somewhere, also as the texts do from which build tools make headers
/// (`#cmakedefine NAME`).
void note_defined_names(std::string_view text, DefinedNames& names);

/// The macros that a text defines, in order, with what stands behind their names: parameters and replacement.
std::vector<std::pair<std::string, std::string>> macro_bodies(std::string_view text);

/// Names that a text's conditionals ask for.
void note_tested_names(std::string_view text, DefinedNames& names);

/// What compilers define by themselves where they build for these systems.
const DefinedNames& names_of_linux();
const DefinedNames& names_of_macos();
const DefinedNames& names_of_windows();

}  // namespace fibula
