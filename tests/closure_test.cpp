/// The run-time files behind `inspect --needs`, checked against the real loader where one runs here.
#include "support/support.hpp"

#include <fibula/fibula.hpp>

#include <fmt/format.h>
#include <gtest/gtest.h>

using namespace fibula;

namespace {

/// `name status why` of each need that is not part of the system.
std::vector<std::string> own_needs(const std::filesystem::path& file) {
  const auto closure = closure_of(file);
  EXPECT_TRUE(closure) << render(closure.error());
  std::vector<std::string> lines;
  for (const auto& entry : *closure) {
    if (entry.status != NeedStatus::system) lines.push_back(fmt::format("{} {}", entry.name, to_string(entry.status)));
  }
  return lines;
}

/// A program that needs libtide, which needs libmoon; `links` are the last options of the three.
struct Chain {
  test::Folder folder;
  Chain(const std::string& program, const std::string& tide, const std::string& where = "lib") {
    folder.write("moon.c", "int moon(void) { return 1; }");
    folder.write("tide.c", "int moon(void); int tide(void) { return moon(); }");
    folder.write("main.c", "int tide(void); int main(void) { return tide() - 1; }");
    test::must(fmt::format("mkdir -p {0} && gcc -shared -fPIC moon.c -o {0}/libmoon.so && gcc -shared -fPIC tide.c "
                           "-L{0} -lmoon {2} -o {0}/libtide.so && "
                           "gcc main.c -L{0} -ltide -Wl,-rpath-link,{0} {1} -o main",
                           where, program, tide),
               folder.path());
  }
  bool starts() const { return test::shell("./main", folder.path()).status == 0; }
};

TEST(Closure, GoesTheLoadersWay) {
  using Lines = std::vector<std::string>;
  struct Case {
    const char* what;
    const char* program;
    const char* tide;
    Lines needs;
    bool starts;
  };
  const std::string origin = "-Wl,-rpath,'$ORIGIN/lib'";
  const Case cases[] = {
      {"run paths in both",
       "-Wl,--enable-new-dtags,-rpath,'$ORIGIN/lib'",
       "-Wl,--enable-new-dtags,-rpath,'$ORIGIN'",
       {"libtide.so found", "libmoon.so found"},
       true},
      {"a run path does not serve the needs of needs",
       "-Wl,--enable-new-dtags,-rpath,'$ORIGIN/lib'",
       "",
       {"libtide.so found", "libmoon.so by-luck"},
       false},
      {"the older kind of run path does",
       "-Wl,--disable-new-dtags,-rpath,'$ORIGIN/lib'",
       "",
       {"libtide.so found", "libmoon.so found"},
       true},
      {"no run path", "", "", {"libtide.so missing"}, false},
  };
  for (const auto& c : cases) {
    SCOPED_TRACE(c.what);
    const Chain chain(c.program, c.tide);
    EXPECT_EQ(own_needs(chain.folder / "main"), c.needs);
    EXPECT_EQ(chain.starts(), c.starts);
  }
}

TEST(Closure, TellsTheWrongMachineAndTheMissingVersion) {
  const Chain chain("-Wl,-rpath,'$ORIGIN/lib'", "-Wl,-rpath,'$ORIGIN'");
  test::must("gcc -m32 -shared -fPIC moon.c -o lib/libmoon.so", chain.folder.path());
  EXPECT_EQ(own_needs(chain.folder / "main").back(), "libmoon.so wrong-architecture");
  EXPECT_FALSE(chain.starts());
  chain.folder.write("v1.map", "V1 { moon; };");
  chain.folder.write("v2.map", "V2 { moon; };");
  test::must(
      "gcc -shared -fPIC moon.c -Wl,--version-script=v1.map -o lib/libmoon.so && gcc -shared -fPIC tide.c -Llib -lmoon "
      "-Wl,-rpath,'$ORIGIN' -o lib/libtide.so && "
      "gcc -shared -fPIC moon.c -Wl,--version-script=v2.map -o lib/libmoon.so",
      chain.folder.path());
  EXPECT_EQ(own_needs(chain.folder / "main").back(), "libmoon.so lacks-version");
  EXPECT_FALSE(chain.starts());
}

TEST(Closure, IsShownByInspectAndDecidesItsStatus) {
  const test::Workplace place;
  const Chain good("-Wl,-rpath,'$ORIGIN/lib'", "-Wl,-rpath,'$ORIGIN'"), bad("", "");
  const auto shown = place.fibula("inspect --needs " + (good.folder / "main").string());
  EXPECT_EQ(shown.status, 0);
  EXPECT_NE(shown.out.find("libtide.so            found   "), std::string::npos) << shown.out;
  EXPECT_NE(shown.out.find("for libtide.so"), std::string::npos) << shown.out;
  EXPECT_EQ(place.fibula("inspect --needs " + (bad.folder / "main").string()).status, 1);
  const auto archive =
      place.fibula("inspect --needs " + (std::filesystem::path(TEST_KINDS) / "gnu/libtide.a").string());
  EXPECT_EQ(archive.status, 1);
  EXPECT_NE(archive.err.find("needs no run-time files: only programs and shared libraries do"), std::string::npos);
}

#ifndef FIBULA_NATIVE_ONLY
TEST(Closure, OfOtherSystems) {
  using Lines = std::vector<std::string>;
  const std::filesystem::path kinds = TEST_KINDS;
  EXPECT_EQ(own_needs(kinds / "mingw/i686-posix-log.dll"),
            (Lines{"libgcc_s_dw2-1.dll missing", "libstdc++-6.dll missing"}));
  EXPECT_EQ(own_needs(kinds / "msvc/debug-runtime.dll"), (Lines{"msvcp140.dll missing", "VCRUNTIME140D.dll missing"}));
  EXPECT_EQ(own_needs(kinds / "macos/arm64-user.dylib"), (Lines{"@rpath/libtide.dylib missing"}));
  EXPECT_EQ(own_needs(kinds / "cross/musl-program"), Lines{});
  const test::Folder folder;
  folder.write("user.dylib", test::read(kinds / "macos/x86_64-user.dylib"));
  folder.write("libtide.dylib", test::read(kinds / "macos/fat.dylib"));
  EXPECT_EQ(own_needs(folder / "user.dylib"), Lines{"@rpath/libtide.dylib by-luck"});
  folder.write("libtide.dylib", test::read(kinds / "macos/arm64.dylib"));
  EXPECT_EQ(own_needs(folder / "user.dylib"), Lines{"@rpath/libtide.dylib wrong-architecture"});
}
#endif

}  // namespace
