#include "base/text.hpp"
#include "binary/open.hpp"
#include "facts/facts.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

Facts facts_of_script(const Script& script) {
  Facts facts;
  facts.format = {.value = Format::script, .from = "text"};
  facts.kind = {.value = Kind::script, .from = "linker script commands"};
  std::vector<Need> needs;
  for (const auto& input : script.inputs) needs.push_back({.name = input.name});
  facts.needs = {.value = std::move(needs), .from = "GROUP and INPUT"};
  return facts;
}

void append(const Image& image, std::string_view member, std::vector<Symbol>& symbols) {
  for (const auto& symbol : linkable_symbols(image)) {
    if (!is_global(symbol)) continue;
    symbols.push_back({.name = std::string(symbol.name),
                       .defines = symbol.defined,
                       .binding = symbol.binding,
                       .visibility = symbol.visibility,
                       .kind = symbol.kind,
                       .size = symbol.size,
                       .version = std::string(symbol.version),
                       .member = std::string(member)});
  }
}

}  // namespace

bool has_library_name(const std::filesystem::path& path) {
  const std::string name = text::lower(path.filename().string());
  const size_t so = name.find(".so.");
  if (so != std::string::npos && name.find_first_not_of("0123456789.", so + 4) == std::string::npos) return true;
  static constexpr std::string_view endings[] = {".a", ".so", ".lib", ".dll", ".dylib", ".tbd"};
  return std::any_of(std::begin(endings), std::end(endings),
                     [&](std::string_view ending) { return name.ends_with(ending); });
}

Result<Facts> inspect(const std::filesystem::path& path, const InspectOptions& options) {
  auto file = open_binary(path, want_all);
  if (!file) return pass(file);
  Result<Facts> facts = Facts{};
  if (const Image* image = file->image()) facts = facts_of_image(*image);
  if (const Script* script = file->script()) facts = facts_of_script(*script);
  if (const Archive* archive = file->archive()) facts = facts_of_archive(*archive, options.members, path);
  if (!facts) return fail(about_file(std::move(facts.error()), path));
  facts->path = path.string();
  return facts;
}

Result<std::vector<Symbol>> symbols_of(const std::filesystem::path& path) {
  auto file = open_binary(path, want_symbols);
  if (!file) return pass(file);
  std::vector<Symbol> symbols;
  if (const Image* image = file->image()) append(*image, {}, symbols);
  if (const Archive* archive = file->archive()) {
    for (const auto& member : archive->members) {
      std::shared_ptr<const MappedFile> mapping;
      const auto bytes = member_bytes(path, *archive, member, mapping);
      if (!bytes || reader_for(*bytes) == nullptr) continue;
      auto image = read_image(*bytes, want_symbols);
      if (!image) {
        image.error().place = fmt::format("member {}, {}", member.name, image.error().place);
        return fail(about_file(std::move(image.error()), path));
      }
      append(*image, member.name, symbols);
    }
  }
  return symbols;
}

}  // namespace fibula
