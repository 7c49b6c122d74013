/// What `take` makes of folders as they come, and of prefixes without a package manager.
#include "support/support.hpp"

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <fibula/shelf.hpp>

using test::Workplace;

namespace {

struct Folder {
  const char* what;
  const char* make;  ///< shell, in a folder that has x.o
  const char* arguments;
  const char* name;
  const char* version;
  std::vector<std::string> include;
  std::vector<std::string> variants;
};

const Folder folders[] = {
    {"version in the folder's name",
     "mkdir -p buoy-1.4.2/include buoy-1.4.2/lib; echo 'int x(void);' > buoy-1.4.2/include/b.h; ar rcs "
     "buoy-1.4.2/lib/libbuoy.a x.o",
     "buoy-1.4.2",
     "buoy",
     "1.4.2",
     {"include"},
     {"x86_64-elf-static"}},
    {"version in a macro",
     "mkdir -p buoy; echo '#define BUOY_VERSION \"3.1.4\"' > buoy/b.h; ar rcs buoy/libbuoy.a x.o",
     "buoy",
     "buoy",
     "3.1.4",
     {"."},
     {"x86_64-elf-static"}},
    {"version in three macros",
     "mkdir -p buoy2/include/buoy; printf '#define BUOY_VERSION_MAJOR 2\\n#define BUOY_VERSION_MINOR 0\\n#define "
     "BUOY_VERSION_PATCH 7\\n' > buoy2/include/buoy/v.h; ar rcs buoy2/libbuoy.a x.o",
     "buoy2 --name buoy",
     "buoy",
     "2.0.7",
     {"include"},
     {"x86_64-elf-static"}},
    {"version in a file's name",
     "mkdir -p buoy/lib; echo 'int x(void);' > buoy/b.h; gcc -shared x.o -Wl,-soname,libbuoy.so.5 -o "
     "buoy/lib/libbuoy.so.5.0.1; ln -s libbuoy.so.5.0.1 buoy/lib/libbuoy.so.5",
     "buoy",
     "buoy",
     "5.0.1",
     {"."},
     {"x86_64-elf-shared"}},
    {"debug and release",
     "mkdir -p b/Debug b/Release; echo 'int x(void);' > b/b.h; ar rcs b/Debug/libb.a x.o; ar rcs b/Release/libb.a x.o",
     "b --version 1",
     "b",
     "1",
     {"."},
     {"x86_64-elf-static-debug", "x86_64-elf-static-release"}},
    {"two machines in one folder",
     "mkdir -p b/lib32 b/lib64 b/include; echo 'int x(void);' > b/include/b.h; ar rcs b/lib64/libb.a x.o; echo 'int "
     "x(void) { return 0; }' | gcc -m32 -xc -c - -o y.o; ar rcs b/lib32/libb.a y.o",
     "b --version 1",
     "b",
     "1",
     {"include"},
     {"x86-elf-static", "x86_64-elf-static"}},
    {"inline functions make no two libraries one",
     "mkdir -p b; echo 'int x(void);' > b/b.h; for n in one two; do printf "
     "'inline int f(int n) { return n; } inline int g(int n) { return n; } int %s() { return f(1) + g(2); }' $n | "
     "g++ -xc++ -c - -o $n.o; ar rcs b/lib$n.a $n.o; done",
     "b --version 1",
     "b",
     "1",
     {"."},
     {"x86_64-elf-static"}},
    {"what a program defines for it makes a plugin",
     "mkdir -p b/bin b/lib/b; echo 'int host(void) { return 1; } int main(void) { return 0; }' | gcc -rdynamic -xc - "
     "-o "
     "b/bin/b; for n in lo tcn; do echo 'int host(void); int init(void) { return host(); }' | gcc -fPIC -shared -xc - "
     "-o b/lib/b/$n.so; done; gcc -shared x.o -Wl,-soname,libb.so -o b/lib/libb.so; echo 'int x(void);' > b/b.h",
     "b --version 1",
     "b",
     "1",
     {"."},
     {"x86_64-elf-shared"}},
    {"libraries that need each other are one variant",
     "mkdir -p b; echo 'int x(void);' > b/b.h; gcc -shared x.o -Wl,-soname,libb.so -o b/libb.so; echo '#include "
     "<string>\nint y(std::string) { return 0; }' > y.cc; g++ -fPIC -shared y.cc -Wl,-soname,liby.so -o b/liby.so; "
     "g++ -fPIC -D_GLIBCXX_USE_CXX11_ABI=0 -shared y.cc -Wl,-soname,libz.so -o b/libz.so -Lb -lb -ly "
     "-Wl,--no-as-needed -lb -ly",
     "b --version 1",
     "b",
     "1",
     {"."},
     {"x86_64-elf-shared"}},
    {"a folder's own libraries stay together",
     "mkdir -p b/one b/two; echo 'int x(void);' > b/b.h; for d in one two; do ar rcs b/$d/libb.a x.o; for n in host "
     "dummy; do echo 'int leave(void) { return 0; }' | gcc -xc -c - -o y.o; ar rcs b/$d/lib$n.a y.o; done; done",
     "b --version 1",
     "b",
     "1",
     {"."},
     {"x86_64-elf-static-one-dummy", "x86_64-elf-static-two-dummy", "x86_64-elf-static-one-host",
      "x86_64-elf-static-two-host"}},
    {"what others were linked against has no stand-in",
     "mkdir -p b; echo 'int x(void);' > b/b.h; gcc -shared x.o -Wl,-soname,libb.so -o b/libb.so; gcc -shared x.o "
     "-Wl,-soname,libb_r.so -o b/libb_r.so; echo 'int x(void); int user(void) { return x(); }' | gcc -fPIC -shared "
     "-xc - -Wl,-soname,libuser.so -o b/libuser.so -Lb -lb",
     "b --version 1",
     "b",
     "1",
     {"."},
     {"x86_64-elf-shared"}},
    {"lost links are made again",
     "mkdir -p b; echo 'int x(void);' > b/b.h; gcc -shared x.o -Wl,-soname,libb.so.5 -o b/libb.so.5.0.1; tar czf "
     "b-1.tgz b; rm -r b",
     "b-1.tgz",
     "b",
     "1",
     {"."},
     {"x86_64-elf-shared"}},
    {"a folder that packers make has the name of its library",
     "mkdir -p package; echo 'int x(void);' > package/b.h; ar rcs package/libbuoy.a x.o",
     "package --version 1",
     "buoy",
     "1",
     {"."},
     {"x86_64-elf-static"}},
    {"a link that leads nowhere is told and left out",
     "mkdir -p b; echo 'int x(void);' > b/b.h; ar rcs b/libb.a x.o; ln -s gone.so b/libgone.so",
     "b --version 1",
     "b",
     "1",
     {"."},
     {"x86_64-elf-static"}},
};

void PrintTo(const Folder& folder, std::ostream* out) {
  *out << folder.what;
}

class Taking : public testing::TestWithParam<Folder> {};

TEST_P(Taking, DescribesWhatItFinds) {
  const Workplace place;
  const Folder& row = GetParam();
  place.folder().write("work/x.c", "int x(void) { return 0; }\n");
  test::must(std::string("gcc -fPIC -c x.c; ") + row.make, place / "work");
  const auto taken = place.fibula(std::string("take ") + row.arguments);
  ASSERT_EQ(taken.status, 0) << taken.all();
  const auto card = fibula::Shelf::at(place.shelf()).card(row.name, row.version);
  ASSERT_TRUE(card) << taken.all();
  EXPECT_EQ(card->include_directories, row.include);
  std::vector<std::string> variants;
  for (const auto& variant : card->variants) variants.push_back(variant.id);
  EXPECT_EQ(variants, row.variants);
  EXPECT_EQ(place.fibula("shelf check").status, 0);
}

INSTANTIATE_TEST_SUITE_P(Folders, Taking, testing::ValuesIn(folders), [](const auto& row) {
  std::string name = row.param.what;
  for (char& c : name) c = std::isalnum(static_cast<unsigned char>(c)) ? c : '_';
  return name;
});

TEST(Prefix, WithoutPackagesNamesMustDo) {
  const Workplace place;
  place.folder().write("opt/include/wharf.h", "#define WHARF_VERSION \"1.1\"\nint wharf(void);\n");
  place.folder().write("opt/include/other.h", "int other(void);\n");
  place.folder().write("opt/w.c", "int wharf(void) { return 0; }\n");
  test::must("mkdir lib && gcc -c w.c && ar rcs lib/libwharf.a w.o && ar rcs lib/libother.a w.o", place / "opt");
  const auto taken = place.fibula(fmt::format("take '{}' --library wharf", (place / "opt").string()));
  ASSERT_EQ(taken.status, 0) << taken.all();
  const auto card = fibula::Shelf::at(place.shelf()).card("wharf", "1.1");
  ASSERT_TRUE(card);
  EXPECT_EQ(card->public_headers, std::vector<std::string>{"include/wharf.h"}) << "only its own";
  EXPECT_EQ(card->variants[0].link, std::vector<std::string>{"lib/libwharf.a"});
  EXPECT_TRUE(test::fs::exists(card->root / "lib/libwharf.a")) << "copied, since it was not taken in place";
}

TEST(Prefix, LibrariesInPlaceAreNotCopied) {
  const Workplace place;
  ASSERT_EQ(place.fibula("take /usr --library zlib --in-place").status, 0);
  for (const auto& entry : place.shelf_entries()) EXPECT_EQ(entry.find("files"), std::string::npos) << entry;
  EXPECT_EQ(place.fibula("shelf check zlib").status, 0);
}

/// Some makefiles install an archive with its version behind the name, as shared libraries have it.
TEST(Take, KnowsAnArchiveWithItsVersionBehindTheName) {
  const Workplace place;
  place.folder().write("work/tern/include/tern.h", "int tern(void);\n");
  place.folder().write("work/tern.c", "int tern(void) { return 0; }\n");
  place.folder().write("work/p/main.c", "#include <tern.h>\nint main(void) { return tern(); }\n");
  test::must(
      "mkdir tern/lib && gcc -fPIC -c tern.c && ar rcs tern/lib/libtern.a.1.5 tern.o && "
      "gcc -shared tern.o -o tern/lib/libtern.so.1.5 -Wl,-soname,libtern.so.1.5 && "
      "ln -s libtern.so.1.5 tern/lib/libtern.so",
      place / "work");
  const auto built = place.shell(
      "$FIBULA take tern && cd p && $FIBULA begin && $FIBULA attach tern --linkage static && "
      "$FIBULA build --run");
  EXPECT_EQ(built.status, 0) << built.all();
  EXPECT_NE(built.out.find("lib/libtern.a.1.5"), std::string::npos) << built.out;
}

TEST(Take, AsksAtATerminalForWhatNoFileTells) {
  const Workplace place;
  place.folder().write("work/b/b.h", "static int x;\n");
  // util-linux's script gives the tool a terminal.
  const auto ran = test::shell(fmt::format("printf '4.2\\n' | script -qec \"FIBULA_SHELF={} '{}' take b\" /dev/null",
                                           place.shelf().string(), FIBULA_TOOL),
                               place / "work");
  EXPECT_EQ(ran.status, 0) << ran.all();
  EXPECT_NE(ran.out.find("version of b, which its files do not say: "), std::string::npos) << ran.all();
  EXPECT_TRUE(fibula::Shelf::at(place.shelf()).card("b", "4.2"));
}

TEST(Inspect, ShowsSymbolsAndMembersForPeople) {
  const Workplace place;
  const auto library = (place.prebuilt() / "tidecalc-2.1.0/lib/libtidecalc.a").string();
  const auto symbols = place.fibula("inspect --symbols " + library);
  EXPECT_NE(symbols.out.find("  height.o\n  defines  function  global  tide_height\n"), std::string::npos)
      << symbols.out;
  EXPECT_NE(symbols.out.find("  needs    none      global  cos\n"), std::string::npos) << symbols.out;
  const auto members = place.fibula_json("inspect --members " + library);
  EXPECT_EQ(members["files"][0]["members"].size(), 3U);
  const auto folder = place.fibula_json("inspect " + (place / "prebuilt/tidecalc-2.1.0").string());
  ASSERT_EQ(folder["files"].size(), 2U) << "one shared library under three names, one archive";
  EXPECT_EQ(folder["files"][1]["links"], (nlohmann::json{"libtidecalc.so", "libtidecalc.so.2"}));
}

}  // namespace
