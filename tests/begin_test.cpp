/// What `begin` makes of folders as they are, and what a lane that is added is.
#include "support/support.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>
#include <gtest/gtest.h>
#include <fibula/begin.hpp>

using test::Workplace;

namespace {

struct Made {
  std::string name;
  fibula::OutputKind kind;
  std::vector<std::string> sources;
  std::vector<std::string> headers = {};
  std::vector<std::string> definitions = {};
  bool operator==(const Made&) const = default;
};

std::ostream& operator<<(std::ostream& out, const Made& made) {
  return out << made.name << ", " << fibula::to_string(made.kind)
             << fmt::format(": {}, headers {}, definitions {}", made.sources, made.headers, made.definitions);
}

struct Found {
  const char* what;
  std::vector<std::pair<const char*, const char*>> files;
  std::vector<Made> outputs;
  std::vector<std::string> libraries = {};
};

constexpr auto a_program = fibula::OutputKind::program;
constexpr auto an_archive = fibula::OutputKind::static_library;

const Found found[] = {
    {"nothing", {}, {{"quay", a_program, {"src/**/*.cpp"}}}},
    {"one program at the top", {{"main.c", "int main(void) { return 0; }"}}, {{"quay", a_program, {"*.c"}}}},
    {"a program and what it calls",
     {{"src/main.cpp", "int one(); int main() { return one(); }"}, {"src/deep/one.cpp", "int one() { return 0; }"}},
     {{"quay", a_program, {"src/**/*.cpp"}}}},
    {"two programs that share a file",
     {{"a.c", "int one(void); int main(void) { return one(); }"},
      {"b.c", "int one(void); int main(void) { return one() + 1; }"},
      {"one.c", "int one(void) { return 0; }"}},
     {{"a", a_program, {"a.c", "one.c"}}, {"b", a_program, {"b.c", "one.c"}}}},
    {"a main that is called after its folder",
     {{"tools/show/main.c", "int main(void) { return 0; }"}, {"src/main.c", "int main(void) { return 0; }"}},
     {{"quay", a_program, {"src/**/*.c"}}, {"show", a_program, {"tools/**/*.c"}}}},
    {"no main at all",
     {{"include/one.h", "int one(void);"}, {"one.c", "#include \"one.h\"\nint one(void) { return 0; }"}},
     {{"quay", an_archive, {"*.c"}, {"include"}}}},
    {"headers by how they are included",
     {{"inc/app/one.h", "#pragma once\n#include <part/two.h>\n"},
      {"more/part/two.h", ""},
      {"src/main.c", "#include <app/one.h>\n#include \"near.h\"\n#include <stdio.h>\nint main(void) { return 0; }"},
      {"src/near.h", ""}},
     {{"quay", a_program, {"src/**/*.c"}, {"inc", "more"}}}},
    {"what builds and version control leave",
     {{"main.c", "int main(void) { return 0; }"},
      {"build/made.c", "int main(void) { return 1; }"},
      {".hidden/other.c", "int main(void) { return 2; }"}},
     {{"quay", a_program, {"*.c"}}}},
    {"another project inside",
     {{"main.c", "int main(void) { return 0; }"},
      {"other/fibula.toml", "[lane.x]\ncompiler = \"gcc\"\n"},
      {"other/main.c", "int main(void) { return 1; }"}},
     {{"quay", a_program, {"*.c"}}}},
    {"a library that lies inside",
     {{"main.c", "#include <pebble.h>\nint main(void) { return pebble(); }"},
      {"vendor/pebble/pebble.h", "int pebble(void);"},
      {"vendor/pebble/pebble.c", "#include \"pebble.h\"\nint pebble(void) { return 0; }"}},
     {{"quay", a_program, {"*.c"}}},
     {"pebble"}},
    {"a library that is included by its folder's name",
     {{"main.c", "#include <pebble/pebble.h>\nint main(void) { return pebble(); }"},
      {"deps/pebble/pebble.h", "int pebble(void);"},
      {"deps/pebble/pebble.c", "#include \"pebble.h\"\nint pebble(void) { return 0; }"}},
     {{"quay", a_program, {"*.c"}, {"deps"}}},
     {"pebble"}},
    {"a folder that cannot do without the project",
     {{"main.c", "#include \"port.h\"\nint line(void);\nint main(void) { return line() - LENGTH; }"},
      {"port.h", "#define LENGTH 3\n"},
      {"lib/line.h", "int line(void);\n"},
      {"lib/line.c", "#include \"line.h\"\n#include \"port.h\"\nint line(void) { return LENGTH; }"}},
     {{"quay", a_program, {"lib/**/*.c", "*.c"}, {"."}}}},
    {"sources of other systems",
     {{"main.c", "int meter(void);\nint main(void) { return meter(); }"},
      {"meter_linux.c", "int meter(void) { return 0; }"},
      {"meter_win32.c", "#include <windows.h>\nint meter(void) { return 1; }"},
      {"bsd.c", "#include <sys/sysctl.h>\nint level(void) { return 1; }"}},
     {{"quay", a_program, {"main.c", "meter_linux.c"}}}},
    {"headers of its own that are called like a system's",
     {{"main.c", "#include \"Process.h\"\nint main(void) { return process(); }"},
      {"Process.h", "int process(void);\n"},
      {"Process.c", "#include \"Process.h\"\nint process(void) { return 0; }"}},
     {{"quay", a_program, {"*.c"}}}},
    {"a stand-in for what the C library has",
     {{"main.c", "#include <unistd.h>\nint main(int n, char** v) { return getopt(n, v, \"a\") + 1; }"},
      {"getopt.c", "int getopt(void) { return strlwr(); }\n"}},
     {{"quay", a_program, {"main.c"}}}},
    {"a main from before C89",
     {{"main.c", "main (argc, argv)\n  int argc;\n  char ** argv;\n{\n  return depth(argc) - 1;\n}\n"},
      {"depth.c", "depth (count)\n  int count;\n{\n  return count;\n}\n"}},
     {{"quay", a_program, {"*.c"}}}},
    {"a main to try one source out",
     {{"main.c", "int pick(void);\nint main(void) { return pick(); }"},
      {"pick.c", "int pick(void) { return 0; }\n#ifdef TRY_PICK\nint main(void) { return pick(); }\n#endif\n"}},
     {{"quay", a_program, {"*.c"}}}},
    {"a source that another one includes",
     {{"main.c", "#include \"table.c\"\nint main(void) { return table(); }"},
      {"table.c", "int table(void) { return 0; }"}},
     {{"quay", a_program, {"main.c"}}}},
    {"functions of one name in the folders of two programs",
     {{"one/main.c", "int help(void);\nint main(void) { return help(); }"},
      {"one/help.c", "int help(void) { return 0; }"},
      {"two/main.c", "int help(void);\nint main(void) { return help(); }"},
      {"two/help.c", "int help(void) { return 0; }"}},
     {{"one", a_program, {"one/**/*.c"}}, {"two", a_program, {"two/**/*.c"}}}},
    {"what nobody calls and needs what is not here",
     {{"main.c", "int main(void) { return 0; }"}, {"extra.c", "#include <seagull.h>\nint extra(void) { return 0; }"}},
     {{"quay", a_program, {"main.c"}}}},
    {"what a configure script would find out",
     {{"configure.ac",
       "AC_INIT([quay], [2.5])\nAC_CONFIG_HEADERS([config.h])\nAC_DEFINE([DEPTH], [7], [of it])\n"
       "if test x; then\n  AC_DEFINE([OTHER], [1])\nfi\n"},
      {"main.c",
       "#ifdef HAVE_CONFIG_H\n#include \"config.h\"\n#endif\n#ifdef HAVE_UNISTD_H\n#include <unistd.h>\n#endif\n"
       "#ifdef OTHER\n#error other\n#endif\n"
       "int main(void) { return VERSION[2] - '5' + DEPTH - 7 + (getpid() == 0); }\n"}},
     {{"quay", a_program, {"*.c"}, {"configured"}, {"HAVE_CONFIG_H=1"}}}},
    {"a header of which there is a template",
     {{"config.h.in", "#undef HAVE_STDLIB_H\n#undef PACKAGE\n"},
      {"src/main.c",
       "#include <config.h>\n#ifndef HAVE_STDLIB_H\n#error none\n#endif\nint main(void) { return PACKAGE[0] != 'q'; "
       "}"}},
     {{"quay", a_program, {"src/**/*.c"}, {"configured"}}}},
    {"what a configure script fills into makefiles",
     {{"configure.ac", "AC_INIT([Quay Log], [2.5])\n"},
      {"src/Makefile.am",
       "AM_CPPFLAGS = -DSHARE=\\\"$(pkgdatadir)\\\" -DOF=\\\"@VERSION@\\\"\nif LOUD\nDEFS += -DLOUD\nendif\n"},
      {"src/place.h", "#define PLACE SHARE\n"},
      {"src/main.c",
       "#include \"place.h\"\nint main(void) {\n#ifdef LOUD\nreturn 1;\n#endif\nreturn PLACE[17] - 'q' + OF[0] - '2'; "
       "}"}},
     {{"quay", a_program, {"src/**/*.c"}, {}, {"SHARE=\"/usr/local/share/quay-log\"", "OF=\"2.5\""}}}},
    {"what a script of its own fills in",
     {{"configure", "#! /bin/sh\nrelease=2.5\nprefix=/usr/local\n"},
      {"Makefile.in",
       "quick : CFLAGS += -DOTHER\nmain.o : main.c\n\t$(CC) -DRELEASE=\\\"$(release)\\\" -c main.c\nmacos :\n\t$(CC) "
       "-DOTHER -c main.c\n"},
      {"main.c", "int main(void) {\n#ifdef OTHER\nreturn 1;\n#endif\nreturn RELEASE[0] - '2'; }"}},
     {{"quay", a_program, {"*.c"}, {}, {"RELEASE=\"2.5\""}}}},
    {"programs with functions of one name",
     {{"level.c", "#include <sys/epoll.h>\nint usage(void) { return 0; }\nint main(void) { return usage(); }"},
      {"meter.c", "int usage(void) { return 0; }\nint main(void) { return usage(); }"}},
     {{"level", a_program, {"level.c"}}, {"meter", a_program, {"meter.c"}}}},
    {"what a makefile hands to the compiler",
     {{"Makefile",
       "include version.mk\nPREFIX ?= /opt\nSHARE = $(PREFIX)/share\nifdef LOUD\nCFLAGS += -DLOUD\nendif\n"
       "CFLAGS += -DVERSION=\\\"$(RELEASE)\\\" \\\n  -DPLACE='\"${SHARE}\"' -DUNUSED -DDATE=\\\"$(shell date)\\\"\n"
       "all:\n\tcppcheck -DCHECKED .\n"},
      {"version.mk", "RELEASE = 2.5 # of this year\n"},
      {"main.c",
       "int main(void) {\n#if defined LOUD || defined CHECKED || defined DATE\nreturn 1;\n#endif\n"
       "return VERSION[2] - '5' + (PLACE[1] != 'o'); }"}},
     {{"quay", a_program, {"*.c"}, {}, {"VERSION=\"2.5\"", "PLACE=\"/opt/share\""}}}},
    {"samples and tests beside a program",
     {{"Makefile", "all:\n"},
      {"main.c", "int main(void) { return 0; }"},
      {"samples/one.c", "#error samples\nint main(void) { return 0; }"},
      {"tests/help.c", "#error tests\nint help(void) { return 0; }"},
      {"tests/two.c", "int help(void);\nint main(void) { return help(); }"}},
     {{"quay", a_program, {"*.c"}}}},
    {"tests of a program without a build of its own",
     {{"main.c", "int main(void) { return 0; }"}, {"tests/two.c", "int main(void) { return 0; }"}},
     {{"quay", a_program, {"*.c"}}, {"two", a_program, {"tests/**/*.c"}}}},
    {"a text that only ends like Objective-C",
     {{"main.c", "int main(void) { return 0; }"}, {"tides.m", "% tides\nx = [1 2 3];\n"}},
     {{"quay", a_program, {"*.c"}}}},
    {"programs as Automake calls them",
     {{"src/Makefile.am",
       "bin_PROGRAMS = harbour-log\nnoinst_PROGRAMS = meter\ncheck_PROGRAMS = trial\n"
       "harbour_log_SOURCES = client.c \\\n  one.c # of both\nmeter_SOURCES = main.c one.c\ntrial_SOURCES = try.c "
       "one.c\n"},
      {"src/client.c", "int one(void);\nint main(void) { return one(); }"},
      {"src/main.c", "int one(void);\nint main(void) { return one(); }"},
      {"src/one.c", "int one(void) { return 0; }"},
      {"src/try.c", "#error tried\nint main(void) { return 0; }"}},
     {{"harbour-log", a_program, {"src/client.c", "src/one.c"}}, {"meter", a_program, {"src/main.c", "src/one.c"}}}},
    {"a made header that includes headers",
     {{"configure.ac", "AC_INIT([quay], [2.5])\nAC_CONFIG_HEADERS([made/config.h])\n"},
      {"config.h.in",
       "/*\n * Of @WHOM@\n@HOW@\n */\n#if 1 && @BUILD_MORE@\n#error more\n#endif\n#include \"kinds.h\"\n"
       "#include \"more.h\"\n"},
      {"include/kinds.h", "typedef int kind;\n"},
      {"more.h.in", "#define MORE 0\n"},
      {"src/main.c", "#include \"config.h\"\nint main(void) { kind k = MORE; return k; }"}},
     {{"quay", a_program, {"src/**/*.c"}, {"include", "configured"}}}},
    {"what a configure script writes beside its findings",
     {{"configure.ac",
       "AC_INIT([quay], [2.5])\nAC_CONFIG_HEADERS([config.h])\nAC_CHECK_HEADERS([stdint.h])\n"
       "AH_BOTTOM([#ifdef HAVE_STDINT_H\n#include <stdint.h>\n#endif])\n"},
      {"windows/config.h", "#define HAVE_STDINT_H 1\n"},
      {"main.c",
       "#include <config.h>\n#ifndef PACKAGE_NAME\n#define PACKAGE_NAME 1\n#endif\n"
       "int main(void) { uint8_t n = 0; return n + (PACKAGE_NAME[0] != 'q'); }"}},
     {{"quay", a_program, {"*.c"}, {"configured"}}}},
    {"a folder that the configure step is for too",
     {{"configure.ac", "AC_INIT([quay], [2.5])\nAC_CONFIG_HEADERS([config.h])\n"},
      {"lib/tern/tern.h", "int tern(void);\n"},
      {"lib/tern/tern.c",
       "#ifdef HAVE_CONFIG_H\n#include \"config.h\"\n#endif\n#include \"tern.h\"\nint tern(void) { return 0; }"},
      {"main.c", "#include \"tern.h\"\nint main(void) { return tern(); }"}},
     {{"quay", a_program, {"lib/**/*.c", "*.c"}, {"lib/tern", "configured"}, {"HAVE_CONFIG_H=1"}}}},
    {"what a configure script brings where a system has none",
     {{"configure.ac", "AC_INIT([quay], [2.5])\nAC_REPLACE_FUNCS([strerror])\n"},
      {"strerror.c", "extern char* sys_errlist[];\nchar* strerror(int n) { return sys_errlist[n]; }"},
      {"main.c", "#include <string.h>\nint main(void) { return strerror(0) == 0; }"}},
     {{"quay", a_program, {"main.c"}}}},
    {"a function of the C library with its header",
     {{"porting/getopt.c", "#include <getopt.h>\nint getopt(int n, char** v, const char* o) { return -1; }"},
      {"porting/getopt.h", "int getopt();\n"},
      {"main.c", "#include <getopt.h>\nint main(int n, char** v) { return getopt(n, v, \"\") + 1; }"}},
     {{"quay", a_program, {"*.c"}}}},
    {"makefiles of one system each",
     {{"ports/amiga/Makefile", "CFLAGS = -DAMIGA\nall:\n\t$(CC) $(CFLAGS) -c main.c\n"},
      {"main.c", "int main(void) {\n#ifdef AMIGA\nreturn 1;\n#endif\nreturn 0; }"}},
     {{"quay", a_program, {"*.c"}}}},
    {"what makefiles beside the sources hand to the compiler",
     {{"configure.ac", "AC_INIT([quay], [2.5])\n"},
      {"log/Makefile.am", "AM_CPPFLAGS = -DSHARE=\\\"$(pkgdatadir)\\\"\n"},
      {"msvc9/stdint.h", "#error of another compiler\n"},
      {"log/main.c", "#include \"stdint.h\"\nint main(void) { return SHARE[0] - '/'; }"}},
     {{"quay", a_program, {"log/**/*.c"}, {}, {"SHARE=\"/usr/local/share/quay\""}}}},
    {"what is called after another system and is none of it",
     {{"disk_beos.c", "int beos(void) { return 0; }"},
      {"timer_os2.c", "int timer(void) { return 1; }"},
      {"main.c", "int beos(void);\n#ifdef OS2\nint timer(void);\n#endif\nint main(void) { return beos(); }"}},
     {{"quay", a_program, {"disk_beos.c", "main.c"}}}},
    {"a header of the system of which the tree has a template",
     {{"version.h.in", "#error own\n"},
      {"compat/unistd.h", "#include <windows.h>\n"},
      {"compat/langinfo.c", "#include <dos.h>\nchar* nl_langinfo(int n) { return 0; }\n"},
      {"main.c",
       "#include <linux/version.h>\n#include <unistd.h>\nint main(void) { return LINUX_VERSION_CODE == 0; }"}},
     {{"quay", a_program, {"*.c"}}}},
    {"a copy of gettext",
     {{"intl/gettextP.h", "#include \"libgnuintl.h\"\n"},
      {"intl/plural.c", "#include \"gettextP.h\"\nint plural(void) { return 0; }"},
      {"main.c", "#include <libintl.h>\nint main(void) { return gettext(\"\")[0]; }"}},
     {{"quay", a_program, {"*.c"}}}},
};

void PrintTo(const Found& row, std::ostream* out) {
  *out << row.what;
}

class Begin : public testing::TestWithParam<Found> {};

TEST_P(Begin, MakesAProjectOfWhatIsThereThatBuilds) {
  const Workplace place;
  const Found& row = GetParam();
  for (const auto& [name, text] : row.files) place.folder().write(std::string("quay/") + name, text);
  const auto begun = fibula::begin({.folder = place / "quay"});
  ASSERT_TRUE(begun) << begun.error().what;
  std::vector<Made> outputs;
  for (const auto& output : begun->project.outputs())
    outputs.push_back({output.name, output.kind, output.sources, output.headers, output.definitions});
  EXPECT_EQ(outputs, row.outputs);
  std::vector<std::string> libraries;
  for (const auto& use : begun->project.libraries()) libraries.push_back(use.name);
  EXPECT_EQ(libraries, row.libraries);
  const bool starts = outputs.size() == 1 && outputs.front().kind == a_program;
  const auto built = place.fibula(starts ? "build --lane desk-debug --run" : "build --lane desk-debug", place / "quay");
  EXPECT_EQ(built.status, 0) << built.all();
  const auto again = fibula::begin({.folder = place / "quay"});
  ASSERT_FALSE(again);
  EXPECT_EQ(again.error().code, fibula::Code::refused);
}

INSTANTIATE_TEST_SUITE_P(Folders, Begin, testing::ValuesIn(found), [](const auto& row) {
  std::string name = row.param.what;
  for (char& c : name) c = std::isalnum(static_cast<unsigned char>(c)) != 0 ? c : '_';
  return name;
});

#ifndef FIBULA_NATIVE_ONLY
TEST(Begin, WhatIsForSomeOfTheLanesSaysSo) {
  const Workplace place;
  place.folder().write("quay/main.c", "int meter(void);\nint main(void) { return meter(); }\n");
  place.folder().write("quay/meter_linux.c", "#include <sys/epoll.h>\nint meter(void) { return 0; }\n");
  place.folder().write("quay/meter_win32.c", "#include <windows.h>\nint meter(void) { return 0; }\n");
  place.folder().write("quay/meter_solaris.c", "int meter(void) { return 0; }\n");
  const auto begun = fibula::begin({.folder = place / "quay", .lanes = {"windows-x86_64-posix-release"}});
  ASSERT_TRUE(begun) << begun.error().what;
  const std::map<std::string, std::vector<std::string>> wanted{{"meter_linux.c", {"linux"}},
                                                               {"meter_win32.c", {"windows"}}};
  EXPECT_EQ(begun->project.outputs().front().only_for, wanted);
  const auto built = place.fibula("build", place / "quay");
  EXPECT_EQ(built.status, 0) << built.all();
}
#endif

TEST(Begin, NamesTheProgramAfterItsFolder) {
  const std::pair<const char*, const char*> names[] = {{"my quay", "my-quay"},  {"k\xc3\xbcste", "k\xc3\xbcste"},
                                                       {"quay (2)", "quay--2"}, {"(=)", "program"},
                                                       {"quay-2.1", "quay"},    {"quay_0.69", "quay"},
                                                       {"quay-1.2own", "quay"}};
  for (const auto& [folder, name] : names) {
    const Workplace place;
    const auto begun = fibula::begin({.folder = place / folder});
    ASSERT_TRUE(begun) << begun.error().what;
    EXPECT_EQ(begun->project.outputs().front().name, name) << folder;
  }
}

TEST(Begin, AProjectWithoutOutputsGoesOn) {
  const Workplace place;
  place.folder().write("quay/fibula.toml", "# mine\n[lane.x]\ncompiler = \"gcc\"  # the old one\n");
  const auto begun = fibula::begin({.folder = place / "quay"});
  ASSERT_TRUE(begun) << begun.error().what;
  EXPECT_EQ(test::read(place / "quay/fibula.toml"),
            "[[output]]\nname = \"quay\"\nkind = \"program\"\nsources = [\"src/**/*.cpp\"]\n\n# mine\n[lane.x]\n"
            "compiler = \"gcc\"  # the old one\n");
}

TEST(Lanes, WhatIsAddedStandsBehindTheOthers) {
  const Workplace place;
  place.folder().write("fibula.toml", "[lane.x]\ncompiler = \"gcc\"\n\n[every-lane]\nflags = [\"-Wall\"]\n");
  const auto project = fibula::Project::open(place.folder().path());
  ASSERT_TRUE(project);
  const auto added =
      fibula::add_lane(*project, "x32-debug", {.compiler = "gcc", .flags = {"-m32"}}, fibula::Cache::none());
  ASSERT_TRUE(added) << added.error().what;
  EXPECT_TRUE(added->does_not_start.empty()) << added->does_not_start;
  EXPECT_EQ(test::read(place / "fibula.toml"),
            "[lane.x]\ncompiler = \"gcc\"\n\n[lane.x32-debug]\ncompiler = \"gcc\"\nflags = [\"-m32\"]\n"
            "configuration = \"debug\"\n\n[every-lane]\nflags = [\"-Wall\"]\n");
  const auto twice = fibula::add_lane(*project, "x", {.compiler = "gcc"});
  ASSERT_FALSE(twice);
  EXPECT_EQ(twice.error().what, "there is a lane x already");
}

}  // namespace
