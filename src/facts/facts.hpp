/// From an Image to Facts: what the bytes mean for somebody who wants to use the file.
#pragma once

#include "binary/open.hpp"

#include <fibula/facts.hpp>

namespace fibula {

/// The facts of one object, program or shared library.
Facts facts_of_image(const Image& image);

/// The facts of an archive: what its members agree on. `member_facts` keeps those of each member; `path` is where a
/// thin archive's members are looked for.
Result<Facts> facts_of_archive(const Archive& archive, bool member_facts, const std::filesystem::path& path = {});

/// The facts of any recognised bytes: a slice of a universal file may be an archive. `path` is where the files are that
/// a thin archive or a linker script names. Errors: as `read_content`.
Result<Facts> facts_of(const FileContent& content, const InspectOptions& options, const std::filesystem::path& path);

/// Whether symbols count as an interface: global, weak or unique, and visible outside of their object.
bool is_global(const ImageSymbol& symbol);

/// The table that a linker reads of an image: its own for an object, the loader's for a shared library or program.
const std::vector<ImageSymbol>& linkable_symbols(const Image& image);

}  // namespace fibula
