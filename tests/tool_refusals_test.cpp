/// Wrong things, given to the tool: each gets its error or misfit, with file, fact and remedy, and nothing half-written
/// stays behind.
#include "support/support.hpp"

#include <fmt/format.h>
#include <gtest/gtest.h>

using test::Workplace;

namespace {

struct Wrong {
  const char* what;
  const char* prepare;    ///< shell, in a folder that has `ok`, the prebuilt tidecalc
  const char* arguments;  ///< of the tool, in the same folder
  int status;
  std::vector<const char*> says;
};

const Wrong wrongs[] = {
    {"headers without a library",
     "mkdir h; cp -r ok/include h",
     "take h --name tidecalc --version 2",
     1,
     {"has headers and no library", "tide_height", "--headers-only"}},
    {"truncated archive",
     "truncate -s 2000 ok/lib/libtidecalc.a",
     "take ok",
     3,
     {"ok/lib/libtidecalc.a: at 0x", "cut off"}},
    {"web page as a library",
     "echo '<!DOCTYPE html><html></html>' > ok/lib/libtidecalc.a",
     "take ok",
     3,
     {"libtidecalc.a: is a web page, not a library", "download it again"}},
    {"empty file as a library", ": > ok/lib/libtidecalc.a", "take ok", 3, {"is an empty file", "fetch it again"}},
    {"an archive without members",
     "rm ok/lib/*; ar rc ok/lib/libtidecalc.a",
     "take ok",
     1,
     {"libtidecalc.a: is an archive without members", "build the library again"}},
    {"an archive of two machines",
     "echo 'int x;' > x.c; gcc -m32 -c x.c; ar rc ok/lib/libtidecalc.a x.o",
     "take ok",
     1,
     {"libtidecalc.a: members are for different machines", "32-bit x86 elf (1 member, first x.o)"}},
    {"nothing in the folder", "mkdir empty", "take empty", 1, {"holds no header and no library"}},
    {"no such folder", "", "take nosuch", 3, {"nosuch: No such file or directory"}},
    {"a file instead of a folder", "", "take ok/lib/libtidecalc.a", 1, {"is one library file", "name the header too"}},
    {"no version anywhere",
     "mkdir v; echo 'inline int f() { return 1; }' > v/v.h",
     "take v",
     1,
     {"does not say its version", "--version"}},
    {"a count of interfaces for a version",
     "mkdir v; echo 'int tide(void);' > v/v.h; printf -- '--- !tapi-tbd\ntbd-version: 4\ntargets: [ x86_64-macos ]\n"
     "install-name: /usr/lib/libtide.dylib\ncurrent-version: 25\nexports:\n  - targets: [ x86_64-macos ]\n"
     "    symbols: [ _tide ]\n...\n' > v/libtide.tbd",
     "take v",
     1,
     {"does not say its version", "--version"}},
    {"a name that is none", "", "take ok --name ../x", 1, {"cannot be called \"../x\"", "--name"}},
    {"a library that the prefix lacks",
     "",
     "take /usr --library no_such_lib",
     1,
     {"/usr: has no library no_such_lib", "development package"}},
    {"library not on the shelf",
     "echo 'int main(){}' > main.cpp",
     "attach tidecalc",
     1,
     {"no library tidecalc on the shelf", "fibula take"}},
    {"no project and no sources", "", "fit", 3, {"no fibula.toml here or in a folder above", "fibula begin"}},
    {"unknown command", "", "ancor", 2, {"no command ancor", "--help"}},
    {"unknown option", "", "fit --lan x", 2, {"--lan"}},
    {"nothing to inspect", "", "inspect", 2, {"PATH"}},
    {"inspect what is not there", "", "inspect nosuch.a", 3, {"nosuch.a: No such file or directory"}},
    {"inspect a pipe", "mkfifo p.a", "inspect p.a", 3, {"p.a: is not a regular file"}},
    {"explain a command that is not there",
     "",
     "explain -- no-such-compiler x.c",
     4,
     {"no-such-compiler: cannot be started"}},
};

void PrintTo(const Wrong& wrong, std::ostream* out) {
  *out << wrong.what;
}

class Refusals : public testing::TestWithParam<Wrong> {};

TEST_P(Refusals, NameFileAndRemedyAndLeaveNothingBehind) {
  const Workplace place;
  const Wrong& wrong = GetParam();
  test::fs::rename(place.prebuilt() / "tidecalc-2.1.0", place / "work/ok");
  test::must(std::string("true; ") + wrong.prepare, place / "work");
  const auto before = test::must("find . | sort", place / "work");
  const auto ran = place.fibula(wrong.arguments);
  EXPECT_EQ(ran.status, wrong.status) << ran.all();
  for (const char* text : wrong.says)
    EXPECT_NE(ran.err.find(text), std::string::npos) << "wanted: " << text << "\ngot: " << ran.all();
  EXPECT_TRUE(place.shelf_entries().empty());
  EXPECT_EQ(test::must("find . | sort", place / "work"), before);
}

INSTANTIATE_TEST_SUITE_P(All, Refusals, testing::ValuesIn(wrongs), [](const auto& row) {
  std::string name = row.param.what;
  std::replace(name.begin(), name.end(), ' ', '_');
  return name;
});

TEST(Misfits, ALibraryForAnotherMachine) {
  const Workplace place;
  ASSERT_EQ(place.fibula("take " + (place.prebuilt("-m32") / "tidecalc-2.1.0").string()).status, 0);
  ASSERT_EQ(place.fibula("take " + (place / "prebuilt/moonphase-1.3.0").string()).status, 0);
  const auto project = place.harbourlog();
  ASSERT_EQ(place.fibula("attach tidecalc --linkage static", project).status, 0);
  ASSERT_EQ(place.fibula("attach moonphase", project).status, 0);
  for (const char* command : {"fit", "build"}) {
    const auto ran = place.fibula(command, project);
    EXPECT_EQ(ran.status, 1);
    for (const char* text :
         {"misfit (architecture): tidecalc in lane",
          "libtidecalc.a is 32-bit x86, little-endian (read: ELF header, e_machine", "each lane needs 64-bit x86_64",
          "remedy: take a static build of tidecalc for 64-bit x86_64 elf, glibc"}) {
      EXPECT_NE(ran.out.find(text), std::string::npos) << text << "\n" << ran.all();
    }
  }
  for (const char* lane : {"desk-debug", "desk-release"}) EXPECT_FALSE(test::fs::exists(project / ".fibula" / lane));
  // The same library serves a lane that is for its machine.
  test::must("printf '[lane.desk32]\\ncompiler = \"g++\"\\nflags = [\"-m32\"]\\n' >> fibula.toml", project);
  EXPECT_EQ(place.fibula("fit --lane desk32", project).status, 0);
}

TEST(Misfits, TheLinkageThatIsNotThere) {
  const Workplace place;
  const auto tide = place.prebuilt() / "tidecalc-2.1.0";
  test::must("rm lib/*.so*", tide);
  ASSERT_EQ(place.fibula("take " + tide.string()).status, 0);
  const auto project = place.harbourlog();
  ASSERT_EQ(place.fibula("attach tidecalc --linkage shared", project).status, 0);
  const auto fit = place.fibula_json("fit", project);
  const auto& misfit = fit["lanes"][0]["libraries"][0]["misfits"][0];
  EXPECT_EQ(misfit["rule"], "linkage");
  EXPECT_NE(misfit["evidence"][1].get<std::string>().find("asks for tidecalc with linkage = \"shared\""),
            std::string::npos)
      << misfit;
}

TEST(Misfits, ALibraryThatWasNeverAttached) {
  const Workplace place;
  for (const char* name : {"tidecalc-2.1.0", "moonphase-1.3.0"})
    ASSERT_EQ(place.fibula("take " + (place.prebuilt() / name).string()).status, 0);
  const auto project = place.harbourlog();
  const auto header = place.fibula("build --lane desk-debug", project);
  EXPECT_EQ(header.status, 1);
  EXPECT_NE(header.out.find("remedy: attach it: fibula attach moonphase"), std::string::npos) << header.out;
  // With its header at hand it compiles, and the link is told before the linker runs.
  ASSERT_EQ(place.fibula("attach moonphase", project).status, 0);
  test::must("cp ../prebuilt/tidecalc-2.1.0/include/tidecalc.h src/", project);
  const auto link = place.fibula("build --lane desk-debug", project);
  EXPECT_EQ(link.status, 1);
  for (const char* text : {"misfit (undefined): harbourlog in lane desk-debug",
                           "tide_height is needed by tides.cpp.o, section .text at 0x", "libtidecalc.a defines them",
                           "remedy: attach it: fibula attach tidecalc"}) {
    EXPECT_NE(link.out.find(text), std::string::npos) << text << "\n" << link.out;
  }
  EXPECT_FALSE(test::fs::exists(project / ".fibula/desk-debug/bin/harbourlog"));
}

TEST(Misfits, ALibraryThatLeftTheShelf) {
  const Workplace place;
  ASSERT_EQ(place.fibula("take " + (place.prebuilt() / "tidecalc-2.1.0").string()).status, 0);
  const auto project = place.harbourlog();
  ASSERT_EQ(place.fibula("attach tidecalc \">=2 <3\"", project).status, 0);
  ASSERT_EQ(place.fibula("shelf drop tidecalc 2.1.0").status, 0);
  const auto ran = place.fibula("fit --lane desk-debug", project);
  EXPECT_EQ(ran.status, 1);
  EXPECT_NE(ran.out.find("misfit (library): tidecalc in lane desk-debug"), std::string::npos) << ran.out;
  EXPECT_NE(ran.out.find("attaches tidecalc >=2 <3"), std::string::npos) << ran.out;
}

TEST(Misfits, ALaneWhoseCompilerIsNotThere) {
  const Workplace place;
  const auto project = place.harbourlog();
  test::must("sed -i 's/\"g++\"/\"no-such-g++\"/' fibula.toml", project);
  const auto ran = place.fibula("fit", project);
  EXPECT_EQ(ran.status, 4);
  EXPECT_NE(ran.err.find("fibula.toml:10: lane desk-debug: compiler no-such-g++ not found"), std::string::npos)
      << ran.err;
}

}  // namespace
