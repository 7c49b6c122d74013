/// Names and paths from elsewhere, and folders that nothing leads out of.
#include "base/inside_path.hpp"
#include "base/text.hpp"
#include "os/files.hpp"
#include "os/folder.hpp"
#include "os/plain_path.hpp"
#include "support/support.hpp"

#include <gtest/gtest.h>

namespace fibula {
namespace {

using namespace std::string_literals;

TEST(Paths, ThatStayInsideAreTold) {
  for (const auto* good : {"a", "include/tide.h", "a b/c", "..a/b..", "C++/x", "Harbour::Tide.3", "größe.h", ".hidden"})
    EXPECT_TRUE(InsidePath::of(good)) << good;
  const std::pair<std::string, std::string_view> bad[] = {
      {"", "is empty"},          {"/etc/passwd", "leads out"},  {"..", "leads out"},      {"a/../../b", "leads out"},
      {"lib/bin/../x", "leads"}, {"a//b", "empty part"},        {"a/", "empty part"},     {"./a", "a . in it"},
      {"a/./b", "a . in it"},    {"a\\b", "back-slash"},        {"C:/x", "leads out"},    {"a\nb", "control"},
      {"a\x1b[2J", "control"},   {"a\0b"s, "control"},          {"gr\xf6\xdf", "UTF-8"},  {"\xed\xa0\x80", "UTF-8"},
      {"\xc0\xafx", "UTF-8"},    {"\xf5\x80\x80\x80", "UTF-8"}, {"half\xe2\x82", "UTF-8"}};
  for (const auto& [text, why] : bad) {
    EXPECT_FALSE(InsidePath::of(text)) << text;
    EXPECT_NE(InsidePath::why_not(text).find(why), std::string::npos) << text << ": " << InsidePath::why_not(text);
  }
}

/// What lies below a hidden folder is compared as a text, what goes up is followed.
TEST(Paths, WhatIsInsideAFolder) {
  for (const auto* plain : {"/a/.fibula/desk/x.o", "/a/..b/c", "a/b.", "/", "/a/"})
    EXPECT_FALSE(has_detours(plain)) << plain;
  for (const auto* detour : {"/a/../b", "/a/./b", "/a//b", "/a/..", "/a/.", "//a"})
    EXPECT_TRUE(has_detours(detour)) << detour;
  EXPECT_TRUE(is_inside("/a", "/a/.fibula/desk/x.o"));
  EXPECT_TRUE(is_inside("/a", "/a/b/../c"));
  EXPECT_FALSE(is_inside("/a", "/a/../c"));
  EXPECT_FALSE(is_inside("/a", "/a/b/../../c"));
  EXPECT_EQ(shown_from("/a", "/a/.fibula/desk/x.o"), ".fibula/desk/x.o");
}

TEST(Paths, NamesAreNamesEverywhere) {
  for (const auto* name : {"tide", "zlib1g", "libstdc++6", "2.1.0~rc1", "a_b-c"})
    EXPECT_TRUE(is_plain_name(name)) << name;
  for (const auto* name : {"", ".", "..", ".used", "a/b", "a\\b", "a b", "a\nb", "c:d", "ü"})
    EXPECT_FALSE(is_plain_name(name)) << name;
  for (const auto* name : {"desk-debug", "Desk 64", "größe"}) EXPECT_TRUE(is_file_name(name)) << name;
  for (const auto* name : {"", ".x", "-o", "a/b", "a\\b", "a:b", "a\tb", "\xff"})
    EXPECT_FALSE(is_file_name(name)) << name;
  EXPECT_FALSE(is_file_name(std::string(300, 'a')));
}

/// A folder to write into, and one that must stay as it is, with links from the one to the other.
struct Harbour {
  Harbour() {
    folder.write("outside/precious", "gold");
    test::fs::create_directories(folder / "inside/real");
    test::must(
        "ln -s ../outside inside/folder && ln -s ../outside/precious inside/file && ln -s nowhere inside/dangling",
        folder.path());
    folder.write("inside/taken", "a file");
  }
  Folder open() const { return *Folder::open(folder / "inside"); }
  std::string outside() const { return test::must("find outside -type f -exec cat {} + && ls outside", folder.path()); }
  test::Folder folder;
};

TEST(Paths, NothingIsDoneThroughALink) {
  const Harbour harbour;
  const Folder inside = harbour.open();
  const std::string before = harbour.outside();
  const test::fs::path source = harbour.folder / "outside/precious";
  for (const auto* path :
       {"folder/precious", "folder/new", "folder/sub/new", "../outside/precious", "/etc/x", "taken/x"}) {
    for (const auto& done : {inside.write(path, "lead"), inside.make_folder(std::string(path) + "/d"),
                             inside.copy_in(source, path), inside.rename("taken", path),
                             inside.remove_tree(std::string(path) + "/d"), without_value(inside.remove(path))}) {
      if (std::string_view(path) == "taken/x" && done) continue;  // nothing is there to remove
      ASSERT_FALSE(done) << path;
      EXPECT_EQ(done.error().code, Code::refused) << path << done.error().what;
      EXPECT_NE(done.error().what, "") << path;
    }
    EXPECT_FALSE(inside.has_file(path)) << path;
  }
  EXPECT_FALSE(Folder::make_in(harbour.folder / "inside", "folder/sub"));
  EXPECT_EQ(harbour.outside(), before);
}

TEST(Paths, ALinkAtTheEndIsReplacedOrRemovedItself) {
  const Harbour harbour;
  const Folder inside = harbour.open();
  const std::string before = harbour.outside();
  ASSERT_TRUE(inside.write("file", "lead"));
  ASSERT_TRUE(inside.copy_in(harbour.folder / "outside/precious", "dangling"));
  EXPECT_TRUE(inside.remove_tree("folder"));
  EXPECT_EQ(harbour.outside(), before);
  EXPECT_TRUE(inside.has_file("file"));
  EXPECT_TRUE(inside.has_file("dangling"));
  EXPECT_FALSE(test::fs::exists(harbour.folder / "inside/folder"));
}

TEST(Paths, ATreeGoesWithItsLinksAndNothingBehindThem) {
  const Harbour harbour;
  const std::string before = harbour.outside();
  test::must("mkdir -p real/a/b/c && ln -s ../../outside real/a/b/link && echo x >real/a/b/c/x",
             harbour.folder / "inside");
  ASSERT_TRUE(harbour.open().remove_tree("real"));
  EXPECT_FALSE(test::fs::exists(harbour.folder / "inside/real"));
  EXPECT_EQ(harbour.outside(), before);
  EXPECT_TRUE(*harbour.open().remove("taken"));
  EXPECT_FALSE(*harbour.open().remove("taken")) << "it is gone already";
}

TEST(Globs, MatchInTheProductOfTheLengths) {
  std::string stars, folders, path(200, 'a');
  for (int i = 0; i < 28; ++i) stars += "*a";
  for (int i = 0; i < 28; ++i) folders += "**/";
  EXPECT_FALSE(text::glob_matches(stars + "b", path));
  EXPECT_TRUE(text::glob_matches(stars, path));
  EXPECT_TRUE(text::glob_matches(folders + "*.c", "a/b/c.c"));
  EXPECT_FALSE(text::glob_matches(folders + "*.h", "a/b/c.c"));
}

}  // namespace
}  // namespace fibula
