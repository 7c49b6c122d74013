/// Every kind of thing that a library comes as, made with the tools that people make them with.
#include "support/support.hpp"

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <fibula/fibula.hpp>

using test::Workplace;

namespace {

struct Kind {
  const char* name;
  const char* make;  ///< shell, in the folder that holds tidecalc-2.1.0; makes `it` or what `take` says
  const char* take;
  const char* origin;
};

const Kind kinds[] = {
    {"zip", "zip -qry tidecalc-2.1.0-linux64.zip tidecalc-2.1.0", "tidecalc-2.1.0-linux64.zip", "archive"},
    {"gzip", "tar -czf tidecalc-2.1.0.tar.gz tidecalc-2.1.0", "tidecalc-2.1.0.tar.gz", "archive"},
    {"xz", "tar -cJf tidecalc-2.1.0.txz tidecalc-2.1.0", "tidecalc-2.1.0.txz", "archive"},
    {"bzip2", "tar -cjf tidecalc_v2.1.0.tar.bz2 -C tidecalc-2.1.0 .", "tidecalc_v2.1.0.tar.bz2", "archive"},
    {"zstd", "tar --zstd -cf tidecalc-2.1.0.tar.zst tidecalc-2.1.0", "tidecalc-2.1.0.tar.zst", "archive"},
    {"seven_zip", "7z a -bd tidecalc-2.1.0.7z tidecalc-2.1.0 >/dev/null", "tidecalc-2.1.0.7z", "archive"},
    {"badly_named_archive", "mv tidecalc-2.1.0 x; tar -czf download x", "download --name tidecalc", "archive"},
    {"debian_package",
     "mkdir -p d/DEBIAN d/usr && cp -a tidecalc-2.1.0/* d/usr && printf 'Package: libtidecalc-dev\\nVersion: "
     "1:2.1.0-3\\nArchitecture: amd64\\nMaintainer: harbour <a@b.c>\\nDescription: tides\\n' > d/DEBIAN/control && "
     "dpkg-deb --root-owner-group -b d it.deb >/dev/null",
     "it.deb", "package"},
    {"rpm_package",
     "printf 'Name: tidecalc-devel\\nVersion: 2.1.0\\nRelease: 1\\nSummary: tides\\nLicense: MIT\\n%%description\\n"
     "tides\\n%%install\\nmkdir -p %%{buildroot}/usr && cp -a '$PWD'/tidecalc-2.1.0/* %%{buildroot}/usr\\n%%files\\n"
     "/usr\\n' > it.spec && rpmbuild -bb --quiet --define \"_topdir $PWD/r\" --define 'debug_package %{nil}' --define "
     "'__os_install_post %{nil}' --define '_build_id_links none' it.spec 2>/dev/null && cp r/RPMS/*/*.rpm .",
     "tidecalc-devel-2.1.0-1.x86_64.rpm", "package"},
    {"file_url", "tar -czf tidecalc-2.1.0.tar.gz tidecalc-2.1.0", "\"file://$PWD/tidecalc-2.1.0.tar.gz\"", "archive"},
    {"repository",
     "cd tidecalc-2.1.0 && git init -q && git add . && git -c user.name=h -c user.email=h@b.c commit -qm tides && git "
     "tag v2.1.0",
     "tidecalc-2.1.0 --at v2.1.0", "repository"},
};

class Arrival : public testing::TestWithParam<Kind> {};

TEST_P(Arrival, IsTheSameLibraryHoweverItComes) {
  const Workplace place;
  const Kind& kind = GetParam();
  const auto prebuilt = place.prebuilt();
  test::must(kind.make, prebuilt);
  const auto taken = place.fibula(fmt::format("take {}", kind.take), prebuilt);
  ASSERT_EQ(taken.status, 0) << taken.all();
  const auto card = fibula::Shelf::at(place.shelf()).card("tidecalc", "2.1.0");
  ASSERT_TRUE(card) << taken.all();
  EXPECT_EQ(card->origin.kind, kind.origin);
  EXPECT_EQ(card->variants.size(), 2U);
  EXPECT_EQ(card->public_headers.size(), 1U);
  EXPECT_EQ(card->origin.commit.size(), std::string(kind.origin) == "repository" ? 40U : 0U);
  EXPECT_FALSE(test::fs::exists(card->root / ".git"));
  test::must("sha256sum --check --quiet ../contents.sha256", card->root);
  // A program is built with it, which is what it was taken for.
  const auto app = place.folder().write("app/main.c",
                                        "#include <tidecalc.h>\nint main(void) { return tide_height(0, 0, 0) > 9; }\n");
  ASSERT_EQ(place.fibula("attach tidecalc", app.parent_path()).status, 0);
  const auto built = place.fibula("build --lane desk-release --run", app.parent_path());
  EXPECT_EQ(built.status, 0) << built.all();
}

INSTANTIATE_TEST_SUITE_P(Kinds, Arrival, testing::ValuesIn(kinds), [](const auto& row) { return row.param.name; });

/// What is written into a folder, and what a card says of it.
struct Reading {
  const char* name;
  const char* make;
  const char* take;
  const char* card;  ///< lines that the card must hold, one after the other
};

const Reading readings[] = {
    {"one_header", "printf '#define QUAY_VERSION \"1.2\"\\nstatic inline int quay(void) { return 1; }\\n' > quay.h",
     "quay.h", "version = \"1.2\"\ndirectories = [\".\"]\npublic = [\"quay.h\"]"},
    {"header_with_its_implementation",
     "printf 'int quay(int);\\n#ifdef QUAY_IMPLEMENTATION\\nint quay(int a) { return a; }\\n#endif\\n' > quay.h",
     "quay.h --version 1", "public = [\"quay.h\"]"},
    {"source_and_header",
     "printf 'int quay(void);\\n' > quay.h; printf '#include \"quay.h\"\\nint quay(void) { return 1; }\\n' > quay.c",
     "quay.c quay.h --version 1", "name = \"quay\"\ncompile = [\"quay.c\"]"},
    {"sources_without_programs_and_tests",
     "mkdir -p m/include/m m/src/inner m/tests m/tools; echo 'int m(void);' > m/include/m/m.h; echo 'int in(void);' > "
     "m/src/inner/in.h; printf '#include <m/m.h>\\n#include \"inner/in.h\"\\nint m(void) { return in(); }\\n' > "
     "m/src/m.c; echo '/* int main(void) {} */ int in(void) { return 1; }' > m/src/inner/in.c; echo 'int main(void) "
     "{}' > m/tests/t.c; echo 'int main(int c, char **v) { return 0; }' > m/tools/show.c; echo 'static int t;' > "
     "m/src/table.c; echo '#include \"table.c\"' >> m/src/m.c",
     "m --version 1", "directories = [\"include\"]\ncompile = [\"src/inner/in.c\", \"src/m.c\"]"},
    {"a_source_named_after_where_it_comes_from",
     "mkdir -p q/netbsd; printf 'int quay(void);\\n' > q/quay.h; printf '#include \"quay.h\"\\nint cut(int);\\nint "
     "quay(void) "
     "{ return cut(1); }\\n' > q/quay.c; printf 'int cut(int n) { return n; }\\n' > q/openbsd-cut.c; printf '#include "
     "<dev/usb/usb.h>\\nint quay(void) { return 2; }\\n' > q/netbsd/quay.c",
     "q --version 1", "compile = [\"openbsd-cut.c\", \"quay.c\"]"},
    {"headers_that_name_their_folder",
     "mkdir -p q/quay/inner; printf '#include <quay/inner/b.h>\\nint a(void);\\n' > q/quay/a.h; echo 'int b(void);' > "
     "q/quay/inner/b.h; ar rcs q/libquay.a x.o",
     "q --version 1", "directories = [\".\"]"},
    {"headers_below_a_folder_of_their_own",
     "mkdir -p q/include/quay2/quay; printf '#include <quay/b.h>\\n' > q/include/quay2/quay/a.h; echo 'int b(void);' > "
     "q/include/quay2/quay/b.h; ar rcs q/libquay.a x.o",
     "q --version 1", "directories = [\"include\", \"include/quay2\"]"},
    {"samples_say_how_headers_are_included",
     "mkdir -p q/api/quay q/samples; echo 'int a(void);' > q/api/quay/a.h; printf '#include <quay/a.h>\\n' > "
     "q/samples/s.c; ar rcs q/libquay.a x.o",
     "q --version 1", "directories = [\"api\"]\nsamples = [\"samples/s.c\"]"},
    {"a_standard_header_of_the_same_name",
     "mkdir -p q/include/quay; printf '#include <errno.h>\\nint a(void);\\n' > q/include/quay/a.h; echo > "
     "q/include/quay/errno.h; ar rcs q/libquay.a x.o",
     "q --version 1", "directories = [\"include\"]"},
    {"debug_builds_by_name",
     "mkdir -p q/lib; echo 'int x(void);' > q/q.h; ar rcs q/lib/libq.a x.o; ar rcs q/lib/libqd.a x.o", "q --version 1",
     "id = \"x86_64-elf-static-release\"\nlink = [\"lib/libq.a\"]\nid = \"x86_64-elf-static-debug\"\nlink = "
     "[\"lib/libqd.a\"]"},
    {"data_licences_documents",
     "mkdir -p q/share/q q/doc; echo 'int x(void);' > q/q.h; echo t > q/share/q/t.dat; echo l > q/LICENSE.txt; echo d "
     "> "
     "q/doc/d.html; ar rcs q/libq.a x.o",
     "q --version 1", "licences = [\"LICENSE.txt\"]\ndata = [\"share/q/t.dat\"]\ndocuments = [\"doc/d.html\"]"},
    {"debugging_records",
     "mkdir -p q/lib; echo 'int x(void);' > q/q.h; gcc -shared x.o -o q/lib/libq.so; echo r > q/lib/libq.so.debug",
     "q --version 1", "link = [\"lib/libq.so\"]\ndebug = [\"lib/libq.so.debug\"]"},
#ifndef FIBULA_NATIVE_ONLY
    {"a_prefix_for_each_machine",
     "for m in x86_64 i686; do mkdir -p q/$m-w64-mingw32/include q/$m-w64-mingw32/lib; echo \"int x(void); /* $m */\" "
     "> "
     "q/$m-w64-mingw32/include/q.h; $m-w64-mingw32-gcc -c x.c -o y.o; ar rcs q/$m-w64-mingw32/lib/libq.a y.o; done",
     "q --version 1",
     "directories = []\nid = \"x86-pe-static\"\nheaders = [\"i686-w64-mingw32/include\"]\nid = \"x86_64-pe-static\"\n"
     "headers = [\"x86_64-w64-mingw32/include\"]"},
    {"a_version_resource",
     "mkdir q; echo 'int x(void);' > q/q.h; printf '1 VERSIONINFO FILEVERSION 3,1,4,0 BEGIN END\\n' > v.rc; "
     "x86_64-w64-mingw32-windres v.rc v.o && x86_64-w64-mingw32-gcc -shared x.c v.o -o q/q.dll",
     "q", "version = \"3.1.4\"\nruntime = [\"q.dll\"]"},
#endif
};

class Understanding : public testing::TestWithParam<Reading> {};

TEST_P(Understanding, IsWrittenIntoTheCard) {
  const Workplace place;
  const Reading& row = GetParam();
  place.folder().write("work/x.c", "int x(void) { return 0; }\n");
  test::must(std::string("gcc -fPIC -c x.c; ") + row.make, place / "work");
  const auto taken = place.fibula_json(std::string("take --dry-run ") + row.take);
  ASSERT_TRUE(taken.contains("card")) << taken.dump(1);
  const std::string card = taken["card"];
  size_t at = 0;
  std::istringstream lines(row.card);
  for (std::string line; std::getline(lines, line);) {
    const size_t found = card.find("\n" + line + "\n", at == 0 ? 0 : at - 1);
    const bool first = at == 0 && card.starts_with(line + "\n");
    ASSERT_TRUE(first || found != std::string::npos) << line << "\nis not, or not in its place, in\n" << card;
    at = first ? line.size() : found + 1;
  }
}

INSTANTIATE_TEST_SUITE_P(Folders, Understanding, testing::ValuesIn(readings),
                         [](const auto& row) { return row.param.name; });

TEST(Repository, GivesTheCommitThatWasNamed) {
  const Workplace place;
  const std::string git = "git -c user.name=h -c user.email=h@b.c -c protocol.file.allow=always ";
  test::must("mkdir inner r && cd inner && git init -q && echo 'static int b;' > b.h && git add . && " + git +
                 "commit -qm b && cd ../r && git init -q && " + git +
                 "submodule --quiet add ../inner part && echo "
                 "'static int a;' > a.h && git add . && " +
                 git + "commit -qm one && git rev-parse HEAD > ../first && " + "echo 'static int c;' > a.h && " + git +
                 "commit -qam two && git tag v2.0",
             place / "work");
  const auto first = test::read(place / "work/first").substr(0, 40);
  const std::string allow = "GIT_CONFIG_COUNT=1 GIT_CONFIG_KEY_0=protocol.file.allow GIT_CONFIG_VALUE_0=always";
  ::setenv("GIT_CONFIG_COUNT", "1", 1);
  ::setenv("GIT_CONFIG_KEY_0", "protocol.file.allow", 1);
  ::setenv("GIT_CONFIG_VALUE_0", "always", 1);
  ASSERT_EQ(place.fibula("take r --at " + first + " --version 1 --submodules").status, 0);
  ASSERT_EQ(place.fibula("take r --at v2.0").status, 0);
  const auto shelf = fibula::Shelf::at(place.shelf());
  EXPECT_EQ(shelf.card("r", "1")->origin.commit, first);
  EXPECT_EQ(test::read(place.shelf() / "r/1/files/a.h"), "static int a;\n");
  EXPECT_TRUE(test::fs::exists(place.shelf() / "r/1/files/part/b.h"));
  EXPECT_FALSE(test::fs::exists(place.shelf() / "r/1/files/part/.git"));
  EXPECT_EQ(test::read(place.shelf() / "r/2.0/files/a.h"), "static int c;\n");
  const auto missing = place.fibula("take r --at v2.1");
  EXPECT_EQ(missing.status, 1);
  EXPECT_NE(missing.err.find("has no tag, branch or commit v2.1\n  remedy: did you mean v2.0?"), std::string::npos)
      << missing.err;
}

TEST(Repository, RunsNoHookAndNoFilter) {
  const Workplace place;
  test::must(
      "mkdir r && cd r && git init -q && echo 'static int a;' > a.h && echo '*.h filter=evil' > .gitattributes && "
      "git add . && git -c user.name=h -c user.email=h@b.c commit -qm a && git config filter.evil.smudge 'touch "
      "../ran' && printf '#!/bin/sh\\ntouch ../../ran\\n' | tee .git/hooks/post-checkout > .git/hooks/post-merge "
      "&& chmod +x .git/hooks/*",
      place / "work");
  EXPECT_EQ(place.fibula("take r --at HEAD --version 1").status, 0);
  EXPECT_FALSE(test::fs::exists(place / "work/ran"));
}

}  // namespace
