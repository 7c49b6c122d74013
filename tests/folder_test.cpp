/// A folder as it came: the tree that `inspect` shows, and what it finds odd.
#include "support/support.hpp"

#include <fibula/fibula.hpp>

#include <fmt/format.h>
#include <gtest/gtest.h>

using test::Workplace;

namespace {

#ifndef FIBULA_NATIVE_ONLY
TEST(Folder, OfADownloadIsShownWithWhatIsOddAboutIt) {
  const Workplace place;
  test::must(fmt::format("'{}/demo/build_download.sh' '{}'", FIBULA_SOURCE, (place / "work").string()));
  const auto ran = place.fibula("inspect beacon-1.4");
  EXPECT_EQ(ran.status, 3) << "one file is none of what its name says";
  const char* lines[] = {
      "    include  2 headers  first beacon/beacon.h\n",
      "  32-bit x86 pe/coff\n",
      "    bin/x86/beacon.dll              shared\n",
      "    lib/x64/release/beacon.lib      import                               runs with bin/x64/beacon.dll\n",
      "    lib/x64/debug/beacon_s.lib      static  debug    msvc-dynamic-debug\n",
      "    lib/linux/libbeacon.so.1.4      shared  release                      found as libbeacon.so.1; also as "
      "libbeacon.so\n",
      "  x86_64 and aarch64 macho\n    lib/macos/libbeacon.dylib       shared\n",
      "    lib/x64/release/beacon_old.lib\n      is 32-bit x86 coff, though its path says x64\n"
      "      is a debug build, though its path says release (directive /DEFAULTLIB:msvcrtd.lib in beacon.obj)\n",
      "    lib/linux/libbeacon.so.1.4\n      programs will look for it as libbeacon.so.1, and there is no file or link "
      "of that name "
      "beside it\n",
  };
  for (const char* line : lines) EXPECT_NE(ran.out.find(line), std::string::npos) << line << "\nin\n" << ran.out;
  EXPECT_NE(
      ran.err.find("sector.lib: is a pointer of a large-file store, not a library\n  remedy: fetch the file itself"),
      std::string::npos)
      << ran.err;
}

TEST(Folder, PairsImportLibrariesByNameAndMachine) {
  const auto view = fibula::look_over(std::filesystem::path(TEST_KINDS) / "msvc");
  ASSERT_TRUE(view);
  std::map<std::string, std::string> relations;
  for (const auto& binary : view->binaries) relations[binary.path] = binary.belongs_to;
  EXPECT_EQ(relations.at("x86_64.lib"), "runs with x86_64.dll");
  EXPECT_EQ(relations.at("i686.lib"), "runs with i686.dll");
  EXPECT_EQ(relations.at("msvcp140.lib"), "for msvcp140.dll");
}
#endif

struct Odd {
  const char* file;  ///< where the file is put
  const char* kind;  ///< what is put there
  const char* what;  ///< empty: nothing may be odd
};

TEST(Folder, PathsAreHeldAgainstWhatIsInTheFiles) {
  const Odd cases[] = {
      {"include/x.h lib/x64/libtide.a", "gnu/libtide.a", ""},
      {"include/x.h lib/x86_64-release/libtide.a", "gnu/libtide.a", ""},
      {"include/x.h lib/win32_x64/libtide.a", "gnu/libtide.a", ""},
      {"include/x.h lib/x86/libtide.a", "gnu/libtide.a",
       "lib/x86/libtide.a: is 64-bit x86_64 elf, though its path says x86"},
      {"include/x.h lib/debug/libtide.a", "gnu/libtide.a",
       "lib/debug/libtide.a: is a release build, though its path says debug (recorded option -O2 in release.o)"},
      {"include/x.h static/libtide.so.1", "gnu/libtide.so.1",
       "static/libtide.so.1: is a shared library, though its path says static"},
      {"include/x.h shared/libtide.a", "gnu/libtide.a",
       "shared/libtide.a: is a static library, though its path says shared"},
      {"include/x.h lib/libempty.a", "gnu/libempty.a", "lib/libempty.a: is an archive without members"},
      {"include/x.h lib/libtide.so.1.2", "gnu/libtide.so.1",
       "lib/libtide.so.1.2: programs will look for it as libtide.so.1, and there is no file or link of that name "
       "beside it"},
      {"lib/libtide.a", "gnu/libtide.a",
       ".: there are libraries in here, and no header: what programs include is not among them"},
      {"include/x.h", "",
       "include: holds headers, and neither a library nor sources to them are in here: headers only, or half of the "
       "download"},
      {"include/x.h src/x.c asm/x.S", "", ""},
  };
  for (const auto& c : cases) {
    SCOPED_TRACE(c.file);
    const test::Folder folder;
    std::istringstream files(c.file);
    for (std::string file; files >> file;) {
      const bool code = file.ends_with(".h") || *c.kind == '\0';
      folder.write(file, code ? "int tide_height(int);\n" : test::read(std::filesystem::path(TEST_KINDS) / c.kind));
    }
    const auto view = fibula::look_over(folder.path());
    ASSERT_TRUE(view);
    std::string odd;
    for (const auto& oddity : view->odd) odd += oddity.file + ": " + oddity.what;
    EXPECT_EQ(odd, c.what);
  }
}

TEST(Folder, OfNothingSaysSo) {
  const Workplace place;
  std::filesystem::create_directory(place / "work/empty");
  EXPECT_EQ(place.fibula("inspect empty").out,
            "empty\n  no header, source, object file, archive or shared library in there\n");
  place.folder().write("work/links/include/x.h", "int x;\n");
  std::filesystem::create_symlink("nowhere.so.1", place / "work/links/libx.so");
  const auto json = place.fibula_json("inspect links");
  EXPECT_EQ(json["folders"][0]["odd"][0],
            (nlohmann::json{{"file", "libx.so"}, {"what", "is a link to nowhere.so.1, which is not there"}}));
  EXPECT_EQ(json["folders"][0]["headers"][0], (nlohmann::json{{"path", "include"}, {"count", 1}, {"first", "x.h"}}));
}

}  // namespace
