/// The small pieces that facts are made of, each with a table of cases.
#include "facts/facts.hpp"
#include "binary/bitstream.hpp"
#include "binary/coff.hpp"
#include "binary/elf_attributes.hpp"
#include "facts/name_traits.hpp"
#include "support/bytes.hpp"

#include <fmt/format.h>
#include <gtest/gtest.h>

using namespace fibula;

namespace {

TEST(Mangling, IsReadWhereItIsKnownAndLeftRawElsewhere) {
  struct Case {
    const char* name;
    const char* readable;
  };
  const Case cases[] = {
      {"_ZN4tide6heightEi", "tide::height(int)"},
      {"__ZN4tide6heightEi", "tide::height(int)"},  // Mach-O
      {"__imp__ZN4tide6heightEi", "__imp_ tide::height(int)"},
      {"__imp_tide_height", "__imp_tide_height"},
      {"tide_height", "tide_height"},
      {"?level@tide@@YAHH@Z", "?level@tide@@YAHH@Z"},
      {"_R5tide", "_R5tide"},
      {"_Znonsense", "_Znonsense"},
      {"", ""},
  };
  for (const auto& c : cases) EXPECT_EQ(readable_name(c.name), c.readable);
}

TEST(Mangling, NumbersThatAreNoLengthsHideNoName) {
  struct Case {
    const char* name;
    bool libstdcxx;
  };
  const Case cases[] = {
      {"_ZN5Quay2C1E5TSizeS_", false},                                                    // C1, and a substitution
      {"_ZN9SiltGaugeC2E7SiLevelNS_6SitingES5_", false},                                  // C2 before a name
      {"_ZN4quay4moorILi10EEEv5Siren", false},                                            // a literal of two digits
      {"_ZN4quay4SiltD1Ev", false},                                                       // a destructor
      {"_ZThn16_N4quay4Silt3runEv", false},                                               // a thunk
      {"_ZTSN4quay4listINSt7__cxx1112basic_stringIcSt11char_traitsIcESaIcEEEbEE", true},  // the name of a type
      {"_ZN4quay4SiltaSERKNSt7__cxx1112basic_stringIcSt11char_traitsIcESaIcEEE", true},   // an operator that ends in S
      {"_ZN4quay3logERSo", true},
      {"_ZN4quay3logESs", true},
  };
  for (const auto& c : cases) {
    NameTraits traits({.format = Format::elf, .arch = Arch::x86_64, .bits = 64});
    traits.look_at(c.name, NameTraits::Role::needed);
    EXPECT_EQ(traits.has(Trait::libstdcxx), c.libstdcxx) << c.name;
  }
}

TEST(Mangling, FortifiedNamesAreNoSignOfOneLibrary) {
  // Several C libraries define these, bare ones among them.
  NameTraits traits({.format = Format::elf, .arch = Arch::arm, .bits = 32});
  for (const char* name : {"__memcpy_chk", "__sprintf_chk", "__snprintf_chk"})
    traits.look_at(name, NameTraits::Role::defined);
  EXPECT_FALSE(traits.has(Trait::glibc));
  traits.look_at("__printf_chk", NameTraits::Role::needed);
  EXPECT_TRUE(traits.has(Trait::glibc));
}

TEST(Triples, NameMachines) {
  struct Case {
    const char* triple;
    Arch arch;
    int bits;
    Endian endian = Endian::little;
  };
  const Case cases[] = {
      {"x86_64-pc-linux-gnu", Arch::x86_64, 64},
      {"x86_64-linux-gnux32", Arch::x32, 32},
      {"i686-pc-windows-msvc", Arch::x86, 32},
      {"arm64-apple-macosx11.0.0", Arch::aarch64, 64},
      {"arm64e-apple-ios", Arch::arm64e, 64},
      {"arm64ec-pc-windows-msvc", Arch::arm64ec, 64},
      {"aarch64_be-linux-gnu", Arch::aarch64, 64, Endian::big},
      {"thumbv7em-none-eabihf", Arch::arm, 32},
      {"s390x-linux-gnu", Arch::s390x, 64, Endian::big},
      {"powerpc64le-linux-gnu", Arch::ppc64le, 64},
      {"powerpc64-linux-gnu", Arch::ppc64, 64, Endian::big},
      {"mips64el-linux-gnu", Arch::mips64el, 64},
      {"avr-unknown-unknown", Arch::avr, 16},
      {"z80-none", Arch::unknown, 0},
      {"", Arch::unknown, 0},
  };
  for (const auto& c : cases) {
    SCOPED_TRACE(c.triple);
    const Target target = target_of_triple(c.triple);
    EXPECT_EQ(target.arch, c.arch);
    EXPECT_EQ(target.bits, c.bits);
    EXPECT_EQ(target.endian, c.endian);
  }
}

TEST(Directives, AreSplitAtBlanksOutsideOfQuotes) {
  using Options = std::vector<std::string_view>;
  EXPECT_EQ(coff::split_directives("   /DEFAULTLIB:msvcrt.lib /FAILIFMISMATCH:\"a=b c\" "),
            (Options{"/DEFAULTLIB:msvcrt.lib", "/FAILIFMISMATCH:\"a=b c\""}));
  EXPECT_EQ(coff::split_directives("\xef\xbb\xbf-export:tide"), Options{"-export:tide"});
  EXPECT_EQ(coff::split_directives(std::string_view("/a\0/b\0\0", 7)), (Options{"/a", "/b"}));
  EXPECT_EQ(coff::split_directives("/open:\"no end"), Options{"/open:\"no end"});
  EXPECT_EQ(coff::split_directives(""), Options{});
}

TEST(Names, ShowWhatTheyBelongTo) {
  struct Case {
    const char* name;
    Trait trait;
  };
  const Case cases[] = {
      {"_ZN4tide5entryB5cxx11Ev", Trait::new_string},
      {"_Z3tagRKNSt7__cxx1112basic_stringIcSt11char_traitsIcESaIcEEE", Trait::new_string},
      {"_Z3tagRKSs", Trait::old_string},
      {"_ZStlsISt11char_traitsIcEERSoS1_PKc", Trait::libstdcxx},
      {"_ZSt20__throw_length_errorPKc", Trait::libstdcxx},
      {"_ZNSt3__16vectorIiNS_9allocatorIiEEE4sizeEv", Trait::libcxx},
      {"_ZNSt6__ndk16vectorIiEE", Trait::libcxx},
      {"_Z1fNSt7__debug6vectorIiEE", Trait::stl_debug},
      {"_ZN4core3fmt5Write9write_fmt17h0123456789abcdefE", Trait::rust},
      {"_RNvC4tide6height", Trait::rust},
      {"__asan_init", Trait::address_sanitizer},
      {"__ubsan_handle_add_overflow", Trait::undefined_sanitizer},
      {"GOMP_parallel", Trait::libgomp},
      {"__kmpc_fork_call", Trait::libomp},
      {"_gfortran_st_write", Trait::gfortran},
      {"__isoc99_sscanf", Trait::glibc},
      {"_impure_ptr", Trait::newlib},
      {"__stdio_common_vfprintf", Trait::ucrt},
      {"?f@@YAHXZ", Trait::msvc_cxx},
  };
  for (const auto& c : cases) {
    NameTraits traits({.format = Format::elf, .arch = Arch::x86_64, .bits = 64});
    traits.look_at(c.name, NameTraits::Role::needed);
    EXPECT_TRUE(traits.has(c.trait)) << c.name;
  }
}

/// Names that look like evidence and are none.
TEST(Names, DoNotShowWhatTheyOnlySpell) {
  struct Case {
    const char* name;
    Trait trait;
  };
  const Case cases[] = {
      {"_ZN8SsHarbor4tideEv", Trait::old_string},  // the letters stand inside an identifier
      {"_ZN4tide12_cxx11_likeEv", Trait::new_string},
      {"_ZN4tide3__1Ev", Trait::old_string},
      {"pthread_create", Trait::posix_threads},  // only a choice on Windows
      {"my__asan_init", Trait::address_sanitizer},
      {"_Z99tide", Trait::libstdcxx},  // a length beyond the end
      {"mcounter", Trait::gprof},
  };
  for (const auto& c : cases) {
    NameTraits traits({.format = Format::elf, .arch = Arch::x86_64, .bits = 64});
    traits.look_at(c.name, NameTraits::Role::needed);
    EXPECT_FALSE(traits.has(c.trait)) << c.name;
  }
}

TEST(Names, AreGivenOrNeeded) {
  NameTraits traits({.format = Format::elf, .arch = Arch::x86_64, .bits = 64});
  traits.look_at("__tsan_func_exit", NameTraits::Role::given);
  EXPECT_FALSE(traits.has(Trait::thread_sanitizer)) << "who defines it is the run-time";
  traits.look_at("_ZNSs6appendEPKc", NameTraits::Role::given);
  traits.look_at("_ZTSs", NameTraits::Role::given);
  EXPECT_FALSE(traits.has(Trait::old_string_given)) << "the standard library's own";
  traits.look_at("_Z5labelSs", NameTraits::Role::defined);
  EXPECT_FALSE(traits.has(Trait::old_string_given)) << "a copy of an inline function";
  traits.look_at("_Z5labelSs", NameTraits::Role::given);
  EXPECT_TRUE(traits.has(Trait::old_string_given));
}

TEST(Names, OfMachOAnd32BitCoffHaveAnUnderscoreMore) {
  NameTraits macho({.format = Format::macho, .arch = Arch::aarch64, .bits = 64});
  macho.look_at("___asan_init", NameTraits::Role::needed);
  EXPECT_TRUE(macho.has(Trait::address_sanitizer));
  NameTraits coff({.format = Format::coff, .arch = Arch::x86, .bits = 32});
  coff.look_at("___gxx_personality_v0", NameTraits::Role::needed);
  coff.look_at("_pthread_create", NameTraits::Role::needed);
  EXPECT_TRUE(coff.has(Trait::table_exceptions));
  EXPECT_TRUE(coff.has(Trait::posix_threads));
}

/// A section of build attributes: version, length, vendor, tag, size, attributes.
std::string attributes_section(const std::string& vendor, const std::string& attributes, int cut = 0) {
  const auto word = [](size_t value) {
    std::string bytes;
    for (unsigned i = 0; i < 4; ++i) bytes += static_cast<char>(value >> (8 * i) & 0xff);
    return bytes;
  };
  const std::string file = std::string("\1") + word(5 + attributes.size()) + attributes;
  const std::string section = "A" + word(4 + vendor.size() + 1 + file.size()) + vendor + '\0' + file;
  return section.substr(0, section.size() - static_cast<size_t>(cut));
}

TEST(BuildAttributes, AreReadByVendor) {
  const std::string arm = std::string("\5cortex-m4\0\6\x0d\7M\x0a\6\x1c\1", 19);
  const std::string section = attributes_section("aeabi", arm);
  const auto read = elf::read_attributes(test::bytes_of(section), Order::little, "aeabi");
  ASSERT_TRUE(read) << render(read.error());
  EXPECT_EQ(read->text(5), "cortex-m4");
  EXPECT_EQ(read->number(6), 13U);
  EXPECT_EQ(read->number(28), 1U);
  EXPECT_EQ(read->number(99), 0U) << "what was not recorded is zero";
  EXPECT_EQ(elf::read_attributes(test::bytes_of(section), Order::little, "gnu")->numbers.size(), 0U);
  const std::string riscv = attributes_section("riscv", std::string("\5rv64gc\0\4\x10", 10));
  EXPECT_EQ(elf::read_attributes(test::bytes_of(riscv), Order::little, "riscv")->text(5), "rv64gc");
}

TEST(BuildAttributes, ThatAreDamagedSayWhere) {
  const std::string cut = attributes_section("aeabi", std::string("\6\x0d\7M", 4), 2);
  EXPECT_EQ(render(elf::read_attributes(test::bytes_of(cut), Order::little, "aeabi").error()),
            "at 0xb: build attributes: need 9 bytes, have 7");
  const std::string endless = attributes_section("aeabi", "\5name without an end");
  EXPECT_FALSE(elf::read_attributes(test::bytes_of(endless), Order::little, "aeabi"));
  const std::string backwards = std::string("A\2\0\0\0x\0", 7);
  EXPECT_EQ(render(elf::read_attributes(test::bytes_of(backwards), Order::little, "aeabi").error()),
            "at 0x1: build attributes are shorter than their header");
}

TEST(Bitstream, NumbersAndEnds) {
  const std::string data("\x29\0\0\0", 4);
  bitcode::Bits bits(test::bytes_of(data));
  EXPECT_EQ(bits.fixed(3), 1U);
  EXPECT_EQ(bits.variable(3), 1U) << "the highest bit of a piece says that more follow";
  EXPECT_TRUE(bits);
  (void)bits.fixed(60);
  EXPECT_FALSE(bits) << "more than there is";
  EXPECT_EQ(bits.fixed(1), 0U) << "and nothing after that";
  const std::string endless(64, '\xff');
  bitcode::Bits more(test::bytes_of(endless));
  (void)more.variable(6);
  EXPECT_FALSE(more) << "a number of more than 64 bits";
}

TEST(Cursor, ReadsNumbersOfAnyLength) {
  const std::string data("\xe5\x8e\x26\x7f\xff\xff\xff\xff\xff\xff\xff\xff\xff\xff\xff", 15);
  Cursor c(test::bytes_of(data), Order::little, "numbers");
  EXPECT_EQ(c.uleb128(), 624485U);
  EXPECT_EQ(c.uleb128(), 127U);
  (void)c.uleb128();
  EXPECT_FALSE(c);
}

TEST(Budget, IsAMultipleOfTheFile) {
  const std::string file(1000, 'x');
  Budget budget(test::bytes_of(file));
  EXPECT_TRUE(budget.spend(90'000));
  EXPECT_FALSE(budget.spend(90'000));
  EXPECT_TRUE(budget.spend(1)) << "what was refused was not taken";
}

}  // namespace
