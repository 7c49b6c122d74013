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
  if (!exports_) exports_ = std::make_unique<ExportIndex>(image());
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
  auto image = read_image(*bytes, want_symbols | want_groups | want_directives);
  if (!image) {
    auto& place = image.error().place;
    place = fmt::format("member {}{}{}", entry.name, place.empty() ? "" : ", ", place);
    return fail(about_file(std::move(image.error()), path_));
  }
  slot = std::make_unique<LinkObject>(LinkObject{fmt::format("{}({})", path_.filename().string(), entry.name), path_,
                                                 *bytes, std::move(*image), std::move(mapping)});
  return slot.get();
}

namespace {

constexpr unsigned wanted = want_symbols | want_dynamic | want_groups | want_directives;

Error no_part(const std::filesystem::path& path, const Target& machine) {
  return {.code = Code::absent,
          .what = fmt::format("has no part for {}", to_string(machine.arch)),
          .file = path.string(),
          .hint = "take a build that has one"};
}

/// The part of a file for several machines that is for one of them.
Result<Content> part_for(const Content& content, const std::filesystem::path& path, const Target& machine) {
  if (const auto* stub = std::get_if<Stub>(&content)) {
    for (const auto& image : stub->targets) {
      if (image.target.arch == machine.arch) return image;
    }
    return fail(no_part(path, machine));
  }
  for (const auto& slice : std::get<Universal>(content).slices) {
    if (slice.target.arch != machine.arch) continue;
    auto part = read_content(slice.bytes, wanted);
    if (!part) return fail(about_file(std::move(part.error()), path));
    return part;
  }
  return fail(no_part(path, machine));
}

bool is_for_several(const Content& content) {
  return std::holds_alternative<Stub>(content) || std::holds_alternative<Universal>(content);
}

}  // namespace

Result<LinkFile*> FileStore::open(const std::filesystem::path& path, const Target& machine) {
  for (const Arch arch : {Arch::unknown, machine.arch}) {
    const auto known = files_.find({path, arch});
    if (known != files_.end()) return known->second.get();
  }
  auto file = open_binary(path, wanted);
  if (!file) return pass(file);
  Arch arch = Arch::unknown;
  if (is_for_several(file->content) && machine.arch != Arch::unknown) {
    auto part = part_for(file->content, path, machine);
    if (!part) return pass(part);
    file->content = std::move(*part);
    arch = machine.arch;
  }
  return (files_[{path, arch}] = std::make_unique<LinkFile>(path, std::move(*file))).get();
}

}  // namespace fibula
