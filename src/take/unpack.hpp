/// Unpacks archives that nobody vouches for: zip, tar in every compression, 7z, and the packages of systems, whose
/// scripts are never run.
///
/// Formats: libarchive's readers; "deb(5)", "rpm" (a cpio archive behind a header). Names must stay inside the folder,
/// links may not lead out of it, and everything is counted against bounds while it is written.
#pragma once

#include <fibula/progress.hpp>
#include <fibula/result.hpp>

#include <filesystem>
#include <string>
#include <vector>

namespace fibula {

struct UnpackLimits {
  uint64_t bytes = 16ULL << 30U;        ///< unpacked
  size_t entries = 500'000;             ///< files, folders and links
  unsigned ratio = 250;                 ///< unpacked bytes for each byte of the archive
  uint64_t ratio_free = 256ULL << 20U;  ///< what may be unpacked before the ratio counts
};

/// What an archive says of itself.
struct Unpacked {
  std::string package;  ///< a system package's name and version; empty for others
  std::string version;
  bool ended = true;  ///< false: it is a tar archive without the blocks of zeros that end one
};

/// Whether the file's first bytes are those of an archive that `unpack` reads.
bool is_archive(const std::filesystem::path& file);

/// Unpacks into a folder that is there already; files that lie in it stay, and none is overwritten. After an error the
/// folder holds a part: it is the caller's to remove. Errors: missing_tool, absent, unreadable, truncated, malformed,
/// unsupported, limit, refused (encrypted; a name or link that leads out; a device; two names that differ in case), io.
Result<Unpacked> unpack(const std::filesystem::path& archive, const std::filesystem::path& into,
                        const UnpackLimits& limits, const ProgressSink& progress);

}  // namespace fibula
