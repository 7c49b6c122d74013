/// Files as the linker sees them: opened once, members read only when a link pulls them.
#pragma once

#include "binary/open.hpp"
#include "fit/export_index.hpp"

#include <filesystem>
#include <map>
#include <memory>
#include <string>
#include <vector>

namespace fibula {

/// One object: a file of its own, or a member of an archive.
struct LinkObject {
  std::string label;           ///< "libtidecalc.a(tide.o)"
  std::filesystem::path file;  ///< the object or the archive
  Bytes bytes;
  Image image;
  std::shared_ptr<const MappedFile> mapping = {};  ///< of a thin archive's member
};

class LinkFile {
 public:
  LinkFile(std::filesystem::path path, OpenFile file);

  const std::filesystem::path& path() const { return path_; }
  const OpenFile& content() const { return file_; }
  const Archive* archive() const { return file_.archive(); }
  const Script* script() const { return file_.script(); }
  bool is_shared() const;
  /// The image of a shared library or program.
  const Image& image() const { return *file_.image(); }
  /// What a shared library shows to its users.
  const ExportIndex& exports();
  /// The only object of an object file (member 0), or an archive's member. Errors: truncated, malformed, not_a_library.
  Result<const LinkObject*> object(uint32_t member);

 private:
  std::filesystem::path path_;
  OpenFile file_;
  std::vector<std::unique_ptr<LinkObject>> objects_;
  std::unique_ptr<ExportIndex> exports_;
};

/// Every file of a fit, opened once however many lanes ask for it.
class FileStore {
 public:
  /// Of a universal file, and of a text that stands for libraries of several machines, the part for `machine`.
  /// Errors: as `open_binary`; absent (there is no such part).
  Result<LinkFile*> open(const std::filesystem::path& path, const Target& machine = {});

 private:
  std::map<std::pair<std::filesystem::path, Arch>, std::unique_ptr<LinkFile>> files_;
};

}  // namespace fibula
