#include "parcel/pack.hpp"

#include "os/folder.hpp"
#include "os/host.hpp"
#include "os/mapped_file.hpp"
#include "os/new_file.hpp"
#include "os/process.hpp"
#include "take/archive_api.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <memory>

namespace fibula {
namespace {

/// Where the archive's bytes go.
struct Sink {
  std::unique_ptr<NewFile> file;
  int64_t at = 0;
  std::error_code error = {};
};

la_ssize_t take_bytes(archive*, void* data, const void* bytes, size_t count) {
  auto& sink = *static_cast<Sink*>(data);
  sink.error = sink.file->write(bytes, count, sink.at);
  if (sink.error) return -1;
  sink.at += static_cast<int64_t>(count);
  return static_cast<la_ssize_t>(count);
}

class ArchiveWriter {
 public:
  ArchiveWriter(const ArchiveApi& api, Sink& sink)
      : api_(api),
        archive_(api.archive_write_new(), api.archive_write_free),
        entry_(api.archive_entry_new(), api.archive_entry_free) {
    api_.archive_write_set_format_pax_restricted(archive_.get());
    api_.archive_write_add_filter_zstd(archive_.get());
    // Else zeros fill the file up behind the compressed stream.
    api_.archive_write_set_bytes_in_last_block(archive_.get(), 1);
    open_ = api_.archive_write_open(archive_.get(), &sink, nullptr, take_bytes, nullptr) == ARCHIVE_OK;
  }

  Result<void> add(const PackedEntry& entry) {
    std::error_code error;
    if (entry.file.empty()) return add_bytes(entry.path, entry.text, false);
    if (fs::is_symlink(entry.file, error)) {
      const fs::path target = fs::read_symlink(entry.file, error);
      // A link beside its file, as libraries have them for their names, stays one.
      if (!target.has_parent_path()) return add_link(entry.path, target.string());
    }
    auto mapped = MappedFile::open(entry.file);
    if (!mapped) return pass(mapped);
    return add_bytes(entry.path, (*mapped)->bytes().text(), is_executable(entry.file));
  }

  Result<void> close() {
    return open_ && api_.archive_write_close(archive_.get()) == ARCHIVE_OK ? Result<void>() : wrong();
  }

 private:
  void begin(const std::string& path, unsigned type, int mode) {
    api_.archive_entry_clear(entry_.get());
    api_.archive_entry_set_pathname(entry_.get(), path.c_str());
    api_.archive_entry_set_filetype(entry_.get(), type);
    api_.archive_entry_set_perm(entry_.get(), static_cast<mode_t>(mode));
    api_.archive_entry_set_mtime(entry_.get(), 0, 0);
  }

  Result<void> add_link(const std::string& path, const std::string& target) {
    begin(path, AE_IFLNK, 0777);
    api_.archive_entry_set_symlink(entry_.get(), target.c_str());
    api_.archive_entry_set_size(entry_.get(), 0);
    return api_.archive_write_header(archive_.get(), entry_.get()) == ARCHIVE_OK ? Result<void>() : wrong();
  }

  Result<void> add_bytes(const std::string& path, std::string_view bytes, bool executable) {
    begin(path, AE_IFREG, executable ? 0755 : 0644);
    api_.archive_entry_set_size(entry_.get(), static_cast<la_int64_t>(bytes.size()));
    if (!open_ || api_.archive_write_header(archive_.get(), entry_.get()) != ARCHIVE_OK) return wrong();
    while (!bytes.empty()) {
      const la_ssize_t written = api_.archive_write_data(archive_.get(), bytes.data(), bytes.size());
      if (written <= 0) return wrong();
      bytes.remove_prefix(static_cast<size_t>(written));
    }
    return {};
  }

  Result<void> wrong() const {
    const char* said = api_.archive_error_string(archive_.get());
    return fail({.code = Code::io, .what = fmt::format("cannot be packed: {}", said == nullptr ? "no reason" : said)});
  }

  const ArchiveApi& api_;
  std::unique_ptr<archive, int (*)(archive*)> archive_;
  std::unique_ptr<archive_entry, void (*)(archive_entry*)> entry_;
  bool open_ = false;
};

Result<void> pack_into(const std::vector<PackedEntry>& entries, const fs::path& part) {
  const auto& api = ArchiveApi::get();
  if (!api) return fail(api.error());
  Sink sink;
  if (const auto error = NewFile::make(part, false, sink.file); error)
    return fail(io_error(part, "cannot be written", error));
  ArchiveWriter packer(*api, sink);
  Result<void> done;
  for (const auto& entry : entries) {
    if (done) done = packer.add(entry);
  }
  if (done) done = packer.close();
  if (sink.error) return fail(io_error(part, "cannot be written", sink.error));
  if (!done) return done;
  if (const auto error = sink.file->close(); error) return fail(io_error(part, "cannot be written", error));
  return {};
}

}  // namespace

Result<void> pack(const std::vector<PackedEntry>& entries, const fs::path& into,
                  const std::function<Result<void>()>& good) {
  const auto folder = Folder::open(into.parent_path());
  if (!folder) return fail(folder.error());
  const std::string name = into.filename().string(), part = fmt::format(".{}.{}", name, process_number());
  (void)folder->remove(part);
  auto done = pack_into(entries, folder->path() / part);
  if (done) done = good();
  if (done) done = folder->rename(part, name);
  if (!done) (void)folder->remove(part);
  return done;
}

}  // namespace fibula
