/// Builds as people meet them: what goes in, what is made again and why, what is told, and how they end.
#include "support/situations.hpp"

#include <fmt/format.h>
#include <gtest/gtest.h>

#include <chrono>
#include <fstream>
#include <thread>

using test::check;
using test::desk;
using test::Files;
using test::Workplace;
using test::write_all;
namespace fs = test::fs;

namespace {

const std::string log_output = "[[output]]\nname = \"log\"\n";
const std::string plain = log_output + "sources = [\"*.c\"]\n" + desk;
const std::string empty_main = "int main(void) { return 0; }\n";

TEST(Build, EveryInputIsNamedAndChecked) {
  const std::string two = "int two(void) { return 2; }\n";
  check({
      {"a source that is not there",
       {{"main.c", empty_main}, {"fibula.toml", log_output + "sources = [\n  \"mian.c\"]\n" + desk}},
       "$FIBULA build",
       3,
       {"fibula.toml:4: there is no file mian.c", "did you mean main.c?"}},
      {"a pattern without a match",
       {{"main.c", empty_main}, {"fibula.toml", log_output + "sources = [\"main.c\", \"src/**/*.c\"]\n" + desk}},
       "$FIBULA fit",
       3,
       {"fibula.toml:3: no file matches src/**/*.c"}},
      {"data without a match",
       {{"main.c", empty_main}, {"fibula.toml", log_output + "sources = [\"main.c\"]\ndata = [\"t/*\"]\n" + desk}},
       "$FIBULA build",
       3,
       {"fibula.toml:4: no file matches t/*"}},
      {"headers that are no folder",
       {{"main.c", empty_main}, {"fibula.toml", log_output + "sources = [\"main.c\"]\nheaders = [\"inc\"]\n" + desk}},
       "$FIBULA build",
       3,
       {"fibula.toml:4: headers: there is no folder inc"}},
      {"a header for a source",
       {{"main.h", ""}, {"fibula.toml", log_output + "sources = [\"main.h\"]\n" + desk}},
       "$FIBULA build",
       2,
       {"fibula.toml:3: main.h is no source that a compiler takes"}},
      {"a source outside of the project",
       {{"../x.c", empty_main}, {"fibula.toml", log_output + "sources = [\"../x.c\"]\n" + desk}},
       "$FIBULA build",
       2,
       {"lies outside of the project"}},
      {"outputs that use each other",
       {{"a.c", empty_main},
        {"fibula.toml",
         "[[output]]\nname = \"a\"\nkind = \"static-library\"\nsources = [\"a.c\"]\nuses = [\"b\"]\n"
         "[[output]]\nname = \"b\"\nkind = \"static-library\"\nsources = [\"a.c\"]\nuses = [\"a\"]\n" +
             desk}},
       "$FIBULA build",
       3,
       {"fibula.toml:1: outputs use each other in a circle: a, b"}},
      {"objects and archives as they are",
       {{"main.c", "int one(void), two(void);\nint main(void) { return one() + two() - 3; }\n"},
        {"part/one.c", "int one(void) { return 1; }\n"},
        {"part/two.c", two},
        {"fibula.toml", log_output + "sources = [\"main.c\", \"one.o\", \"libtwo.a\"]\n" + desk}},
       "gcc -c part/one.c && gcc -c part/two.c && ar rcs libtwo.a two.o && $FIBULA build --run && $FIBULA build",
       0,
       {"nothing to do"}},
      {"assembly with files of its own",
       {{"main.c", "extern const unsigned char table[];\nint main(void) { return table[0] - '7'; }\n"},
        {"table.S",
         ".section .rodata\n.global table\ntable:\n.incbin \"table.bin\"\n.include \"more.inc\"\n"
         ".section .note.GNU-stack,\"\"\n"},
        {"more.inc", ".byte 1\n"},
        {"table.bin", "7"},
        {"fibula.toml", log_output + "sources = [\"main.c\", \"table.S\"]\n" + desk}},
       "$FIBULA build --run && printf 8 > table.bin && $FIBULA build --run",
       1,
       {"the program ended with status 1"}},
      {"assembly that includes a file of a library",
       {{"main.c", "extern const unsigned char table[];\nint main(void) { return table[0] - 7; }\n"},
        {"table.S", ".section .rodata\n.global table\ntable:\n.include \"tides.inc\"\n.section .note.GNU-stack,\"\"\n"},
        {"tides/include/tides.h", "#define TIDES 7\n"},
        {"tides/include/tides.inc", ".byte 7\n"},
        {"fibula.toml", log_output + "sources = [\"main.c\", \"table.S\"]\n" + desk}},
       "$FIBULA take tides --name tides --version 1 && $FIBULA attach tides && $FIBULA build --run && $FIBULA build",
       0,
       {"nothing to do"}},
#ifndef FIBULA_NATIVE_ONLY
      {"NASM's assembly, with an include of its own",
       {{"main.c", "int fast(void);\nint main(void) { return fast() - 7; }\n"},
        {"fast.asm",
         "%include \"seven.inc\"\nsection .text\nglobal fast\nfast:\n  mov eax, SEVEN\n  ret\n"
         "section .note.GNU-stack noalloc noexec nowrite progbits\n"},
        {"seven.inc", "SEVEN equ 7\n"},
        {"fibula.toml", log_output + "sources = [\"main.c\", \"fast.asm\"]\n" + desk}},
       "$FIBULA build --run && $FIBULA build && echo 'SEVEN equ 8' > seven.inc && $FIBULA build --run",
       1,
       {"nothing to do", "the program ended with status 1"}},
#endif
  });
}

TEST(Build, TheNearestFlagWins) {
  const Files sized = {{"main.c",
                        "#ifndef __OPTIMIZE_SIZE__\n#error not for size\n#endif\n#if HARBOUR != 7\n#error "
                        "no harbour\n#endif\n#ifdef SMALL\n#error small\n#endif\nint main(void) { return 0; }\n"}};
  const auto with = [&](const std::string& output, const std::string& lanes) {
    Files files = sized;
    files.emplace_back("fibula.toml", log_output + "sources = [\"main.c\"]\n" + output + lanes);
    return files;
  };
  const std::string harbour = "[every-lane]\ndefinitions = [\"HARBOUR=7\"]\n";
  check({
      {"of the lane over its configuration", with("", harbour + desk + "flags = [\"-Os\"]\n"), "$FIBULA build", 0, {}},
      {"of the output over the configuration", with("flags = [\"-Os\"]\n", harbour + desk), "$FIBULA build", 0, {}},
      {"of the lane over the output",
       with("flags = [\"-O1\"]\n", harbour + desk + "flags = [\"-Os\"]\n"),
       "$FIBULA build",
       0,
       {}},
      {"of the lane over what all lanes share",
       with("", "[every-lane]\nflags = [\"-DSMALL\", \"-DHARBOUR=7\"]\n" + desk + "flags = [\"-Os\", \"-USMALL\"]\n"),
       "$FIBULA build",
       0,
       {}},
      {"a key that lanes do not share",
       with("", "[every-lane]\nlibrary = 1\n" + desk),
       "$FIBULA build",
       3,
       {"fibula.toml:5: unknown key library in [every-lane]"}},
#ifndef FIBULA_NATIVE_ONLY
      {"where there is no loader nothing is said of position independence",
       {{"k.c", "int k;\n"},
        {"fibula.toml",
         "[[output]]\nname = \"k\"\nkind = \"static-library\"\nsources = [\"k.c\"]\n[lane.avr]\ncompiler "
         "= \"avr-gcc\"\n"}},
       "$FIBULA -v build",
       0,
       {"avr-gcc"},
       {"-fPIC", "warning"}},
#endif
  });
}

TEST(Build, LinkInputsInFlagsTakePart) {
  const std::string main = "double cos(double);\nint main(int n, char **v) { (void)v; return (int)cos(n) & 0; }\n";
  const std::string with_flags = log_output + "sources = [\"main.c\"]\nflags = [{}]\n" + desk;
  check({
      {"found, and in an order that works",
       {{"main.c", main}, {"fibula.toml", fmt::format(fmt::runtime(with_flags), "\"-lm\", \"-fno-builtin\"")}},
       "$FIBULA build --run && $FIBULA fit --why m",
       0,
       {"the flags of output log name -lm"}},
      {"not found",
       {{"main.c", empty_main}, {"fibula.toml", fmt::format(fmt::runtime(with_flags), "\"-lnosuchpier\"")}},
       "$FIBULA build",
       1,
       {"misfit (input)", "the flags of output log name -lnosuchpier"}},
      {"from a folder of their own",
       {{"main.c", "int pier(void);\nint main(void) { return pier(); }\n"},
        {"lib/pier.c", "int pier(void) { return 0; }\n"},
        {"fibula.toml", fmt::format(fmt::runtime(with_flags), "\"-Llib\", \"-lpier\"")}},
       "gcc -c lib/pier.c -o lib/pier.o && ar rcs lib/libpier.a lib/pier.o && $FIBULA build --run",
       0,
       {}},
  });
}

TEST(Build, WhatTheProjectItselfHasIsLookedThrough) {
  const std::string calls = "int knot(void);\nint main(void) { return knot(); }\n";
  const std::string knot = "int knot(void) { return 0; }\n";
  check({
      {"an output that is not used",
       {{"main.c", calls},
        {"k/knot.c", knot},
        {"fibula.toml", log_output +
                            "sources = [\"main.c\"]\n[[output]]\nname = \"knot\"\nkind = "
                            "\"static-library\"\nsources = [\"k/*.c\"]\n" +
                            desk}},
       "$FIBULA build",
       1,
       {"output knot of this project defines it", "give output log uses = [\"knot\"]"}},
      {"a source that no output lists",
       {{"main.c", calls}, {"spare/knot.c", knot}, {"fibula.toml", plain}},
       "$FIBULA build",
       1,
       {"spare/knot.c defines it, and belongs to no output", "add \"spare/knot.c\" to the sources"}},
      {"a function that only that file sees",
       {{"main.c", calls}, {"spare/knot.c", "static " + knot}, {"fibula.toml", plain}},
       "$FIBULA build",
       1,
       {"neither does any library"},
       {"belongs to no output"}},
      {"a scanner's name that only libraries have for themselves",
       {{"main.c", "int yyin(void);\nint main(void) { return yyin(); }\n"}, {"fibula.toml", plain}},
       "$FIBULA build",
       1,
       {"but for what scanners and parsers in some may have for themselves",
        "make the C source of its scanner or grammar"}},
      {"a scanner and a grammar of which nothing was made",
       {{"main.c",
         "int yyparse(void);\nextern int line;\nint yylex(void);\nint yywrap(void);\n"
         "int main(void) { return yyparse() + line + yylex() + yywrap(); }\n"},
        {"tides.y", "%{\nint line = 0;\n%}\n%%\nall:\n%%\n"},
        {"deep/words.l", "%%\n"},
        {"deep/Makefile", "lex.yy.c: words.l\n\tlex words.l\n"},
        {"fibula.toml", plain}},
       "$FIBULA build",
       1,
       {"tides.y defines it, and no C source made of that is compiled",
        "remedy: bison -d -o tides.tab.c tides.y, in this folder\n", "deep/words.l defines it",
        "make lex.yy.c, in deep, and add \"deep/lex.yy.c\" to the sources of log",
        "the scanner made of deep/words.l calls it"}},
      {"one output that does not fit stops no other",
       {{"main.c", calls},
        {"other.c", empty_main},
        {"fibula.toml",
         log_output + "sources = [\"main.c\"]\n[[output]]\nname = \"other\"\nsources = [\"other.c\"]\n" + desk}},
       "$FIBULA build; status=$?; .fibula/desk/bin/other && exit $status",
       1,
       {"built in part, not log"}},
  });
}

TEST(Build, TroubleIsTold) {
  const Files good = {{"main.c", empty_main}, {"fibula.toml", plain}};
  const auto through = [&](const char* wrapper, const std::string& more = "") {
    return Files{{"main.c", empty_main},
                 {"fibula.toml", more + "compile-through = [\"./wrapper\"]\n" + plain},
                 {"wrapper", std::string("#!/bin/sh\n") + wrapper}};
  };
  check({
      {"a compiler that dies",
       through("kill -SEGV $$\n"),
       "chmod +x wrapper; $FIBULA --trust build",
       1,
       {"was ended by signal 11 (Segmentation fault)", "not built"}},
      {"a compiler that never ends",
       through("sleep 1000\n", "time-limit = 1\n"),
       "chmod +x wrapper; $FIBULA --trust build",
       1,
       {"was stopped: it ran longer than 1 seconds (time-limit)"}},
      {"a compiler that makes nothing",
       through("exit 0\n"),
       "chmod +x wrapper; $FIBULA --trust build",
       1,
       {"ended well and made no main.c.o"}},
      {"a farm that is not there",
       {{"main.c", empty_main}, {"fibula.toml", "compile-through = [\"no-such-farm\"]\n" + plain}},
       "$FIBULA build",
       1,
       {"no-such-farm", "not built"}},
      {"an output folder that is a file",
       good,
       "mkdir .fibula; touch .fibula/desk; $FIBULA build",
       1,
       {".fibula/desk: is a file where a folder must be"}},
      {"a limit that is none",
       {{"main.c", empty_main}, {"fibula.toml", "time-limit = -1\n" + plain}},
       "$FIBULA build",
       3,
       {"fibula.toml:1: time-limit must be between 0 and 1000000"}},
      {"a file that nobody made",
       good,
       "$FIBULA build && $FIBULA build --why fibula.toml",
       1,
       {"no build made it, and none read it"}},
      {"a full disk",
       good,
       "(trap '' XFSZ; ulimit -f 0; $FIBULA build 2>&1; echo status $?) | cat",
       0,
       {"cannot be written", "ulimit -f", "status 4"}},
      {"nothing to clean", good, "$FIBULA build --clean", 0, {"nothing to remove"}},
  });
}

TEST(Build, AnswersWhyAndCleans) {
  const Workplace place;
  write_all(place, {{"main.c", "#include \"tide.h\"\nint main(void) { return TIDE; }\n"},
                    {"tide.h", "#define TIDE 0\n"},
                    {"fibula.toml", plain}});
  ASSERT_EQ(place.fibula("build").status, 0);
  EXPECT_NE(place.fibula("build --why main.c").out.find("is up to date"), std::string::npos);
  place.folder().write("work/tide.h", "#define TIDE 1\n");
  const auto why = place.fibula_json("build --why tide.h");
  EXPECT_EQ(why["files"][0]["state"], "tide.h changed");
  EXPECT_EQ(place.fibula("build --run").status, 1);
  EXPECT_EQ(place.fibula("build --why .fibula/desk/bin/log").out.find("would be made again"), std::string::npos);
  EXPECT_EQ(place.fibula("build --clean").status, 0);
  EXPECT_FALSE(fs::exists(place / "work/.fibula/desk"));
  EXPECT_TRUE(fs::exists(place / "work/main.c"));
}

/// Each of these leaves the sources' names, sizes or times as they were, or changes what no source says.
TEST(Build, SeesWhatStampsHide) {
  struct Change {
    const char* name;
    const char* command;
    int then;  ///< the program's status
  };
  const Change changes[] = {
      {"of the same size and time", "touch -r tide.h ref; echo '#define TIDE 2' > tide.h; touch -r ref tide.h", 2},
      {"with a time of the past", "echo '#define TIDE 3' > tide.h; touch -d 2001-01-01 tide.h", 3},
      {"with a time of the future", "echo '#define TIDE 4' > tide.h; touch -d 2051-01-01 tide.h", 4},
      {"by a header that hides another", "mkdir -p first && echo '#define TIDE 5' > first/tide.h", 5},
      {"by one that hides none any more", "rm first/tide.h", 4},
      {"by a response file", "echo '-DMORE=1' > options.rsp", 5},
      {"of a product", "printf '#!/bin/sh\\nexit 99\\n' > .fibula/desk/bin/log", 5},
      {"of an object", ": > .fibula/desk/objects/log/main.c.o", 5},
      {"by taking a product away", "rm .fibula/desk/bin/log", 5},
      {"by a header that is used where it is there", "echo '#define LATER 1' > first/later.h", 6},
      {"by one in a folder that was not there", "mkdir first/deep && echo '#define DEEP 1' > first/deep/more.h", 7},
      {"by one that went", "rm first/later.h", 6},
  };
  const Workplace place;
  write_all(
      place,
      {{"main.c",
        "#include <tide.h>\n#ifndef MORE\n#define MORE 0\n#endif\n#if __has_include(<later.h>)\n#include <later.h>\n"
        "#else\n#define LATER 0\n#endif\n#if defined __has_include && __has_include(\"deep/more.h\")\n"
        "#include \"deep/more.h\"\n#else\n#define DEEP 0\n#endif\nint main(void) { return TIDE + MORE + LATER + DEEP; "
        "}\n"},
       {"inc/keep", ""},
       {"tide.h", "#define TIDE 1\n"},
       {"first/keep", ""},
       {"options.rsp", "-DOTHER\n"},
       {"fibula.toml",
        log_output + "sources = [\"main.c\"]\nheaders = [\"first\", \".\"]\nflags = [\"@options.rsp\"]\n" + desk}});
  ASSERT_EQ(place.fibula("build --run").status, 1);
  for (const auto& change : changes) {
    SCOPED_TRACE(change.name);
    ASSERT_EQ(place.fibula("build").out.find("command"), std::string::npos);
    test::must(change.command, place / "work");
    EXPECT_EQ(place.fibula("build --run").status, change.then);
  }
  // One that is asked for and was there is no news, though its folder changed.
  test::must("touch first/deep/more.h && : > first/deep/notes.txt", place / "work");
  EXPECT_EQ(place.fibula("build").out.find("command"), std::string::npos);
}

/// What the compiler read is gone before it has ended: the object is none of what is there now.
TEST(Build, SeesThatAHeaderWentWhileItWasCompiled) {
  const Workplace place;
  place.folder().write("tools/gcc",
                       "#!/bin/sh\n/usr/bin/gcc \"$@\" || exit\ncase \"$*\" in *' -c '*) rm -f first/tide.h ;; esac\n");
  test::fs::permissions(place / "tools/gcc", test::fs::perms::owner_all);
  write_all(place, {{"main.c", "#include <tide.h>\nint main(void) { return TIDE; }\n"},
                    {"first/tide.h", "#define TIDE 5\n"},
                    {"tide.h", "#define TIDE 4\n"},
                    {"fibula.toml", log_output + "sources = [\"main.c\"]\nheaders = [\"first\", \".\"]\n" +
                                        "[lane.desk]\ncompiler = \"" + (place / "tools/gcc").string() + "\"\n"}});
  EXPECT_EQ(place.fibula("build --run").status, 5) << "made of what was there when it was read";
  EXPECT_EQ(place.fibula("build --run").status, 4);
  EXPECT_NE(place.fibula("build").out.find("nothing to do"), std::string::npos);
}

#ifndef FIBULA_NATIVE_ONLY
/// Sources for one system or one lane, in all places that speak of sources.
TEST(Build, SourcesAreForTheLanesThatOnlyForNames) {
  const std::string lanes =
      desk + "[lane.quick]\ncompiler = \"gcc\"\n[lane.w]\ncompiler = \"x86_64-w64-mingw32-gcc\"\n";
  const auto project = [&](const std::string& only_for) {
    return log_output + "sources = [\"*.c\"]\n" + only_for + lanes;
  };
  const std::string right = "only-for = { \"*_win32.c\" = \"windows\", \"*_linux.c\" = [\"desk\", \"quick\"] }\n";
  const Workplace place;
  write_all(place, {{"main.c", "int level(void);\nint main(void) { return level(); }\n"},
                    {"level_linux.c", "#include <sys/epoll.h>\nint level(void) { return 3; }\n"},
                    {"level_win32.c", "#include <windows.h>\nint level(void) { return 4; }\n"},
                    {"fibula.toml", project(right)}});
  EXPECT_EQ(place.fibula("build --lane desk --run").status, 3);
  const auto all = place.fibula("build");
  EXPECT_EQ(all.status, 0) << all.all();
  EXPECT_NE(place.fibula("build").out.find("nothing to do"), std::string::npos);
  const std::string database = test::read(place / "work/compile_commands.json");
  EXPECT_NE(database.find("w/objects/log/level_win32.c"), std::string::npos);
  EXPECT_EQ(database.find("w/objects/log/level_linux.c"), std::string::npos);
  EXPECT_EQ(database.find("desk/objects/log/level_win32.c"), std::string::npos);

  place.folder().write("work/fibula.toml",
                       project("only-for = { \"level_linux.c\" = \"desk\", \"*_win32.c\" = \"windows\" }\n"));
  const auto lacking = place.fibula("build --lane quick");
  EXPECT_EQ(lacking.status, 1);
  EXPECT_NE(lacking.out.find("level_linux.c defines it, and only-for keeps it from lane quick"), std::string::npos)
      << lacking.all();

  const std::pair<const char*, const char*> wrong[] = {
      {"only-for = { \"*_mac.c\" = \"macos\" }\n", "fibula.toml:4: only-for: no source of log matches"},
      {"only-for = { \"*_win32.c\" = \"win\" }\n", "fibula.toml:4: only-for: \"win\" is neither a system nor a lane"},
      {"only-for = { \"*_win32.c\" = 3 }\n", "fibula.toml:4: only-for of *_win32.c must name systems or lanes"}};
  for (const auto& [line, told] : wrong) {
    place.folder().write("work/fibula.toml", project(line));
    const auto refused = place.fibula("build");
    EXPECT_EQ(refused.status, 3) << refused.all();
    EXPECT_NE(refused.err.find(told), std::string::npos) << refused.all();
  }
}
#endif

TEST(Build, SwitchingLanesBuildsNothingTwice) {
  const Workplace place;
  write_all(place, {{"main.c", empty_main},
                    {"fibula.toml", plain + "[lane.quick]\ncompiler = \"gcc\"\nconfiguration = \"debug\"\n"}});
  for (const char* lane : {"desk", "quick"})
    EXPECT_NE(place.fibula(fmt::format("build --lane {}", lane)).out.find("2 commands run"), std::string::npos);
  for (const char* lane : {"desk", "quick", "desk"})
    EXPECT_NE(place.fibula(fmt::format("build --lane {}", lane)).out.find("nothing to do"), std::string::npos);
  // One lane's build leaves what editors know of the other.
  const auto database = nlohmann::json::parse(test::read(place / "work/compile_commands.json"));
  ASSERT_EQ(database.size(), 2U);
  EXPECT_NE(database[0]["output"].get<std::string>().find("/desk/"), std::string::npos);
}

TEST(Build, WhatSeveralLanesSayIsToldOnce) {
  const Workplace place;
  write_all(place, {{"main.c", "int main(void) { return nowhere; }\n"},
                    {"fibula.toml", plain + "[lane.quick]\ncompiler = \"gcc\"\n"}});
  const auto ran = place.fibula("build --keep-going");
  EXPECT_EQ(ran.status, 1);
  const size_t first = ran.out.find("undeclared");
  ASSERT_NE(first, std::string::npos);
  EXPECT_NE(ran.out.find("main.c said the same in lane"), std::string::npos) << ran.out;
  EXPECT_EQ(ran.out.find("error: ‘nowhere’", ran.out.find("error: ‘nowhere’") + 1), std::string::npos) << ran.out;
}

TEST(Build, KeepsGoingWhenAsked) {
  const Workplace place;
  write_all(place, {{"a.c", "broken\n"},
                    {"b.c", empty_main},
                    {"fibula.toml",
                     log_output + "sources = [\"a.c\"]\n[[output]]\nname = \"other\"\nsources = [\"b.c\"]\n" + desk}});
  EXPECT_EQ(place.fibula("build -j 1").status, 1);
  EXPECT_FALSE(fs::exists(place / "work/.fibula/desk/bin/other"));
  EXPECT_EQ(place.fibula("build -j 1 --keep-going").status, 1);
  EXPECT_TRUE(fs::exists(place / "work/.fibula/desk/bin/other"));
}

/// Whoever interrupts a build leaves no compiler running, and nothing that looks finished.
TEST(Build, EndsWithItsChildren) {
  for (const char* signal : {"INT", "TERM", "HUP"}) {
    SCOPED_TRACE(signal);
    const Workplace place;
    write_all(place, {{"main.c", empty_main},
                      {"fibula.toml", "compile-through = [\"./slow\"]\n" + plain},
                      {"slow", "#!/bin/sh\n: > started\nsleep 600 &\necho $! > child\nwait\n"}});
    const auto ran = place.shell(fmt::format(
        "chmod +x slow; env --default-signal $FIBULA --trust build & pid=$!; while [ ! -s child ]; do sleep 0.01; "
        "done; "
        "kill -{} $pid; wait $pid; "
        "status=$?; grep -q 'State:.[RSD]' /proc/$(cat child)/status 2>/dev/null && echo still running; find .fibula "
        "-name '*.o'; exit $status",
        signal));
    EXPECT_GT(ran.status, 128) << ran.all();
    EXPECT_NE(ran.out.find("stopped, "), std::string::npos) << ran.all();
    EXPECT_EQ(ran.out.find("still running"), std::string::npos);
    EXPECT_EQ(ran.out.find(".o\n"), std::string::npos) << ran.out;
    test::must("printf '#!/bin/sh\\nexec \"$@\"\\n' > slow", place / "work");
    EXPECT_EQ(place.fibula("build --run").status, 0);
  }
}

TEST(Build, TwoAtOnceWaitForEachOther) {
  const Workplace place;
  write_all(place, {{"main.c", empty_main},
                    {"fibula.toml", "compile-through = [\"./slow\"]\n" + plain},
                    // Until the other one waits; half a minute at most.
                    {"slow",
                     "#!/bin/sh\n: > started\nfor i in $(seq 3000); do grep -q waits two && break; sleep 0.01; done\n"
                     "exec \"$@\"\n"}});
  const auto ran = place.shell(
      "chmod +x slow; : > two; $FIBULA --trust build > one & while [ ! -e started ]; do sleep 0.01; done; $FIBULA "
      "--trust build 2> two; status=$?; "
      "wait; "
      "cat one two; exit $status");
  EXPECT_EQ(ran.status, 0) << ran.all();
  EXPECT_NE(ran.out.find("waits for another build"), std::string::npos) << ran.all();
  EXPECT_NE(ran.out.find("nothing to do"), std::string::npos) << ran.all();
}

TEST(Build, ProgramsForOtherMachinesAreNotHandedToTheShell) {
#ifndef FIBULA_NATIVE_ONLY
  const auto with = [](const char* compiler, const char* more = "") {
    return Files{{"main.c", empty_main},
                 {"fibula.toml", log_output + fmt::format("sources = [\"main.c\"]\n[lane.far]\ncompiler = \"{}\"\n{}",
                                                          compiler, more)}};
  };
  check({
      {"another architecture",
       with("aarch64-linux-gnu-gcc"),
       "$FIBULA build --run",
       1,
       {"lane far makes programs for 64-bit aarch64", "start-through = \"qemu-aarch64 -L /usr/aarch64-linux-gnu\""},
       {"Syntax"}},
      {"as the remedy says",
       with("aarch64-linux-gnu-gcc", "start-through = \"qemu-aarch64 -L /usr/aarch64-linux-gnu\"\n"),
       "$FIBULA build --run && $FIBULA build --run",
       0,
       {}},
      {"a starter that is not there",
       with("aarch64-linux-gnu-gcc", "start-through = \"no-such-starter\"\n"),
       "$FIBULA build --run",
       4,
       {"starts programs through no-such-starter, which is not found"}},
      {"32-bit Windows, for which only the 64-bit one is here",
       with("i686-w64-mingw32-gcc-posix"),
       "$FIBULA build --run",
       1,
       {"makes programs for 32-bit x86 pe, which this machine cannot start"}},
  });
#endif
}

#ifndef FIBULA_NATIVE_ONLY
TEST(Build, MakesImagesForDevices) {
  const Workplace place;
  write_all(place,
            {{"main.c", "int main(void) { for (;;) {} }\n"},
             {"fibula.toml", log_output + "sources = [\"main.c\"]\nimage = [\"hex\", \"bin\"]\n[lane.avr]\ncompiler = "
                                          "\"avr-gcc\"\nflags = [\"-mmcu=atmega328p\"]\n"}});
  ASSERT_EQ(place.fibula("build").status, 0);
  EXPECT_TRUE(test::read(place / "work/.fibula/avr/bin/log.hex").ends_with(":00000001FF\r\n"));
  EXPECT_FALSE(test::read(place / "work/.fibula/avr/bin/log.bin").empty());
  EXPECT_NE(place.fibula("build").out.find("nothing to do"), std::string::npos);
  place.folder().write("work/.fibula/avr/bin/log.hex", "");
  EXPECT_NE(place.fibula("build").out.find("1 command run"), std::string::npos);
  EXPECT_TRUE(test::read(place / "work/.fibula/avr/bin/log.hex").ends_with(":00000001FF\r\n"));
}

TEST(Build, TellsHowFullADeviceIs) {
  const Workplace place;
  write_all(place,
            {{"main.c", "int table[16] = {1};\nint waiting[32];\nint begin(void) { return table[0] + waiting[1]; }\n"},
             {"board.ld",
              "MEMORY {\n  flash (rx) : ORIGIN = 0x08000000, LENGTH = 64K /* of it */\n  ram (rwx) : ORIGIN = "
              "0x20000000, LENGTH = 1K\n}\n"
              "SECTIONS {\n .text : { *(.text*) } > flash\n .data : { *(.data*) } > ram AT > flash\n .bss : { *(.bss*) "
              "*(COMMON) } > ram\n"
              " /DISCARD/ : { *(.ARM.*) }\n}\n"},
             {"fibula.toml",
              log_output +
                  "sources = [\"main.c\"]\nlinker-script = \"board.ld\"\nentry = \"begin\"\n[lane.board]\ncompiler = "
                  "\"arm-none-eabi-gcc\"\nflags = [\"-mcpu=cortex-m3\", \"-mthumb\", \"-nostdlib\"]\n"}});
  // 64 bytes of data lie in flash and are copied; with 128 that begin as zero they take 192 bytes of RAM.
  for (int round = 0; round < 2; ++round) {
    const auto built = place.fibula_json("build");
    const auto& memory = built["lanes"][0]["memory"];
    ASSERT_EQ(memory.size(), 2U) << built.dump(1);
    EXPECT_EQ(memory[1]["used"], 192);
    EXPECT_EQ(memory[1]["length"], 1024);
    EXPECT_EQ(memory[0]["length"], 65536);
    EXPECT_GE(memory[0]["used"].get<int>(), 64 + 8);
  }
  EXPECT_NE(place.fibula("build").out.find("192 of 1024 bytes, 19 %"), std::string::npos);
  const auto symbols = place.fibula("inspect --symbols .fibula/board/bin/log");
  EXPECT_NE(symbols.out.find("table  .data 0x20000000, 64"), std::string::npos) << symbols.out;
}
#endif

/// What is foreseen is said before the first command has ended, of links that will be refused, and of no others.
TEST(Build, ALongOneTellsWhatItForesees) {
  const Files sources = {{"a.c", "int a(void) { return 0; }\n"},
                         {"b.c", "int b(void) { return 0; }\n"},
                         {"tide-1/include/tide.h", "int tide(void);\n"},
                         {"tide-1/tide.c", "int moon(void);\nint tide(void) { return moon(); }\n"},
                         {"fibula.toml", log_output + "sources = [\"*.c\"]\n[library.tide]\n" + desk}};
  const std::string archive =
      "(cd tide-1 && gcc -c tide.c && mkdir lib && ar rcs lib/libtide.a tide.o && rm tide.[oc]) && ";
  const std::string take = archive + "$FIBULA take tide-1 >/dev/null && ", quiet = "; grep -c foreseen told; cat told";
  const std::string calls = "#include <tide.h>\nint main(void) { return tide(); }\n";
  const std::string does_not = "#include <tide.h>\nint main(void) { return 0; } /* tide(); */\n";
  check({
      {"what the sources need of a library",
       test::with(sources, {{"main.c", calls}}),
       take + "$FIBULA build -j1 2>&1 | grep -m1 -e foreseen -e '\\[1/'",
       0,
       {"foreseen for desk: ", "moon"}},
      {"what they do not need",
       test::with(sources, {{"main.c", does_not}}),
       take + "$FIBULA build -j1 2>told" + quiet,
       0,
       {"0\n"}},
      {"few commands tell it themselves",
       test::with(sources, {{"main.c", calls}}),
       take + "! $FIBULA build -j2 2>told" + quiet,
       0,
       {"0\n"}},
      {"it stops nothing",
       test::with(sources, {{"main.c",
                             "#include <tide.h>\n#ifdef TIDE\nint main(void) { return tide(); }\n#endif\nint "
                             "main(void) { return 0; }\n"}}),
       take + "$FIBULA build -j1",
       0,
       {"foreseen for desk: ", "moon"}},
  });
}

}  // namespace
