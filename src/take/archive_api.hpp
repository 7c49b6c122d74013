/// libarchive's functions, loaded with the first archive.
#pragma once

#include <fibula/result.hpp>

#include <archive.h>
#include <archive_entry.h>

namespace fibula {

#define FIBULA_ARCHIVE_FUNCTIONS(F)                                                                                  \
  F(archive_read_new)                                                                                                \
  F(archive_read_free)                                                                                               \
  F(archive_read_open_filename)                                                                                      \
  F(archive_read_open)                                                                                               \
  F(archive_read_support_format_tar)                                                                                 \
  F(archive_read_support_format_zip)                                                                                 \
  F(archive_read_support_format_7zip)                                                                                \
  F(archive_read_support_format_cpio)                                                                                \
  F(archive_read_support_format_ar)                                                                                  \
  F(archive_read_support_filter_gzip)                                                                                \
  F(archive_read_support_filter_bzip2)                                                                               \
  F(archive_read_support_filter_xz)                                                                                  \
  F(archive_read_support_filter_lzma)                                                                                \
  F(archive_read_support_filter_zstd)                                                                                \
  F(archive_read_support_filter_lz4)                                                                                 \
  F(archive_read_support_filter_rpm)                                                                                 \
  F(archive_read_next_header)                                                                                        \
  F(archive_read_data) F(archive_read_data_block) F(archive_error_string) F(archive_filter_bytes)                    \
      F(archive_read_has_encrypted_entries) F(archive_entry_pathname) F(archive_entry_pathname_utf8)                 \
          F(archive_entry_filetype) F(archive_entry_perm) F(archive_entry_symlink) F(archive_entry_symlink_utf8)     \
              F(archive_entry_hardlink) F(archive_entry_hardlink_utf8) F(archive_entry_size)                         \
                  F(archive_entry_size_is_set) F(archive_entry_is_encrypted) F(archive_read_header_position)         \
                      F(archive_format) F(archive_write_new) F(archive_write_free)                                   \
                          F(archive_write_set_format_pax_restricted) F(archive_write_add_filter_zstd)                \
                              F(archive_write_open) F(archive_write_set_bytes_in_last_block) F(archive_write_header) \
                                  F(archive_write_data) F(archive_write_close) F(archive_entry_new)                  \
                                      F(archive_entry_free) F(archive_entry_clear) F(archive_entry_set_pathname)     \
                                          F(archive_entry_set_size) F(archive_entry_set_filetype)                    \
                                              F(archive_entry_set_perm) F(archive_entry_set_mtime)                   \
                                                  F(archive_entry_set_symlink)

struct ArchiveApi {
#define FIBULA_DECLARE(name) decltype(&::name) name = nullptr;
  FIBULA_ARCHIVE_FUNCTIONS(FIBULA_DECLARE)
#undef FIBULA_DECLARE

  /// Loaded once a process. Errors: missing_tool.
  static const Result<ArchiveApi>& get();
};

}  // namespace fibula
