#include "binary/elf.hpp"

#include "binary/open.hpp"
#include "support/builders.hpp"
#include "support/bytes.hpp"
#include "support/support.hpp"

#include <gtest/gtest.h>
#include <fibula/facts.hpp>

using namespace fibula;
using test::ElfBuilder;
using test::patched;

namespace {

Result<Image> read_elf(std::string content) {
  return read_image(test::kept_bytes(std::move(content)), want_all);
}

TEST(Elf, ReadsBothWordSizesAndByteOrders) {
  struct Case {
    bool wide, big;
    uint16_t machine;
    Arch arch;
  };
  for (const auto& c : {Case{true, false, 62, Arch::x86_64},
                        {false, false, 62, Arch::x32},
                        {false, false, 3, Arch::x86},
                        {true, true, 22, Arch::s390x},
                        {false, true, 20, Arch::ppc},
                        {true, false, 21, Arch::ppc64le},
                        {true, true, 21, Arch::ppc64},
                        {false, false, 83, Arch::avr},
                        {true, false, 183, Arch::aarch64}}) {
    SCOPED_TRACE(to_string(c.arch));
    ElfBuilder builder(c.wide, c.big);
    builder.machine = c.machine;
    builder.symbol({.name = "tide_height"})
        .symbol({.name = "moon", .info = 0x20, .section = 0})
        .symbol({.name = "shared_buffer", .info = 0x11, .other = 2, .section = 0xfff2});
    const auto image = read_elf(builder.build());
    ASSERT_TRUE(image) << render(image.error());
    EXPECT_EQ(image->target, (Target{Format::elf, c.arch, c.wide ? 64 : 32, c.big ? Endian::big : Endian::little}));
    ASSERT_EQ(image->symbols.size(), 3U);
    EXPECT_EQ(image->symbols[0].name, "tide_height");
    EXPECT_TRUE(image->symbols[0].defined);
    EXPECT_EQ(image->symbols[1].binding, Binding::weak);
    EXPECT_FALSE(image->symbols[1].defined);
    EXPECT_TRUE(image->symbols[2].common);
    EXPECT_EQ(image->symbols[2].visibility, Visibility::hidden);
  }
}

TEST(Elf, TellsWhatIsWrongAndWhere) {
  const std::string good = ElfBuilder(true, false).symbol({.name = "tide"}).build();
  const size_t sections = good.size() - 5 * 64;
  const auto field = [&](int section, size_t offset) { return sections + static_cast<size_t>(section) * 64 + offset; };
  struct Case {
    const char* what;
    std::string bytes;
    const char* message;
  };
  const Case cases[] = {
      {"class", patched(good, 4, "\7"), "at 0x4: ELF class is 7, expected 1 (32-bit) or 2 (64-bit)"},
      {"byte order", patched(good, 5, "\3"), "at 0x5: ELF byte order is 3, expected 1 (little) or 2 (big)"},
      {"version", patched(good, 6, "\2"), "at 0x6: ELF version is 2, expected 1"},
      {"header cut off", good.substr(0, 40), "at 0x28: ELF header ends early, after 40 bytes"},
      {"section table outside", patched(good, 40, "\xff\xff\xff\x7f"),
       "at 0x7fffffff: section header table: need 64 bytes, have 0"},
      {"section entries too small", patched(good, 58, "\x10"),
       "at 0xa7: section header table has entries of 16 bytes, the format needs 64"},
      {"name table is no section", patched(good, 62, "\x09"), "at 0x0: section name table is section 9, there are 5"},
      {"symbol entries of zero", patched(good, field(2, 56), std::string("\0", 1)),
       "at 0x50: symbol table has entries of 0 bytes, the format needs 24"},
      {"symbol names nowhere", patched(good, field(2, 40), "\x63"),
       "at 0x50: symbol table takes its names from section 99, which is not there"},
      {"symbol name outside", patched(good, 0x50 + 24, "\xff"),
       "at 0x17f: symbol name starts beyond the end of its table (6 bytes)"},
      {"section outside", patched(good, field(2, 24), "\xff\xff\xff\x7f"),
       "at 0x7fffffff: .symtab: need 48 bytes, have 0"},
  };
  for (const auto& c : cases) {
    SCOPED_TRACE(c.what);
    const auto image = read_elf(c.bytes);
    ASSERT_FALSE(image);
    EXPECT_EQ(render(image.error()), c.message);
  }
}

/// Builds C code with a command and reads the facts of the result.
Facts facts_of(const std::string& code, const std::string& command, const std::string& product) {
  const test::Folder folder;
  folder.write("a.c", code);
  test::must(command, folder.path());
  const auto facts = inspect(folder / product);
  if (!facts) throw std::runtime_error(render(facts.error()));
  return *facts;
}

TEST(Elf, FactsOfRealFiles) {
  const Facts shared = facts_of(
      "#include <math.h>\ndouble f(double x) { return pow(x, x); }",
      "gcc -fPIC -shared a.c -Wl,-soname,libf.so.3 -Wl,-rpath,'$ORIGIN/x' -Wl,--build-id=0x00ff12 -o f.so -lm", "f.so");
  EXPECT_EQ(shared.kind.value, Kind::shared_library);
  EXPECT_EQ(shared.soname.value, "libf.so.3");
  EXPECT_EQ(shared.runpath.value, std::vector<std::string>{"$ORIGIN/x"});
  EXPECT_EQ(shared.build_id.value, "00ff12");
  EXPECT_EQ(shared.c_runtime.value, "glibc");
  EXPECT_EQ(shared.libc_floor.value, "2.29") << "pow has been at that version since";
  EXPECT_EQ(shared.needs.value->front().name, "libm.so.6");
  EXPECT_EQ(facts_of("int main() { return 0; }", "gcc -pie a.c -o p", "p").kind.value, Kind::program);
  EXPECT_EQ(facts_of("int main() { return 0; }", "gcc -no-pie a.c -o p", "p").kind.value, Kind::program);
  EXPECT_EQ(facts_of("int main() { return 0; }", "gcc -static-pie a.c -o p", "p").kind.value, Kind::program);
}

TEST(Elf, PositionIndependenceNamesTheRelocation) {
  const char* code = "int t[4]; int *f(int i) { return &t[i]; }";
  EXPECT_EQ(facts_of(code, "gcc -fPIC -c a.c", "a.o").pic.value->level, Pic::yes);
  const auto absolute = *facts_of(code, "gcc -fno-pic -mcmodel=small -c a.c", "a.o").pic.value;
  EXPECT_EQ(absolute.level, Pic::no);
  EXPECT_EQ(absolute.relocation, "R_X86_64_32S");
  EXPECT_EQ(absolute.section, ".text");
  EXPECT_EQ(absolute.symbol, "t");
}

TEST(Elf, DynamicSymbolsAreFoundWithoutSections) {
  const test::Folder folder;
  folder.write("a.c", "int tide(void) { return 1; }\nint moon(void) { return 2; }");
  for (const char* hash : {"gnu", "sysv"}) {
    test::must(std::string("gcc -fPIC -shared a.c -o a.so -Wl,--hash-style=") + hash, folder.path());
    const auto names = [&] {
      std::vector<std::string> found;
      const auto symbols = symbols_of(folder / "a.so");
      for (const auto& symbol : *symbols) found.push_back(symbol.name + "@" + symbol.version);
      return found;
    };
    const auto with_sections = names();
    const std::string bytes = test::read(folder / "a.so");
    // e_shoff, e_shentsize, e_shnum and e_shstrndx cleared: what strip tools of embedded systems do.
    folder.write("a.so", patched(patched(bytes, 40, std::string(8, '\0')), 58, std::string(6, '\0')));
    EXPECT_EQ(names(), with_sections) << hash;
    EXPECT_GE(with_sections.size(), 2U);
  }
}

/// The number at a place, in the byte order of the file.
uint64_t number_at(const std::string& bytes, size_t at, size_t size) {
  uint64_t value = 0;
  for (size_t i = size; i > 0; --i) value = value << 8U | static_cast<unsigned char>(bytes[at + i - 1]);
  return value;
}

/// Where the header of the first section of a type stands in a 64-bit file (gABI, "Sections").
size_t section_header(const std::string& bytes, uint64_t type) {
  const size_t table = number_at(bytes, 40, 8), count = number_at(bytes, 60, 2);
  for (size_t i = 0; i < count; ++i) {
    if (number_at(bytes, table + 64 * i + 4, 4) == type) return table + 64 * i;
  }
  throw std::runtime_error("no such section");
}

/// What loaders read decides, whatever the section headers say.
TEST(Elf, SegmentsDecideWhereSectionHeadersLie) {
  const test::Folder folder;
  folder.write("a.c", "#include <math.h>\ndouble tide(double x) { return pow(x, x); }");
  test::must("gcc -fPIC -shared a.c -o a.so -Wl,-soname,libtide.so.3 -lm && objcopy --only-keep-debug a.so a.debug",
             folder.path());
  const std::string honest = test::read(folder / "a.so");
  constexpr uint64_t dynamic = 6, symbols = 11;
  const auto looked_at = [&](const std::string& bytes) {
    folder.write("b.so", bytes);
    return inspect(folder / "b.so");
  };
  EXPECT_TRUE(looked_at(honest)->notes.empty());
  const std::string no_dynamic = patched(honest, section_header(honest, dynamic) + 4, std::string("\1\0\0\0", 4));
  const std::string moved = patched(honest, section_header(honest, dynamic) + 24, std::string("\x40\0\0\0\0\0\0\0", 8));
  const std::string other_symbols = patched(honest, section_header(honest, symbols) + 24, std::string(8, '\0'));
  for (const auto& lie : {no_dynamic, moved, other_symbols}) {
    const auto facts = looked_at(lie);
    ASSERT_TRUE(facts) << render(facts.error());
    EXPECT_EQ(facts->soname.value, "libtide.so.3");
    EXPECT_EQ(facts->needs.value->front().name, "libm.so.6");
    EXPECT_FALSE(facts->notes.empty()) << "the difference is told";
    const auto found = symbols_of(folder / "b.so");
    ASSERT_TRUE(found);
    const auto is_tide = [](const auto& symbol) { return symbol.name == "tide"; };
    EXPECT_TRUE(std::any_of(found->begin(), found->end(), is_tide));
  }
  const auto debug = inspect(folder / "a.debug");
  ASSERT_TRUE(debug) << render(debug.error());
  EXPECT_TRUE(debug->notes.empty());
}

}  // namespace
