#include "support/support.hpp"

#include <gtest/gtest.h>
#include <fibula/project.hpp>

using namespace fibula;

namespace {

TEST(Project, ErrorsNameLineAndRemedy) {
  struct Case {
    const char* text;
    const char* message;
    const char* hint;
  };
  const Case cases[] = {
      {"[[output]]\nname = \"x\"\nsorces = []\n", ":1: [[output]] has no sources", "add sources = \"…\""},
      {"[lane.a]\ncompilr = \"g++\"\ncompiler = \"g++\"\n", ":2: unknown key compilr in [lane.a]",
       "did you mean compiler?"},
      {"[lane.a]\ncompiler = 3\n", ":2: compiler in [lane.a] must be a text in quotes",
       "write it like compiler = \"…\""},
      {"[lane.a]\ncompiler = \"g++\"\nflags = \"-m32\"\n",
       ":3: flags in [lane.a] must be a list of texts, [\"a\", \"b\"]", "write it like flags = [\"…\"]"},
      {"[lane.a]\ncompiler = \"g++\"\nconfiguration = \"fast\"\n", ":3: configuration in [lane.a] is \"fast\"",
       "it is one of \"debug\", \"release\""},
      {"[library.x]\nversion = \"~2\"\n", ":1: version range \"~2\" cannot be understood",
       "write it like \">=2.1 <3\", \"2.1\" or \"=2.1.3\", without a space after the sign"},
      {"lane.a = 3\n", ":1: lane a must be a table", "write [lane.a] and its keys below"},
      {"[lane.\"a/b\"]\ncompiler = \"g++\"\n", ":1: \"a/b\" cannot be a name", "use letters, digits, - and _"},
      {"[[output]]\nname = \"x\"\nsources = []\n[[output]]\nname = \"x\"\nsources = []\n",
       ":4: two outputs are called x", "give one of them another name"},
      {"[wharf]\n", ":1: unknown key wharf in the project",
       "known keys: compile-through, shelves, check-licences, jobs, time-limit, output, library, lane, every-lane"},
  };
  for (const auto& c : cases) {
    SCOPED_TRACE(c.text);
    const test::Folder folder;
    const auto file = folder.write("fibula.toml", c.text);
    const auto project = Project::open(folder.path());
    ASSERT_FALSE(project);
    EXPECT_EQ(render(project.error()), file.string() + c.message);
    EXPECT_EQ(project.error().hint, c.hint);
  }
  const test::Folder folder;
  folder.write("fibula.toml", "[lane.a]\ncompiler = \"g++\"\n[lane.a]\n");
  EXPECT_EQ(Project::open(folder.path()).error().line, 3U) << "two lanes of one name";
}

TEST(Project, IsFoundFromAFolderInside) {
  const test::Folder folder;
  folder.write("fibula.toml", "[lane.a]\ncompiler = \"g++\"\n");
  folder.write("src/deep/main.cpp", "");
  EXPECT_EQ(Project::open(folder / "src/deep")->root(), folder.path());
}

TEST(Project, LanesOverrideWhatDiffers) {
  const test::Folder folder;
  folder.write(
      "fibula.toml",
      "[[output]]\nname = \"x\"\nsources = []\n[library.tide]\nversion = \">=2\"\nlinkage = \"static\"\n"
      "[lane.a]\ncompiler = \"g++\"\n[lane.b]\ncompiler = \"g++\"\n[lane.b.library.tide]\nlinkage = \"shared\"\n");
  const auto project = Project::open(folder.path());
  ASSERT_TRUE(project) << render(project.error());
  const auto& output = project->outputs()[0];
  EXPECT_EQ(project->uses(output, project->lanes()[0])[0].linkage, Linkage::static_);
  EXPECT_EQ(project->uses(output, project->lanes()[1])[0].linkage, Linkage::shared);
  EXPECT_EQ(project->uses(output, project->lanes()[1])[0].version, ">=2");
}

/// Attaching and detaching change the library's lines and nothing else.
TEST(Project, EditsKeepTheHandThatWroteTheFile) {
  const test::Workplace place;
  const auto libraries = place.prebuilt();
  ASSERT_EQ(place.fibula("take " + (libraries / "tidecalc-2.1.0").string()).status, 0);
  const std::string before =
      "# the harbour's log\n\n[[output]]\nname = \"log\"   # short\nsources = [\"*.c\"]\nuses = [\"gauge\", "
      "\"tidecalc\"]\n\n"
      "# ours\n[library.gauge]\n  version = \">=1\" # old\n\n# the lanes\n[lane.b]\ncompiler = "
      "\"g++\"\n[lane.a]\ncompiler = \"g++\"\n";
  // What outputs use is named before it is there; what is said until then is right.
  place.folder().write("work/fibula.toml", before);
  place.folder().write("work/x.c", "int x;\n");
  const auto missing = place.fibula("fit");
  EXPECT_EQ(missing.status, 3);
  EXPECT_NE(
      missing.err.find("fibula.toml:3: output log uses tidecalc, which is neither attached nor an output\n  remedy: "
                       "attach it: fibula attach tidecalc\n"),
      std::string::npos)
      << missing.err;
  EXPECT_EQ(place.fibula("attach tidecalc").status, 0);
  const std::string attached =
      "# the harbour's log\n\n[[output]]\nname = \"log\"   # short\nsources = [\"*.c\"]\nuses = [\"gauge\", "
      "\"tidecalc\"]\n\n"
      "# ours\n[library.gauge]\n  version = \">=1\" # old\n\n[library.tidecalc]\nversion = \">=2.1.0\" # mine\n\n# the "
      "lanes\n[lane.b]\ncompiler = \"g++\"\n[lane.a]\ncompiler = \"g++\"\n";
  place.folder().write("work/fibula.toml", attached);
  EXPECT_EQ(place.fibula("attach tidecalc 2.1 --linkage static").status, 0);
  std::string expected = attached;
  expected.replace(expected.find(">=2.1.0\""), 8, "2.1\"");
  expected.replace(expected.find(" # mine"), 7, " # mine\nlinkage = \"static\"");
  EXPECT_EQ(test::read(place / "work/fibula.toml"), expected);
  // Without a word about it the linkage stays; asked for, any is any.
  EXPECT_EQ(place.fibula("attach tidecalc 2.1").status, 0);
  EXPECT_EQ(test::read(place / "work/fibula.toml"), expected);
  EXPECT_EQ(place.fibula("attach tidecalc 2.1 --linkage any").status, 0);
  EXPECT_NE(test::read(place / "work/fibula.toml").find("linkage = \"any\""), std::string::npos);
  EXPECT_EQ(place.fibula("detach tidecalc").status, 0);
  std::string without = before;
  without.replace(without.find("[\"gauge\", \"tidecalc\"]"), 21, "[\"gauge\"]");
  EXPECT_EQ(test::read(place / "work/fibula.toml"), without);
  EXPECT_EQ(place.fibula("attach tidecalc").status, 0);
  EXPECT_EQ(place.fibula("detach tidecalc").status, 0);
  EXPECT_EQ(test::read(place / "work/fibula.toml"), without) << "there and back leaves no trace";
  EXPECT_EQ(place.fibula("detach tidecalc").status, 1);
}

/// Every beginning of a project's text, and every one with a sign too many, is a project or an error with its line.
TEST(Project, AnyTextEnds) {
  const std::string text =
      "[[output]]\nname = \"log\"\nsources = [\"*.c\"]\nplacement = { a = 'b' }\n[library.\"a.b\"]\n"
      "version = \">=1\"\n[lane.a]\ncompiler = \"\"\"g++\"\"\"\n";
  const auto look = [](const std::string& cut) {
    const auto read = Project::from_text(cut, "/nowhere");
    EXPECT_TRUE(read || !read.error().what.empty()) << cut;
  };
  for (size_t at = 0; at <= text.size(); ++at) {
    look(text.substr(0, at));
    for (const char sign : std::string("[]{}=.,#\"'\\\n")) {
      look(text.substr(0, at) + sign + text.substr(at));
      look(text.substr(0, at) + sign);
    }
  }
}

}  // namespace
