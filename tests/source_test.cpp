/// Libraries that come as source: taken, built once for each lane, and used where they lie.
#include "support/situations.hpp"

#include <fmt/format.h>
#include <gtest/gtest.h>

using test::check;
using test::desk;
using test::Files;
using test::one_program;
using test::with;
using test::Workplace;
using test::write_all;
namespace fs = test::fs;

namespace {

const std::string with_pebble = one_program + "[library.pebble]\n";

/// Two sources of which one is to be chosen, one that needs the other files, and a header that says what is there.
const Files pebble = {
    {"pebble-1.2/include/pebble.h",
     "#define PEBBLE_VERSION \"1.2\"\nint pebble_read(void);\nint pebble_bus(void);\n#ifdef PEBBLE_EXTRA\n"
     "int pebble_extra(void);\n#endif\n"},
    {"pebble-1.2/src/pebble.c",
     "#include \"pebble.h\"\n#include \"raw.h\"\nint pebble_read(void) { return pebble_raw() + pebble_bus(); }\n"
     "#ifdef PEBBLE_EXTRA\nint pebble_extra(void) { return 5; }\n#endif\n"},
    {"pebble-1.2/src/raw.h", "int pebble_raw(void);\n"},
    {"pebble-1.2/src/raw.c", "#include \"raw.h\"\nint pebble_raw(void) { return 40; }\n"},
    {"pebble-1.2/src/bus_spi.c", "int pebble_bus(void) { return 1; }\n"},
    {"pebble-1.2/src/bus_twi.c", "int pebble_bus(void) { return 2; }\n"},
    {"pebble-1.2/tools/show.c", "#include \"help.h\"\nint main(void) { return help(); }\n"},
    {"pebble-1.2/tools/help.c", "#include \"help.h\"\nint help(void) { return 0; }\n"},
    {"pebble-1.2/tools/help.h", "int help(void);\n"},
    {"main.c",
     "#include <pebble.h>\nint main(void) {\n#ifdef PEBBLE_EXTRA\n  return pebble_read() + pebble_extra();\n#else\n"
     "  return pebble_read();\n#endif\n}\n"}};

const std::string take = "$FIBULA take pebble-1.2 >/dev/null && ";

TEST(Source, ChoicesAndDefinitionsReachLibraryAndUsers) {
  check({
      {"the default", with(pebble, {{"fibula.toml", with_pebble + desk}}), take + "$FIBULA build --run", 41, {}},
      {"what the project picks",
       with(pebble, {{"fibula.toml", with_pebble + "choices = { bus = \"twi\" }\n" + desk}}),
       take + "$FIBULA build --run",
       42,
       {}},
      {"what a lane picks",
       with(pebble,
            {{"fibula.toml", with_pebble + desk + "[lane.desk.library.pebble]\nchoices = { bus = \"twi\" }\n"}}),
       take + "$FIBULA build --run",
       42,
       {}},
      {"a definition",
       with(pebble, {{"fibula.toml", with_pebble + "definitions = [\"PEBBLE_EXTRA\"]\n" + desk}}),
       take + "$FIBULA build --run",
       46,
       {}},
      {"no such alternative",
       with(pebble, {{"fibula.toml", with_pebble + "choices = { bus = \"can\" }\n" + desk}}),
       take + "$FIBULA build",
       1,
       {"fibula.toml:4 chooses bus = \"can\"", "bus of pebble 1.2 can be spi, twi", "left out it is spi"}},
      {"no such choice",
       with(pebble, {{"fibula.toml", with_pebble + "choices = { boat = \"twi\" }\n" + desk}}),
       take + "$FIBULA fit",
       1,
       {"pebble 1.2 has the choices bus"}},
      {"a choice that is no text",
       with(pebble, {{"fibula.toml", with_pebble + "choices = { bus = 1 }\n" + desk}}),
       take + "$FIBULA fit",
       3,
       {"fibula.toml:5: choice bus must be a text"}},
  });
}

TEST(Source, FitTellsWhatIsToBuildAndNothingMore) {
  check({{"before the first build",
          with(pebble, {{"fibula.toml", with_pebble + desk}}),
          take + "$FIBULA fit && $FIBULA fit --json | grep -q '\"to_build\": \"3 sources to compile\"'",
          0,
          {"… to build", "pebble 1.2 comes as source, 3 sources to compile: fibula build makes it"},
          {"misfit", "undefined"}},
         {"after it",
          with(pebble, {{"fibula.toml", with_pebble + desk}}),
          take + "$FIBULA build >/dev/null && $FIBULA fit",
          0,
          {"✓ static"},
          {"to build"}}});
}

TEST(Source, BuiltOnceForAllProjectsWithTheSameSettings) {
  const Workplace place;
  write_all(place, with(pebble, {{"fibula.toml", with_pebble + desk}}));
  ASSERT_EQ(place.shell(take + "$FIBULA build").status, 0);
  EXPECT_NE(place.shell("$FIBULA build").all().find("nothing to do"), std::string::npos);
  const auto second = place.shell("mkdir other && cp main.c fibula.toml other && $FIBULA -C other build");
  EXPECT_EQ(second.status, 0) << second.all();
  EXPECT_EQ(second.all().find("pebble:"), std::string::npos) << second.all();
  // Other settings are another library.
  const auto third = place.shell(
      "echo '[lane.wide]\ncompiler = \"gcc\"\nflags = [\"-O3\"]' >> other/fibula.toml && $FIBULA -C other build");
  EXPECT_NE(third.all().find("wide compile pebble: src/pebble.c"), std::string::npos) << third.all();
  // Flags that only ask for warnings make nothing else.
  const auto fourth = place.shell(
      "echo '[lane.warned]\ncompiler = \"gcc\"\nflags = [\"-Wall\", \"-Werror\"]' >> other/fibula.toml && $FIBULA -C "
      "other build");
  EXPECT_EQ(fourth.all().find("pebble:"), std::string::npos) << fourth.all();
  // What was taken off the shelf takes with it what was built.
  EXPECT_EQ(place.shell("$FIBULA shelf drop pebble 1.2 && find \"$FIBULA_SHELF/.built\" -type f | grep .").status, 1);
}

TEST(Source, NothingOfThisMachineGetsIntoKeysAndFiles) {
  const Workplace place;
  write_all(
      place,
      with(pebble, {{"fibula.toml", with_pebble + "[lane.desk]\ncompiler = \"gcc\"\nconfiguration = \"debug\"\n"}}));
  const std::string list = " && find . -name '*.a' -exec sha256sum {} + | sort > ";
  const auto built = place.shell(
      take + "$FIBULA build >/dev/null && here=$PWD && (cd \"$FIBULA_SHELF/.built\"" + list +
      "$here/one) && ! grep -r \"$PWD\" \"$FIBULA_SHELF/.built\" --include=*.a && mkdir far && cp -r pebble-1.2 main.c "
      "fibula.toml far && cd far && export FIBULA_SHELF=$PWD/shelf2 && $FIBULA take pebble-1.2 >/dev/null && $FIBULA "
      "build "
      ">/dev/null && (cd shelf2/.built" +
      list + "$here/two) && cd .. && diff one two && [ -s two ]");
  EXPECT_EQ(built.status, 0) << built.all();
}

TEST(Source, SharedStaticAndDamaged) {
  check({
      {"shared",
       with(pebble, {{"fibula.toml", with_pebble + "linkage = \"shared\"\n" + desk}}),
       take + "$FIBULA build --run; ls .fibula/desk/bin",
       0,
       {"libpebble.so"}},
      {"what was damaged is built again",
       with(pebble, {{"fibula.toml", with_pebble + desk}}),
       take + "$FIBULA build >/dev/null && find \"$FIBULA_SHELF/.built\" -name '*.a' -delete && $FIBULA build --run",
       41,
       {"archive pebble"}},
      {"a shelf that cannot be written to",
       with(pebble, {{"fibula.toml", with_pebble + desk}}),
       take + "touch \"$FIBULA_SHELF/.built\" && $FIBULA build --run; $FIBULA build",
       0,
       {"nothing to do"}},
      {"one that comes built as well",
       {{"q/include/q.h", "#define Q_VERSION \"1.0\"\nint q(void);\n"},
        {"q.c", "int q(void) { return 7; }\n"},
        {"main.c", "#include <q.h>\nint main(void) { return q(); }\n"},
        {"fibula.toml", one_program + "[library.q]\n" + desk}},
       "gcc -c q.c && ar rcs q/libq.a q.o && $FIBULA take q >/dev/null && $FIBULA build --run",
       7,
       {},
       {"compile q:"}},
  });
}

const std::string card = "\"$FIBULA_SHELF/pebble/1.2/card.toml\"";
/// The taken card with another end; what a person would write.
std::string with_source(const std::string& source) {
  return take + "chmod u+w " + card + " && sed -i '/^\\[source/,$d' " + card + " && cat >> " + card + " <<'CARD'\n" +
         source + "CARD\n";
}

TEST(Source, CardsSayWhatIsCompiledWhere) {
  const Files files = with(pebble, {{"fibula.toml", with_pebble + desk}});
  check({
      {"patterns, leave-outs and a part for this system",
       files,
       with_source(
           "[source]\ncompile = [\"src/*.c\"]\nleave-out = [\"src/bus_*.c\"]\n[[source.part]]\nsystem = [\"linux\"]\n"
           "compile = [\"src/bus_twi.c\"]\n[[source.part]]\nsystem = [\"windows\"]\ncompile = [\"src/bus_spi.c\"]\n") +
           "$FIBULA build --run",
       42,
       {}},
      {"a header that a configure step would have made",
       with(files, {{"pebble-1.2/src/raw.c", "#include \"made.h\"\nint pebble_raw(void) { return MADE_BITS; }\n"}}),
       with_source("[source]\ncompile = [\"src/pebble.c\", \"src/raw.c\", \"src/bus_spi.c\"]\n[[source.header]]\npath "
                   "= \"made.h\"\n"
                   "text = '''\n#define MADE_BITS @bits@\n'''\n") +
           "$FIBULA build --run",
       65,
       {}},
      {"flags for users",
       files,
       with_source("[source]\ncompile = [\"src/pebble.c\", \"src/raw.c\", \"src/bus_spi.c\"]\nuser-definitions = "
                   "[\"PEBBLE_EXTRA\"]\n"
                   "user-flags = [\"-fno-common\"]\n") +
           "$FIBULA build --run; grep -c fno-common .fibula/desk/compile.rsp",
       0,
       {"1"}},
      {"a pattern that finds nothing",
       files,
       with_source("[source]\ncompile = [\"source/*.c\"]\n") + "$FIBULA build",
       1,
       {"card.toml names \"source/*.c\" among the sources", "correct the card"}},
      {"a source that nothing compiles",
       files,
       with_source("[source]\ncompile = [\"src/pebble.c\", \"src/raw.c\"]\n") + "$FIBULA build",
       1,
       {"src/bus_spi.c of pebble 1.2 defines it, and is not compiled into the library in this lane"}},
      {"outside of the library",
       files,
       with_source("[source]\ncompile = [\"../x.c\"]\n") + "$FIBULA build",
       3,
       {"write it relative to the library's files"}},
      {"a system that is none",
       files,
       with_source("[source]\ncompile = [\"src/raw.c\"]\n[[source.part]]\nsystem = [\"beos\"]\n") + "$FIBULA fit",
       3,
       {"no system is called \"beos\"", "linux, windows, macos, bare-metal"}},
      {"a part for always",
       files,
       with_source("[source]\ncompile = [\"src/raw.c\"]\n[[source.part]]\ncompile = [\"src/pebble.c\"]\n") +
           "$FIBULA fit",
       3,
       {"names no condition"}},
      {"a condition on no choice",
       files,
       with_source("[source]\ncompile = [\"src/raw.c\"]\n[[source.part]]\nchoice = [\"bus=twi\"]\n") + "$FIBULA fit",
       3,
       {"is for choice \"bus=twi\", which is none"}},
      {"a default that is none",
       files,
       with_source(
           "[source]\ncompile = [\"src/raw.c\"]\n[source.choice.bus]\ndefault = \"can\"\n[source.choice.bus.spi]\n") +
           "$FIBULA fit",
       3,
       {"has no alternative \"can\"", "there are spi"}},
      {"a code that does not compile stops its users alone",
       with(files, {{"pebble-1.2/src/raw.c", "int pebble_raw(void) { return no_such_name; }\n"},
                    {"other.c", "int main(void) { return 0; }\n"},
                    {"fibula.toml",
                     with_pebble + "[[output]]\nname = \"other\"\nsources = [\"other.c\"]\nuses = []\n" + desk}}),
       take + "$FIBULA build",
       1,
       {"compile pebble: src/raw.c failed", "no_such_name", "compiling it failed in lane desk",
        "built in part, not p"}},
  });
}

TEST(Source, LibrariesThatNeedEachOtherAreBuiltInOrder) {
  const Files cairn = {
      {"cairn-2/include/cairn.h", "#include <pebble.h>\n#define CAIRN_VERSION \"2.0\"\nint cairn(void);\n"},
      {"cairn-2/src/cairn.c", "#include \"cairn.h\"\nint cairn(void) { return pebble_read() + 1; }\n"},
      {"main.c", "#include <cairn.h>\nint main(void) { return cairn(); }\n"}};
  check({{"static",
          with(with(pebble, cairn), {{"fibula.toml", one_program + "[library.cairn]\n" + desk}}),
          take + "$FIBULA take cairn-2 && $FIBULA build --run",
          42,
          {"cairn: src/cairn.c"}},
         {"shared, of which one is not built",
          with(with(pebble, cairn), {{"pebble-1.2/src/raw.c", "#error no\n"},
                                     {"fibula.toml", one_program + "[library.cairn]\nlinkage = \"shared\"\n" + desk}}),
          take + "$FIBULA take cairn-2 && $FIBULA build --run",
          1,
          {"pebble, which it requires, is not built"}}});
}

TEST(Source, FoldersAreUsedWhereTheyLieAndSeenWhenTheyChange) {
  const Workplace place;
  write_all(place,
            with(pebble, {{"app/fibula.toml", one_program + "[library.pebble]\nfolder = \"../pebble-1.2\"\n" + desk},
                          {"app/main.c", "#include <pebble.h>\nint main(void) { return pebble_read(); }\n"}}));
  const auto build = [&](const std::string& before) { return place.shell(before + "$FIBULA -C app build --run"); };
  EXPECT_EQ(build("").status, 41);
  EXPECT_NE(place.shell("$FIBULA -C app build").all().find("nothing to do"), std::string::npos);
  const auto changed = build("sed -i 's/40/50/' pebble-1.2/src/raw.c && ");
  EXPECT_EQ(changed.status, 51) << changed.all();
  EXPECT_NE(changed.all().find("pebble: src/raw.c"), std::string::npos) << changed.all();
  EXPECT_EQ(changed.all().find("pebble: src/pebble.c"), std::string::npos) << changed.all();
  EXPECT_EQ(build("echo 'int pebble_raw(void) { return 3; }' > pebble-1.2/src/raw.c && ").status, 4);
  // A source that comes to it is found.
  EXPECT_EQ(build("printf 'int deep(void) { return 9; }\\n' > pebble-1.2/src/deep.c && "
                  "printf 'int deep(void);\\nint pebble_raw(void) { return deep(); }\\n' > pebble-1.2/src/raw.c && ")
                .status,
            10);
  EXPECT_NE(place.shell("$FIBULA -C app build").all().find("nothing to do"), std::string::npos);
  const auto gone = build("rm -r pebble-1.2 && ");
  EXPECT_NE(gone.status, 0);
  EXPECT_NE(gone.all().find("is no folder, so no library lies there"), std::string::npos) << gone.all();
}

TEST(Source, WhatLiesElsewhereIsHeldByTheLockAndWhatLiesInsideIsNot) {
  const std::string uses = one_program + "[library.pebble]\nfolder = \"{}\"\n" + desk;
  const std::string change =
      " && printf 'int pebble_raw(void) {{ return 3; }}\\n' > {}/src/raw.c && $FIBULA -C app build --run; $FIBULA -C "
      "app build";
  const auto files = [&](const std::string& folder) {
    return with(pebble, {{"app/fibula.toml", fmt::format(fmt::runtime(uses), folder)},
                         {"app/main.c", "#include <pebble.h>\nint main(void) { return pebble_read(); }\n"}});
  };
  check({{"elsewhere",
          files("../pebble-1.2"),
          "$FIBULA -C app build >/dev/null" + fmt::format(fmt::runtime(change), "pebble-1.2"),
          0,
          {"the program ended with status 4", "caution (locked): pebble", "has other files under that version"}},
         {"inside, with a space",
          files("own/small stones"),
          "mkdir app/own && cp -r pebble-1.2 'app/own/small stones' && $FIBULA -C app build >/dev/null" +
              fmt::format(fmt::runtime(change), "'app/own/small stones'") +
              " && $FIBULA -C app build --why 'own/small stones/src/raw.c'",
          0,
          {"the program ended with status 4", "nothing to do", "raw.c.o", "is up to date"},
          {"locked"}}});
}

TEST(Source, TakeTellsLibrariesFromProgramsTestsAndOtherSystems) {
  check({
      {"programs with their helpers, and alternatives",
       pebble,
       "$FIBULA take pebble-1.2 --dry-run",
       0,
       {"compile = [\"src/pebble.c\", \"src/raw.c\"]", "[source.choice.bus]", "[source.choice.bus.spi]"},
       {"tools/help.c\"", "show.c\""}},
      {"other systems",
       {{"t-1/t.h", "int t_time(void);\n"},
        {"t-1/t_posix.c", "#include \"t.h\"\n#include <sys/socket.h>\nint t_time(void) { return 1; }\n"},
        {"t-1/t_win32.c", "#include \"t.h\"\n#include <windows.h>\nint t_time(void) { return 2; }\n"},
        {"t-1/t_amiga.c", "#include \"t.h\"\n#include <proto/exec.h>\nint t_time(void) { return 3; }\n"}},
       "$FIBULA take t-1 --version 1 --dry-run",
       0,
       {"system = [\"windows\"]", "system = [\"linux\", \"macos\"]"},
       {"\"t_amiga.c\""}},
      {"what others include, and what stands alone besides",
       {{"u-1/u.h", "int u_one(void);\nint u_two(void);\nint u_three(void);\n"},
        {"u-1/u.c", "#include \"u.h\"\n#include \"table.c\"\nint u_one(void) { return table[0]; }\n"},
        {"u-1/table.c", "static const int table[] = {4};\n"},
        {"u-1/two.c", "#include \"u.h\"\nint u_two(void) { return 2; }\n"},
        {"u-1/three.c", "#include \"two.c\"\nint u_three(void) { return u_two(); }\n"}},
       "$FIBULA take u-1 --version 1 --dry-run",
       0,
       {"compile = [\"three.c\", \"two.c\", \"u.c\"]"},
       {"\"table.c\""}},
      {"definitions in the old style, and behind macros",
       {{"k-1/include/k.h", "#define API(t) t\nAPI(int) k_old(int a);\nAPI(int) k_macro(int a);\n"},
        {"k-1/src/old.c", "int k_old(a)\n  int a;\n{\n  return a;\n}\n"},
        {"k-1/src/macro.c", "#include \"k.h\"\nAPI(int) k_macro(int a) { return a; }\n"},
        {"k-1/extra/x.c", "int x(void) { return 0; }\n"}},
       "$FIBULA take k-1 --version 1 --dry-run",
       0,
       {"compile = [\"src/macro.c\", \"src/old.c\"]"}},
      {"a header that nothing makes is told, and its users stay",
       {{"n-1/n.h", "#include \"n_config.h\"\nint n(void);\n"},
        {"n-1/n.c", "#include \"n.h\"\nint n(void) { return 1; }\n"}},
       "$FIBULA take n-1 --version 1 --dry-run",
       0,
       {"compile = [\"n.c\"]", "n.h includes n_config.h, which neither it nor the shelf has"}},
      {"a header from its template",
       {{"m-1/m.h", "int m(void);\n"},
        {"m-1/m.c", "#include \"config.h\"\n#include \"m.h\"\nint m(void) { return SIZEOF_LONG; }\n"},
        {"m-1/config.h.in", "#undef HAVE_STDINT_H\n#undef SIZEOF_LONG\n#undef VERSION\n#undef HAVE_MOON\n"}},
       "$FIBULA take m-1 --version 1 --dry-run",
       0,
       {"#if __has_include(<stdint.h>)", "#define SIZEOF_LONG __SIZEOF_LONG__", "#define VERSION \"@version@\"",
        "HAVE_MOON stays undefined"}},
  });
}

/// Two images for a device that share a function of a library; the script of the second differs in where it puts it.
Files shared_images(const std::string& second) {
  const auto script = [](const std::string& at) {
    return "MEMORY {\n  FLASH (rx) : ORIGIN = 0x0, LENGTH = 64K\n  SHARED (rx) : ORIGIN = 0x10000, LENGTH = 4K\n  RAM "
           "(rwx) : "
           "ORIGIN = 0x20000000, LENGTH = 8K\n}\nSECTIONS {\n  .text : { *(.text*) } > FLASH\n  .shared " +
           at + " : { KEEP(*(.shared)) } > SHARED\n}\nENTRY(begin)\n";
  };
  const std::string caller = "#include <sum.h>\nint begin(void) { return add(20, 22); }\n";
  return {{"sum/sum.h", "int add(int a, int b);\n"},
          {"sum/sum.c",
           "#include \"sum.h\"\n__attribute__((section(\".shared\"))) int add(int a, int b) { return a + b; }\n"},
          {"one.c", caller},
          {"two.c", caller},
          {"one.ld", script("")},
          {"two.ld", script(second)},
          {"fibula.toml",
           "[[output]]\nname = \"one\"\nsources = [\"one.c\"]\nlinker-script = \"one.ld\"\nplacement = { add = "
           "\"SHARED\" }\n"
           "[[output]]\nname = \"two\"\nsources = [\"two.c\"]\nlinker-script = \"two.ld\"\nplacement = { \".shared\" = "
           "\"SHARED\", add = \"SHARED\" }\n[library.sum]\n[lane.board]\ncompiler = \"arm-none-eabi-gcc\"\nflags = "
           "[\"-mcpu=cortex-m3\", \"-mthumb\", \"-nostdlib\"]\n"}};
}

TEST(Source, FunctionsLieWhereTheProjectWantsThem) {
#ifdef FIBULA_NATIVE_ONLY
  GTEST_SKIP() << "needs compilers for other systems";
#endif
  const std::string build = "$FIBULA take sum --version 1 >/dev/null && $FIBULA build";
  Files elsewhere = shared_images("");
  elsewhere.push_back({"sum/sum.c", "#include \"sum.h\"\nint add(int a, int b) { return a + b; }\n"});
  check({{"both alike", shared_images(""), build + " && $FIBULA build", 0, {"in SHARED", "nothing to do"}},
         {"at another address",
          shared_images("0x10100"),
          build,
          1,
          {"misfit (placement): two in lane board", "one has add at 0x10001", "two has add at 0x10101",
           "the same address in both"}},
         {"in another region",
          elsewhere,
          build,
          1,
          {"wants add of one in region SHARED", "in section .text, in region FLASH", "defines nothing of that name"}},
         {"placement of a library",
          {{"fibula.toml",
            "[[output]]\nname = \"l\"\nkind = \"static-library\"\nsources = [\"a.c\"]\nplacement = { a = \"X\" }\n" +
                desk}},
          "$FIBULA fit",
          3,
          {"fibula.toml:5: placement is for programs"}}});
}

TEST(Source, OtherMachinesGetTheirOwn) {
#ifdef FIBULA_NATIVE_ONLY
  GTEST_SKIP() << "needs compilers for other systems";
#endif
  check({{"windows, shared and static, and a microcontroller",
          with(pebble, {{"fibula.toml",
                         with_pebble + "[lane.win]\ncompiler = \"x86_64-w64-mingw32-gcc\"\n[lane.dll]\ncompiler = "
                                       "\"x86_64-w64-mingw32-gcc\"\n[lane.dll.library.pebble]\nlinkage = \"shared\"\n"
                                       "[lane.arm]\ncompiler = \"aarch64-linux-gnu-gcc\"\n[lane.small]\ncompiler = "
                                       "\"avr-gcc\"\nflags = [\"-mmcu=atmega328p\"]\n"}}),
          take + "$FIBULA build && $FIBULA build && ls .fibula/dll/bin && qemu-aarch64 -L /usr/aarch64-linux-gnu "
                 ".fibula/arm/bin/p",
          41,
          {"nothing to do", "pebble.dll"}},
         {"what a machine without a loader cannot have",
          with(pebble,
               {{"fibula.toml", with_pebble + "linkage = \"shared\"\n[lane.small]\ncompiler = \"avr-gcc\"\nflags = "
                                              "[\"-mmcu=atmega328p\"]\n"}}),
          take + "$FIBULA build",
          1,
          {"lane small is for a machine without a loader", "linkage = \"static\""}}});
}

}  // namespace
