/// What a second call makes of the first one's results, and what the tool says where its surroundings are not as they
/// should be.
#include "support/support.hpp"

#include <fibula/build.hpp>

#include <fmt/format.h>
#include <gtest/gtest.h>

using test::Workplace;

namespace {

constexpr const char* calling_project =
    "[[output]]\nname = \"log\"\nsources = [\"**/*.c\"]\n[lane.desk]\ncompiler = \"gcc\"\n";

std::vector<std::string> files_in(const test::fs::path& folder) {
  std::vector<std::string> names;
  for (const auto& entry : test::fs::directory_iterator(folder)) names.push_back(entry.path().filename().string());
  std::sort(names.begin(), names.end());
  return names;
}

/// Each of these ends a refusal, and the objects that were the reason for it are still there.
TEST(SecondTime, ACorrectedProjectIsBuilt) {
  struct Case {
    const char* file;
    const char* content;
  };
  const Case cases[] = {{"work/tide.h", "static int tide(void) { return 0; }\n"},
                        {"work/tide.c", "int tide(void) { return 0; }\n"},
                        {"work/fibula.toml",
                         "[[output]]\nname = \"log\"\nsources = [\"**/*.c\"]\ndefinitions = "
                         "[\"DRY\"]\n[lane.desk]\ncompiler = \"gcc\"\n"}};
  for (const auto& c : cases) {
    SCOPED_TRACE(c.file);
    const Workplace place;
    place.folder().write("work/fibula.toml", calling_project);
    place.folder().write("work/tide.h", "int tide(void);\n");
    place.folder().write(
        "work/main.c",
        "#include \"tide.h\"\nint main(void) {\n#ifdef DRY\nreturn 0;\n#else\nreturn tide();\n#endif\n}\n");
    const auto refused = place.fibula("build");
    EXPECT_EQ(refused.status, 1);
    EXPECT_NE(refused.out.find("tide is needed by main.c.o"), std::string::npos) << refused.all();
    EXPECT_EQ(place.fibula("fit").status, 1) << "the objects are as new as the sources";
    place.folder().write(c.file, c.content);
    EXPECT_EQ(place.fibula("fit").status, 0) << "what the objects said holds no more";
    EXPECT_EQ(place.fibula("build --run").status, 0);
    EXPECT_EQ(place.fibula("build").out.find("compile"), std::string::npos);
  }
}

TEST(SecondTime, SourcesWhoseNamesLookAlikeHaveObjectsOfTheirOwn) {
  const Workplace place;
  place.folder().write("work/fibula.toml", calling_project);
  place.folder().write("work/src/a/b.c", "int one(void) { return 1; }\n");
  place.folder().write("work/src/a_b.c", "int two(void) { return 2; }\n");
  place.folder().write("work/main.c", "int one(void), two(void);\nint main(void) { return one() + two() - 3; }\n");
  EXPECT_EQ(place.fibula("build --run").status, 0);
}

/// Tools that back up or profile make hard links to compilers: these are no newer for it.
TEST(SecondTime, AHardLinkToTheCompilerChangesNothing) {
  const Workplace place;
  const auto compiler = place / "tools/gcc";
  const auto write_compiler = [&](const std::string& more) {
    place.folder().write("tools/gcc", "#!/bin/sh\n" + more + "exec /usr/bin/gcc \"$@\"\n");
    test::fs::permissions(compiler, test::fs::perms::owner_all);
  };
  write_compiler("");
  place.folder().write(
      "work/fibula.toml",
      "[[output]]\nname = \"log\"\nsources = [\"*.c\"]\n[lane.desk]\ncompiler = \"" + compiler.string() + "\"\n");
  place.folder().write("work/main.c", "int main(void) { return 0; }\n");
  ASSERT_EQ(place.fibula("build").status, 0);
  test::fs::create_hard_link(compiler, place / "tools/kept");
  const auto linked = place.fibula("build");
  EXPECT_NE(linked.out.find("nothing to do"), std::string::npos) << linked.all();
  write_compiler("true\n");
  const auto newer = place.fibula("build");
  EXPECT_EQ(newer.out.find("nothing to do"), std::string::npos) << newer.all();
}

#ifndef FIBULA_NATIVE_ONLY
/// What was put beside a program is not found there by itself the next time.
TEST(SecondTime, RunTimeFilesStayBesideTheProgram) {
  const Workplace place;
  place.folder().write("work/fibula.toml",
                       "[[output]]\nname = \"log\"\nsources = [\"*.cpp\"]\n[lane.w]\ncompiler = "
                       "\"x86_64-w64-mingw32-g++-posix\"\nstart-through = \"wine64\"\n");
  place.folder().write("work/main.cpp", "#include <iostream>\nint main() { std::cout << \"tide\\n\"; }\n");
  ASSERT_EQ(place.fibula("build").status, 0);
  const auto first = files_in(place / "work/.fibula/w/bin");
  EXPECT_EQ(first,
            (std::vector<std::string>{"libgcc_s_seh-1.dll", "libstdc++-6.dll", "libwinpthread-1.dll", "log.exe"}));
  for (const char* again : {"build", "fit", "build", "fit", "build"}) {
    ASSERT_EQ(place.fibula(again).status, 0);
    EXPECT_EQ(files_in(place / "work/.fibula/w/bin"), first) << again;
  }
  EXPECT_EQ(place.fibula("build --run").out.find("found  " + (place / "work/.fibula/w/bin/lib").string()),
            std::string::npos);
}
#endif

/// Every command says what is wrong, and none ends by a signal.
TEST(Surroundings, ThatAreNotAsTheyShouldBe) {
  struct Case {
    const char* name;
    const char* command;  ///< a shell's, with the tool in $FIBULA
    int status;
    const char* says;
  };
  const Case cases[] = {
      {"TMPDIR that is gone", "TMPDIR=/nowhere/at/all $FIBULA fit", 0, ""},
      {"no TMPDIR for a library taken on trial",
       "TMPDIR=/nowhere/at/all $FIBULA take --dry-run lib --name tide --version 1", 0, ""},
      {"a full device", "$FIBULA fit >/dev/full", 4, "standard output: cannot be written"},
      {"a full device for JSON", "$FIBULA lanes --json >/dev/full", 4, "standard output: cannot be written"},
      {"a reader who has read enough",
       "{ $FIBULA help --json 2>err; echo $? >status; } | true; sleep 0.2; cat err status", 0, "0"},
      {"a working folder that is gone", "mkdir gone && cd gone && rmdir ../gone && $FIBULA fit", 4,
       "the working directory is gone"},
      {"bytes that are no UTF-8 in CPATH", "CPATH=$(printf '/tmp/caf\\351') $FIBULA lanes --json", 0, ""},
      {"a folder whose name is no UTF-8",
       "mkdir \"$(printf 'h\\344fen')\" && cp *.c *.toml h*fen && cd h*fen && $FIBULA build && "
       "$FIBULA fit --json && $FIBULA build",
       0, "nothing to do"},
      {"a file whose name is no UTF-8",
       "cp lib/libtide.a \"$(printf 'lib/lib\\344.a')\" && $FIBULA inspect lib --json && $FIBULA inspect lib", 0,
       "lib\\xe4.a"},
      {"a cache that is switched off", "FIBULA_CACHE=off $FIBULA fit", 0, ""},
      {"a cache that cannot be written", "FIBULA_CACHE=/proc/nowhere $FIBULA fit", 0, ""},
  };
  for (const auto& c : cases) {
    SCOPED_TRACE(c.name);
    const Workplace place;
    place.folder().write("work/fibula.toml", calling_project);
    place.folder().write("work/main.c", "int main(void) { return 0; }\n");
    place.folder().write("work/lib/tide.h", "int tide(void);\n");
    test::must("printf 'int tide(void){return 1;}' | gcc -x c - -c -o t.o && ar rcs lib/libtide.a t.o && rm t.o",
               place / "work");
    const auto ran = place.shell(c.command);
    EXPECT_EQ(ran.status, c.status) << ran.all();
    EXPECT_NE(ran.all().find(c.says), std::string::npos) << ran.all();
  }
}

/// Names hold any byte; a terminal obeys some of them.
TEST(Surroundings, NamesNeverReachATerminalRaw) {
  const Workplace place;
  const std::string name = "lib\x1b[2J\x07tide.a";
  test::must("printf 'int tide(void){return 1;}' | gcc -x c - -c -o t.o && ar rcs x.a t.o", place / "work");
  test::fs::rename(place / "work/x.a", place / "work" / name);
  for (const char* command : {"inspect .", "inspect lib*", "inspect no$(printf '\\033')thing"}) {
    const auto ran = place.fibula(command);
    EXPECT_EQ(ran.all().find('\x1b'), std::string::npos) << command;
    EXPECT_NE(ran.all().find("\\x1b"), std::string::npos) << command << ran.all();
  }
}

/// The remedy is the command that works: it is tried.
TEST(Surroundings, ALibraryWithAVersionInItsNameIsCalledByAllOfIt) {
  const Workplace place;
  test::must(
      "printf 'int moon(void){return 1;}' | gcc -x c - -shared -fPIC -Wl,-soname,libmoon-2.0.so.0 -o libmoon-2.0.so",
      place / "work");
  place.folder().write("work/main.c", "int moon(void);\nint main(void) { return moon(); }\n");
  const auto said = place.shell("LIBRARY_PATH=$PWD $FIBULA explain -- gcc main.c -o log");
  EXPECT_NE(said.out.find("-lmoon-2.0"), std::string::npos) << said.all();
  test::must("gcc main.c -L. -lmoon-2.0 -o log", place / "work");
}

TEST(Surroundings, CommandsToTypeAreQuoted) {
  const Workplace place;
  test::must(
      "mkdir -p 'old port/lib' && printf 'int moon(void){return 1;}' | gcc -x c - -shared -fPIC -o 'old "
      "port/lib/libmoon.so'",
      place / "work");
  place.folder().write("work/main.c", "int moon(void);\nint main(void) { return moon(); }\n");
  const auto said = place.shell("$FIBULA explain -- gcc main.c -o log");
  EXPECT_NE(said.out.find("behind main.c add 'old port/lib/libmoon.so' (tried)"), std::string::npos) << said.all();
}

/// A file that people edit keeps the line ends that it has.
TEST(Edits, KeepLineEnds) {
  const Workplace place;
  ASSERT_EQ(place.fibula("take " + (place.prebuilt() / "tidecalc-2.1.0").string()).status, 0);
  place.folder().write("work/main.c", "int main(void) { return 0; }\n");
  const std::string before =
      "# of the harbour\r\n[[output]]\r\nname = \"log\"\r\nsources = [\"*.c\"]\r\n\r\n[lane.desk]\r\ncompiler = "
      "\"gcc\"\r\n";
  const auto file = place.folder().write("work/fibula.toml", before);
  ASSERT_EQ(place.fibula("attach tidecalc").status, 0);
  const std::string attached = test::read(file);
  for (size_t at = attached.find('\n'); at != std::string::npos; at = attached.find('\n', at + 1))
    EXPECT_EQ(attached[at - 1], '\r') << attached;
  ASSERT_EQ(place.fibula("detach tidecalc").status, 0);
  EXPECT_EQ(test::read(file), before);
}

/// A c90 project is told the oldest standard that serves.
TEST(Headers, TheOldestStandardThatServesIsNamed) {
  const Workplace place;
  place.folder().write("tide-1/tide.h", "static inline int tide(void) { for (int i = 0; i < 2; ++i) {} return 1; }\n");
  ASSERT_EQ(place.fibula("take --headers-only ../tide-1 --name tide --version 1").status, 0);
  place.folder().write("work/main.c", "#include <tide.h>\nint main(void) { return tide(); }\n");
  place.folder().write(
      "work/fibula.toml",
      "[[output]]\nname = \"log\"\nsources = [\"*.c\"]\nstandard = \"c90\"\n[library.tide]\n[lane.desk]\ncompiler = "
      "\"gcc\"\n");
  const auto said = place.fibula("fit");
  EXPECT_NE(said.out.find("remedy: write standard = \"c99\""), std::string::npos) << said.all();
}

/// Output by output: what one asks for does not reach the other.
TEST(Outputs, EachIsCompiledAsItSays) {
  const Workplace place;
  place.folder().write(
      "work/one.c",
      "#ifndef ONE\n#error no ONE\n#endif\n#ifdef TWO\n#error TWO\n#endif\nint main(void) { return 0; }\n");
  place.folder().write(
      "work/two.c",
      "#ifndef TWO\n#error no TWO\n#endif\n#ifdef ONE\n#error ONE\n#endif\nint main(void) { return 0; }\n");
  place.folder().write(
      "work/fibula.toml",
      "[[output]]\nname = \"one\"\nsources = [\"one.c\"]\ndefinitions = [\"ONE\"]\nstandard = \"c99\"\n"
      "[[output]]\nname = \"two\"\nsources = [\"two.c\"]\ndefinitions = [\"TWO\"]\nstandard = \"c11\"\nflags = "
      "[\"-Wall\"]\n"
      "[lane.desk]\ncompiler = \"gcc\"\n");
  ASSERT_EQ(place.fibula("build").status, 0);
  ASSERT_EQ(place.fibula("fit").status, 0);
  const auto work = place / "work";
  for (const char* command :
       {"gcc @.fibula/desk/compile.rsp one.c -o o",
        "gcc @.fibula/desk/compile-one.rsp one.c -o o @.fibula/desk/link-one.rsp",
        "gcc @.fibula/desk/compile-two.rsp two.c -o t @.fibula/desk/link-two.rsp",
        ". .fibula/desk/fit.env && eval \"$FIT_COMPILER $FIT_COMPILE_two two.c -o t $FIT_LINK_two\""})
    test::must(command, work);
  EXPECT_NE(test::shell("gcc @.fibula/desk/compile-two.rsp one.c -o o", work).status, 0);
  const auto database = nlohmann::json::parse(test::read(work / "compile_commands.json"));
  ASSERT_EQ(database.size(), 2U);
  EXPECT_NE(database[1]["arguments"].dump().find("\"-DTWO\""), std::string::npos) << database;
  EXPECT_NE(database[1]["arguments"].dump().find("\"-std=c11\""), std::string::npos) << database;
}

/// Cards are read strictly: a value of another type is an error with its line, an older form says what to do.
TEST(Cards, AreTyped) {
  struct Case {
    const char* from;
    const char* to;
    const char* says;
  };
  const Case cases[] = {
      {"toolset = { name", "toolset = 3 #", "toolset in [variant.facts] must be a table"},
      {"pic = { level = \"yes\" }", "pic = { level = \"perhaps\" }", "level in pic of a variant is \"perhaps\""},
      {"language = \"C\"", "language = [\"C\"]", "language in [variant.facts] must be a text in quotes"},
      {"interface = \"C\"", "interfaces = \"C\"", "unknown key interfaces in [variant.facts]"},
      {"arch = \"x86_64\"", "arch = \"x87\"", "no architecture is called \"x87\""},
      {"directories = [\"include\"]", "directories = [\"../include\"]", "leads out of the folder"},
      {"certainty = \"read\"", "certainty = \"sure\"", "certainty in"},
      {"card = 2", "card = 1", "card of form 1, this version reads form 2"}};
  const Workplace place;
  const auto source = place.prebuilt() / "tidecalc-2.1.0";
  ASSERT_EQ(place.fibula("take " + source.string()).status, 0);
  const auto file = place.shelf() / "tidecalc/2.1.0/card.toml";
  const std::string good = test::read(file);
  for (const auto& c : cases) {
    SCOPED_TRACE(c.to);
    std::string text = good;
    const size_t at = text.find(c.from);
    ASSERT_NE(at, std::string::npos) << text;
    const auto line = 1 + std::count(text.begin(), text.begin() + static_cast<std::ptrdiff_t>(at), '\n');
    text.replace(at, std::string(c.from).size(), c.to);
    place.folder().write("shelf/tidecalc/2.1.0/card.toml", text);
    const auto said = place.fibula("shelf show tidecalc");
    EXPECT_EQ(said.status, 3);
    EXPECT_NE(said.err.find(fmt::format("{}:{}: ", file.string(), line)), std::string::npos) << said.err;
    EXPECT_NE(said.err.find(c.says), std::string::npos) << said.err;
    EXPECT_NE(said.err.find("remedy: "), std::string::npos) << said.err;
  }
  // The remedy for an older card was tried.
  ASSERT_EQ(place.fibula("take " + source.string() + " --replace").status, 0);
  EXPECT_EQ(place.fibula("shelf show tidecalc").status, 0);
}

/// A card that cannot be read says nothing of what others need, and that is told.
TEST(Cards, ThatAreDamagedAreTold) {
  const Workplace place;
  place.folder().write("tide-1/tide.h", "int tide_height(void);\n");
  place.folder().write("bell-1/bell.h", "#include <tide.h>\n");
  ASSERT_EQ(place.fibula("take --headers-only ../tide-1 --name tide --version 1").status, 0);
  place.folder().write("shelf/tide/1/card.toml", "name = 3\n");
  const auto taken = place.fibula("take --headers-only ../bell-1 --name bell --version 1");
  EXPECT_EQ(taken.status, 0) << taken.all();
  EXPECT_NE(taken.all().find("whether tide is required is not known"), std::string::npos) << taken.all();
  EXPECT_NE(taken.all().find("tide/1/card.toml:1: "), std::string::npos) << taken.all();
}

/// What cannot be read is told among what a folder needs.
TEST(Closures, TellOfFilesThatCannotBeRead) {
  const Workplace place;
  place.folder().write("work/bin/cut", std::string("\x7f") + "ELF\x02\x01\x01");
  test::must("mkfifo bin/pipe; ln -s nowhere bin/gone; cp /bin/true bin/", place / "work");
  const auto said = place.fibula("inspect --needs bin");
  EXPECT_NE(said.all().find("cut"), std::string::npos) << said.all();
  EXPECT_NE(said.all().find("pipe"), std::string::npos) << said.all();
}

/// A project of values has no file whose change would tell: what is built is what it is now.
TEST(SecondTime, AProjectOfValuesIsBuiltAsItIsNow) {
  const Workplace place;
  place.folder().write("one.c", "#ifndef ANSWER\n#define ANSWER 1\n#endif\nint main(void) { return ANSWER; }\n");
  place.folder().write("two.c", "int main(void) { return 7; }\n");
  const fibula::Lane desk{.name = "desk", .compiler = "gcc"};
  const auto ends_with = [&](const std::string& source, fibula::Lane lane) {
    const auto project = fibula::Project::from_values(
        {.root = (place / "."), .outputs = {{.name = "p", .sources = {source}}}, .lanes = {desk}});
    const auto report = fibula::build(project.value(), lane, fibula::Shelf::at(place.shelf()));
    return test::shell(report.value().products.at(0).path.string()).status;
  };
  EXPECT_EQ(ends_with("one.c", desk), 1);
  EXPECT_EQ(ends_with("two.c", desk), 7);
  EXPECT_EQ(ends_with("one.c", desk), 1);
  fibula::Lane other = desk;
  other.definitions = {"ANSWER=5"};
  EXPECT_EQ(ends_with("one.c", other), 5);
}

}  // namespace
