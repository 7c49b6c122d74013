#include "link/object_interface.hpp"

#include "link/link_file.hpp"

#include <algorithm>
#include <iterator>

namespace fibula {
namespace {

/// A linker bounds a section by names made of its own (ld manual, "Input Section Example"); a dot is in none of them.
/// Those that begin with one say how objects are linked where they are notes, warnings or lists of libraries.
bool matters_to_links(std::string_view section) {
  return !section.starts_with('.') || section.starts_with(".note") || section.starts_with(".gnu.") ||
         section == ".deplibs";
}

std::vector<std::string> sections_of(Bytes bytes) {
  std::vector<std::string> names;
  const auto image = read_image(bytes, want_sections);
  for (const auto& section : image ? image->sections : std::vector<ImageSection>()) {
    if (matters_to_links(section.name)) names.emplace_back(section.name);
  }
  std::sort(names.begin(), names.end());
  names.erase(std::unique(names.begin(), names.end()), names.end());
  return names;
}

}  // namespace

Result<ObjectInterface> interface_of(const std::filesystem::path& object) {
  FileStore files;
  auto file = files.open(object);
  if (!file) return pass(file);
  const Image* image = (*file)->content().image();
  if (image == nullptr || image->type != ImageType::object || image->target.format != Format::elf)
    return fail({.code = Code::not_a_library, .what = "is no ELF object", .file = object.string()});
  auto found = (*file)->object(0);
  if (!found) return pass(found);
  const LinkObject& read = **found;
  const auto text = [&](NameId name) { return std::string(files.names().text(name)); };
  ObjectInterface shown{.target = image->target, .symbols = {}, .groups = {}, .sections = sections_of(read.bytes)};
  for (const NameId group : read.groups) shown.groups.push_back(text(group));
  for (const auto& symbol : read.symbols) {
    shown.symbols.push_back(
        {.name = text(symbol.name),
         .group = symbol.group < 0 ? std::string() : shown.groups[static_cast<size_t>(symbol.group)],
         .defined = symbol.defined,
         .weak = symbol.weak,
         .hidden = symbol.hidden,
         .common = symbol.common,
         .in_thread = symbol.in_thread});
  }
  return shown;
}

bool links_alike(const ObjectInterface& before, const ObjectInterface& after,
                 const std::function<bool(std::string_view)>& is_spoken_of) {
  if (before.target != after.target || before.sections != after.sections) return false;
  const auto counting = [&](const ObjectInterface& all) {
    std::vector<ShownSymbol> symbols;
    std::copy_if(all.symbols.begin(), all.symbols.end(), std::back_inserter(symbols),
                 [&](const ShownSymbol& symbol) { return !symbol.defined || is_spoken_of(symbol.name); });
    std::vector<std::string> groups;
    std::copy_if(all.groups.begin(), all.groups.end(), std::back_inserter(groups), is_spoken_of);
    return std::pair(std::move(symbols), std::move(groups));
  };
  return counting(before) == counting(after);
}

}  // namespace fibula
