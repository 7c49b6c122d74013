#include "binary/open.hpp"

#include "binary/elf.hpp"
#include "binary/foreign.hpp"

namespace fibula {
namespace {

constexpr FormatReader readers[] = {
    {"ELF", elf::recognises, elf::read},
};

template <class T>
Result<OpenFile> held(std::shared_ptr<const MappedFile> mapping, Result<T> content) {
  if (!content) return fail(about_file(std::move(content.error()), mapping->path()));
  return OpenFile{std::move(mapping), std::move(*content)};
}

}  // namespace

Error about_file(Error error, const std::filesystem::path& path) {
  error.file = path.string();
  if (!error.hint.empty()) return error;
  if (error.code == Code::truncated)
    error.hint = "the file was cut off while it was copied or downloaded: fetch it again";
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

Result<OpenFile> open_binary(const std::filesystem::path& path, unsigned want) {
  auto mapping = MappedFile::open(path);
  if (!mapping) return pass(mapping);
  const Bytes bytes = (*mapping)->bytes();
  if (is_archive(bytes)) return held(*mapping, read_archive(bytes));
  if (is_script(bytes)) return held(*mapping, read_script(bytes));
  return held(*mapping, read_image(bytes, want));
}

}  // namespace fibula
