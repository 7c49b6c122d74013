#include "fit/link_file.hpp"

#include <fmt/format.h>

namespace fibula {

LinkFile::LinkFile(std::filesystem::path path, OpenFile file) : path_(std::move(path)), file_(std::move(file)) {
  objects_.resize(file_.archive() != nullptr ? file_.archive()->members.size() : 1);
}

bool LinkFile::is_shared() const {
  return file_.image() != nullptr && file_.image()->type != ImageType::object;
}

const ExportIndex& LinkFile::exports() {
  if (!exports_) exports_ = std::make_unique<ExportIndex>(image().dynamic_symbols);
  return *exports_;
}

Result<const LinkObject*> LinkFile::object(uint32_t member) {
  auto& slot = objects_[member];
  if (slot) return slot.get();
  if (const Image* image = file_.image()) {
    slot = std::make_unique<LinkObject>(LinkObject{path_.filename().string(), path_, file_.mapping->bytes(), *image});
    return slot.get();
  }
  const ArMember& entry = file_.archive()->members[member];
  std::shared_ptr<const MappedFile> mapping;
  auto bytes = member_bytes(path_, *file_.archive(), entry, mapping);
  if (!bytes) return pass(bytes);
  auto image = read_image(*bytes, want_symbols | want_groups);
  if (!image) {
    image.error().place = fmt::format("member {}, {}", entry.name, image.error().place);
    return fail(about_file(std::move(image.error()), path_));
  }
  slot = std::make_unique<LinkObject>(LinkObject{fmt::format("{}({})", path_.filename().string(), entry.name), path_,
                                                 *bytes, std::move(*image), std::move(mapping)});
  return slot.get();
}

Result<LinkFile*> FileStore::open(const std::filesystem::path& path) {
  auto& slot = files_[path];
  if (slot) return slot.get();
  auto file = open_binary(path, want_symbols | want_dynamic | want_groups);
  if (!file) return pass(file);
  slot = std::make_unique<LinkFile>(path, std::move(*file));
  return slot.get();
}

}  // namespace fibula
