/// Where a run-time file is that a loader did not find.
#pragma once

#include <fibula/cache.hpp>
#include <fibula/shelf.hpp>

#include "os/files.hpp"

#include <optional>
#include <string>
#include <utility>
#include <vector>

namespace fibula {

/// `libtide` of `libtide.so.2.1` and `libtide.so`.
std::string shared_stem(const std::string& name);

/// The library on a shelf that brings a file of this name, and the file, relative to its files.
std::optional<std::pair<Card, std::string>> run_time_file_on(const Shelf& shelf, const Cache& cache,
                                                             const std::string& name);

/// A file of the same library under another version's name: `libtide.so.2` for `libtide.so.1`.
std::optional<fs::path> other_version_in(const std::vector<fs::path>& folders, const std::string& name);

/// In a folder beside the program's, as downloads have them, or below it: `lib`, `bin`.
std::optional<fs::path> lies_near(const fs::path& program, const std::string& name);

/// A library in the program's folder or those that its run paths lead to that needs a file of this name.
std::optional<fs::path> library_that_needs(const fs::path& program, const std::string& name);

/// A run path that leads from one file to another: `$ORIGIN/../lib`.
std::string way_from(const fs::path& user, const fs::path& file);

/// Whether a file defines a name for others.
bool gives_out(const fs::path& file, const std::string& symbol);

/// Where the program's own run path leads, and where it lies.
std::vector<fs::path> folders_of(const fs::path& program);

/// A library that says itself that it is to be found under this name, and lies there under another.
std::optional<fs::path> file_that_says_its_name(const std::vector<fs::path>& folders, const std::string& name);

/// Whether a program has a symbol in its own table, which is there unless it was stripped.
bool keeps_to_itself(const fs::path& program, const std::string& symbol);

}  // namespace fibula
