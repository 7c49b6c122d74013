/// Which files of a download are one: a DLL and what stands for it, a library and its other names.
#pragma once

#include <fibula/facts.hpp>

#include <optional>
#include <string>
#include <vector>

namespace fibula {

struct PairedFile {
  std::string path;  ///< relative to the download
  const Facts* facts = nullptr;
};

/// How many folders two paths have in common, wherever they stand: `lib/x64/MD/tide.lib` and `bin/x64/MD/tide.dll` have
/// two.
size_t folders_in_common(const std::string& one, const std::string& other);

/// The position of the DLL that an import library names: of that name and machine, and of several the one whose folders
/// are most alike.
std::optional<size_t> dll_behind(const PairedFile& import, const std::vector<PairedFile>& files);

}  // namespace fibula
