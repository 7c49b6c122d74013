#include "binary/open.hpp"

#include "binary/bitcode.hpp"
#include "binary/coff.hpp"
#include "binary/elf.hpp"
#include "binary/foreign.hpp"
#include "binary/macho.hpp"
#include "binary/pe.hpp"

namespace fibula {
namespace {

// COFF objects have no magic number, so they come last.
constexpr FormatReader readers[] = {
    {"ELF", elf::recognises, elf::read, elf::walk},
    {"PE", pe::recognises, pe::read, pe::walk},
    {"Mach-O", macho::recognises, macho::read, macho::walk},
    {"bitcode", bitcode::recognises, bitcode::read, bitcode::walk},
    {"COFF", coff::recognises, coff::read, coff::walk},
};

template <class T>
Result<FileContent> as_content(Result<T> read) {
  if (!read) return pass(read);
  return FileContent(std::move(*read));
}

}  // namespace

Error about_file(Error error, const std::filesystem::path& path) {
  error.file = path.string();
  if (!error.hint.empty()) return error;
  if (error.code == Code::truncated)
    error.hint = "it is damaged, or was cut off while it was copied or downloaded: fetch it again";
  if (error.code == Code::malformed) error.hint = "the file is damaged: fetch or build it again";
  return error;
}

const FormatReader* reader_for(Bytes bytes) {
  for (const auto& reader : readers) {
    if (reader.recognises(bytes)) return &reader;
  }
  return nullptr;
}

Result<Image> read_image(Bytes bytes, unsigned want) {
  const FormatReader* reader = reader_for(bytes);
  if (reader == nullptr) return fail(name_foreign(bytes));
  return reader->read(bytes, want);
}

Result<FileContent> read_content(Bytes bytes, unsigned want) {
  if (elf::recognises(bytes)) return as_content(elf::read(bytes, want));  // most files, and none of the kinds below
  if (is_package(bytes)) return fail(name_foreign(bytes));
  if (is_archive(bytes)) return as_content(read_archive(bytes));
  if (is_universal(bytes)) {
    auto slices = read_universal(bytes);
    if (!slices) return pass(slices);
    return FileContent(Universal{std::move(*slices)});
  }
  if (is_stub(bytes)) {
    auto targets = read_stub(bytes);
    if (!targets) return pass(targets);
    return FileContent(Stub{std::move(*targets)});
  }
  if (is_script(bytes)) return as_content(read_script(bytes));
  return as_content(read_image(bytes, want));
}

Result<Bytes> member_bytes(const std::filesystem::path& archive, const Archive& content, const ArMember& member,
                           std::shared_ptr<const MappedFile>& keep) {
  if (!content.thin) return member.data;
  auto file = MappedFile::open(archive.parent_path() / member.name);
  if (!file) {
    file.error().what =
        "is a member of the thin archive " + archive.string() + ", and cannot be read: " + file.error().what;
    file.error().hint = "a thin archive only names its members: copy them along with it, or make an ordinary archive";
    return pass(file);
  }
  keep = *file;
  return keep->bytes();
}

Result<OpenFile> open_binary(const std::filesystem::path& path, unsigned want, Access access) {
  auto mapping = MappedFile::open(path, access);
  if (!mapping) return pass(mapping);
  const Bytes bytes = (*mapping)->bytes();
  auto content = read_content(bytes, want);
  if (!content) return fail(about_file(std::move(content.error()), path));
  OpenFile file;
  file.mapping = std::move(*mapping);
  file.content = std::move(*content);
  return file;
}

}  // namespace fibula
