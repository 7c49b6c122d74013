#include "index/defined_names.hpp"

#include "index/export_index.hpp"
#include "index/library_search.hpp"
#include "os/files.hpp"

namespace fibula {
namespace {

void each_export(const Image& image, const std::function<void(std::string_view)>& visit) {
  if (image.type == ImageType::object) return;
  for (const auto& symbol : image.dynamic_symbols) {
    if (is_exported(symbol)) visit(symbol.name);
  }
}

}  // namespace

std::vector<fs::path> script_files(const Script& script, const fs::path& folder) {
  std::vector<fs::path> files;
  for (const auto& input : script.inputs) {
    std::error_code ignored;
    const bool by_name = input.name.starts_with("-l");
    const auto found = by_name ? find_library({folder}, input.name.substr(2), false) : folder / input.name;
    if (found && fs::exists(*found, ignored)) files.push_back(*found);
  }
  return files;
}

void each_defined_name(const OpenFile& file, const std::function<void(std::string_view)>& visit) {
  if (const Archive* archive = file.archive()) {
    for (const auto& entry : archive->index) visit(entry.symbol);
  } else if (const Image* image = file.image()) {
    each_export(*image, visit);
  } else if (const auto* stub = std::get_if<Stub>(&file.content)) {
    for (const auto& target : stub->targets) each_export(target, visit);
  } else if (const Script* script = file.script()) {
    const fs::path& path = file.mapping->path();
    for (const auto& named : script_files(*script, path.parent_path())) {
      // A script that names itself, or another script, gives no more than the files that it names.
      auto opened = open_binary(named, want_symbols | want_dynamic);
      if (opened && opened->script() == nullptr) each_defined_name(*opened, visit);
    }
  }
}

}  // namespace fibula
