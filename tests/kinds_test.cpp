/// Facts of one small library as every compiler of the machine makes it; the files come from kinds/build.sh.
#include "support/support.hpp"

#include <fibula/fibula.hpp>

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <algorithm>

using namespace fibula;

namespace {

const std::filesystem::path kinds = TEST_KINDS;

/// A file and what its facts must say: "arch=x86_64 configuration=debug"; `-id` must be absent.
struct Case {
  const char* file;
  const char* facts;
};

void PrintTo(const Case& c, std::ostream* stream) {
  *stream << c.file;
}

std::string value_of(const Facts& facts, const std::string& id) {
  for (const auto& row : rows(facts)) {
    if (row.id == id) return to_text(row.value);
  }
  return "(absent)";
}

void expect_facts(const Facts& facts, const std::string& expected) {
  std::istringstream words(expected);
  for (std::string word; words >> word;) {
    const size_t equals = word.find('=');
    const std::string id = word.substr(0, equals);
    std::string wanted = equals == std::string::npos ? "(absent)" : word.substr(equals + 1);
    std::replace(wanted.begin(), wanted.end(), '_', ' ');
    std::string got = value_of(facts, equals == std::string::npos ? id.substr(1) : id);
    std::replace(got.begin(), got.end(), '_', ' ');
    EXPECT_TRUE(got == wanted || (wanted.ends_with('*') && got.starts_with(wanted.substr(0, wanted.size() - 1))))
        << id << " is " << got << ", expected " << wanted;
  }
}

class FactsOf : public testing::TestWithParam<Case> {};

TEST_P(FactsOf, AFile) {
  const auto facts = inspect(kinds / GetParam().file);
  ASSERT_TRUE(facts) << render(facts.error());
  expect_facts(*facts, GetParam().facts);
  for (const auto& row : rows(*facts)) EXPECT_FALSE(row.from.empty()) << row.id;
}

constexpr Case native[] = {
    {"gnu/release.o",
     "format=elf kind=object arch=x86_64 bits=64 endian=little configuration=release language=C debug-info=DWARF_5 "
     "toolset=gcc_12.2.0"},
    {"gnu/debug.o", "configuration=debug build-paths=/* pic=programs-only:*"},
    {"gnu/user.o", "pic=yes language=C -configuration -debug-info -build-paths"},
    {"gnu/nonpic-tide.o", "pic=no:_R_X86_64_32S*"},
    {"gnu/log.o",
     "language=C++ cxx-runtime=libstdc++ string-abi=new stl-debug=off exceptions=table configuration=release"},
    {"gnu/old-string.o", "string-abi=old"},
    {"gnu/libmixed-strings.a", "kind=static string-abi=both"},
    {"gnu/stl-debug.o", "stl-debug=on configuration=debug"},
    {"gnu/sanitized.o", "sanitizers=address,_undefined"},
    {"gnu/coverage.o", "profile=gcov"},
    {"gnu/profiled.o", "profile=gprof"},
    {"gnu/lto-slim.o", "format=gcc-lto arch=x86_64 link-time=GCC_12.0_only"},
    {"gnu/lto-fat.o", "format=elf link-time=GCC_12.0_beside_machine_code"},
    {"gnu/lto-log.o", "format=gcc-lto language=C++ string-abi=new"},
    {"gnu/liblto.a", "kind=static format=gcc-lto"},
    {"gnu/compressed.o", "debug-info=other -build-paths"},
    {"gnu/libtide.so.1", "kind=shared soname=libtide.so.1 search=$ORIGIN needs=nothing -c-runtime pic=yes"},
    {"gnu/librpath.so", "search=/opt/harbour/lib"},
    {"gnu/liblog.so.2", "cxx-runtime=libstdc++ cxx-floor=3.4.* string-abi=new"},
    {"gnu/program", "kind=program os-floor=linux_* c-runtime=glibc"},
    {"gnu/program-fixed", "kind=program"},
    {"gnu/program-static", "kind=program needs=nothing"},
    {"gnu/libtide.a", "kind=static arch=x86_64"},
    {"gnu/libthin.a", "kind=static arch=x86_64"},
    {"gnu/libempty.a", "kind=empty -arch"},
    {"gnu/libscript.so", "format=script kind=script arch=x86_64 needs=libtide.so.1,_liblog.so.2"},
    {"gnu/m32.o", "arch=x86 bits=32"},
    {"gnu/x32.o", "arch=x32 bits=32"},
};

#ifndef FIBULA_NATIVE_ONLY
constexpr Case cross[] = {
    {"cross/aarch64-linux-gnu.o", "arch=aarch64 bits=64 configuration=release"},
    {"cross/arm-linux-gnueabihf.so", "arch=arm bits=32 float-abi=hard cpu-floor=v7-A"},
    {"cross/riscv64-linux-gnu.o", "arch=riscv64 float-abi=double cpu-floor=rv64i* configuration=release"},
    {"cross/s390x-linux-gnu.o", "arch=s390x bits=64 endian=big configuration=release language=C debug-info=DWARF_5"},
    {"cross/s390x-linux-gnu.so", "soname=libtide.so.1 endian=big"},
    {"cross/s390x-linux-gnu-log.o", "string-abi=new cxx-runtime=libstdc++"},
    {"cross/cortex-hard.o", "arch=arm float-abi=hard cpu-floor=v7E-M"},
    {"cross/cortex-softfp.o", "float-abi=softfp"},
    {"cross/cortex-soft.o", "float-abi=soft cpu-floor=v7E-M"},
    {"cross/cortex-m0.o", "float-abi=soft cpu-floor=v6S-M"},
    {"cross/avr5.o", "arch=avr cpu-floor=avr5 c-runtime=avr-libc"},
    {"cross/avr25.o", "cpu-floor=avr25"},
    {"cross/musl.so", "c-runtime=musl -libc-floor -os-floor"},
    {"cross/musl-program", "kind=program c-runtime=musl"},
    {"cross/libcxx.o", "cxx-runtime=libc++ -string-abi"},
    {"cross/libcxx.so", "cxx-runtime=libc++ c-runtime=glibc"},
};

constexpr Case windows[] = {
    {"mingw/x86_64-posix.o", "format=coff kind=object arch=x86_64 threads=posix configuration=release"},
    {"mingw/i686-win32.o", "arch=x86 bits=32 threads=win32"},
    {"mingw/x86_64-posix-log.o", "cxx-runtime=libstdc++ string-abi=new exceptions=seh"},
    {"mingw/i686-posix-log.o", "exceptions=dwarf string-abi=new"},
    {"mingw/x86_64-win32.a", "kind=static arch=x86_64 language=C++"},
    {"mingw/x86_64-posix.dll",
     "format=pe kind=shared dll-name=x86_64-posix.dll c-runtime=msvcrt subsystem=console os-floor=windows_*"},
    {"mingw/i686-posix-log.dll", "arch=x86 cxx-runtime=libstdc++ exceptions=dwarf needs=*"},
    {"mingw/x86_64-win32.dll.a", "format=coff kind=import dll-name=x86_64-win32.dll -language"},
    {"mingw/x86_64-posix.exe", "kind=program subsystem=windows"},
    {"mingw/x86_64-bigobj.o", "format=coff kind=object arch=x86_64"},
    {"mingw/i686-posix-lto.o", "format=gcc-lto link-time=GCC_12.0_only"},
    {"msvc/x86_64-MD.obj", "c-runtime=msvc-dynamic configuration=release cxx-runtime=msvc language=C++"},
    {"msvc/x86_64-MDd.lib", "kind=static c-runtime=msvc-dynamic-debug configuration=debug"},
    {"msvc/i686-MT.obj", "arch=x86 c-runtime=msvc-static configuration=release"},
    {"msvc/aarch64-MTd.lib", "arch=aarch64 c-runtime=msvc-static-debug configuration=debug"},
    {"msvc/x86_64-keys.obj", "c-runtime=msvc-dynamic-debug stl-debug=level_2 toolset=msvc_19.00"},
    {"msvc/x86_64-user.obj", "debug-info=other"},
    {"msvc/x86_64.dll",
     "kind=shared dll-name=x86_64.dll needs=nothing debug-info=CodeView debug-file=/* build-paths=/*"},
    {"msvc/i686.lib", "kind=import arch=x86 dll-name=i686.dll"},
    {"msvc/aarch64.lib", "kind=import arch=aarch64 dll-name=aarch64.dll"},
    {"msvc/debug-runtime.dll",
     "c-runtime=msvc-dynamic-debug configuration=debug cxx-runtime=msvc needs=msvcp140.dll,_VCRUNTIME140D.dll"},
    {"msvc/delayed.dll", "needs=VCRUNTIME140D.dll,_msvcp140.dll_(delayed)"},
};

constexpr Case others[] = {
    {"macos/arm64-release.o",
     "format=macho kind=object arch=aarch64 os-floor=macos_11.0 configuration=release language=C"},
    {"macos/x86_64-debug.o", "arch=x86_64 configuration=debug"},
    {"macos/arm64-ios.o", "os-floor=ios_14.0"},
    {"macos/arm64-plain.o", "language=C++"},
    {"macos/arm64.dylib",
     "kind=shared install-name=@rpath/libtide.dylib search=@loader_path c-runtime=libSystem "
     "debug-info=debug_map"},
    {"macos/arm64-user.dylib",
     "needs=@rpath/libtide.dylib,_@rpath/libtide.dylib_(re-export),_/usr/lib/libSystem.B.dylib"},
    {"macos/x86_64.bundle", "kind=plugin"},
    {"macos/arm64-program", "kind=program c-runtime=libSystem"},
    {"macos/arm64.a", "kind=static format=macho arch=aarch64"},
    {"macos/v5.tbd", "format=stub kind=shared install-name=/usr/lib/libtide.dylib arch=aarch64"},
    {"bitcode/linux.o", "format=bitcode arch=x86_64 link-time=LLVM_14.0.6_only"},
    {"bitcode/macos.o", "format=bitcode arch=aarch64"},
    {"bitcode/windows.obj", "format=bitcode arch=x86 bits=32"},
    {"bitcode/bitcode.a", "kind=static format=bitcode"},
};

#endif

std::string name_of(const testing::TestParamInfo<Case>& info) {
  std::string name = info.param.file;
  std::replace_if(
      name.begin(), name.end(), [](char c) { return !std::isalnum(static_cast<unsigned char>(c)); }, '_');
  return name;
}

INSTANTIATE_TEST_SUITE_P(Native, FactsOf, testing::ValuesIn(native), name_of);
#ifndef FIBULA_NATIVE_ONLY
INSTANTIATE_TEST_SUITE_P(Cross, FactsOf, testing::ValuesIn(cross), name_of);
INSTANTIATE_TEST_SUITE_P(Windows, FactsOf, testing::ValuesIn(windows), name_of);
INSTANTIATE_TEST_SUITE_P(Others, FactsOf, testing::ValuesIn(others), name_of);

TEST(Toolset, IsTheVersionAndNoDateOrCommit) {
  const std::pair<const char*, NamedVersion> cases[] = {
      {"GCC: (GNU) 4.9.x 20150123 (prerelease)", {"gcc", "4.9.x"}},
      {"GCC: (15:12.2.rel1-1) 12.2.1 20221205", {"gcc", "12.2.1"}},
      {"Harbour (7155654, based on r399163b1) clang version 11.0.5 (https://quay.example/llvm 87f1315d)",
       {"clang", "11.0.5"}},
      {"GCC: (GNU) 13", {"gcc", "13"}},
  };
  const test::Folder folder;
  for (const auto& [record, toolset] : cases) {
    folder.write("t.s", fmt::format(".ident \"{}\"\n.globl tide\ntide: ret\n", record));
    test::must("gcc -c t.s -o t.o", folder.path());
    const auto facts = inspect(folder.path() / "t.o");
    ASSERT_TRUE(facts && facts->toolset) << record;
    EXPECT_EQ(*facts->toolset.value, toolset) << record;
  }
}

TEST(Slices, EachHasItsOwnFacts) {
  const auto fat = inspect(kinds / "macos/fat.dylib");
  ASSERT_TRUE(fat);
  ASSERT_EQ(fat->slices.size(), 2U);
  expect_facts(fat->slices[0], "arch=x86_64 kind=shared");
  expect_facts(fat->slices[1], "arch=aarch64 install-name=@rpath/libtide.dylib");
  const auto archive = inspect(kinds / "macos/fat.a");
  EXPECT_EQ(archive->slices.at(1).kind.value, Kind::static_library);
  const auto stub = inspect(kinds / "macos/v4.tbd");
  ASSERT_EQ(stub->slices.size(), 2U);
  EXPECT_EQ(stub->slices[1].defined_count, stub->slices[0].defined_count + 1) << "_only_arm";
  expect_facts(stub->slices[1], "needs=/usr/lib/libmoon.dylib_(re-export) os-floor=macos");
  EXPECT_EQ(inspect(kinds / "macos/v3.tbd")->slices.at(1).defined_count, 3U) << "a class stands for two symbols";
}

/// What every symbol of a file is, in one line each.
std::vector<std::string> symbol_lines(const std::string& file) {
  std::vector<std::string> lines;
  const auto count = visit_symbols(kinds / file, [&](const SymbolView& s) {
    lines.push_back(fmt::format("{} {} {} {}{}{}", s.defines ? "defines" : "needs", to_string(s.kind),
                                to_string(s.binding), readable_name(s.name), s.library.empty() ? "" : " from ",
                                s.library));
  });
  EXPECT_EQ(count.value_or(0), lines.size());
  std::sort(lines.begin(), lines.end());
  return lines;
}

TEST(Symbols, AreToldApart) {
  using Lines = std::vector<std::string>;
  EXPECT_GE(visit_archive_index(kinds / "msvc/x86_64.lib", [](auto, auto) {}).value_or(0), 5U);
  EXPECT_EQ(symbol_lines("msvc/x86_64-MD.obj"),
            (Lines{"defines data global ?pointer@@3P6AHXZEA", "defines function global ?level@tide@@YAHH@Z",
                   "defines function global ?two@@YAHXZ"}));
  EXPECT_EQ(
      symbol_lines("msvc/x86_64.lib"),
      (Lines{"defines data global __IMPORT_DESCRIPTOR_x86_64", "defines data global __NULL_IMPORT_DESCRIPTOR",
             "defines data global __imp_tide_height from x86_64.dll",
             "defines data global __imp_tide_level from x86_64.dll", "defines data global \x7fx86_64_NULL_THUNK_DATA",
             "defines function global tide_height from x86_64.dll", "needs none global __NULL_IMPORT_DESCRIPTOR",
             "needs none global \x7fx86_64_NULL_THUNK_DATA"}));
  EXPECT_EQ(symbol_lines("macos/arm64.dylib").back(),
            "needs none global dyld_stub_binder from /usr/lib/libSystem.B.dylib");
  EXPECT_EQ(symbol_lines("macos/arm64-plain.o"),
            (Lines{"defines data global _pointer", "defines function global tide::level(int)",
                   "defines function weak two()"}));
  EXPECT_EQ(symbol_lines("msvc/debug-runtime.dll").at(0), "defines indirect global forwarded from msvcp140.f");
  EXPECT_EQ(
      symbol_lines("bitcode/linux.o"),
      (Lines{"defines data global common_mark", "defines function global mooring", "defines function weak moon_phase",
             "needs function global tide_height", "needs none global tide_level"}));
  EXPECT_EQ(symbol_lines("gnu/lto-slim.o"),
            (Lines{"defines none global tide_height", "defines none global tide_level"}));
  EXPECT_EQ(symbol_lines("mingw/x86_64-posix-lto.o"),
            (Lines{"defines none global tide_height", "defines none global tide_level"}));
}

#endif

TEST(Symbols, OfAnArchiveComeFromItsTableToo) {
  std::vector<std::string> names;
  const auto count =
      visit_archive_index(kinds / "gnu/libtide.a", [&](std::string_view name, uint64_t) { names.emplace_back(name); });
  EXPECT_EQ(count.value_or(0), 5U);
  EXPECT_EQ(names.front(), "tide_height");
  EXPECT_EQ(visit_archive_index(kinds / "gnu/libbsd.a", [](auto, auto) {}).value_or(0), 5U);
  const auto none = visit_archive_index(kinds / "gnu/program", [](auto, auto) {});
  ASSERT_FALSE(none);
  EXPECT_NE(render(none.error()).find("is no archive"), std::string::npos);
}

/// What `pic` says is what the linker says.
TEST(Pic, IsAsTheLinkerHasIt) {
  const test::Folder folder;
  size_t refused = 0;
  for (const char* name : {"release.o", "user.o", "nonpic.o", "nonpic-tide.o", "log.o", "common.o"}) {
    SCOPED_TRACE(name);
    const auto file = (kinds / "gnu" / name).string();
    const auto level = inspect(file)->pic.value->level;
    const auto links = [&](const std::string& how) {
      return test::shell(how + " '" + file + "' -o out", folder.path()).status == 0;
    };
    EXPECT_EQ(links("ld.bfd -shared"), level == Pic::yes);
    EXPECT_EQ(links("ld.bfd -pie --unresolved-symbols=ignore-all"), level != Pic::no);
    refused += level == Pic::yes ? 0U : 1U;
  }
  EXPECT_GE(refused, 3U);
}

/// A script that names itself, or one file over and over, is followed once.
TEST(Script, IsFollowedToEachFileOnce) {
  const test::Folder folder;
  folder.write("libtide.so.1", test::read(kinds / "gnu/libtide.so.1"));
  std::string names;
  for (int i = 0; i < 5000; ++i) names += i % 2 == 0 ? "libself.so " : "./libtide.so.1 libtide.so.1 ";
  folder.write("libself.so", "GROUP ( " + names + ")");
  const auto facts = inspect(folder / "libself.so");
  ASSERT_TRUE(facts);
  EXPECT_EQ(facts->members.size(), 1U);
  EXPECT_EQ(facts->arch.value, Arch::x86_64);
}

TEST(Archive, TellsWhatIsWrongWithItsTable) {
  const test::Folder folder;
  const std::string in = " && cp '" + (kinds / "gnu").string() + "/'*.o .";
  test::must("true" + in, folder.path());
  std::string stale = test::read(kinds / "gnu/libtide.a");  // its table stands first
  folder.write("stale.a", stale.replace(stale.find("tide_level"), 4, "moon"));
  test::must("ar rcST thin.a user.o && rm user.o && ar rcS bare.a debug.o", folder.path());
  const auto note = [&](const char* file) { return inspect(folder / file)->notes.at(0); };
  EXPECT_EQ(
      note("stale.a"),
      "the archive's symbol table is stale: member release.o does not define what it says; run ranlib on the archive");
  EXPECT_EQ(note("bare.a"), "the archive has no symbol table: run ranlib on it");
  EXPECT_EQ(note("thin.a").substr(0, 24), "member user.o is gone: a");
  EXPECT_TRUE(inspect(kinds / "gnu/libtide.a")->notes.empty());
}

}  // namespace
