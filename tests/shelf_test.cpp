#include "support/support.hpp"

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <fibula/shelf.hpp>

using namespace fibula;
using test::Workplace;

namespace {

TEST(Shelf, TakesALibraryOnceAndKeepsItsLinks) {
  const Workplace place;
  const auto tide = (place.prebuilt() / "tidecalc-2.1.0").string();
  const auto dry = place.fibula("take --dry-run " + tide);
  EXPECT_EQ(dry.status, 0);
  EXPECT_TRUE(place.shelf_entries().empty()) << "a dry run writes nothing";
  ASSERT_EQ(place.fibula("take " + tide).status, 0);
  const auto files = place.shelf() / "tidecalc/2.1.0/files";
  EXPECT_TRUE(test::fs::is_symlink(files / "lib/libtidecalc.so"));
  EXPECT_EQ(test::fs::read_symlink(files / "lib/libtidecalc.so.2"), "libtidecalc.so.2.1.0");
  test::must("sha256sum --check --quiet ../contents.sha256", files);
  EXPECT_TRUE(place.fibula_json("take " + tide)["already_there"]);
  const auto card = read_card(place.shelf() / "tidecalc/2.1.0");
  ASSERT_TRUE(card);
  EXPECT_EQ(card->licence, "MIT");
  ASSERT_EQ(card->variants.size(), 2U);
  EXPECT_EQ(card->variants[0].link, std::vector<std::string>{"lib/libtidecalc.a"});
  EXPECT_EQ(card->variants[1].link, std::vector<std::string>{"lib/libtidecalc.so"});
  EXPECT_EQ(card->variants[1].runtime, std::vector<std::string>{"lib/libtidecalc.so.2"});
}

TEST(Shelf, AnotherBuildOfAVersionNeedsToBeAskedFor) {
  const Workplace place;
  const auto tide = place.prebuilt() / "tidecalc-2.1.0";
  ASSERT_EQ(place.fibula("take " + tide.string()).status, 0);
  const auto before = place.shelf_entries();
  place.folder().write("prebuilt/tidecalc-2.1.0/include/tidecalc.h",
                       test::read(tide / "include/tidecalc.h") + "/* new */\n");
  const auto refused = place.fibula("take " + tide.string());
  EXPECT_EQ(refused.status, 1);
  EXPECT_NE(refused.err.find("--replace"), std::string::npos);
  EXPECT_EQ(place.shelf_entries(), before);
  EXPECT_EQ(place.fibula("take --replace " + tide.string()).status, 0);
  EXPECT_EQ(place.fibula("take --version 2.2.0 " + tide.string()).status, 0);
  EXPECT_EQ(place.fibula_json("shelf")["libraries"].size(), 2U);
  EXPECT_EQ(place.fibula("shelf drop tidecalc 2.1.0").status, 0);
  EXPECT_EQ(place.fibula("shelf drop tidecalc 2.1.0").status, 1);
  EXPECT_EQ(place.fibula_json("shelf")["libraries"][0]["version"], "2.2.0");
}

TEST(Shelf, CheckTellsWhatChangedOrIsMissing) {
  const Workplace place;
  ASSERT_EQ(place.fibula("take " + (place.prebuilt() / "tidecalc-2.1.0").string()).status, 0);
  EXPECT_EQ(place.fibula("shelf check").status, 0);
  const auto files = place.shelf() / "tidecalc/2.1.0/files";
  test::must("echo x >> include/tidecalc.h; rm lib/libtidecalc.a", files);
  const auto report = place.fibula_json("shelf check tidecalc");
  std::map<std::string, std::string> changes;
  for (const auto& change : report["changes"]) changes[change["file"]] = change["what"];
  EXPECT_EQ(changes,
            (std::map<std::string, std::string>{{"include/tidecalc.h", "damaged"}, {"lib/libtidecalc.a", "missing"}}));
  EXPECT_EQ(place.fibula("shelf check").status, 1);
}

TEST(Shelf, EightProcessesTakingAtOnceDoNoHarm) {
  const Workplace place;
  const auto tide = (place.prebuilt() / "tidecalc-2.1.0").string();
  const std::string take =
      fmt::format("FIBULA_SHELF='{}' '{}' take '{}' --version", place.shelf().string(), FIBULA_TOOL, tide);
  std::string all;
  for (int i = 0; i < 8; ++i) all += fmt::format("{} {}.0 & ", take, i % 4 + 1);
  test::must(all + "wait");
  const auto shelf = Shelf::at(place.shelf());
  const auto versions = shelf.versions("tidecalc");
  ASSERT_EQ(versions->size(), 4U);
  for (const auto& card : *versions) EXPECT_TRUE(shelf.check(card)->empty());
  for (const auto& entry : place.shelf_entries())
    EXPECT_FALSE(entry.starts_with(".arriving") || entry.starts_with(".leaving")) << entry << " was left behind";
}

TEST(Shelf, VersionsShareWhatIsTheSame) {
  const Workplace place;
  const auto tide = (place.prebuilt() / "tidecalc-2.1.0").string();
  test::must("head -c 4000000 /dev/urandom > lib/tables.dat", tide);
  for (const char* version : {"1", "2", "3", "4", "5"})
    ASSERT_EQ(place.fibula(fmt::format("take {} --version {}", tide, version)).status, 0);
  const auto size = std::stoi(test::must("du -sk .", place.shelf()));
  EXPECT_LT(size, 5000) << "five versions of 4 MB";
  for (const char* version : {"1", "2", "3", "4"})
    ASSERT_EQ(place.fibula(fmt::format("shelf drop tidecalc {}", version)).status, 0);
  EXPECT_EQ(place.fibula("shelf check").status, 0);
  ASSERT_EQ(place.fibula("shelf drop tidecalc 5").status, 0);
  EXPECT_EQ(test::must("find . -type f ! -name .lock ! -name shelf.index ! -path './.index/*'", place.shelf()), "")
      << "the store forgets too";
}

TEST(Shelf, DamageToTheStoreDoesNotSpread) {
  const Workplace place;
  const auto tide = (place.prebuilt() / "tidecalc-2.1.0").string();
  ASSERT_EQ(place.fibula("take " + tide).status, 0);
  test::must("chmod u+w include/tidecalc.h && echo '#error' >> include/tidecalc.h",
             place.shelf() / "tidecalc/2.1.0/files");
  ASSERT_EQ(place.fibula(fmt::format("take {} --version 2.2", tide)).status, 0);
  EXPECT_EQ(place.fibula_json("shelf check")["changes"].size(), 1U) << "only what was damaged";
}

TEST(Shelf, EditedCardsAreKeptWhenTheLibraryIsTakenAnew) {
  const Workplace place;
  const auto tide = (place.prebuilt() / "tidecalc-2.1.0").string();
  const auto entry = place.shelf() / "tidecalc/2.1.0";
  ASSERT_EQ(place.fibula("take " + tide).status, 0);
  ASSERT_EQ(place.fibula("take --replace " + tide).status, 0);
  EXPECT_FALSE(test::fs::exists(entry / "card.before.toml")) << "nobody had corrected it";
  test::must("sed -i 's/licence = .*/licence = \"Zlib\"/' card.toml", entry);
  EXPECT_EQ(place.fibula_json("shelf")["libraries"][0]["licence"], "Zlib");
  EXPECT_EQ(place.fibula("shelf check").status, 0) << "a correction is no damage";
  ASSERT_EQ(place.fibula("take --replace " + tide).status, 0);
  EXPECT_NE(test::read(entry / "card.before.toml").find("licence = \"Zlib\""), std::string::npos);
}

TEST(Shelf, IsSoundWheneverTakingIsKilled) {
  const Workplace place;
  const auto tide = place.prebuilt() / "tidecalc-2.1.0";
  test::must("for i in $(seq 300); do echo \"static int x$i;\" > include/h$i.h; done", tide);
  ASSERT_EQ(place.fibula("take --version 1 " + tide.string()).status, 0);
  const auto take = fmt::format("take --replace --version 1 {}", tide.string());
  int killed = 0;
  for (int step = 0; step < 40; ++step) {
    // The delay walks through the whole run.
    const auto ran = test::shell(fmt::format("FIBULA_SHELF='{}' timeout -s KILL 0.{:03} '{}' {}",
                                             place.shelf().string(), 2 + step * 3, FIBULA_TOOL, take),
                                 place / "work");
    killed += ran.status == 137 ? 1 : 0;
    ASSERT_EQ(place.fibula("shelf check").status, 0) << "after step " << step;
    ASSERT_EQ(place.fibula_json("shelf")["libraries"].size(), 1U);
  }
  EXPECT_GT(killed, 3);
  ASSERT_EQ(place.fibula(take).status, 0);
  EXPECT_EQ(test::must("ls -A", place.shelf()), ".arriving\n.index\n.lock\n.store\nshelf.index\ntidecalc\n");
  EXPECT_EQ(test::must("ls -A", place.shelf() / ".arriving"), "") << "nothing is left behind";
  EXPECT_EQ(test::must("find .store -type f -links 1", place.shelf()), "") << "nor in the store";
}

/// A library lamp, and so many others, lamp1000 and on, each with a header of its name. Somebody wrote them by hand:
/// their cards have no line about their digest.
void take_lamps(const Workplace& place, int others) {
  place.folder().write("lamp/include/lamp.h", "#define LAMP 1\n");
  ASSERT_EQ(place.fibula("take " + (place / "lamp").string() + " --version 1.0").status, 0);
  const std::string card = test::must("grep -v '^#' lamp/1.0/card.toml", place.shelf());
  for (int i = 1000; i < 1000 + others; ++i) {
    const std::string name = fmt::format("lamp{}", i);
    std::string own = card;
    for (const auto& [from, to] : {std::pair{std::string("name = \"lamp\""), fmt::format("name = \"{}\"", name)},
                                   {std::string("lamp.h"), name + ".h"}})
      own.replace(own.find(from), from.size(), to);
    test::fs::create_directories(place.shelf() / name / "1.0/files");
    place.folder().write(fmt::format("shelf/{}/1.0/card.toml", name), own);
    test::fs::copy_file(place.shelf() / "lamp/1.0/contents.sha256", place.shelf() / name / "1.0/contents.sha256");
  }
}

TEST(Shelf, IsListedByPages) {
  const Workplace place;
  take_lamps(place, 120);
  const auto second = place.fibula("shelf --page 2");
  EXPECT_EQ(second.status, 0) << second.all();
  EXPECT_EQ(second.out.substr(0, 8), "lamp1099") << "lamp itself is the first one";
  EXPECT_NE(place.fibula("shelf --page 1").out.find("page 1 of 2: fibula shelf --page 2"), std::string::npos);
  EXPECT_EQ(place.fibula_json("shelf --page 2")["libraries"].size(), 21U);
  EXPECT_EQ(place.fibula_json("shelf")["libraries"].size(), 121U) << "a program gets all of them";
  const auto none = place.fibula("shelf --page 3");
  EXPECT_EQ(none.status, 2);
  EXPECT_NE(none.err.find("the last page is 2"), std::string::npos) << none.err;
}

/// On a large shelf the owner of a header is looked up, and found also after the shelf changed.
TEST(Shelf, ALargeOneIsAskedForHeaders) {
  const Workplace place;
  take_lamps(place, 400);
  test::must("rm shelf.index", place.shelf());
  ASSERT_EQ(place.fibula("take " + (place / "lamp").string() + " --version 1.1 --replace").status, 0);
  place.folder().write("app/main.c", "#include <lamp1234.h>\nint main(void) { return LAMP - 1; }\n");
  const auto begun = place.fibula("begin", place / "app");
  EXPECT_NE(begun.out.find("fibula attach lamp1234"), std::string::npos) << begun.all();
  // Letters of another case are near, and the library that has them is told by the diagnosis.
  place.folder().write("app/other.c", "#include <Quay/Bollard.h>\nint main(void) { return 0; }\n");
  const auto explained = [&] { return place.fibula("explain -- gcc -c other.c", place / "app").out; };
  EXPECT_EQ(explained().find("bollard 1"), std::string::npos);
  place.folder().write("bollard/include/quay/bollard.h", "#define BOLLARD 1\n");
  ASSERT_EQ(place.fibula("take " + (place / "bollard").string() + " --version 1").status, 0);
  EXPECT_NE(explained().find("bollard 1 has quay/bollard.h"), std::string::npos) << explained();
  ASSERT_EQ(place.fibula("shelf drop bollard 1").status, 0);
  EXPECT_EQ(explained().find("bollard 1"), std::string::npos) << "what left the shelf is not told";
  // Beside another shelf each is asked for itself.
  const std::string other = "--shelf '" + (place / "other").string() + "' ";
  ASSERT_EQ(place.fibula(other + "take " + (place / "bollard").string() + " --version 1").status, 0);
  const std::string both = "--shelf '" + place.shelf().string() + "' " + other + "explain -- gcc -c other.c";
  EXPECT_NE(place.fibula(both, place / "app").out.find("bollard 1 has quay/bollard.h"), std::string::npos);
  EXPECT_EQ(explained().find("bollard 1"), std::string::npos) << "what the other one has is not kept for this one";
}

/// The same for symbols and files: of what comes, is replaced, leaves, or changes where it lies.
TEST(Shelf, ALargeOneIsAskedForSymbolsAndFiles) {
  const Workplace place;
  take_lamps(place, 400);
  test::must("rm shelf.index", place.shelf());
  const auto made = [&](const std::string& symbol, const std::string& in) {
    place.folder().write(in + "/include/tern.h", "int " + symbol + "(void);\n");
    place.folder().write("t.c", "int " + symbol + "(void) { return 0; }\n");
    test::must("mkdir -p " + in + "/lib && gcc -c t.c && rm -f " + in + "/lib/libtern.* && ar rcs " + in +
                   "/lib/libtern.a t.o && gcc -shared -fPIC t.c -o " + in + "/lib/libtern.so.1",
               place.folder().path());
  };
  const auto take = [&](const std::string& more) {
    const auto taken = place.fibula("take " + (place / "tern").string() + " --name tern " + more);
    ASSERT_EQ(taken.status, 0) << taken.all();
  };
  const auto located = [&](const std::string& name) { return place.fibula("locate --only-shelf " + name).out; };
  place.folder().write("main.c", "int tern_light(void);\nint main(void) { return tern_light(); }\n");
  const auto explained = [&] { return place.fibula("explain -- gcc main.c -o main", place.folder().path()).out; };
  EXPECT_EQ(explained().find("libtern.a"), std::string::npos);

  made("tern_light", "tern");
  take("--version 1");
  EXPECT_NE(explained().find("libtern.a defines it"), std::string::npos) << explained();
  EXPECT_NE(located("libtern.so.1").find("tern"), std::string::npos);
  made("tern_dark", "tern");
  take("--version 1 --replace");
  EXPECT_EQ(explained().find("libtern.a"), std::string::npos) << "what was replaced is not told";
  EXPECT_NE(located("tern_dark").find("libtern.a"), std::string::npos);
  ASSERT_EQ(place.fibula("shelf drop tern 1").status, 0);
  EXPECT_NE(located("tern_dark").find("nothing on the shelf has"), std::string::npos);

  // Where it lies, beside what belongs to others.
  take("--version 2 --in-place");
  EXPECT_NE(located("tern_dark").find("libtern.a"), std::string::npos);
  made("tern_light", "tern");
  test::must("cp tern/lib/libtern.a tern/lib/libother.a", place.folder().path());
  EXPECT_NE(located("tern_light").find("libtern.a"), std::string::npos) << "it changed without the shelf";
  EXPECT_EQ(located("tern_light").find("libother.a"), std::string::npos) << located("tern_light");
}

TEST(Shelf, AFullDiskLeavesItAsItWas) {
  const Workplace place;
  const auto tide = place.prebuilt() / "tidecalc-2.1.0";
  ASSERT_EQ(place.fibula("take " + tide.string()).status, 0);
  test::must("head -c 3000000 /dev/zero > include/big.h && tar -cf ../big-1.tar -C .. tidecalc-2.1.0", tide);
  const auto before = place.shelf_entries();
  for (const auto& source : {tide.string(), (place / "prebuilt/big-1.tar").string()}) {
    // No file may become larger than a megabyte: writing fails as it does on a full disk.
    const auto ran = test::shell(fmt::format("ulimit -f 1024; trap '' XFSZ; FIBULA_SHELF='{}' '{}' take {} --version 3",
                                             place.shelf().string(), FIBULA_TOOL, source),
                                 place / "work");
    EXPECT_EQ(ran.status, 4) << ran.all();
    EXPECT_NE(ran.err.find("big.h): cannot be "), std::string::npos) << ran.err;
    EXPECT_EQ(place.shelf_entries(), before);
  }
  EXPECT_EQ(place.fibula("shelf check").status, 0);
}

TEST(Shelf, ShowExplainsEachLine) {
  const Workplace place;
  ASSERT_EQ(place.fibula("take " + (place.prebuilt() / "tidecalc-2.1.0").string()).status, 0);
  const auto shown = place.fibula("shelf show tidecalc");
  EXPECT_NE(shown.out.find("name = \"tidecalc\"                             # what projects attach it by\n"),
            std::string::npos);
  EXPECT_NE(shown.out.find("# read from lib/libtidecalc.a: ELF header, e_machine in harbour.o\narch = \"x86_64\"\n"),
            std::string::npos)
      << shown.out;
  size_t keys = 0, notes = 0;
  std::istringstream lines(shown.out);
  for (std::string line; std::getline(lines, line);) {
    keys += line.find(" = ") != std::string::npos && !line.starts_with("#") ? 1U : 0U;
    notes += line.find("# ") != std::string::npos ? 1U : 0U;
  }
  EXPECT_EQ(notes, keys + 1 - 2) << "one for the file, none for bits\n" << shown.out;
}

TEST(Shelf, DropTellsWhoUsedIt) {
  const Workplace place;
  ASSERT_EQ(place.fibula("take " + (place.prebuilt() / "tidecalc-2.1.0").string()).status, 0);
  const auto project = place.harbourlog();
  ASSERT_EQ(place.fibula("attach tidecalc", project).status, 0);
  EXPECT_EQ(place.fibula("shelf drop tidecalc 2.1.0").out,
            fmt::format("tidecalc 2.1.0 is off the shelf\n  note: {} used it, within a day\n", project.string()));
}

TEST(Shelf, CardsThatPeopleEditAreChecked) {
  struct Case {
    const char* from;
    const char* to;
    const char* message;
  };
  for (const auto& c : {Case{"licence =", "license =", "unknown key license in the card"},
                        Case{"\"include/tidecalc.h\"", "\"/etc/passwd\"", "leads out of the folder"},
                        Case{"\"lib/libtidecalc.a\"", "\"../../libtidecalc.a\"", "leads out of the folder"},
                        Case{"linkage = \"static\"", "linkage = \"both\"", "linkage in [[variant]] is \"both\""},
                        Case{"name =", "name", "is not valid TOML"}}) {
    SCOPED_TRACE(c.to);
    const Workplace place;
    ASSERT_EQ(place.fibula("take " + (place.prebuilt() / "tidecalc-2.1.0").string()).status, 0);
    const auto file = place.shelf() / "tidecalc/2.1.0/card.toml";
    std::string text = test::read(file);
    text.replace(text.find(c.from), std::string(c.from).size(), c.to);
    place.folder().write("shelf/tidecalc/2.1.0/card.toml", text);
    const auto ran = place.fibula("shelf");
    EXPECT_EQ(ran.status, 3);
    EXPECT_NE(ran.err.find(c.message), std::string::npos) << ran.err;
    EXPECT_NE(ran.err.find(file.string() + ":"), std::string::npos) << ran.err;
  }
}

}  // namespace
