/// Files that lie: each field that a reader trusts least is wrong once, and the message is asserted whole.
#include "binary/debug_types.hpp"
#include "binary/open.hpp"
#include "facts/facts.hpp"
#include "support/builders.hpp"
#include "support/bytes.hpp"
#include "support/support.hpp"

#include <gtest/gtest.h>
#include <span>

using namespace fibula;
using test::patched;

namespace {

std::string little(uint64_t value, int size) {
  std::string bytes;
  for (int i = 0; i < size; ++i) bytes += i < 8 ? static_cast<char>(value >> (8 * i) & 0xff) : '\0';
  return bytes;
}

std::string big(uint64_t value, int size) {
  std::string bytes = little(value, size);
  std::reverse(bytes.begin(), bytes.end());
  return bytes;
}

/// A COFF object: header, one section `.text`, symbols, strings.
struct CoffBuilder {
  uint16_t machine = 0x8664;
  std::string section_name = ".text";
  std::string symbols;  ///< entries of 18 bytes
  std::string strings;

  CoffBuilder& symbol(std::string name, uint32_t value, int section, uint8_t storage) {
    name.resize(8, '\0');
    symbols += name + little(value, 4) + little(static_cast<uint16_t>(section), 2) + little(0, 2) + little(storage, 1) +
               little(0, 1);
    return *this;
  }
  std::string build() const {
    std::string name = section_name;
    name.resize(8, '\0');
    const std::string section = name + little(0, 12) + little(0, 4) + little(0, 12) + little(0x60000020, 4);
    return little(machine, 2) + little(1, 2) + little(0, 4) + little(20 + section.size(), 4) +
           little(symbols.size() / 18, 4) + little(0, 4) + section.substr(0, 40) + symbols +
           little(4 + strings.size(), 4) + strings;
  }
};

/// A short import member for `tide` of tide.dll.
std::string import_member(uint16_t type, const std::string& names) {
  return std::string("\0\0\xff\xff\0\0", 6) + little(0x8664, 2) + little(0, 4) + little(names.size(), 4) +
         little(0, 2) + little(type, 2) + names;
}

/// A dynamic library of nothing but an export trie.
std::string macho_with_trie(const std::string& trie) {
  return "\xcf\xfa\xed\xfe" + little(0x0100000c, 4) + little(0, 4) + little(6, 4) + little(1, 4) + little(16, 4) +
         little(0, 8) + little(0x80000033, 4) + little(16, 4) + little(48, 4) + little(trie.size(), 4) + trie;
}

std::string universal(uint64_t offset, uint64_t size) {
  return big(0xcafebabe, 4) + big(1, 4) + big(0x01000007, 4) + big(3, 4) + big(offset, 4) + big(size, 4) + big(0, 4) +
         std::string(64, '\0');
}

Result<Facts> read(const std::string& content) {
  const Bytes bytes = test::bytes_of(content);
  auto read = read_content(bytes, want_all);
  if (!read) return pass(read);
  return facts_of(*read, {}, {});
}

std::string kind(const char* file) {
  return test::read(std::filesystem::path(TEST_KINDS) / file);
}

void expect_message(const std::string& content, const std::string& message) {
  const auto facts = read(content);
  ASSERT_FALSE(facts) << "expected: " << message;
  EXPECT_EQ(render(facts.error()), message);
}

TEST(Damage, OfCoff) {
  expect_message(CoffBuilder{.section_name = "/99"}.build(),
                 "at 0x9f: section name starts beyond the end of its table (4 bytes)");
  expect_message(CoffBuilder{.section_name = "/9x"}.build(), "at 0x14: section name /9x is no offset");
  expect_message(CoffBuilder{}.symbol(std::string("\0\0\0\0\x50\0\0\0", 8), 0, 1, 2).build(),
                 "at 0x9e: symbol name starts beyond the end of its table (4 bytes)");
  expect_message(import_member(0, std::string("tide\0tide.dll", 13)),
                 "at 0x19: imported DLL does not end inside its table");
  expect_message(import_member(3, std::string("tide\0tide.dll\0", 14)),
                 "at 0x12: import member has type 3, expected 0 to 2");
  expect_message(import_member(0, std::string("\0tide.dll\0", 10)), "at 0x14: import member names no symbol");
  expect_message(import_member(0, "tide").substr(0, 22), "at 0x14: names of the import member: need 4 bytes, have 2");
}

/// Many entries that point at one long name would make a reader look at far more than the file holds.
TEST(Damage, OfTablesThatOverlapIsBounded) {
  CoffBuilder coff{.strings = std::string(100'000, 'x') + '\0'};
  for (int i = 0; i < 200; ++i) coff.symbol(std::string("\0\0\0\0\4\0\0\0", 8), 0, 1, 2);
  const auto facts = read(coff.build());
  ASSERT_FALSE(facts);
  EXPECT_EQ(facts.error().code, Code::limit);
  EXPECT_EQ(facts.error().what, "symbol table points at the same bytes more often than any sound file does");
}

TEST(Damage, OfCoffLeavesWhatIsSound) {
  EXPECT_EQ(read(CoffBuilder{.machine = 0xa641}.build())->arch.value, Arch::arm64ec);
  const auto marked = read(CoffBuilder{}.symbol("@comp.id", 0x010575b6, -1, 3).build());
  EXPECT_EQ(marked->toolset.value, NamedVersion{"msvc"});
  EXPECT_EQ(marked->toolset.from, "symbol @comp.id: tool 0x105, build 30134");
  EXPECT_EQ(read(CoffBuilder{.machine = 0x1111}.build()).error().code, Code::not_a_library)
      << "two bytes are all the magic that COFF has";
}

#ifndef FIBULA_NATIVE_ONLY
TEST(Damage, OfPe) {
  const std::string dll = kind("msvc/debug-runtime.dll");
  const auto header = static_cast<unsigned char>(dll[0x3c]);
  const size_t optional = header + 24U, directories = optional + 112;
  expect_message(patched(dll, optional, little(0x30b, 2)),
                 fmt::format("at {:#x}: optional header has magic 0x30b, expected 0x10b or 0x20b", optional));
  expect_message(patched(dll, directories + 8, little(0x99999999, 4)),
                 "at 0x0: import directory is at address 0x99999999, where no section is");
  expect_message(patched(dll, 0x3c, little(0xfffffff0, 4)),
                 "is of no known kind; its first bytes are 4d 5a 78 00 01 00 00 00");
  EXPECT_EQ(read(dll.substr(0, dll.size() - 1)).error().code, Code::truncated);
}

TEST(Damage, OfMachO) {
  const std::string dylib = kind("macos/arm64.dylib");
  expect_message(patched(dylib, 36, little(4, 4)), "at 0x24: load command says it has 4 bytes, its header alone has 8");
  expect_message(patched(dylib, 16, little(0xffff, 4)).substr(0, 200),
                 "at 0x20: load commands: need 928 bytes, have 168");
}
#endif

TEST(Damage, OfAnExportTrie) {
  // One node that gives `a` and one edge; then the edge leads back to the root.
  const std::string good = macho_with_trie(std::string("\0\1a\0\6\0\2\0\x10\0", 10));
  EXPECT_EQ(read(good)->defined_count, 1U);
  EXPECT_EQ(read(macho_with_trie(std::string("\2\0\x10\0", 4)))->defined_count, 0U)
      << "the root would be a name without letters";
  expect_message(macho_with_trie(std::string("\0\1a\0\0", 5)), "at 0x30: export trie leads to the same node twice");
  expect_message(macho_with_trie(std::string("\0\1a\0\x70", 5)),
                 "at 0x30: export trie has a node at 112, it has 5 bytes");
  expect_message(macho_with_trie(std::string("\x40\0", 2)), "at 0x30: node of the export trie ends beyond it");
  expect_message(macho_with_trie(std::string("\0\xff"
                                             "a\0",
                                             4)),
                 "at 0x34: export trie ends early, after 3 bytes");
}

TEST(Damage, OfAUniversalFile) {
  expect_message(universal(8, 16), "at 0x8: slice 1 begins inside the table of slices");
  expect_message(universal(60, 1000), "at 0x3c: slice 1: need 1000 bytes, have 32");
  EXPECT_EQ(read(universal(28, 64)).error().what, "is a file of zero bytes only, not a library");
  EXPECT_EQ(read("\xca\xfe\xba\xbe" + big(61, 4) + "class").error().what, "is compiled Java, not a library");
}

TEST(Damage, OfATextStub) {
  const std::string head = "--- !tapi-tbd\ntbd-version: 4\n";
  expect_message(head + "install-name: x\n", "text stub names no target");
  expect_message(head + "targets: [ a", "line 4: did not find expected ',' or ']'");
  expect_message(head + "targets: &t [ arm64-macos ]\nexports: *t\n", "line 4: an alias stands where a value should");
  expect_message(head + "targets: " + std::string(70, '['), "line 3: is nested too deeply");
}

TEST(Damage, OfBitcode) {
  expect_message("BC\xc0\xde", "bitcode holds nothing");
  expect_message("BC\xc0\xde" + little(0x1435, 4) + little(0xff, 4),
                 "at 0xc: bitcode: a block ends beyond the end of the file");
  expect_message("BC\xc0\xde" + little(2, 4) + little(0, 4), "at 0x0: bitcode: the block at 0x4 cannot be read");
  expect_message("\xde\xc0\x17\x0b" + little(0, 4) + little(20, 4) + little(400, 4),
                 "at 0x14: wrapped bitcode: need 400 bytes, have 0");
}

/// A field that was destroyed is unknown, not something else.
TEST(Damage, OfTheMachineLeavesItUnknown) {
  const auto facts = read(patched(kind("gnu/release.o"), 18, "\xee\xee"));
  ASSERT_TRUE(facts);
  EXPECT_FALSE(facts->arch);
  EXPECT_EQ(facts->notes.at(0), "machine number 61166 is not one that is known here");
}

TEST(Foreign, IsToldByNameWithARemedy) {
  struct Case {
    std::string bytes;
    const char* what;
  };
  const Case cases[] = {
      {"\xfd"
       "7zXZ",
       "an xz archive"},
      {std::string("7z\xbc\xaf\x27\x1c"), "a 7z archive"},
      {"\x28\xb5\x2f\xfd", "a zstd archive"},
      {"BZh9", "a bzip2 archive"},
      {std::string(257, 'x') + "ustar", "a tar archive"},
      {"!<arch>\ndebian-binary   0", "a Debian package"},
      {"\xed\xab\xee\xdb", "an rpm package"},
      {"xar!", "an installer package"},
      {"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1", "an installer"},
      {"libtide.so.1", "a flattened link"},
      {"../lib/libtide.a\n", "a flattened link"},
      {"Salted__12345678", "an encrypted file"},
      {"-----BEGIN PGP MESSAGE-----", "an encrypted file"},
      {"Microsoft C/C++ MSF 7.00\r\n", "a file of debugging records"},
      {std::string("\0asm\1\0\0\0", 8), "a WebAssembly module"},
      {std::string(100, '\0'), "a file of zero bytes only"},
      {"a note of some kind\n", "a text file"},
  };
  for (const auto& c : cases) {
    const auto facts = read(c.bytes);
    ASSERT_FALSE(facts) << c.what;
    EXPECT_EQ(facts.error().what, fmt::format("is {}, not a library", c.what));
    EXPECT_EQ(facts.error().code, Code::not_a_library);
    EXPECT_FALSE(facts.error().hint.empty()) << c.what;
  }
}

/// Debugging records with bytes that are wrong: reading ends, with something or with an error.
TEST(Damage, DebuggingRecordsMayLie) {
  const test::Folder folder;
  folder.write(
      "port.cpp",
      "#include <string>\nstruct Wall { virtual ~Wall(); virtual int high(); int h; };\n"
      "struct Gate : Wall { struct { int a; union { int b; double c; }; }; int (*call)(int (*)(double), ...);\n"
      "  unsigned lit : 3; enum class Kind { low, high } kind; };\n"
      "int Wall::high() { return h; }\nWall::~Wall() {}\nint deep(const Gate* g) { return g->a; }\n");
  for (const char* flags : {"-gdwarf-5", "-gdwarf-4 -gz", "-gdwarf-2 -gstrict-dwarf"}) {
    test::must(std::string("g++ -w -femit-class-debug-always -c port.cpp ") + flags, folder.path());
    const std::string good = test::read(folder / "port.o");
    const auto read = [](const std::string& bytes) { return debug_types_of(test::bytes_of(bytes)); };
    const auto types = read(good);
    ASSERT_TRUE(types) << flags;
    ASSERT_TRUE(types->layouts.contains("Gate")) << flags;
    EXPECT_TRUE(types->functions.contains("_Z4deepPK4Gate")) << flags;
    uint64_t state = 7;
    const auto next = [&] { return state = state * 6364136223846793005ULL + 1442695040888963407ULL; };
    for (int i = 0; i < 300; ++i) {
      std::string bad = good;
      for (int changes = 0; changes < 4; ++changes)
        bad[(next() >> 20U) % bad.size()] = static_cast<char>(next() >> 40U);
      (void)read(bad);
    }
  }
}

}  // namespace
