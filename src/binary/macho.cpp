#include "binary/macho.hpp"

#include "binary/dwarf.hpp"
#include "binary/macho_file.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <map>

namespace fibula::macho {
namespace {

constexpr uint32_t file_object = 1, file_program = 2, file_core = 4, file_dylib = 6, file_bundle = 8,
                   file_dylib_stub = 9, file_kext = 11;
constexpr uint32_t position_independent = 0x200000;  // MH_PIE

struct Cpu {
  uint32_t type;
  Arch arch;
  int bits;
};

constexpr Cpu cpus[] = {{7, Arch::x86, 32},
                        {0x01000007, Arch::x86_64, 64},
                        {12, Arch::arm, 32},
                        {0x0100000c, Arch::aarch64, 64},
                        {0x0200000c, Arch::aarch64, 32},
                        {18, Arch::ppc, 32},
                        {0x01000012, Arch::ppc64, 64}};

ImageType type_of(const File& file) {
  switch (file.file_type) {
    case file_object: return ImageType::object;
    case file_program: return (file.flags & position_independent) != 0 ? ImageType::pie_program : ImageType::program;
    case file_core: return ImageType::core;
    case file_dylib:
    case file_dylib_stub: return ImageType::shared;
    case file_bundle:
    case file_kext: return ImageType::plugin;
    default: return ImageType::other;
  }
}

/// Levels told apart by cpusubtype (mach/machine.h); the plain ones say nothing.
std::string_view level_of(const File& file) {
  constexpr uint32_t capabilities = 0xff000000;
  const uint32_t subtype = file.cpu_subtype & ~capabilities;
  if (file.cpu_type == 0x01000007 && subtype == 8) return "x86_64h";
  if (file.cpu_type != 12) return {};
  switch (subtype) {
    case 6: return "v6";
    case 9: return "v7";
    case 10: return "v7f";
    case 11: return "v7s";
    case 12: return "v7k";
    case 14: return "v6-M";
    case 15: return "v7-M";
    case 16: return "v7E-M";
    default: return {};
  }
}

/// A text whose offset is counted from the start of its command (lc_str).
Result<std::string_view> text_in(const Command& command, uint32_t offset, std::string_view what) {
  return command.bytes.c_string(offset, what);
}

std::string version(uint32_t packed) {
  const uint32_t major = packed >> 16U, minor = packed >> 8U & 0xff, patch = packed & 0xff;
  return patch == 0 ? fmt::format("{}.{}", major, minor) : fmt::format("{}.{}.{}", major, minor, patch);
}

std::string platform_name(uint32_t number) {
  static constexpr std::string_view names[] = {"",
                                               "macos",
                                               "ios",
                                               "tvos",
                                               "watchos",
                                               "bridgeos",
                                               "mac-catalyst",
                                               "ios-simulator",
                                               "tvos-simulator",
                                               "watchos-simulator",
                                               "driverkit",
                                               "visionos",
                                               "visionos-simulator"};
  return number > 0 && number < std::size(names) ? std::string(names[number]) : fmt::format("platform {}", number);
}

/// Code for PCs of a system that no PC has is for its simulator; the older commands have no word for that.
std::string device(std::string_view system, const Image& image) {
  const bool simulated = image.target.arch == Arch::x86 || image.target.arch == Arch::x86_64;
  return std::string(system) + (simulated ? "-simulator" : "");
}

Result<void> read_build_version(const File& file, const Command& command, Image& image) {
  Cursor c = file.cursor(command);
  const uint32_t platform = c.u32(), least = c.u32();
  c.skip(4);
  const uint32_t tools = c.u32();
  image.system = {platform_name(platform), version(least), "LC_BUILD_VERSION"};
  static constexpr std::string_view names[] = {"", "clang", "swift", "ld", "lld"};
  for (uint32_t i = 0; i < tools && c; ++i) {
    const uint32_t tool = c.u32(), number = c.u32();
    if (tool > 0 && tool < std::size(names) && image.linker.value.empty())
      image.linker = {fmt::format("{} {}", names[tool], version(number)), "LC_BUILD_VERSION"};
  }
  if (!c) return fail(c.error());
  return {};
}

Result<void> read_need(const File& file, const Command& command, Image& image) {
  Cursor c = file.cursor(command);
  auto name = text_in(command, c.u32(), "name of a dynamic library");
  if (!name) return pass(name);
  if (command.kind == lc_id_dylib) {
    image.soname = *name;
    c.skip(4);  // time
    if (const uint32_t current = c.u32(); c && current != 0)
      image.version = {version(current), "LC_ID_DYLIB, current version"};
    return {};
  }
  const NeedKind kind = command.kind == lc_load_weak_dylib   ? NeedKind::weak
                        : command.kind == lc_reexport_dylib  ? NeedKind::re_export
                        : command.kind == lc_lazy_load_dylib ? NeedKind::delayed
                                                             : NeedKind::ordinary;
  image.needs.push_back({.name = std::string(*name), .kind = kind});
  return {};
}

Result<void> read_linker_options(const File& file, const Command& command, Image& image) {
  Cursor c = file.cursor(command);
  const uint32_t count = c.u32();
  for (uint32_t i = 0; i < count && c; ++i) image.directives.push_back(c.c_string());
  if (!c) return fail(c.error());
  return {};
}

Result<void> read_command(const File& file, const Command& command, Image& image) {
  Cursor c = file.cursor(command);
  switch (command.kind) {
    case lc_id_dylib:
    case lc_load_dylib:
    case lc_load_weak_dylib:
    case lc_reexport_dylib:
    case lc_lazy_load_dylib:
    case lc_load_upward_dylib: return read_need(file, command, image);
    case lc_build_version: return read_build_version(file, command, image);
    case lc_linker_option: return read_linker_options(file, command, image);
    case lc_min_macos: image.system = {"macos", version(c.u32()), "LC_VERSION_MIN_MACOSX"}; break;
    case lc_min_ios: image.system = {device("ios", image), version(c.u32()), "LC_VERSION_MIN_IPHONEOS"}; break;
    case lc_min_tvos: image.system = {device("tvos", image), version(c.u32()), "LC_VERSION_MIN_TVOS"}; break;
    case lc_min_watchos: image.system = {device("watchos", image), version(c.u32()), "LC_VERSION_MIN_WATCHOS"}; break;
    case lc_encryption:
    case lc_encryption_64:
      c.skip(8);
      image.encrypted = c.u32() != 0;
      break;
    case lc_uuid:
      for (int i = 0; i < 16; ++i) image.build_id += fmt::format("{:02x}", c.u8());
      break;
    case lc_rpath: {
      auto path = text_in(command, c.u32(), "run-time search path");
      if (!path) return pass(path);
      image.runpath.emplace_back(*path);
      break;
    }
    case lc_load_dylinker: {
      auto path = text_in(command, c.u32(), "loader's name");
      if (!path) return pass(path);
      image.interpreter = *path;
      break;
    }
    default: break;
  }
  if (!c) return fail(c.error());
  return {};
}

Image outline(const File& file) {
  Image image;
  image.machine = file.cpu_type;
  image.flags = file.flags;
  image.type = type_of(file);
  image.target = target_of(file.cpu_type, file.cpu_subtype);
  image.target.endian = file.order == Order::big ? Endian::big : Endian::little;
  image.cpu_floor = {std::string(level_of(file)), "Mach-O header, cpusubtype"};
  return image;
}

Result<void> read_symbols(const File& file, Image& image) {
  const auto keep = [&](const ImageSymbol& symbol) {
    (image.type == ImageType::object ? image.symbols : image.dynamic_symbols).push_back(symbol);
  };
  if (auto read = walk_symbols(file, image.needs, keep, &image.debug_files); !read) return read;
  if (image.type == ImageType::object) return {};
  // The trie is what the loader reads; the table may have been stripped of names that are in it.
  auto made = std::make_shared<std::deque<std::string>>();
  std::vector<ImageSymbol> exported;
  std::map<std::string_view, SymbolKind> kinds;  // the trie does not tell code from data, the table does
  for (const auto& symbol : image.dynamic_symbols) kinds.emplace(symbol.name, symbol.kind);
  auto trie = walk_exports(file, image.needs, [&](const ImageSymbol& symbol) {
    exported.push_back(symbol);
    const auto kind = kinds.find(symbol.name);
    if (symbol.kind == SymbolKind::none && kind != kinds.end()) exported.back().kind = kind->second;
    exported.back().name = made->emplace_back(symbol.name);
  });
  if (!trie) return pass(trie);
  if (!*trie) return {};
  std::erase_if(image.dynamic_symbols, [](const ImageSymbol& s) { return s.defined; });
  image.dynamic_symbols.insert(image.dynamic_symbols.begin(), exported.begin(), exported.end());
  image.made_names = std::move(made);
  return {};
}

dwarf::Sections sections_for_debuggers(const File& file) {
  const auto part = [&](std::string_view name) {
    const auto found = std::find_if(file.sections.begin(), file.sections.end(),
                                    [&](const Section& s) { return s.segment == "__DWARF" && s.name == name; });
    return found == file.sections.end() ? Bytes() : file.content(*found).value_or(Bytes());
  };
  return {.info = part("__debug_info"),
          .abbreviations = part("__debug_abbrev"),
          .strings = part("__debug_str"),
          .line_strings = part("__debug_line_str"),
          .string_offsets = part("__debug_str_offs"),
          .order = file.order};
}

void read_debug(const File& file, Image& image) {
  const auto sections = sections_for_debuggers(file);
  image.debug_info = !sections.info.empty() || !image.debug_files.empty();
  if (!sections.info.empty()) image.debug = dwarf::first_unit(sections);
}

}  // namespace

Result<dwarf::Sections> debug_sections(Bytes bytes) {
  auto file = read_file(bytes);
  if (!file) return pass(file);
  return sections_for_debuggers(*file);
}

Target target_of(uint32_t type, uint32_t subtype) {
  constexpr uint32_t arm64 = 0x0100000c, authenticated = 2, capabilities = 0xff000000;
  const auto* row = std::find_if(std::begin(cpus), std::end(cpus), [&](const Cpu& c) { return c.type == type; });
  Target target{.format = Format::macho};
  if (row != std::end(cpus)) {
    target.arch = row->arch;
    target.bits = row->bits;
  }
  if (type == arm64 && (subtype & ~capabilities) == authenticated) target.arch = Arch::arm64e;
  return target;
}

bool recognises(Bytes bytes) {
  return bytes.starts_with("\xfe\xed\xfa\xce") || bytes.starts_with("\xfe\xed\xfa\xcf") ||
         bytes.starts_with("\xce\xfa\xed\xfe") || bytes.starts_with("\xcf\xfa\xed\xfe");
}

Result<Image> read(Bytes bytes, unsigned want) {
  auto file = read_file(bytes);
  if (!file) return pass(file);
  Image image = outline(*file);
  if ((want & want_sections) != 0) {
    for (const auto& section : file->sections)
      image.sections.push_back({section.name, section.size, section.segment != "__DWARF"});
  }
  if ((want & (want_dynamic | want_notes | want_symbols)) != 0) {
    for (const auto& command : file->commands) {
      if (auto done = read_command(*file, command, image); !done) return pass(done);
    }
  }
  if ((want & want_symbols) != 0) {
    if (auto done = read_symbols(*file, image); !done) return pass(done);
  }
  if ((want & want_debug) != 0) read_debug(*file, image);
  return image;
}

Result<void> walk(Bytes bytes, const SymbolSink& sink) {
  auto image = read(bytes, want_symbols);
  if (!image) return pass(image);
  for (const auto& symbol : image->type == ImageType::object ? image->symbols : image->dynamic_symbols) sink(symbol);
  return {};
}

}  // namespace fibula::macho
