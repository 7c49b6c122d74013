#include "loader/run_time_file.hpp"

#include "binary/open.hpp"

namespace fibula {
namespace {

void add_windows_names(const Image& image, RunTimeFile& file) {
  for (const auto& symbol : image.dynamic_symbols) {
    if (!symbol.defined) {
      file.imports[std::string(symbol.library)].emplace_back(symbol.name);
      continue;
    }
    file.exports.emplace(symbol.name);
    file.exports.insert("#" + std::to_string(symbol.index));
    if (symbol.kind == SymbolKind::indirect) file.forwards.emplace(symbol.name, symbol.library);
  }
}

/// The part of a universal file for an architecture, or its first.
Result<Image> slice_for(const Universal& universal, Arch arch) {
  const Slice* chosen = &universal.slices.front();
  for (const auto& slice : universal.slices) {
    if (slice.target.arch == arch) chosen = &slice;
  }
  return read_image(chosen->bytes, want_dynamic);
}

bool is_loaded(const Image& image) {
  return image.type != ImageType::object && image.type != ImageType::import_member;
}

}  // namespace

RunTimeFile run_time_part(const fs::path& path, const Image& image) {
  RunTimeFile file{.path = path,
                   .target = image.target,
                   .type = image.type,
                   .soname = std::string(image.soname.value_or("")),
                   .interpreter = std::string(image.interpreter.value_or("")),
                   .needs = image.needs,
                   .rpath = image.rpath,
                   .runpath = image.runpath,
                   .versions = {image.defined_versions.begin(), image.defined_versions.end()},
                   .only_run_paths = image.only_run_paths};
  if (image.target.format == Format::pe) add_windows_names(image, file);
  return file;
}

Result<RunTimeFile> read_run_time_file(const fs::path& path, Arch arch) {
  auto file = open_binary(path, want_dynamic);
  if (!file) return pass(file);
  if (const Image* image = file->image(); image != nullptr && is_loaded(*image)) {
    if (image->target.format != Format::pe) return run_time_part(path, *image);
    // Windows binds names when it loads, so both sides are read; of other systems a loader's tables are enough.
    auto whole = read_image(file->mapping->bytes(), want_dynamic | want_symbols);
    if (!whole) return fail(about_file(std::move(whole.error()), path));
    return run_time_part(path, *whole);
  }
  const auto* universal = std::get_if<Universal>(&file->content);
  if (universal != nullptr && !universal->slices.empty()) {
    auto image = slice_for(*universal, arch);
    if (!image) return fail(about_file(std::move(image.error()), path));
    if (is_loaded(*image)) return run_time_part(path, *image);
  }
  return fail({.code = Code::refused,
               .what = "needs no run-time files: only programs and shared libraries do",
               .file = path.string(),
               .hint = "name the program or shared library that is made from it"});
}

const Stamp& RunTimeFiles::stamp(const fs::path& path) {
  static const Stamp nothing;
  if (hidden_.contains(path.native())) return nothing;
  const auto [known, fresh] = stamps_.try_emplace(path.native());
  if (fresh) known->second = stamp_of(path);
  return known->second;
}

namespace {

/// What a loader makes of a file that is there.
Looked look_at(const fs::path& path, Arch arch) {
  auto file = read_run_time_file(path, arch);
  if (file) return {Looked::There::file, std::make_shared<const RunTimeFile>(std::move(*file))};
  if (file.error().code != Code::refused) return {Looked::There::unloadable, {}, file.error().what};
  return {Looked::There::unloadable, {}, "is an object, an archive or a text, which loaders do not read"};
}

}  // namespace

const Looked& RunTimeFiles::at(const fs::path& path, Arch arch) {
  static const Looked nothing;
  const Stamp& there = stamp(path);
  if (!there.there()) return nothing;
  std::string key = path.native();
  key += '\0';
  key += static_cast<char>(arch);
  const auto [known, fresh] = known_.try_emplace(std::move(key));
  if (fresh && there.is_folder()) known->second = {Looked::There::unloadable, {}, "is a folder"};
  if (fresh && !there.is_folder()) known->second = look_at(path, arch);
  return known->second;
}

}  // namespace fibula
