#include "support/situations.hpp"

#include <fmt/format.h>
#include <gtest/gtest.h>

using test::Workplace;

namespace {

class Explain : public testing::TestWithParam<const char*> {};

TEST_P(Explain, NamesTheLibraryThatHasTheHeaderOrTheSymbol) {
  const Workplace place;
  const auto libraries = place.prebuilt();
  ASSERT_EQ(place.fibula("take " + (libraries / "tidecalc-2.1.0").string()).status, 0);
  place.folder().write("work/a.cpp",
                       "#include <tidecalc.h>\nint main() { int n; return tide_sample_harbour(&n) == nullptr; }\n");
  const std::string compiler = GetParam();
  const auto header = place.fibula("explain -- " + compiler + " a.cpp -o a");
  EXPECT_EQ(header.status, 1);
  EXPECT_NE(header.out.find("header-not-found: tidecalc.h\n  a.cpp:1 includes tidecalc.h\n  tidecalc 2.1.0 has it\n"),
            std::string::npos)
      << header.all();
  EXPECT_NE(header.out.find("remedy: attach it: fibula attach tidecalc"), std::string::npos);
  const std::string include = fmt::format(" -I'{}'", (libraries / "tidecalc-2.1.0/include").string());
  const auto symbol = place.fibula("explain -- " + compiler + " a.cpp -o a" + include);
  EXPECT_EQ(symbol.status, 1);
  EXPECT_NE(symbol.out.find("library-not-linked: tide_sample_harbour"), std::string::npos) << symbol.all();
  EXPECT_NE(symbol.out.find("libtidecalc.a defines it"), std::string::npos) << symbol.all();
  const auto missing = place.fibula("explain -- " + compiler + " a.cpp -o a -ltidecalc" + include);
  EXPECT_NE(missing.out.find("library-not-found: tidecalc"), std::string::npos) << missing.all();
  place.folder().write("work/b.cpp", "int main() { return undeclared; }\n");
  const auto own = place.fibula("explain -- " + compiler + " b.cpp -o b");
  EXPECT_NE(own.out.find("not-about-libraries: b.cpp:1"), std::string::npos) << own.all();
  EXPECT_EQ(place.fibula("explain -- " + compiler + " --version").status, 0);
}

INSTANTIATE_TEST_SUITE_P(Compilers, Explain, testing::Values("g++", "clang++"),
                         [](const auto& row) { return row.index == 0 ? "gcc" : "clang"; });

/// Which of several macros is meant, only users know; what asks for something else is not said to ask for one.
TEST(Explain, NamesTheMacrosOfWhichOneIsAskedFor) {
  const auto header = [](const std::string& first, const std::string& second) {
    return test::Files{
        {"main.c", "#include \"tide.h\"\nint main(void) { return 0; }\n"},
        {"tide.h", first + "\nint tide(int);\n" + second + "\nint tide(long);\n#else\n# error no bus\n#endif\n"}};
  };
  const std::string asked = "$FIBULA explain -- gcc -c main.c -o main.o";
  test::check({
      {"names alone",
       header("#ifdef _TIDE_TWI", "#elif defined(_TIDE_SPI) || defined TIDE_UART  // a bus"),
       asked,
       1,
       {"tide.h:6: no bus", "it asks for one of _TIDE_TWI, _TIDE_SPI, TIDE_UART"}},
      {"those that compilers define are no choice",
       header("#if defined(_WIN32)", "#elif TIDE_SPI"),
       asked,
       1,
       {"define TIDE_SPI"},
       {"it asks for one of"}},
      {"values",
       header("#if TIDE_FORM >= 2 /* or OLD */", "#elif TIDE_FORM == 1"),
       asked,
       1,
       {"no bus"},
       {"it asks for one of"}},
      {"both of two",
       header("#if defined(TIDE_A) && defined(TIDE_B)", "#elif defined(TIDE_C)"),
       asked,
       1,
       {"no bus"},
       {"it asks for one of"}},
      {"what a project builds",
       test::with(header("#if defined(TIDE_TWI)", "#elif defined(TIDE_SPI)"),
                  {{"fibula.toml", test::one_program + test::desk}}),
       "$FIBULA build; $FIBULA explain",
       1,
       {"it asks for one of TIDE_TWI, TIDE_SPI", "here it compiles with TIDE_TWI and with TIDE_SPI"}},
  });
}

/// It does not say that no error was found where one was.
TEST(Explain, SaysOfALibrarysOwnCodeThatTheProjectCannotMendIt) {
  test::check({{"a library that does not compile",
                {{"tern-1/include/tern.h", "int tern(void);\n"},
                 {"tern-1/tern.c", "#include <tern.h>\nint tern(void) { return 1 }\n"},
                 {"main.c", "#include <tern.h>\nint main(void) { return tern(); }\n"},
                 {"fibula.toml", test::one_program + test::desk}},
                "$FIBULA take tern-1 && $FIBULA attach tern; $FIBULA build; $FIBULA explain",
                0,
                {"nothing was found that this project could change to mend it"},
                {"no compile, link or load error"}}});
}

TEST(ExplainLog, ReadsAFileOrStandardInput) {
  const Workplace place;
  place.folder().write("work/build.log",
                       "main.c:3:10: fatal error: nosuch/part.h: No such file or directory\ncompilation terminated.\n");
  const auto from_file = place.fibula_json("explain build.log");
  ASSERT_EQ(from_file["findings"].size(), 1U);
  EXPECT_EQ(from_file["findings"][0]["cause"], "header-not-found");
  EXPECT_EQ(from_file["findings"][0]["subject"], "nosuch/part.h");
  EXPECT_EQ(place.fibula("explain nosuch.log").status, 3);
  place.folder().write("work/good.log", "all is well\n");
  EXPECT_EQ(place.fibula("explain good.log").status, 0);
}

TEST(ExplainLog, MangledAndReadableNamesFindTheirLibrary) {
  const Workplace place;
  place.folder().write("lib-1.0/include/log.hpp", "#pragma once\nnamespace salt { int write_line(const char *); }\n");
  place.folder().write("lib-1.0/log.cpp", "namespace salt { int write_line(const char *) { return 0; } }\n");
  test::must("g++ -c log.cpp && ar rcs liblog.a log.o", place / "lib-1.0");
  ASSERT_EQ(place.fibula("take ../lib-1.0 --name saltlog").status, 0);
  for (const char* name : {"salt::write_line(char const*)", "_ZN4salt10write_lineEPKc"}) {
    place.folder().write("work/x.log",
                         fmt::format("/usr/bin/ld: main.o: in function `main':\nmain.cpp:(.text+0xa): undefined "
                                     "reference to `{}'\ncollect2: error: ld returned 1 exit status\n",
                                     name));
    const auto found = place.fibula_json("explain x.log");
    ASSERT_EQ(found["findings"].size(), 1U) << name;
    EXPECT_EQ(found["findings"][0]["cause"], "library-not-linked");
    EXPECT_EQ(found["findings"][0]["edit"], "fibula attach saltlog");
  }
}

}  // namespace
