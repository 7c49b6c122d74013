/// Which files of a source tree are the library, and what they are compiled with: what an ordinary build would take.
#include "support/situations.hpp"

#include <fmt/format.h>
#include <gtest/gtest.h>

using test::check;

namespace {

const std::string dry_take = "$FIBULA take tern-1 --dry-run";
const char* const header = "int tern(void);\n";
const char* const source = "#include \"tern.h\"\nint tern(void) { return 1; }\n";

TEST(SourceSelection, ProgramsAndWhatIsTheirsAreLeftOut) {
  check({
      {"a main in the other branch of a system's",
       {{"tern-1/include/tern.h", header},
        {"tern-1/src/tern.c", source},
        {"tern-1/src/tool.c",
         "#ifdef _WIN32\nint wmain(int argc, wchar_t** argv)\n#else\nint main(int argc, char** argv)\n#endif\n"
         "{\n  return argc > 9 || argv == 0;\n}\n"}},
       dry_take,
       0,
       {"compile = [\"src/tern.c\"]", "src/tool.c has a main of its own"}},
      {"a test that a macro asks for stays in its source",
       {{"tern-1/include/tern.h", header},
        {"tern-1/src/tern.c", std::string(source) + "#ifdef SELFTEST\nint main(void) { return tern(); }\n#endif\n"}},
       dry_take,
       0,
       {"compile = [\"src/tern.c\"]"}},
      {"what lies beside a main, and is nobody else's",
       {{"tern-1/include/tern.h", header},
        {"tern-1/src/tern.c",
         "#include \"tern.h\"\nint tern(void) { return shown(); }\nint shown(void) { return 1; }\n"},
        {"tern-1/show/show.c", "#include \"lines.h\"\nint main(void) { return lines(); }\n"},
        {"tern-1/show/lines.h", "int lines(void);\nint shown(void);\n"},
        {"tern-1/show/lines.c",
         "#include \"lines.h\"\nint lines(void) { return 2; }\nint shown(void) { return 2; }\n"}},
       dry_take,
       0,
       {"compile = [\"src/tern.c\"]", "show/lines.c lies with programs", "directories = [\"include\"]"}},
      {"a tool among the library's own sources does not take its headers away",
       {{"tern-1/src/tern.h", header},
        {"tern-1/src/tern.c", source},
        {"tern-1/src/tables.c", "int main(void) { return 0; }\n"},
        {"tern-1/compat/other.h", "int other(void);\n"},
        {"tern-1/examples/use.c", "#include \"tern.h\"\nint main(void) { return tern(); }\n"}},
       dry_take,
       0,
       {"directories = [\"src\"]", "compile = [\"src/tern.c\"]"}},
  });
}

TEST(SourceSelection, WhatIsThereAlreadyIsNotTakenTwice) {
  const char* const all =
      "#include \"tern.h\"\nint tern(void) { return 1; }\nint wing(void) { return 1; }\nint beak(void) { return 1; }\n";
  const char* const headers = "int tern(void);\nint wing(void);\nint beak(void);\n";
  check({
      {"a model for a checker",
       {{"tern-1/include/tern.h", headers},
        {"tern-1/src/tern.c", all},
        {"tern-1/checker/model.c", "void* abort_path(void);\nint tern(void) { return abort_path() == 0; }\n"}},
       dry_take,
       0,
       {"compile = [\"src/tern.c\"]", "checker/model.c", "others define the same"},
       {"choice"}},
      {"sources beside what is built are told",
       {{"tern-1/include/tern.h", headers}, {"tern-1/src/tern.c", all}},
       "for i in 1 2 3 4 5 6; do echo 'int b;' >tern-1/src/part$i.c; done; mkdir tern-1/lib && gcc -Itern-1/include -c "
       "tern-1/src/tern.c && ar rcs tern-1/lib/libtern.a tern.o && $FIBULA take tern-1",
       0,
       {"static", "7 sources in it not compiled: what it brings built is taken"}},
      {"two of which one does more are a choice",
       {{"tern-1/include/tern.h", headers},
        {"tern-1/src/bus_twi.c", all},
        {"tern-1/src/bus_spi.c", "int tern(void) { return 1; }\nint wing(void) { return 1; }\n"}},
       dry_take,
       0,
       {"[source.choice.bus]", "spi", "twi"}},
  });
}

TEST(SourceSelection, HeadersAreThoseThatUsersInclude) {
  check({
      {"a folder called include that others pass through is none of the library's doors",
       {{"tern-1/tern/tern.h", "#include \"tern/inner/knot/include/knot/tie.h\"\nint tern(void);\n"},
        {"tern-1/tern/more.h", "int more(void);\n"},
        {"tern-1/tern/inner/knot/include/knot/tie.h", "int tie(void);\n"},
        {"tern-1/tern/tern.c",
         "#include \"tern/tern.h\"\nint tern(void) { return 1; }\nint more(void) { return 2; }\n"},
        {"tern-1/tern/inner/knot/tie.c", "int tie(void) { return 1; }\n"}},
       dry_take,
       0,
       {"directories = [\".\"]", "\"tern/tern.h\"", "tern/inner/knot/tie.c"}},
      {"those in a folder with its name, though another folder is a directory too",
       {{"tern-1/tern/tern.h", "#include \"tern/deep/part.h\"\nint tern(void);\n"},
        {"tern-1/tern/deep/part.h", "int part(void);\n"},
        {"tern-1/util/line.h", "int line(void);\n"},
        {"tern-1/tern/tern.c", "#include \"tern/tern.h\"\n#include \"line.h\"\nint tern(void) { return line(); }\n"},
        {"tern-1/util/line.c", "#include \"line.h\"\nint line(void) { return 1; }\nint part(void) { return 1; }\n"}},
       dry_take,
       0,
       {"\"tern/tern.h\"", "\"tern/deep/part.h\""}},
  });
}

TEST(SourceSelection, WhatOnlyItsOwnBuildTellsIsGuessedWhereItShows) {
  check({
      {"public headers that are templates say nothing of the sources",
       {{"tern-1/src/tern.h.in", "int tern(void);\n"},
        {"tern-1/src/util.h", "int opened(const char*);\n"},
        {"tern-1/src/tern.c", "#include \"util.h\"\nint tern(void) { return 1; }\n"},
        {"tern-1/src/windows_port.c", "#include <windows.h>\nint opened(const char* name) { return name != 0; }\n"}},
       dry_take,
       0,
       {"\"src/tern.c\""}},
      {"a header of its own includes another as from the folder of the sources",
       {{"tern-1/include/tern.h", header},
        {"tern-1/include/old/tern.h", header},
        {"tern-1/core/tern.c", "#include \"tables/all.h\"\nint tern(void) { return FIRST; }\n"},
        {"tern-1/core/tables/all.h", "#include \"tables/first.h\"\n"},
        {"tern-1/core/tables/first.h", "#define FIRST 1\n"},
        {"main.c", "#include <tern.h>\nint main(void) { return tern() - 1; }\n"},
        {"fibula.toml", test::one_program + "[library.tern]\n" + test::desk}},
       "$FIBULA take tern-1 >taken && $FIBULA build --run",
       0,
       {"desk  built"}},
      {"a header that a build tool writes has the macros that the others use",
       {{"tern-1/include/tern.h",
         "#include \"tern_export.h\"\nTERN_API int tern(void);\nTERN_EXPORT int more(void);\n#ifdef "
         "TERN_OLD_API\n#error old\n#endif\n"},
        {"tern-1/src/tern.c", "#include \"tern.h\"\nint tern(void) { return 1; }\nint more(void) { return 2; }\n"},
        {"main.c", "#include <tern.h>\nint main(void) { return tern() + more() - 3; }\n"},
        {"fibula.toml", test::one_program + "[library.tern]\n" + test::desk}},
       "$FIBULA take tern-1 && $FIBULA build --run",
       0,
       {"tern_export.h is made", "desk  built"}},
      {"a public header asks for a configuration that nothing makes",
       {{"tern-1/include/tern.h",
         "#ifdef HAVE_CONFIG_H\n#include \"config.h\"\n#endif\n#include \"tern_version.h\"\nint tern(void);\n"},
        {"tern-1/include/tern_version.h.in", "#define TERN_MAJOR 1\n"},
        {"tern-1/src/tern.c", source},
        {"main.c", "#include <tern.h>\nint main(void) { return tern() - TERN_MAJOR; }\n"},
        {"fibula.toml", test::one_program + "[library.tern]\n" + test::desk}},
       "$FIBULA take tern-1 >taken && $FIBULA build --run",
       0,
       {"desk  built"}},
      {"a source that is an error without a macro of its build",
       {{"tern-1/include/tern.h", header},
        {"tern-1/src/tern.c",
         "// SPDX-License-Identifier: MIT\n#ifndef TERN_IS_COMPILED\n# error define TERN_IS_COMPILED\n#endif\n"
         "#include \"tern.h\"\nint tern(void) { return 1; }\n"}},
       dry_take,
       0,
       {"definitions = [\"TERN_IS_COMPILED\"]", "TERN_IS_COMPILED is defined while its own sources are compiled"}},
  });
}

TEST(SourceSelection, HeadersOfAnotherLibraryAreCountedTogether) {
  const auto part = [](char name) {
    return fmt::format("#include \"tern.h\"\n#include <knot/{0}.h>\nint part_{0}(void) {{ return 1; }}\n", name);
  };
  check({{"each needs another header of one library",
          {{"tern-1/include/tern.h",
            "#include <knot/a.h>\nint tern(void);\nint part_a(void);\nint part_b(void);\nint part_c(void);\n"
            "int part_d(void);\nint part_e(void);\nint part_f(void);\nint part_g(void);\n"},
           {"tern-1/src/tern.c", source},
           {"tern-1/src/a.c", part('a')},
           {"tern-1/src/b.c", part('b')},
           {"tern-1/src/c.c", part('c')},
           {"tern-1/src/d.c", part('d')},
           {"tern-1/src/e.c", part('e')},
           {"tern-1/src/f.c", part('f')},
           {"tern-1/src/g.c", part('g')},
           {"tern-1/vendor/knot/include/knot/a.h", "int knot(void);\n"}},
          dry_take,
          0,
          {"\"src/a.c\"", "\"src/g.c\"",
           "include/tern.h includes knot/a.h, a header of another library, which lies in vendor/knot: take that "
           "folder"}}});
}

TEST(SourceSelection, WhatTheTreeNeverAsksForIsLeftOut) {
  check({
      {"a part behind a macro that nothing defines",
       {{"tern-1/src/tern.h", header},
        {"tern-1/src/tern.c",
         "#include \"tern.h\"\n#ifdef WITH_INDEX\n#include \"marks.h\"\n#endif\nint tern(void) {\n#ifdef WITH_INDEX\n"
         "  return marks();\n#else\n  return 1;\n#endif\n}\n"},
        {"tern-1/src/marks.h", "int marks(void);\n"},
        {"tern-1/src/marks.c", "int marks(void) { return NOT_THERE; }\n"}},
       dry_take,
       0,
       {"compile = [\"src/tern.c\"]", "src/marks.c left out"}},
      {"one that a header of the tree defines stays",
       {{"tern-1/src/tern.h", "#define WITH_INDEX 1\nint tern(void);\n"},
        {"tern-1/src/tern.c",
         "#include \"tern.h\"\n#ifdef WITH_INDEX\n#include \"marks.h\"\n#endif\nint tern(void) { return marks(); }\n"},
        {"tern-1/src/marks.h", "int marks(void);\n"},
        {"tern-1/src/marks.c", "int marks(void) { return 1; }\n"}},
       dry_take,
       0,
       {"compile = [\"src/marks.c\", \"src/tern.c\"]"}},
      {"what only macros and inline functions of headers lead to",
       {{"tern-1/include/tern.h", "#define tern tern_of_today\nint tern(void);\n"},
        {"tern-1/src/tern.c", "#include \"fast.h\"\nint tern_of_today(void) { return quick() + START; }\n"},
        {"tern-1/src/fast.h",
         "int slow(void);\nint began(void);\n#define START began()\nstatic inline int quick(void) { return slow(); "
         "}\n"},
        {"tern-1/more/slow.c", "int slow(void) { return 1; }\n"},
        {"tern-1/more/began.c", "int began(void) { return 1; }\n"},
        {"tern-1/more/never.c", "int never(void) { return 1; }\n"}},
       dry_take,
       0,
       {"compile = [\"more/began.c\", \"more/slow.c\", \"src/tern.c\"]", "more/never.c left out"}},
      {"functions behind others that macros make, and prototypes for compilers before C89",
       {{"tern-1/include/tern.h", "#define OF(args) args\nextern int tern OF((int pier));\n"},
        {"tern-1/src/tern.c", "void faults(void);\nint tern(int pier) { faults(); return pier; }\n"},
        {"tern-1/more/faults.c",
         "#define FAULT(name) static int name##_fault(void) { return 1; }\nFAULT(range)\nFAULT(unit)\nvoid "
         "faults(void) "
         "{ (void)range_fault; (void)unit_fault; }\n"},
        {"tern-1/more/spare.c", "int spare(void) { return 1; }\n"}},
       dry_take,
       0,
       {"compile = [\"more/faults.c\", \"src/tern.c\"]"}},
      {"a source that is taken in only where nothing asks for it",
       {{"tern-1/include/tern.h", "int tern(void);\nint tern_pack(void);\n"},
        {"tern-1/src/tern.c",
         "#include \"tern.h\"\n#ifdef ALL_IN_ONE\n#include \"pack.c\"\n#endif\nint tern(void) { return tern_pack(); "
         "}\n"},
        {"tern-1/src/pack.c", "int tern_pack(void) { return 1; }\n"}},
       dry_take,
       0,
       {"compile = [\"src/pack.c\", \"src/tern.c\"]"}},
      {"what an assembler of the other width would not take",
       {{"tern-1/include/tern.h", header},
        {"tern-1/src/tern.c", source},
        {"tern-1/src/sum_x86.S", "sum:\n  push ebp\n  mov ebp, esp  # the 64-bit one has rbp\n  pop ebp\n  ret\n"}},
       dry_take,
       0,
       {"arch = [\"x86\"]"}},
  });
}

TEST(SourceSelection, AMacroThatMakesNamesIsNoName) {
  check(
      {{"tables in two sources",
        {{"tern-1/tern.h", header},
         {"tern-1/names.h",
          "#define GLUE(a, b) a##b\n#define IN_(name) GLUE(inner_, name)\nextern const int IN_(one)[], IN_(two)[];\n"},
         {"tern-1/tern.c",
          "#include \"tern.h\"\n#include \"names.h\"\nint tern(void) { return *IN_(one) + *IN_(two); }\n"},
         {"tern-1/one.c", "#include \"names.h\"\nconst int IN_(one)[] = {1};\n"},
         {"tern-1/two.c", "#include \"names.h\"\nconst int IN_(two)[] = {2};\n"}},
        dry_take,
        0,
        {"compile = [\"one.c\", \"tern.c\", \"two.c\"]"},
        {"choice"}}});
}

TEST(SourceSelection, AHelperThatComesWithAProgramOfItsOwnIsNeeded) {
  check({{"its headers lie in a folder of theirs",
          {{"tern-1/include/tern.h", header},
           {"tern-1/src/tern.c", "#include \"tern.h\"\n#include \"node.h\"\nint tern(void) { return node_new(); }\n"},
           {"tern-1/node/include/node.h", "int node_new(void);\n"},
           {"tern-1/node/node.c", "#include \"node.h\"\nint node_new(void) { return 1; }\n"},
           {"tern-1/node/show.c", "#include \"node.h\"\nint main(void) { return node_new(); }\n"}},
          dry_take,
          0,
          {"\"node/node.c\"", "\"src/tern.c\"", "node/show.c has a main of its own"},
          {}}});
}

TEST(SourceSelection, BindingsToAHostThatIsNotHereAreLeftOut) {
  check({{"a folder of which all need its header",
          {{"tern-1/tern.h", header},
           {"tern-1/tern.c", "#include \"tern.h\"\nint tern(void) { return 1; } // not lab_write\n"},
           {"tern-1/lab/read.c",
            "#include \"lab.h\"\n#include \"tern.h\"\nint helper(void) { return lab_write() + tern(); }\n"},
           {"tern-1/lab/write.c", "#include \"lab.h\"\nint lab_write(void) { return helper(); }\n"}},
          dry_take,
          0,
          {"lab/read.c, lab/write.c left out: they include lab.h, which is not here", "compile = [\"tern.c\"]"},
          {}}});
}

TEST(SourceSelection, PartsOfASourceAreNoSources) {
  const std::string whole = "#include <stdio.h>\n#include \"tern.h\"\n#include \"tern_wing.c\"\n";
  check({
      {"which include what the whole has included before",
       {{"tern-1/tern.h", "typedef struct { int n; } Tern;\nint tern(Tern* one);\nint wing(Tern* one);\n"},
        {"tern-1/tern.c", whole + "int tern(Tern* one) { return wing(one); }\n"},
        {"tern-1/tern_wing.c", "#include <stdio.h>\nint wing(Tern* one) { return one->n; }\n"}},
       dry_take,
       0,
       {"compile = [\"tern.c\"]"}},
      {"and one that has the header of its own stays",
       {{"tern-1/tern.h", "typedef struct { int n; } Tern;\nint tern(Tern* one);\nint wing(Tern* one);\n"},
        {"tern-1/tern.c", "#include \"tern.h\"\nint tern(Tern* one) { return wing(one); }\n"},
        {"tern-1/tern_wing.c", "#include \"tern.h\"\nint wing(Tern* one) { return one->n; }\n"},
        {"tern-1/more.c", "#include \"tern_wing.c\"\nint more(void) { return 0; }\n"}},
       dry_take,
       0,
       {"tern_wing.c"}},
  });
}

TEST(SourceSelection, OneSourceServesEachSystem) {
  check({
      {"the one that is made for a system, before what is for several and what does nothing",
       {{"tern-1/include/tern.h", header},
        {"tern-1/src/tern.c", "#include \"tern.h\"\nint watch(void);\nint tern(void) { return watch(); }\n"},
        {"tern-1/src/watch_posix.c", "#include <sys/socket.h>\nint watch(void) { return 1; }\n"},
        {"tern-1/src/watch_epoll.c", "#include <sys/epoll.h>\nint watch(void) { return 2; }\n"},
        {"tern-1/src/no-watch.c", "#include <sys/socket.h>\nint watch(void) { return 3; }\n"},
        {"tern-1/src/watch_cygwin.c", "int watch(void) { return 4; }\n"}},
       dry_take,
       0,
       {"system = [\"linux\"]\ncompile = [\"src/watch_epoll.c\"]",
        "system = [\"macos\"]\ncompile = [\"src/watch_posix.c\"]",
        "src/no-watch.c left out: on each system others define the same",
        "src/watch_cygwin.c left out: for another system"}},
      {"what a configure step would decide says nothing of systems",
       {{"tern-1/include/tern.h", header},
        {"tern-1/src/tern.c",
         "#include \"tern-config.h\"\n#include \"tern.h\"\n#if USE_WINDOWS_API\n#include <windows.h>\n#endif\n"
         "#if HAVE_UNISTD_H\n#include <unistd.h>\n#else\n#include <io.h>\n#endif\n#if OTHER_API == 1\n"
         "#include <windows.h>\n#endif\nint tern(void) { return 1; }\n"},
        {"tern-1/tern-config.h.in", "#cmakedefine01 USE_WINDOWS_API\n#cmakedefine01 HAVE_UNISTD_H\n"}},
       dry_take,
       0,
       {"[source]\ncompile = [\"src/tern.c\"]"}},
      {"a condition that goes on behind a backslash",
       {{"tern-1/include/tern.h", header},
        {"tern-1/src/tern.c", source},
        {"tern-1/src/tool.c",
         "#if defined(__CYGWIN__) || \\\n    defined(__linux__)\nint main(void) { return 0; }\n#endif\n"}},
       dry_take,
       0,
       {"compile = [\"src/tern.c\"]", "src/tool.c has a main of its own"}},
      {"what its own build would not find on a system",
       {{"tern-1/include/tern.h", header},
        {"tern-1/src/tern.c", source},
        {"tern-1/src/cores.c",
         "#include \"tern.h\"\n#ifndef _WIN32\n#include <sys/sysctl.h>\n#endif\nint cores(void) { return tern(); }\n"},
        {"tern-1/include/cores.h", "int cores(void);\n"}},
       dry_take,
       0,
       {"system = [\"macos\", \"windows\"]\ncompile = [\"src/cores.c\"]"}},
  });
}

TEST(SourceSelection, HeadersThatAConfigureStepWouldMake) {
  check({
      {"values that its makers chose elsewhere, the order of bytes, and what MinGW has",
       {{"tern-1/include/tern.h", header},
        {"tern-1/src/tern.c",
         "#include \"tern-config.h\"\n#include \"tern.h\"\nint tern(void) { return WITH_PARTS; }\n"},
        {"tern-1/tern-config.h.in",
         "#cmakedefine01 WITH_PARTS\n#define TERN_LITTLE_ENDIAN @TERN_LITTLE_ENDIAN@\n#cmakedefine HAVE_STRDUP\n"
         "#define TERN_LIBRARY_VERSION_MAJOR @TERN_LIBRARY_VERSION_MAJOR@\n"},
        {"tern-1/msvc/tern-config.h", "#define WITH_PARTS 1\n"}},
       dry_take,
       0,
       {"#define WITH_PARTS 1", "#define TERN_LITTLE_ENDIAN (__BYTE_ORDER__ == __ORDER_LITTLE_ENDIAN__)",
        "defined(__MINGW32__)", "its value is not known: #define TERN_LIBRARY_VERSION_MAJOR",
        "and 1 value of msvc/tern-config.h and 1 line left open", "directories = [\"include\"]"}},
      {"a macro by which its sources know that they are being compiled",
       {{"tern-1/include/tern.h", header},
        {"tern-1/src/tern.c", "#if defined TERN_LIB\n#include \"tern.h\"\n#endif\nint tern(void) { return 1; }\n"}},
       dry_take,
       0,
       {"definitions = [\"TERN_LIB\"]", "TERN_LIB is defined while its own sources are compiled"}},
      {"steps that only a program needs are none of the library's",
       {{"tern-1/include/tern.h", header},
        {"tern-1/src/tern.c", source},
        {"tern-1/configure", "#!/bin/sh\n# Generated by GNU Autoconf 2.71.\n"},
        {"tern-1/config.h.in", "#undef HAVE_UNISTD_H\n"},
        {"tern-1/tool/tool.c", "#include \"config.h\"\nint main(void) { return 0; }\n"}},
       dry_take,
       0,
       {"compile = [\"src/tern.c\"]"},
       {"./configure"}},
      {"a header of the script's without a template, which only builds of its own ask for",
       {{"tern-1/include/tern.h", header},
        {"tern-1/src/parts.h",
         "#ifdef HAVE_CONFIG_H\n#include \"../config.h\"\n#endif\n#include \"tern.h\"\n#if HAVE_STDINT_H\n#include "
         "<stdint.h>\n#else\ntypedef "
         "long int64_t;\n#endif\n"},
        {"tern-1/src/tern.c",
         "#include \"parts.h\"\n#ifdef HAVE_UNISTD_H\n#include <unistd.h>\n#endif\nint tern(void) { return "
         "PACKAGE_VERSION[0] - '0'; }\n"},
        {"tern-1/configure.ac",
         "AC_INIT([tern], [1])\nAC_CONFIG_HEADERS([config.h])\nAC_CHECK_HEADERS([unistd.h stdint.h])\nAC_OUTPUT\n"}},
       dry_take,
       0,
       {"config.h is made from configure.ac", "__has_include(<unistd.h>)", "#define HAVE_STDINT_H 1",
        "#define PACKAGE_VERSION \"@version@\"", "HAVE_CONFIG_H=1"}},
      {"a configure script that is still to be written",
       {{"tern-1/include/tern.h", header},
        {"tern-1/src/tern.c", "#include <config.h>\n#include \"tern.h\"\nint tern(void) { return 1; }\n"},
        {"tern-1/configure.ac", "AC_INIT([tern], [1])\nAC_OUTPUT\n"}},
       dry_take,
       0,
       {"\"autoreconf -fi\"", "of which GNU Autoconf makes the first from configure.ac"}},
  });
}

const std::string program = "[[output]]\nname = \"p\"\nsources = [\"main.c\"]\n[library.tern]\n";
const std::string windows = "[lane.windows]\ncompiler = \"x86_64-w64-mingw32-gcc\"\n";
const std::string use = "#include <tern.h>\nint main(void) { return tern() - 1; }\n";
const std::string build = "$FIBULA take tern-1 >/dev/null && $FIBULA build --allow-steps";

TEST(SourceSelection, WhatALibraryLacksIsToldForWhatItIs) {
  check({
      {"a grammar of which nothing made C",
       {{"tern-1/tern.h", "int tern(void);\nint tern_from(const char* text);\n"},
        {"tern-1/tern.c", source},
        {"tern-1/words.y",
         "%{\n#include \"tern.h\"\n%}\n%%\nall: 'a';\n%%\nint tern_from(const char* text) { return *text; }\n"},
        {"main.c", "#include <tern.h>\nint main(void) { return tern_from(\"\"); }\n"},
        {"fibula.toml", program + "[lane.desk]\ncompiler = \"gcc\"\n"}},
       build,
       1,
       {"words.y of tern 1 defines it, and no C source made of that is there", "bison -d", "take it again"}},
      {"names that only its own build makes, by compiling a source again",
       {{"tern-1/tern.h", "int tern(void);\n"},
        {"tern-1/Makefile.am",
         "lib_LTLIBRARIES = libtern.la\nlibtern_la_SOURCES = tern.c\nfast_CFLAGS = -DKIND=fast\n"},
        {"tern-1/tern.c",
         "#include \"tern.h\"\nextern int tern_fast(void), tern_plain(void);\nint tern(void) { return tern_fast() + "
         "tern_plain(); }\n"},
        {"main.c", use},
        {"fibula.toml", program + "[lane.desk]\ncompiler = \"gcc\"\n"}},
       build,
       1,
       {"tern_fast is needed by libtern.a(tern.c.o)", "tern 1 was built here, of sources that define no such name",
        "remedy: see in ", "/Makefile.am how its own build makes it, and correct [source] in "},
       {"is meant", "take and attach"}},
      {"a name that nobody has, in a tree without a build of its own",
       {{"tern-1/tern.h", header},
        {"tern-1/tern.c", "#include \"tern.h\"\nint deep(void);\nint tern(void) { return deep(); }\n"},
        {"main.c", use},
        {"fibula.toml", program + "[lane.desk]\ncompiler = \"gcc\"\n"}},
       build,
       1,
       {"tern 1 was built here, of sources that define no such name", "remedy: correct the name in its source, add"},
       {"how its own build"}},
      {"two of its sources that define one thing, and both are needed",
       {{"tern-1/tern.h",
         "int tern(void);\nint tern_2(void);\nint tern_3(void);\nint wing(void);\nint wing_2(void);\n"},
        {"tern-1/tern.c",
         "#include \"tern.h\"\nint helper(void) { return 1; }\nint tern(void) { return helper() + wing() - 2; }\n"
         "int tern_2(void) { return 2; }\nint tern_3(void) { return 3; }\n"},
        {"tern-1/wing.c",
         "#include \"tern.h\"\nint helper(void) { return 2; }\nint wing(void) { return helper(); }\n"
         "int wing_2(void) { return 2; }\n"},
        {"main.c", use},
        {"fibula.toml", program + "[lane.desk]\ncompiler = \"gcc\"\n"}},
       build,
       1,
       {"misfit (duplicate)", "libtern.a(tern.c.o) defines helper", "both lie in libtern.a: take a build or a version"},
       {"use one of the two"}},
#ifndef FIBULA_NATIVE_ONLY
      {"a source for other systems",
       {{"tern-1/tern.h", header},
        {"tern-1/tern.c", "#include \"tern.h\"\n#include \"reach.h\"\nint tern(void) { return reach(); }\n"},
        {"tern-1/reach.h", "int reach(void);\n"},
        {"tern-1/reach.c",
         "#include <sys/socket.h>\n#include <netdb.h>\n#include \"reach.h\"\nint reach(void) { return 1; }\n"},
        {"main.c", use},
        {"fibula.toml", program + windows}},
       build,
       1,
       {"reach.c of tern 1 defines it, which is compiled for linux and macos alone",
        "tern is not whole for this lane's system"}},
#endif
  });
}

TEST(SourceSelection, BuiltWithAHeaderOfTheTopMadeByNobody) {
  check({{"which a folder's sources ask for",
          {{"tern-1/include/tern.h", header},
           {"tern-1/src/parts.h", "#ifdef HAVE_CONFIG_H\n#include \"../config.h\"\n#endif\n#include \"tern.h\"\n"},
           {"tern-1/src/tern.c",
            "#include \"parts.h\"\n#ifdef HAVE_UNISTD_H\n#include <unistd.h>\n#endif\nint tern(void) { return "
            "(int)sizeof(ssize_t) > 0 && PACKAGE_VERSION[0] == '1'; }\n"},
           {"tern-1/configure.ac",
            "AC_INIT([tern], [1])\nAC_CONFIG_HEADERS([config.h])\nAC_CHECK_HEADERS([unistd.h stdint.h])\nAC_OUTPUT\n"},
           {"main.c", use},
           {"fibula.toml", program + "[lane.desk]\ncompiler = \"gcc\"\n"}},
          build + " --run",
          0,
          {"desk  built"}}});
}

TEST(SourceSelection, BuiltAndLinked) {
  const char* const imports =
      "#if defined(TERN_STATIC) || !defined(_WIN32)\n#define API\n#elif defined(TERN_EXPORTS)\n"
      "#define API __declspec(dllexport)\n#else\n#define API __declspec(dllimport)\n#endif\nAPI int tern(void);\n";
  check({
      {"a static library whose header declares imports unless it is told",
       {{"tern-1/include/tern.h", imports},
        {"tern-1/src/tern.c", source},
        {"main.c", use},
        {"fibula.toml", program + "linkage = \"static\"\n" + windows}},
       build,
       0,
       {"windows  built"}},
      {"a shared one, whose own sources must export",
       {{"tern-1/include/tern.h", imports},
        {"tern-1/src/tern.c", source},
        {"main.c", use},
        {"fibula.toml", program + "linkage = \"shared\"\n" + windows}},
       build,
       0,
       {"windows  built"}},
      {"a library that others made, and the tree brings along",
       {{"tern-1/include/tern.h", header},
        {"tern-1/src/tern.c", "#include <tiny/one.h>\n#include \"tern.h\"\nint tern(void) { return TINY_ONE; }\n"},
        {"tern-1/3rdparty/tiny/one.h", "#define TINY_ONE 1\n"},
        {"main.c", use},
        {"fibula.toml", program + windows}},
       build,
       0,
       {"windows  built"}},
      {"what only its own build would hand over",
       {{"tern-1/include/tern.h", header},
        {"tern-1/src/tern.c", "#include \"tern.h\"\nint tern(void) { return PACKAGE_VERSION[0] - '0'; }\n"},
        {"main.c", use},
        {"fibula.toml", program + "[lane.desk]\ncompiler = \"gcc\"\n"}},
       build + " --run",
       0,
       {"desk  built"}},
      {"a header of the system's name, for systems that have none",
       {{"tern-1/include/tern.h", header},
        {"tern-1/src/tern.c", "#include <sys/queue.h>\n#include \"tern.h\"\nint tern(void) { return OWN_QUEUE; }\n"},
        {"tern-1/src/compat/sys/queue.h", "#define OWN_QUEUE 1\n"},
        {"main.c", use},
        {"fibula.toml", program + windows}},
       build,
       0,
       {"windows  built"}},
      {"more memory that starts as zeros than the file is long",
       {{"tern-1/include/tern.h", header},
        {"tern-1/src/tern.c", "#include \"tern.h\"\nstatic int all[1 << 22];\nint tern(void) { return all[4] + 1; }\n"},
        {"main.c", use},
        {"fibula.toml", program + windows + "[lane.desk]\ncompiler = \"gcc\"\n"}},
       build,
       0,
       {"windows  built", "desk  built"}},
      {"steps for another machine do not see what is installed on this one",
       {{"tern-1/include/tern.h", header},
        {"tern-1/src/tern.c", "#include <config.h>\n#include \"tern.h\"\nint tern(void) { return 1; }\n"},
        {"tern-1/config.h.in", "#undef HAVE_UNISTD_H\n"},
        {"tern-1/configure",
         "#!/bin/sh\ntouch config.h\nprintf 'P = %s\\n' \"${1#--prefix=}\" > place.mk\nls /usr/lib/*/pkgconfig "
         "/usr/share/pkgconfig 2>/dev/null | grep -c '[.]pc$' > seen\ntest \"$(cat seen)\" = 0\n"},
        {"tern-1/Makefile",
         "include place.mk\nall:\n\t$(CC) -I. -Iinclude -c src/tern.c -o tern.o && $(AR) rcs libtern.a "
         "tern.o\ninstall:\n"
         "\tmkdir -p $P/include $P/lib && cp include/tern.h $P/include && cp libtern.a $P/lib\n"},
        {"main.c", use},
        {"fibula.toml", program + windows}},
       "chmod +x tern-1/configure && " + build,
       0,
       {"windows  built"}},
      {"installed in a folder, and included as the tree's own samples do",
       {{"tern-1/lib/tern.h", header},
        {"tern-1/lib/tern.c", "#include <config.h>\n#include \"tern.h\"\nint tern(void) { return 1; }\n"},
        {"tern-1/config.h.in", "#undef HAVE_UNISTD_H\n"},
        {"tern-1/examples/use.c", "#include <tern.h>\nint main(void) { return tern(); }\n"},
        {"tern-1/configure", "#!/bin/sh\ntouch config.h\nprintf 'P = %s\\n' \"${1#--prefix=}\" > place.mk\n"},
        {"tern-1/Makefile",
         "include place.mk\nall:\n\t$(CC) -I. -c lib/tern.c -o tern.o && $(AR) rcs libtern.a tern.o\ninstall:\n"
         "\tmkdir -p $P/include/tern $P/lib && cp lib/tern.h $P/include/tern && cp libtern.a $P/lib\n"},
        {"main.c", use},
        {"fibula.toml", program + "[lane.desk]\ncompiler = \"gcc\"\n"}},
       "chmod +x tern-1/configure && " + build + " --run",
       0,
       {"desk  built"}},
  });
}

}  // namespace
