#include "binary/ar.hpp"

#include "binary/open.hpp"
#include "support/builders.hpp"
#include "support/bytes.hpp"
#include "support/support.hpp"

#include <gtest/gtest.h>

using namespace fibula;
using test::ArBuilder;

namespace {

Result<Archive> archive_of(std::string content) {
  return read_archive(test::kept_bytes(std::move(content)));
}

TEST(Ar, TellsWhatIsWrongAndWhere) {
  const uint32_t first = 8;
  struct Case {
    const char* what;
    std::string bytes;
    const char* message;
  };
  const Case cases[] = {
      {"size is no number", ArBuilder().member("a.o/", "xx").raw_member("b.o/", "-1", "").build(),
       "at 0x76: member size is not a decimal number"},
      {"size is empty", ArBuilder().raw_member("a.o/", "", "").build(), "at 0x38: member size is not a decimal number"},
      {"data cut off", ArBuilder().raw_member("a.o/", "50", "xx").build(),
       "at 0x44: member a.o/: need 50 bytes, have 2"},
      {"header cut off", ArBuilder().member("a.o/", "xx").build() + "b.o/",
       "at 0x46: member header: need 60 bytes, have 4"},
      {"no end mark", ArBuilder().raw_member("a.o/", "0", "", "xx").build(),
       "at 0x42: member header does not end with its mark"},
      {"long name without table", ArBuilder().member("/12", "xx").build(),
       "at 0x8: member name is at 12 of the long names, which have 0 bytes"},
      {"index too long", ArBuilder().gnu_index({{"a", first}}, 4000000000U).build(),
       "at 0x44: archive symbol table has 4000000000 entries, more than it has room for"},
      {"index points nowhere", ArBuilder().gnu_index({{"tide", 3}}, 1).member("a.o/", "xx").build(),
       "at 0x3: the symbol table puts tide here, where no member begins"},
      {"index points to the end of numbers",
       ArBuilder()
           .member("/SYM64/", std::string("\0\0\0\0\0\0\0\1\xff\xff\xff\xff\xff\xff\xff\xfftide\0", 21))
           .member("a.o/", "xx")
           .build(),
       "at 0xffffffffffffffff: the symbol table puts tide here, where no member begins"},
      {"name does not end", ArBuilder().member("/", std::string("\0\0\0\1\0\0\0\10abc", 11)).build(),
       "at 0x4c: name in the archive symbol table does not end inside it"},
      {"BSD name too long", ArBuilder().member("#1/99", "abc").build(), "at 0x8: length of the member's name is wrong"},
  };
  for (const auto& c : cases) {
    SCOPED_TRACE(c.what);
    const auto archive = archive_of(c.bytes);
    ASSERT_FALSE(archive);
    EXPECT_EQ(render(archive.error()), c.message);
  }
}

TEST(Ar, ReadsEveryFlavour) {
  const test::Folder folder;
  folder.write("a.c", "int a;");
  folder.write("a_name_that_is_far_too_long_for_the_field.c", "int long_one;");
  test::must("gcc -c *.c", folder.path());
  const std::vector<std::string> members{"a.o", "a_name_that_is_far_too_long_for_the_field.o"};
  struct Case {
    const char* command;
    ArFlavour flavour;
    bool thin;
  };
  for (const auto& c : {Case{"ar rcs x.a *.o", ArFlavour::gnu, false},
                        {"ar rcsT x.a *.o", ArFlavour::gnu, true},
                        {"llvm-ar --format=bsd rcs x.a *.o", ArFlavour::bsd, false},
                        {"llvm-ar --format=darwin rcs x.a *.o", ArFlavour::bsd, false}}) {
    SCOPED_TRACE(c.command);
    test::must(std::string("rm -f x.a; ") + c.command, folder.path());
    const auto archive = archive_of(test::read(folder / "x.a"));
    ASSERT_TRUE(archive) << render(archive.error());
    EXPECT_EQ(archive->flavour, c.flavour);
    EXPECT_EQ(archive->thin, c.thin);
    ASSERT_EQ(archive->members.size(), members.size());
    for (size_t i = 0; i < members.size(); ++i) EXPECT_EQ(archive->members[i].name, members[i]);
    ASSERT_EQ(archive->index.size(), 2U);
    for (const auto& entry : archive->index) EXPECT_EQ(entry.member, entry.symbol == "a" ? 0U : 1U);
  }
}

TEST(Ar, AnEmptyArchiveIsSound) {
  const auto archive = archive_of("!<arch>\n");
  ASSERT_TRUE(archive);
  EXPECT_TRUE(archive->members.empty());
  EXPECT_FALSE(archive->has_index);
}

}  // namespace
