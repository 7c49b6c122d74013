#include "base/bytes.hpp"
#include "base/digest.hpp"
#include "base/text.hpp"
#include "base/version.hpp"
#include "os/folder.hpp"
#include "os/process.hpp"
#include "support/bytes.hpp"
#include "support/support.hpp"

#include <gtest/gtest.h>

using namespace fibula;

namespace {

TEST(Bytes, SliceNeverLeavesTheFile) {
  const Bytes bytes = test::bytes_of("0123456789");
  struct Case {
    uint64_t offset, length;
    bool good;
  };
  for (const auto& c : {Case{0, 10, true},
                        {10, 0, true},
                        {9, 2, false},
                        {11, 0, false},
                        {5, UINT64_MAX, false},
                        {UINT64_MAX, 1, false},
                        {UINT64_MAX, UINT64_MAX, false}}) {
    SCOPED_TRACE(std::to_string(c.offset) + "+" + std::to_string(c.length));
    EXPECT_EQ(bytes.slice(c.offset, c.length, "field").has_value(), c.good);
  }
  EXPECT_EQ(render(bytes.slice(8, 4, "field").error()), "at 0x8: field: need 4 bytes, have 2");
}

TEST(Bytes, StringsEndInsideTheirTable) {
  const Bytes table = test::bytes_of(std::string_view("ab\0cd", 5));
  EXPECT_EQ(*table.c_string(0, "name"), "ab");
  EXPECT_EQ(render(table.c_string(3, "name").error()), "at 0x3: name does not end inside its table");
  EXPECT_EQ(render(table.c_string(5, "name").error()), "at 0x5: name starts beyond the end of its table (5 bytes)");
}

TEST(Cursor, KeepsItsFirstErrorAndReadsZeroAfterIt) {
  Cursor c(test::bytes_of("\x01\x02\x03"), Order::big, "header");
  EXPECT_EQ(c.u16(), 0x0102);
  EXPECT_EQ(c.u32(), 0U);
  EXPECT_EQ(c.u8(), 0U);
  EXPECT_EQ(render(c.error()), "at 0x2: header ends early, after 3 bytes");
}

TEST(Table, RefusesEntriesThatCannotHoldTheirFields) {
  EXPECT_FALSE(Table::of(test::bytes_of("01234567"), 0, 4, Order::little, "symbols"));
  EXPECT_FALSE(Table::of(test::bytes_of("01234567"), 3, 4, Order::little, "symbols"));
  EXPECT_EQ(Table::of(test::bytes_of("0123456789"), 4, 4, Order::little, "symbols")->count(), 2U);
}

TEST(Versions, Order) {
  const std::vector<std::string> rising{"1",         "1.0.1", "1.2rc1",   "1.2", "1.2.1",
                                        "1.2.1+own", "1.10",  "2.0-beta", "2.0", "10"};
  for (size_t i = 0; i + 1 < rising.size(); ++i) {
    EXPECT_TRUE(compare_versions(rising[i], rising[i + 1]) < 0) << rising[i] << " " << rising[i + 1];
  }
  EXPECT_TRUE(compare_versions("1.2", "1.2.0") == 0);
  EXPECT_TRUE(compare_versions("01.2", "1.02") == 0);
}

TEST(Versions, Ranges) {
  struct Case {
    const char* range;
    const char* version;
    bool in;
  };
  for (const auto& c : {Case{"", "7", true},
                        {"2.1", "2.1", true},
                        {"2.1", "2.1.9", true},
                        {"2.1", "2.10", false},
                        {"=2.1", "2.1.1", false},
                        {">=2.1 <3", "2.1", true},
                        {">=2.1 <3", "3.0", false},
                        {">=2.1 <3", "2.0.9", false},
                        {">2", "2.0.1", true},
                        {"<=2", "2.0", true}}) {
    EXPECT_EQ(VersionRange::parse(c.range)->contains(c.version), c.in) << c.range << " " << c.version;
  }
  for (const char* wrong : {"<", ">= 2", "~2", "~>1 2"}) EXPECT_FALSE(VersionRange::parse(wrong)) << wrong;
}

TEST(Text, Globs) {
  struct Case {
    const char* pattern;
    const char* path;
    bool match;
  };
  for (const auto& c : {Case{"*.cpp", "a.cpp", true},
                        {"*.cpp", "d/a.cpp", false},
                        {"src/**/*.cpp", "src/a.cpp", true},
                        {"src/**/*.cpp", "src/x/y/a.cpp", true},
                        {"**", "x/y", true},
                        {"a?c", "abc", true},
                        {"a?c", "a/c", false},
                        {"src/**/*.cpp", "srcs/a.cpp", false},
                        {"", "", true}}) {
    EXPECT_EQ(text::glob_matches(c.pattern, c.path), c.match) << c.pattern << " " << c.path;
  }
}

TEST(Text, ClosestIsNearOrNothing) {
  const std::vector<std::string> known{"compiler", "configuration", "flags"};
  EXPECT_EQ(text::closest("compilr", known), "compiler");
  EXPECT_EQ(text::closest("flag", known), "flags");
  EXPECT_EQ(text::closest("falgs", known), "flags");
  EXPECT_EQ(text::closest("tren", std::vector<std::string>{"tide", "tern"}), "tern");
  EXPECT_EQ(text::closest("zebra", known), "");
}

TEST(Digest, IsTheStandardOne) {
  EXPECT_EQ(sha256("abc"), "ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad");
}

TEST(Files, AreWrittenWholeOrNotAtAll) {
  const test::Folder folder;
  const auto place = Folder::open(folder.path());
  ASSERT_TRUE(place->write("card", "new"));
  EXPECT_EQ(test::read(folder / "card"), "new");
  EXPECT_FALSE(*place->write_if_changed("card", "new"));
  folder.write("taken/inside", "");
  const auto refused = place->write("taken", "x");  // a folder stands there
  ASSERT_FALSE(refused);
  EXPECT_EQ(refused.error().code, Code::io);
  EXPECT_EQ(files_directly_in(folder.path()), (std::vector<fs::path>{"card"})) << "the temporary file is gone";
}

TEST(Processes, KeepOutputsApartAndEndInTime) {
  ProcessPool pool;
  std::vector<std::string> heard(2);
  for (size_t i = 0; i < 2; ++i) {
    ASSERT_TRUE(pool.start({.argv = {"sh", "-c", "echo out" + std::to_string(i) + "; echo err >&2"}},
                           [&heard, i](const Outcome& o) { heard[i] = o.out + o.err; }));
  }
  while (pool.wait()) {}
  EXPECT_EQ(heard, (std::vector<std::string>{"out0\nerr\n", "out1\nerr\n"}));
  const auto slow = run({.argv = {"sh", "-c", "sleep 60 & sleep 60"}, .limit = std::chrono::milliseconds(200)});
  ASSERT_TRUE(slow);
  EXPECT_TRUE(slow->timed_out);
  EXPECT_FALSE(run({.argv = {"no-such-program-here"}}));
  EXPECT_EQ(run({.argv = {"sh", "-c", "kill -SEGV $$"}})->signal, 11);
}

}  // namespace
