/// A folder with a library in it, as it came: what is there, what belongs together, and what is odd about it.
///
///     auto view = fibula::look_over("harbour-sdk-2.1");
///     for (const auto& oddity : view->odd) std::cout << oddity.file << ": " << oddity.what << '\n';
#pragma once

#include <fibula/facts.hpp>

#include <memory>
#include <string>
#include <vector>

namespace fibula {

/// Files of one sort below a folder.
struct FilesInFolder {
  std::string path;  ///< relative to the folder looked over
  size_t count = 0;
  std::string first;  ///< the first by name, relative to `path`
};

struct FolderBinary {
  std::string path;  ///< relative to the folder looked over
  Facts facts;
  std::string group;               ///< what it is for, with the two formats of Windows taken together
  std::vector<std::string> links;  ///< other names of the same file in its folder
  std::string belongs_to;  ///< "runs with bin/tide.dll", "found as libtide.so.1"; empty where there is nothing to say
};

/// What a person would stumble over.
struct Oddity {
  std::string file;
  std::string what;
};

struct FolderView {
  std::vector<FilesInFolder> headers;  ///< by the folders that would stand on the include path
  std::vector<FilesInFolder> sources;  ///< what a compiler or assembler would take, by the folders that hold it
  std::vector<FolderBinary> binaries;  ///< grouped by what they are for, then by path
  std::vector<Error> refused;          ///< files with a library's name that cannot be read as one
  std::vector<Oddity> odd;
};

/// Reads every binary and counts every header below a folder; links to folders are not followed. Errors: absent,
/// unreadable, limit.
FIBULA_API Result<FolderView> look_over(const std::filesystem::path& folder);

/// Whether a file is one that downloads come as (zip, tar, deb, …), and no library.
FIBULA_API bool is_download(const std::filesystem::path& file);

/// What lies in a download; its files are at `root` until the last copy of this is gone.
struct LookedInto {
  FolderView view;
  std::filesystem::path root;
  std::shared_ptr<const void> place;
};

/// The same for a download, which is unpacked out of the way. Errors: as for taking one.
FIBULA_API Result<LookedInto> look_into(const std::filesystem::path& archive);

/// What a file is for, in a few words: "64-bit x86_64 elf", "aarch64 and x86_64 macho".
FIBULA_API std::string target_of(const Facts& facts);

}  // namespace fibula
