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
  if (!content) {
    content.error().file = mapping->path().string();
    return pass(content);
  }
  return OpenFile{std::move(mapping), std::move(*content)};
}

}  // namespace

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

Result<OpenFile> open_binary(const std::filesystem::path& path, unsigned want) {
  auto mapping = MappedFile::open(path);
  if (!mapping) return pass(mapping);
  const Bytes bytes = (*mapping)->bytes();
  if (is_archive(bytes)) return held(*mapping, read_archive(bytes));
  if (is_script(bytes)) return held(*mapping, read_script(bytes));
  return held(*mapping, read_image(bytes, want));
}

}  // namespace fibula
