#include "binary/coff.hpp"

#include "binary/coff_import.hpp"
#include "binary/coff_symbols.hpp"
#include "binary/dwarf.hpp"
#include "binary/gcc_lto.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula::coff {
namespace {

/// Options for the linker.
Result<void> read_directives(const File& file, Image& image) {
  Budget budget(file.bytes);
  for (const auto& section : file.sections) {
    if (section.name != ".drectve") continue;
    if (!budget.spend(section.size)) return fail(Budget::exceeded(file.bytes, "section table"));
    auto text = file.content(section);
    if (!text) return pass(text);
    for (const auto option : split_directives(text->text())) image.directives.push_back(option);
  }
  return {};
}

/// What the sections of an object tell besides code: what compilers left of themselves.
Result<void> read_notes(const File& file, Image& image) {
  Budget budget(file.bytes);
  for (const auto& section : file.sections) {
    const bool of_lto = section.name.starts_with(gcc_lto::header);
    const bool names_compiler = section.name.starts_with(".rdata$zzz") || section.name == ".comment";
    if (!of_lto && !names_compiler) continue;
    if (!budget.spend(section.size)) return fail(Budget::exceeded(file.bytes, "section table"));
    if (of_lto) {
      auto bytes = file.content(section);
      if (!bytes) return pass(bytes);
      auto header = gcc_lto::read_header(*bytes, Order::little);
      if (!header) return pass(header);
      image.link_time = *header;
    }
    if (names_compiler) {
      auto text = file.content(section);
      if (!text) return pass(text);
      if (const auto line = text->terminated(0); line && !line->empty()) image.producers.push_back(*line);
    }
  }
  return {};
}

/// An import library's first member (MSVC-style) or last one (GNU) holds the name of its DLL.
void find_library_name(const File& file, Image& image) {
  const auto defines = [&](auto&& matches) {
    return std::any_of(image.symbols.begin(), image.symbols.end(),
                       [&](const ImageSymbol& s) { return s.defined && matches(s.name); });
  };
  std::string_view where;
  if (defines([](auto name) {
        return name.starts_with("__IMPORT_DESCRIPTOR_") || name.starts_with("___IMPORT_DESCRIPTOR_");
      }))
    where = ".idata$6";
  if (defines([](auto name) { return name.ends_with("_iname"); })) where = ".idata$7";
  const Section* section = where.empty() ? nullptr : file.named(where);
  if (section == nullptr) return;
  const auto bytes = file.content(*section);
  const auto name = bytes ? bytes->terminated(0) : std::nullopt;
  if (name && !name->empty()) image.soname = *name;
}

bool has_link_time_sections(const File& file) {
  return std::any_of(file.sections.begin(), file.sections.end(),
                     [](const Section& s) { return s.name.starts_with(gcc_lto::prefix); });
}

Result<void> read_link_time_symbols(const File& file, Image& image) {
  if (!has_link_time_sections(file)) return {};
  const auto is_mark = [](const ImageSymbol& s) { return s.name == gcc_lto::slim_mark || s.name == "___gnu_lto_slim"; };
  if (std::none_of(image.symbols.begin(), image.symbols.end(), is_mark)) return {};
  image.target.format = Format::gcc_lto;
  image.symbols.clear();
  for (const auto& section : file.sections) {
    if (!section.name.starts_with(gcc_lto::symbol_table)) continue;
    auto bytes = file.content(section);
    if (!bytes) return pass(bytes);
    return gcc_lto::read_symbols(*bytes, Order::little, image);
  }
  return {};
}

Image outline(const File& file) {
  Image image;
  image.type = ImageType::object;
  image.machine = file.machine;
  image.flags = file.characteristics;
  image.target = {.format = Format::coff, .arch = arch_of(file.machine), .bits = bits_of(arch_of(file.machine))};
  const bool imports = std::any_of(file.sections.begin(), file.sections.end(),
                                   [](const Section& s) { return s.name.starts_with(".idata$"); });
  if (imports) image.type = ImageType::import_member;
  if (file.whole_program) image.link_time = LinkTimeMark{.maker = LinkTimeMark::Maker::msvc};
  return image;
}

void list_sections(const File& file, Image& image) {
  for (const auto& section : file.sections) {
    const bool kept = (section.flags & (in_memory_discardable | removed)) == 0;
    image.sections.push_back({section.name, section.size, kept});
  }
}

}  // namespace

std::vector<std::string_view> split_directives(std::string_view text) {
  constexpr std::string_view blanks(" \t\r\n\0", 5);
  if (text.starts_with("\xef\xbb\xbf")) text.remove_prefix(3);  // marked as UTF-8
  std::vector<std::string_view> options;
  while (true) {
    const size_t start = text.find_first_not_of(blanks);
    if (start == std::string_view::npos) return options;
    text.remove_prefix(start);
    bool quoted = false;
    size_t end = 0;
    for (; end < text.size() && (quoted || blanks.find(text[end]) == std::string_view::npos); ++end) {
      if (text[end] == '"') quoted = !quoted;
    }
    options.push_back(text.substr(0, end));
    text.remove_prefix(end);
  }
}

dwarf::Sections debug_sections(const File& file) {
  const auto part = [&](std::string_view name) {
    const Section* section = file.named(name);
    return section == nullptr ? Bytes() : file.content(*section).value_or(Bytes());
  };
  return {.info = part(".debug_info"),
          .abbreviations = part(".debug_abbrev"),
          .strings = part(".debug_str"),
          .line_strings = part(".debug_line_str"),
          .string_offsets = part(".debug_str_offsets")};
}

void read_debug(const File& file, Image& image) {
  const auto sections = debug_sections(file);
  image.debug_info = !sections.info.empty() || file.named(".debug$S") != nullptr || image.debug_info;
  if (!sections.info.empty()) image.debug = dwarf::first_unit(sections);
}

bool recognises(Bytes bytes) {
  return is_import_member(bytes) || is_object(bytes);
}

Result<Image> read(Bytes bytes, unsigned want) {
  if (is_import_member(bytes)) return read_import_member(bytes);
  auto file = read_file(bytes);
  if (!file) return pass(file);
  Image image = outline(*file);
  if ((want & want_sections) != 0) list_sections(*file, image);
  if ((want & (want_symbols | want_notes)) != 0) {
    if (auto done = read_symbols(*file, image); !done) return pass(done);
    if (auto done = read_link_time_symbols(*file, image); !done) return pass(done);
    find_library_name(*file, image);
  }
  if ((want & (want_notes | want_directives)) != 0) {
    if (auto done = read_directives(*file, image); !done) return pass(done);
  }
  if ((want & want_notes) != 0) {
    if (auto done = read_notes(*file, image); !done) return pass(done);
    image.compiler_id = compiler_id(*file);
  }
  if ((want & want_debug) != 0) read_debug(*file, image);
  return image;
}

Result<void> walk(Bytes bytes, const SymbolSink& sink) {
  if (!is_import_member(bytes)) {
    auto file = read_file(bytes);
    if (!file) return pass(file);
    if (!has_link_time_sections(*file)) return walk_symbols(*file, sink);
  }
  auto image = read(bytes, want_symbols);
  if (!image) return pass(image);
  for (const auto& symbol : image->symbols) sink(symbol);
  return {};
}

}  // namespace fibula::coff
