/// From an ELF file to an Image.
#include "binary/elf.hpp"

namespace fibula::elf {
namespace {

constexpr uint16_t et_exec = 2, et_dyn = 3, et_core = 4;

struct Machine {
  uint16_t number;
  Arch narrow_little, narrow_big, wide_little, wide_big;
};

/// e_machine to architecture, by word size and byte order (gABI chapter 4, "e_machine").
constexpr Machine machines[] = {
    {2, Arch::unknown, Arch::sparc, Arch::unknown, Arch::unknown},
    {3, Arch::x86, Arch::unknown, Arch::unknown, Arch::unknown},
    {4, Arch::unknown, Arch::m68k, Arch::unknown, Arch::unknown},
    {8, Arch::mipsel, Arch::mips, Arch::mips64el, Arch::mips64},
    {15, Arch::unknown, Arch::hppa, Arch::unknown, Arch::hppa},
    {18, Arch::unknown, Arch::sparc, Arch::unknown, Arch::unknown},
    {20, Arch::ppc, Arch::ppc, Arch::unknown, Arch::unknown},
    {21, Arch::unknown, Arch::unknown, Arch::ppc64le, Arch::ppc64},
    {22, Arch::unknown, Arch::s390, Arch::unknown, Arch::s390x},
    {40, Arch::arm, Arch::arm, Arch::unknown, Arch::unknown},
    {42, Arch::sh, Arch::sh, Arch::unknown, Arch::unknown},
    {43, Arch::unknown, Arch::unknown, Arch::unknown, Arch::sparc64},
    {50, Arch::unknown, Arch::unknown, Arch::ia64, Arch::ia64},
    {62, Arch::x32, Arch::unknown, Arch::x86_64, Arch::unknown},
    {83, Arch::avr, Arch::unknown, Arch::unknown, Arch::unknown},
    {94, Arch::xtensa, Arch::xtensa, Arch::unknown, Arch::unknown},
    {105, Arch::msp430, Arch::unknown, Arch::unknown, Arch::unknown},
    {183, Arch::aarch64, Arch::aarch64, Arch::aarch64, Arch::aarch64},
    {243, Arch::riscv32, Arch::unknown, Arch::riscv64, Arch::unknown},
    {247, Arch::unknown, Arch::unknown, Arch::bpf, Arch::bpf},
    {258, Arch::unknown, Arch::unknown, Arch::loongarch64, Arch::unknown},
    {0x9026, Arch::unknown, Arch::unknown, Arch::alpha, Arch::unknown},
};

Arch arch_of(const File& file) {
  const bool big = file.order == Order::big;
  for (const auto& row : machines) {
    if (row.number != file.machine) continue;
    if (file.wide) return big ? row.wide_big : row.wide_little;
    return big ? row.narrow_big : row.narrow_little;
  }
  return Arch::unknown;
}

ImageType type_of(const File& file) {
  switch (file.type) {
    case et_rel: return ImageType::object;
    case et_exec: return ImageType::program;
    case et_dyn: return ImageType::shared;
    case et_core: return ImageType::core;
    default: return ImageType::other;
  }
}

Image outline(const File& file) {
  Image image;
  image.target = {.format = Format::elf,
                  .arch = arch_of(file),
                  .bits = file.wide ? 64 : 32,
                  .endian = file.order == Order::big ? Endian::big : Endian::little};
  image.machine = file.machine;
  image.flags = file.flags;
  image.type = type_of(file);
  return image;
}

Result<void> read_section_list(const File& file, Image& image) {
  image.sections.reserve(file.sections.size());
  Budget budget(file.bytes);
  for (const auto& section : file.sections) {
    auto name = file.name_of(section);
    if (!name) return pass(name);
    if (!budget.spend(name->size())) return fail(Budget::exceeded(file.section_names, "section header table"));
    image.sections.push_back({*name, section.size, (section.flags & shf_alloc) != 0});
  }
  return {};
}

Result<void> read_interpreter(const File& file, Image& image) {
  for (const auto& segment : file.segments) {
    if (segment.type != pt_interp || segment.file_size == 0) continue;
    // Separate debug files keep the program headers of what they belong to, without its contents.
    const Section* section = file.named(".interp");
    if (section != nullptr && section->type == sht_nobits) continue;
    auto bytes = file.bytes.slice(segment.offset, segment.file_size, "interpreter's name");
    if (!bytes) return pass(bytes);
    auto name = bytes->c_string(0, "interpreter's name");
    if (!name) return pass(name);
    image.interpreter = *name;
  }
  return {};
}

Result<void> read_linker_symbols(const File& file, unsigned want, Image& image) {
  auto groups = (want & want_groups) != 0 ? read_groups(file) : Result<Groups>(Groups{});
  if (!groups) return pass(groups);
  image.groups = groups->signatures;
  const Section* table = file.first_of_type(sht_symtab);
  if (table == nullptr) return {};
  auto symbols = read_symbols(file, *table, *groups, (want & want_locals) != 0);
  if (!symbols) return pass(symbols);
  image.symbols = std::move(*symbols);
  return {};
}

/// A program that can be loaded anywhere is of type ET_DYN like a library: DF_1_PIE tells them apart, and of older ones
/// the interpreter with DT_DEBUG, which linkers write for programs alone. Libraries that can be started have the first.
Result<void> read_loader_part(const File& file, unsigned want, Image& image) {
  if (auto done = read_interpreter(file, image); !done) return done;
  const SymbolSink keep = [&](const ImageSymbol& symbol) { image.dynamic_symbols.push_back(symbol); };
  if (auto done = read_dynamic(file, (want & want_symbols) != 0 ? &keep : nullptr, image); !done) return done;
  if (image.type == ImageType::shared && image.interpreter && image.debug_entry && !image.soname)
    image.type = ImageType::pie_program;
  return {};
}

using Step = Result<void> (*)(const File&, unsigned want, Image&);

struct Part {
  unsigned wants;  ///< any of these asks for it
  bool objects, images;
  Step step;
};

constexpr Part parts[] = {
    {want_sections, true, true, [](const File& f, unsigned, Image& i) { return read_section_list(f, i); }},
    {want_symbols, true, false, read_linker_symbols},
    {want_locals, false, true, read_linker_symbols},
    {want_symbols | want_notes, true, false, read_link_time},
    {want_dynamic | want_symbols, false, true, read_loader_part},
    {want_notes, true, true, [](const File& f, unsigned, Image& i) { return read_notes(f, i); }},
    {want_notes, true, true, [](const File& f, unsigned, Image& i) { return read_processor(f, i); }},
    {want_debug, true, true, [](const File& f, unsigned, Image& i) { return read_debug(f, i); }},
    {want_relocations, true, false, [](const File& f, unsigned, Image& i) { return read_pic(f, i); }},
};

/// A loader's question is answered from what loaders read: sections may be stripped, and lie at the file's far end.
Result<File> read_tables(Bytes bytes, unsigned want) {
  if (want != want_dynamic) return read_file(bytes);
  auto file = read_loader_tables(bytes);
  return !file || file->segments.empty() ? read_file(bytes) : file;
}

}  // namespace

Result<Image> read(Bytes bytes, unsigned want) {
  auto file = read_tables(bytes, want);
  if (!file) return pass(file);
  Image image = outline(*file);
  // A shared library's own .symtab is for debuggers; linkers and loaders read its dynamic symbols.
  const bool object = image.type == ImageType::object;
  for (const auto& part : parts) {
    if ((want & part.wants) == 0 || !(object ? part.objects : part.images)) continue;
    if (auto done = part.step(*file, want, image); !done) return pass(done);
  }
  return image;
}

Result<void> walk(Bytes bytes, const SymbolSink& sink) {
  auto lean = read_symbol_sections(bytes);
  if (!lean) return pass(lean);
  if (!*lean) {
    auto file = read_file(bytes);
    if (!file) return pass(file);
    Image ignored;
    return read_dynamic(*file, &sink, ignored);
  }
  const File& file = **lean;
  if (file.sections.empty()) return {};
  auto walked = walk_symbols(file, file.sections.front(), nullptr, sink);
  if (!walked) return pass(walked);
  if (*walked) return {};
  auto image = read(bytes, want_symbols);
  if (!image) return pass(image);
  for (const auto& symbol : image->symbols) sink(symbol);
  return {};
}

Result<void> walk_own_table(Bytes bytes, const SymbolSink& sink) {
  auto file = read_file(bytes);
  if (!file) return pass(file);
  const Section* table = file->first_of_type(sht_symtab);
  if (table == nullptr || file->type == et_rel) return {};
  return without_value(walk_symbols(*file, *table, nullptr, sink));
}

}  // namespace fibula::elf
