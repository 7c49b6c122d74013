/// One of the two things that are compared.
#pragma once

#include "compare/differences.hpp"

#include <optional>

namespace fibula {

struct ComparedSide {
  std::string shown;   ///< "tidecalc 2.1.0"
  Card card;           ///< of one file: empty but for its root
  std::string single;  ///< the file, where it is one, relative to the root
  std::string staged;  ///< the folder, where it holds files to hand on and no library
};

/// What a word means: a file, a folder, or `NAME[/VERSION]` on the shelf; a version alone is one of `other`'s. Errors:
/// absent, those of `describe`.
Result<ComparedSide> find_side(const std::string& word, const std::string& other, const Shelf& shelf);

/// One file read for comparing. Debugging records that cannot be read count as none. Errors: as `inspect`.
Result<ComparedBinary> read_binary(const std::filesystem::path& root, const std::string& file);

/// Two variants, or two single files, that stand for each other.
struct VariantPair {
  std::string variant;  ///< the first one's id
  bool shared = false;
  std::vector<std::pair<std::string, std::string>> files;  ///< relative to their roots
};

struct PairedVariants {
  std::vector<VariantPair> pairs;
  Differences unpaired;  ///< variants and files without a partner
};
/// Pure.
PairedVariants pair_variants(const ComparedSide& first, const ComparedSide& second);

}  // namespace fibula
