/// What processor the code of an ELF file needs, and how it hands over floating-point numbers. Each architecture
/// records this in its own way: build attributes (Arm, RISC-V), e_flags (AVR, RISC-V, Arm images), a section of its own
/// (MIPS), or a GNU property note (x86).
#include "binary/elf.hpp"
#include "binary/elf_attributes.hpp"

#include <fmt/format.h>

namespace fibula::elf {
namespace {

constexpr uint32_t sht_processor_attributes = 0x70000003, sht_mips_abiflags = 0x7000002a;

Result<Attributes> attributes_of(const File& file, const Section* section, std::string_view vendor) {
  if (section == nullptr) return Attributes{};
  auto bytes = file.content(*section);
  if (!bytes) return pass(bytes);
  return read_attributes(*bytes, file.order, vendor);
}

/// Tag_CPU_arch, by its value (Build Attributes, "Target-related attributes").
constexpr std::string_view arm_levels[] = {"Pre-v4",
                                           "v4",
                                           "v4T",
                                           "v5T",
                                           "v5TE",
                                           "v5TEJ",
                                           "v6",
                                           "v6KZ",
                                           "v6T2",
                                           "v6K",
                                           "v7",
                                           "v6-M",
                                           "v6S-M",
                                           "v7E-M",
                                           "v8-A",
                                           "v8-R",
                                           "v8-M.baseline",
                                           "v8-M.mainline",
                                           "v8.1-A",
                                           "v8.2-A",
                                           "v8.3-A",
                                           "v8.1-M.mainline",
                                           "v9-A"};

std::string arm_level(const Attributes& attributes) {
  const uint64_t level = attributes.number(6), profile = attributes.number(7);
  if (level >= std::size(arm_levels)) return fmt::format("unknown level {}", level);
  std::string text(arm_levels[level]);
  const bool told = text.find('-') != std::string::npos;
  if (!told && (profile == 'A' || profile == 'R' || profile == 'M'))
    text += fmt::format("-{}", static_cast<char>(profile));
  return text;
}

/// Tag_ABI_VFP_args says where arguments go, Tag_FP_arch whether there are floating-point instructions. Without
/// Tag_ABI_FP_number_model nothing floats, and linkers take the object for both (GNU ld,
/// elf32_arm_merge_eabi_attributes).
Recorded arm_float(const File& file, const Attributes& attributes) {
  constexpr uint32_t hard = 0x400, soft = 0x200;  // EF_ARM_ABI_FLOAT_*, in images only
  const uint64_t arguments = attributes.number(28);
  if (arguments == 1) return {"hard", "build attributes, Tag_ABI_VFP_args"};
  if (arguments == 3) return {"any", "build attributes, Tag_ABI_VFP_args"};
  if ((file.flags & hard) != 0) return {"hard", "ELF header, e_flags"};
  const bool no_floats = attributes.number(23) == 0 && (file.flags & soft) == 0;
  if (no_floats) return {"any", "build attributes, no Tag_ABI_FP_number_model"};
  const bool has_unit = attributes.number(10) != 0;
  if (has_unit) return {"softfp", "build attributes, Tag_ABI_VFP_args and Tag_FP_arch"};
  if ((file.flags & soft) != 0) return {"soft", "ELF header, e_flags"};
  return {"soft", "build attributes, Tag_FP_arch"};
}

Result<void> read_arm(const File& file, Image& image) {
  const Section* section = file.first_of_type(sht_processor_attributes);
  auto attributes = attributes_of(file, section, "aeabi");
  if (!attributes) return pass(attributes);
  if (section == nullptr && (file.flags & 0x600) == 0) return {};
  image.float_abi = arm_float(file, *attributes);
  if (section != nullptr) image.cpu_floor = {arm_level(*attributes), "build attributes, Tag_CPU_arch"};
  return {};
}

/// RISC-V ELF psABI, "File Header" and "Attributes".
Result<void> read_riscv(const File& file, Image& image) {
  static constexpr std::string_view floats[] = {"soft", "single", "double", "quad"};
  image.float_abi = {std::string(floats[file.flags >> 1U & 3U]), "ELF header, e_flags"};
  auto attributes = attributes_of(file, file.first_of_type(sht_processor_attributes), "riscv");
  if (!attributes) return pass(attributes);
  if (const auto level = attributes->text(5); !level.empty())
    image.cpu_floor = {std::string(level), "build attributes, Tag_RISCV_arch"};
  return {};
}

/// e_flags holds the family that the compiler's library was made for (binutils, include/elf/avr.h).
Result<void> read_avr(const File& file, Image& image) {
  const uint32_t family = file.flags & 0x7fU;
  std::string name = fmt::format("avr{}", family);
  if (family == 100) name = "avrtiny";
  if (family > 100) name = fmt::format("avrxmega{}", family - 100);
  if (family != 0) image.cpu_floor = {name, "ELF header, e_flags"};
  return {};
}

/// The section .MIPS.abiflags (MIPS O32 ABI, "FP calling conventions").
Result<void> read_mips(const File& file, Image& image) {
  static constexpr std::string_view floats[] = {"any",          "double", "single",   "soft",
                                                "double-old64", "xx",     "double64", "double64a"};
  const Section* section = file.first_of_type(sht_mips_abiflags);
  if (section == nullptr) return {};
  auto bytes = file.content(*section);
  if (!bytes) return pass(bytes);
  Cursor c(*bytes, file.order, "MIPS ABI flags");
  c.skip(2);
  const uint8_t level = c.u8(), revision = c.u8();
  c.skip(3);
  const uint8_t fp = c.u8();
  if (!c) return fail(c.error());
  image.cpu_floor = {revision > 1 ? fmt::format("mips{}r{}", level, revision) : fmt::format("mips{}", level),
                     "section .MIPS.abiflags"};
  if (fp < std::size(floats)) image.float_abi = {std::string(floats[fp]), "section .MIPS.abiflags"};
  return {};
}

/// Tag_GNU_Power_ABI_FP (binutils, "GNU Object Attributes").
Result<void> read_ppc(const File& file, Image& image) {
  static constexpr std::string_view floats[] = {"", "hard", "soft", "single"};
  auto attributes = attributes_of(file, file.named(".gnu.attributes"), "gnu");
  if (!attributes) return pass(attributes);
  const auto name = floats[attributes->number(4) & 3U];
  if (!name.empty()) image.float_abi = {std::string(name), "build attributes, Tag_GNU_Power_ABI_FP"};
  return {};
}

/// GNU_PROPERTY_X86_ISA_1_NEEDED in a note of type NT_GNU_PROPERTY_TYPE_0 (x86-64 psABI, "Program Property").
Result<void> read_x86(const File& file, Image& image) {
  constexpr uint32_t isa_needed = 0xc0008002;
  const Section* section = file.named(".note.gnu.property");
  if (section == nullptr) return {};
  auto bytes = file.content(*section);
  if (!bytes) return pass(bytes);
  Cursor c(*bytes, file.order, "property note");
  c.skip(16);
  while (c.left() >= 8) {
    const uint32_t type = c.u32(), size = c.u32();
    if (type == isa_needed && size >= 4 && c.left() >= 4) {
      const uint32_t bits = c.u32();
      for (const auto& [bit, name] :
           {std::pair{8U, "x86-64-v4"}, {4U, "x86-64-v3"}, {2U, "x86-64-v2"}, {1U, "x86-64"}}) {
        if ((bits & bit) == 0) continue;
        image.cpu_floor = {name, "GNU property x86 ISA needed"};
        return {};
      }
      return {};
    }
    const uint64_t alignment = file.wide ? 8 : 4;
    c.skip((uint64_t{size} + alignment - 1) / alignment * alignment);
  }
  return {};
}

}  // namespace

Result<void> read_processor(const File& file, Image& image) {
  switch (file.machine) {
    case em_386:
    case em_x86_64: return read_x86(file, image);
    case em_mips: return read_mips(file, image);
    case em_ppc: return read_ppc(file, image);
    case em_arm: return read_arm(file, image);
    case em_avr: return read_avr(file, image);
    case em_riscv: return read_riscv(file, image);
    default: return {};
  }
}

}  // namespace fibula::elf
