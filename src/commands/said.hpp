/// The tables of what tools say, one for each family.
#pragma once

#include "commands/line_table.hpp"

namespace fibula {

std::span<const LineRow> said_by_compilers();  ///< GCC, Clang, MSVC-style; GNU as, nasm
std::span<const LineRow> said_by_bfd();        ///< the BFD linker and gold, of all machines
std::span<const LineRow> said_by_lld();        ///< LLD in all forms, mold
std::span<const LineRow> said_by_link();       ///< MSVC-style linkers, by their codes; Apple's
std::span<const LineRow> said_by_programs();   ///< drivers, archivers, shells

std::span<const LineRow> said_of_outputs();  ///< what any tool could not write
std::span<const LineRow> said_by_build_tools();

/// What programs say of files that they open themselves: only where no tool's line fits.
std::span<const LineRow> said_of_opened_files();

/// What a loader says; some of their complaints go on over the lines below.
std::optional<Complaint> said_by_loader(std::string_view line);
void continued_by_loader(std::string_view line, Complaint& complaint);

}  // namespace fibula
