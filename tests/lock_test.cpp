/// What attach chooses, and that the same is chosen again.
#include "support/support.hpp"

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <fibula/fibula.hpp>

using test::Workplace;

namespace {

/// tidecalc in some versions on the shelf, each with a header of its own, and the sample project without any library.
class Versions : public Workplace {
 public:
  explicit Versions(const std::vector<std::string>& versions) {
    for (const auto& version : versions) add(version);
    test::must("sed -i '/^\\[library/,/^$/d' fibula.toml", harbourlog());
    folder().write("harbourlog/src/main.cpp", "int main() { return 0; }\n");
    test::must("rm -f src/moon.cpp src/tides.cpp", project());
  }
  test::fs::path project() const { return *this / "harbourlog"; }
  void add(const std::string& version, const std::string& flags = "") const {
    const auto tide = prebuilt(flags) / "tidecalc-2.1.0";
    test::must(fmt::format("echo '/* {} */' >> include/tidecalc.h", version), tide);
    test::must(
        fmt::format("FIBULA_SHELF='{}' '{}' take --replace --version {} .", shelf().string(), FIBULA_TOOL, version) +
            " --name tidecalc",
        tide);
  }
  std::string version_in(const std::string& lane) const {
    const auto fits = fibula_json("fit", project());
    for (const auto& fit : fits["lanes"]) {
      if (fit["lane"] == lane) return fit["libraries"][0]["version"];
    }
    return {};
  }
};

TEST(Lock, TheSameIsChosenAgainUntilSomebodyAttachesAnew) {
  const Versions place({"2.1", "2.2"});
  ASSERT_EQ(place.fibula("attach tidecalc '>=2.1'", place.project()).status, 0);
  EXPECT_EQ(place.version_in("desk-debug"), "2.2");
  const auto lock = test::read(place.project() / "fibula.lock");
  EXPECT_NE(lock.find("version = \"2.2\""), std::string::npos) << lock;
  EXPECT_NE(lock.find("\"lib/libtidecalc.a\" = \""), std::string::npos) << lock;
  EXPECT_EQ(lock.find(place.folder().path().string()), std::string::npos) << "no folder of this machine";
  place.add("2.3");
  EXPECT_EQ(place.version_in("desk-debug"), "2.2") << "a newer version changes nothing by itself";
  EXPECT_EQ(test::read(place.project() / "fibula.lock"), lock);
  ASSERT_EQ(place.fibula("attach tidecalc '>=2.1'", place.project()).status, 0);
  EXPECT_EQ(place.version_in("desk-debug"), "2.3");
}

TEST(Lock, WhatIsGoneOrDifferentIsTold) {
  const Versions place({"2.1", "2.2"});
  ASSERT_EQ(place.fibula("attach tidecalc '>=2.1'", place.project()).status, 0);
  ASSERT_EQ(place.version_in("desk-debug"), "2.2");
  const auto lock = test::read(place.project() / "fibula.lock");
  ASSERT_EQ(place.fibula("shelf drop tidecalc 2.2").status, 0);
  for (int again = 0; again < 2; ++again) {
    const auto fit = place.fibula("fit", place.project());
    EXPECT_EQ(fit.status, 0) << fit.all();
    EXPECT_NE(fit.out.find("caution (locked): tidecalc"), std::string::npos) << fit.out;
    EXPECT_NE(fit.out.find("the shelf has no 2.2"), std::string::npos) << fit.out;
    EXPECT_EQ(test::read(place.project() / "fibula.lock"), lock) << "it is not forgotten before somebody decides";
  }
  place.add("2.2", "-g");
  const std::string said = place.fibula("fit", place.project()).out;
  EXPECT_NE(said.find("caution (locked): tidecalc in lanes desk-debug, desk-release\n"), std::string::npos) << said;
  EXPECT_NE(said.find("has other files under that version, sha256:"), std::string::npos);
  ASSERT_EQ(place.fibula("attach tidecalc", place.project()).status, 0);
  EXPECT_EQ(place.fibula("fit", place.project()).out.find("locked"), std::string::npos);
  place.folder().write("harbourlog/fibula.lock", "[[chosen]]\nlibrary = 3\n");
  const auto broken = place.fibula("fit", place.project());
  EXPECT_EQ(broken.status, 3);
  EXPECT_NE(broken.err.find("fibula.lock:"), std::string::npos) << broken.err;
}

TEST(Attach, TakesTheNewestThatFitsEveryLane) {
  const Versions place({"2.1", "2.2"});
  place.add("3.0", "-m32");
  place.add("3.1", "-m32");
  const auto attached = place.fibula("attach tidecalc", place.project());
  ASSERT_EQ(attached.status, 0) << attached.all();
  EXPECT_NE(attached.out.find("tidecalc 2.2 attached; any version >=2.2 <3.0 will do\n"), std::string::npos)
      << attached.out;
  EXPECT_NE(attached.out.find("note: 3.1 was passed over: in lane desk-debug, "), std::string::npos) << attached.out;
  EXPECT_NE(attached.out.find("x86"), std::string::npos) << "and why";
  EXPECT_EQ(place.version_in("desk-release"), "2.2");
  ASSERT_EQ(place.fibula("detach tidecalc", place.project()).status, 0);
  test::must("sed -i 's/^compiler = \"g++\"/&\\nflags = [\"-msoft-float\"]/' fibula.toml", place.project());
  for (const char* version : {"2.1", "2.2"})
    ASSERT_EQ(place.fibula(fmt::format("shelf drop tidecalc {}", version)).status, 0);
  const auto none = place.fibula_json("attach tidecalc", place.project());
  EXPECT_FALSE(none["fits_everywhere"]);
  EXPECT_EQ(none["version"], "3.1");
}

struct Edit {
  const char* name;
  const char* before;
  const char* command;
  const char* after;  ///< null: refused, with nothing changed
};

#define LANE "[lane.desk]\ncompiler = \"gcc\"\n"
const Edit edits[] = {
    {"uses_on_many_lines",
     "[[output]]\nname = \"a\"\nsources = [\"*.c\"]\nuses = [\n  \"tidecalc\",  # tides\n  \"other\",\n]\n\n"
     "[library.other] # kept\n\n[library.tidecalc]\nversion = \"2.1\"\n\n" LANE,
     "detach tidecalc",
     "[[output]]\nname = \"a\"\nsources = [\"*.c\"]\nuses = [\n   # tides\n  \"other\",\n]\n\n[library.other] # "
     "kept\n\n" LANE},
    {"a_new_block_behind_the_others",
     "# ours\n[[output]]\nname = \"a\"\nsources = [\"*.c\"]\n\n[library.other]   # kept\n\n# the desk\n" LANE,
     "attach tidecalc 2.1",
     "# ours\n[[output]]\nname = \"a\"\nsources = [\"*.c\"]\n\n[library.other]   # kept\n\n[library.tidecalc]\nversion "
     "= "
     "\"2.1\"\n\n# the desk\n" LANE},
    {"values_change_and_comments_stay",
     "[[output]]\nname = \"a\"\nsources = [\"*.c\"]\n[library.tidecalc]\n# why\nversion = \"1\" # once\n" LANE,
     "attach tidecalc 2.1 --linkage static",
     "[[output]]\nname = \"a\"\nsources = [\"*.c\"]\n[library.tidecalc]\n# why\nversion = \"2.1\" # once\nlinkage = "
     "\"static\"\n" LANE},
    {"an_inline_table_is_left_to_the_writer",
     "library = { tidecalc = { version = \"1\" } }\n[[output]]\nname = \"a\"\nsources = [\"*.c\"]\n" LANE,
     "attach tidecalc 2.1", nullptr},
    {"dotted_keys_are_left_to_the_writer",
     "library.tidecalc.version = \"1\"\n[[output]]\nname = \"a\"\nsources = [\"*.c\"]\n" LANE, "detach tidecalc",
     nullptr},
};

class Edits : public testing::TestWithParam<Edit> {};

TEST_P(Edits, ChangeNothingElse) {
  const Versions place({"2.1"});
  const Edit& row = GetParam();
  place.folder().write("p/fibula.toml", row.before);
  place.folder().write("p/a.c", "int main(void) { return 0; }\n");
  const auto ran = place.fibula(row.command, place / "p");
  EXPECT_EQ(ran.status, row.after == nullptr ? 3 : 0) << ran.all();
  EXPECT_EQ(test::read(place / "p/fibula.toml"), row.after == nullptr ? row.before : row.after);
  if (row.after == nullptr) {
    EXPECT_NE(ran.err.find("by hand; nothing was changed"), std::string::npos) << ran.err;
  }
}

INSTANTIATE_TEST_SUITE_P(Files, Edits, testing::ValuesIn(edits), [](const auto& row) { return row.param.name; });

/// An add-on: its header lies among those of the library that it belongs to.
TEST(AddOn, SharesTheIncludeDirectoryOfItsLibrary) {
  const Workplace place;
  test::must(
      "mkdir -p saltlog-1.0/include/saltlog foghorn-1.0/include/saltlog/extra && echo 'int salt(void);' > "
      "saltlog-1.0/include/saltlog/log.h && printf '#include \"../log.h\"\\nint horn(void);\\n' > "
      "foghorn-1.0/include/saltlog/extra/horn.h && echo 'int salt(void) { return 0; }' > s.c && echo 'int horn(void) { "
      "return 0; }' > h.c && gcc -c s.c h.c && ar rcs saltlog-1.0/libsaltlog.a s.o && ar rcs foghorn-1.0/libfoghorn.a "
      "h.o",
      place / "work");
  const auto app =
      place.folder()
          .write("app/main.c", "#include <saltlog/extra/horn.h>\nint main(void) { return salt() + horn(); }\n")
          .parent_path();
  ASSERT_EQ(place.fibula("take saltlog-1.0").status, 0);
  const auto taken = place.fibula("take foghorn-1.0");
  EXPECT_NE(taken.out.find("needs    saltlog"), std::string::npos) << taken.out;
  const auto attached = place.fibula("attach foghorn", app);
  EXPECT_NE(attached.out.find("it requires saltlog, which is on the shelf and used with it"), std::string::npos)
      << attached.out;
  const auto built = place.fibula("build --run", app);
  EXPECT_EQ(built.status, 0) << built.all();
  const auto fit = place.fibula("fit", app);
  EXPECT_NE(fit.out.find("foghorn requires saltlog"), std::string::npos) << fit.out;
  ASSERT_EQ(place.fibula("shelf drop saltlog 1.0").status, 0);
  const auto alone = place.fibula("fit", app);
  EXPECT_EQ(alone.status, 1);
  EXPECT_NE(alone.out.find("foghorn needs saltlog: include/saltlog/extra/horn.h includes ../log.h"), std::string::npos)
      << alone.out;
}

TEST(Source, IsTakenAndNotMistakenForHeadersOnly) {
  const Workplace place;
  test::must("mkdir m && echo 'int m(void);' > m/m.h && echo 'int m(void) { return 0; }' > m/m.c", place / "work");
  ASSERT_EQ(place.fibula("take m --version 1").status, 0);
  EXPECT_EQ(place.fibula("shelf").out, "m  1  source\n");
  const auto app = place.folder().write("app/main.c", "#include <m.h>\nint main(void) { return m(); }\n").parent_path();
  ASSERT_EQ(place.fibula("attach m", app).status, 0);
  const auto fit = place.fibula("fit", app);
  EXPECT_EQ(fit.status, 0);
  EXPECT_NE(fit.out.find("m 1 comes as source, 1 source to compile"), std::string::npos) << fit.out;
}

}  // namespace
