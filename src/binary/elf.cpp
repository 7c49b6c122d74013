/// From an ELF file to an Image.
#include "binary/elf.hpp"

namespace fibula::elf {
namespace {

constexpr uint16_t et_rel = 1, et_exec = 2, et_dyn = 3, et_core = 4;

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
  for (const auto& section : file.sections) {
    image.sections.push_back({section.name, section.size, (section.flags & shf_alloc) != 0});
  }
  return image;
}

Result<bool> read_interpreter(const File& file, Image& image) {
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
  return true;
}

Result<bool> read_linker_symbols(const File& file, Image& image) {
  auto groups = read_groups(file);
  if (!groups) return pass(groups);
  image.groups = groups->signatures;
  const Section* table = file.first_of_type(sht_symtab);
  if (table == nullptr) return true;
  auto symbols = read_symbols(file, *table, *groups);
  if (!symbols) return pass(symbols);
  image.symbols = std::move(*symbols);
  return true;
}

}  // namespace

Result<Image> read(Bytes bytes, unsigned want) {
  auto file = read_file(bytes);
  if (!file) return pass(file);
  Image image = outline(*file);
  // A shared library's own .symtab is for debuggers; linkers and loaders read its dynamic symbols.
  const bool linkable = image.type == ImageType::object;
  if ((want & want_symbols) != 0 && linkable) {
    if (auto done = read_linker_symbols(*file, image); !done) return pass(done);
  }
  if ((want & (want_dynamic | want_symbols)) != 0 && !linkable) {
    if (auto done = read_interpreter(*file, image); !done) return pass(done);
    if (auto done = read_dynamic(*file, (want & want_symbols) != 0, image); !done) return pass(done);
  }
  if (image.type == ImageType::shared && image.interpreter && !image.soname) image.type = ImageType::pie_program;
  if ((want & want_notes) != 0) {
    if (auto done = read_notes(*file, image); !done) return pass(done);
  }
  if ((want & want_relocations) != 0 && linkable) {
    auto pic = read_pic(*file);
    if (!pic) return pass(pic);
    image.pic = *pic;
  }
  return image;
}

}  // namespace fibula::elf
