/// Files as the linker sees them: opened once, members read only when a link pulls them.
#pragma once

#include "binary/open.hpp"
#include "index/export_index.hpp"
#include "link/name_table.hpp"
#include "os/stamp.hpp"

#include <filesystem>
#include <functional>
#include <memory>
#include <string>
#include <unordered_map>
#include <vector>

namespace fibula {

/// What a link asks of a symbol: a small part of what the file says, since a link holds millions.
struct LinkSymbol {
  NameId name = no_name;
  uint32_t index = 0;  ///< in the file's table
  int32_t group = -1;  ///< index into LinkObject::groups
  bool defined = false;
  bool weak = false;
  bool hidden = false;  ///< shared libraries have no part in it
  bool common = false;
  bool in_thread = false;  ///< each thread has its own
};

/// One object: a file of its own, or a member of an archive.
struct LinkObject {
  std::string label;           ///< "libtidecalc.a(tide.o)"
  std::filesystem::path file;  ///< the object or the archive
  Bytes bytes;
  Image image;                                     ///< without its symbols
  std::shared_ptr<const MappedFile> mapping = {};  ///< of a thin archive's member
  std::vector<LinkSymbol> symbols = {};            ///< those that other objects see
  std::vector<NameId> groups = {};                 ///< signatures of COMDAT groups
};

class LinkFile {
 public:
  LinkFile(std::filesystem::path path, OpenFile file, NameTable& names);

  const std::filesystem::path& path() const { return path_; }
  const OpenFile& content() const { return file_; }
  const Archive* archive() const { return file_.archive(); }
  const Script* script() const { return file_.script(); }
  bool is_shared() const;
  /// The image of a shared library or program.
  const Image& image() const { return *file_.image(); }
  /// What a shared library shows to its users.
  const ExportIndex& exports();
  /// The names in an archive's symbol table, in its order.
  const std::vector<NameId>& index_names();
  /// What a shared library shows to its users.
  const std::vector<LinkSymbol>& shown_symbols();
  /// What a shared library wants of others. There are few of them, where there can be thousands that it shows.
  const std::vector<LinkSymbol>& wanted_symbols();
  /// Calls for the number of each name that was read of the file, perhaps more than once, with whether the file wants
  /// it of others.
  void each_name(const std::function<void(NameId, bool)>& call) const;
  /// The only object of an object file (member 0), or an archive's member. Errors: truncated, malformed, not_a_library.
  Result<const LinkObject*> object(uint32_t member);

 private:
  Result<LinkObject> read(uint32_t member) const;

  std::filesystem::path path_;
  OpenFile file_;
  NameTable& names_;
  std::vector<std::unique_ptr<LinkObject>> objects_;
  std::unique_ptr<ExportIndex> exports_;
  std::vector<NameId> index_names_;
  std::vector<LinkSymbol> shown_symbols_, wanted_symbols_;
};

/// Every file of a fit, opened once however many lanes ask for it.
class FileStore {
 public:
  /// Of a universal file, and of a text that stands for libraries of several machines, the part for `machine`.
  /// Errors: as `open_binary`; absent (there is no such part).
  Result<LinkFile*> open(const std::filesystem::path& path, const Target& machine = {});
  /// Opens files that will be asked for, side by side; errors are told when they are.
  void open_ahead(const std::vector<std::filesystem::path>& paths, const Target& machine);
  /// Says of a file that builds write to it: it is read anew after it changed, and its bytes are copied.
  void refresh(const std::filesystem::path& path);
  /// Of all names in these files.
  NameTable& names() { return names_; }
  /// By number: false for names that one of the files which `counts` takes defines, and of which no other one speaks.
  std::vector<bool> names_of_several(const std::function<bool(const std::filesystem::path&)>& counts) const;

 private:
  LinkFile* known(const std::filesystem::path& path, const Target& machine) const;
  LinkFile* add(const std::filesystem::path& path, OpenFile file, Arch arch);

  NameTable names_;
  using Parts = std::vector<std::pair<Arch, std::unique_ptr<LinkFile>>>;  ///< one, but for files of several machines
  std::unordered_map<std::string, Parts> files_;                          ///< by path
  std::unordered_map<std::string, Stamp> written_;   ///< files that builds write to, as they were when they were read
  std::vector<std::unique_ptr<LinkFile>> outdated_;  ///< names of theirs are borrowed
};

}  // namespace fibula
