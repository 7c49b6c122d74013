/// Opens any file and recognises what it is. This holds the table of formats: a new one is a reader and a row.
#pragma once

#include "binary/ar.hpp"
#include "binary/image.hpp"
#include "binary/script.hpp"
#include "binary/stub.hpp"
#include "binary/universal.hpp"
#include "os/mapped_file.hpp"

#include <filesystem>
#include <memory>
#include <variant>

namespace fibula {

/// A reader of one format of single images.
struct FormatReader {
  std::string_view name;
  bool (*recognises)(Bytes);
  Result<Image> (*read)(Bytes, unsigned want);
  /// Only the symbols that linkers and loaders read, none of it kept.
  Result<void> (*walk)(Bytes, const SymbolSink&);
};

/// The reader for these bytes, or nothing.
const FormatReader* reader_for(Bytes bytes);

/// Reads a single image. Errors: truncated, malformed, not_a_library.
Result<Image> read_image(Bytes bytes, unsigned want);

/// The error with the file's name, and with what to do about a damaged file where nothing better is known.
Error about_file(Error error, const std::filesystem::path& path);

/// The bytes of an archive's member. A thin archive's member is a file of its own beside it, kept mapped by `keep`.
/// Errors of a thin member: absent (it is gone), unreadable.
Result<Bytes> member_bytes(const std::filesystem::path& archive, const Archive& content, const ArMember& member,
                           std::shared_ptr<const MappedFile>& keep);

/// A text stub: one image for each target that it names.
struct Stub {
  std::vector<Image> targets;
};

/// Several architectures in one file; each slice is read on its own.
struct Universal {
  std::vector<Slice> slices;
};

using FileContent = std::variant<Image, Archive, Script, Stub, Universal>;

/// What these bytes are. Errors: truncated, malformed, not_a_library, limit.
Result<FileContent> read_content(Bytes bytes, unsigned want);

/// A recognised file, with the mapping that its names point into.
struct OpenFile {
  std::shared_ptr<const MappedFile> mapping;
  FileContent content;

  const Image* image() const { return std::get_if<Image>(&content); }
  const Archive* archive() const { return std::get_if<Archive>(&content); }
  const Script* script() const { return std::get_if<Script>(&content); }
};

/// Errors: absent, unreadable, truncated, malformed, not_a_library; each names the file.
Result<OpenFile> open_binary(const std::filesystem::path& path, unsigned want, Access access = Access::map);

}  // namespace fibula
