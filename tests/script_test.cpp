#include "binary/script.hpp"
#include "binary/foreign.hpp"
#include "binary/memory_regions.hpp"
#include "support/bytes.hpp"

#include <fmt/format.h>
#include <gtest/gtest.h>

using namespace fibula;

namespace {

std::string shown(const Script& script) {
  std::string text;
  for (const auto& input : script.inputs)
    text += input.name + (input.as_needed ? "?" : "") + (input.group ? "+" : "") + " ";
  return text;
}

TEST(Script, NamesItsFiles) {
  struct Case {
    const char* text;
    const char* inputs;
  };
  for (const auto& c : {Case{"/* GNU ld script */\nOUTPUT_FORMAT(elf64-x86-64)\nGROUP ( /lib/libc.so.6 "
                             "/usr/lib/libc_nonshared.a  AS_NEEDED ( /lib64/ld.so.2 ) )",
                             "/lib/libc.so.6+ /usr/lib/libc_nonshared.a+ /lib64/ld.so.2?+ "},
                        {"INPUT(libncurses.so.6 -ltinfo)", "libncurses.so.6 -ltinfo "},
                        {"INPUT ( \"a b.so\", c.so )", "a b.so c.so "},
                        {"GROUP()", ""}}) {
    ASSERT_TRUE(is_script(test::bytes_of(c.text))) << c.text;
    const auto script = read_script(test::bytes_of(c.text));
    ASSERT_TRUE(script) << c.text;
    EXPECT_EQ(shown(*script), c.inputs);
  }
}

TEST(Script, AListThatDoesNotEndIsAnError) {
  for (const char* text : {"GROUP ( a b", "INPUT ( AS_NEEDED ( a )", "OUTPUT_FORMAT ( x", "GROUP ( ( a ) )"})
    EXPECT_FALSE(read_script(test::bytes_of(text))) << text;
}

TEST(Script, OtherTextIsNone) {
  for (const char* text : {"", "int main() {}", "GROUP of people", "<html>INPUT</html>"})
    EXPECT_FALSE(is_script(test::bytes_of(text))) << text;
}

TEST(Foreign, IsToldByName) {
  struct Case {
    std::string bytes;
    const char* what;
  };
  const Case cases[] = {
      {"", "is an empty file, not a library"},
      {"<!DOCTYPE html><html>404</html>", "is a web page, not a library"},
      {"version https://git-lfs.example/spec/v1\noid sha256:0", "is a pointer of a large-file store, not a library"},
      {"PK\3\4....", "is a zip archive, not a library"},
      {"\x1f\x8b\x08", "is a gzip archive, not a library"},
      {"#!/bin/sh\n", "is a script, not a library"},
      {"#include <x.h>\nint f();", "is source text, not a library"},
      {std::string("\0\1\2", 3), "is of no known kind; its first bytes are 00 01 02"},
  };
  for (const auto& c : cases) {
    const Error error = name_foreign(test::bytes_of(c.bytes));
    EXPECT_EQ(error.what, c.what);
    EXPECT_EQ(error.code, Code::not_a_library);
    EXPECT_FALSE(error.hint.empty());
  }
}

/// GNU ld manual, "MEMORY Command" and "Expressions".
TEST(Script, RegionsOfMemoryAreCalculated) {
  struct Case {
    const char* text;
    const char* regions;
  };
  for (const auto& c : {
           Case{"MEMORY { FLASH (rx) : ORIGIN = 0, LENGTH = 64K  RAM (rwx) : ORIGIN = 0x20000000, LENGTH = 1M }",
                "FLASH 0x0+0x10000 RAM 0x20000000+0x100000 "},
           {"MEMORY\n{\n  flash : org = 0x100, len = 0400 /* octal */\n  ram (!rx) : o = 010000 l = 2*1K\n}",
            "flash 0x100+0x100 ram 0x1000+0x800 "},
           {"size = 128K; boot = (size >> 3);\nMEMORY { boot (rx) : ORIGIN = 0x8000000, LENGTH = boot\n"
            "app (rx) : ORIGIN = ORIGIN(boot) + LENGTH(boot), LENGTH = size - LENGTH(boot) - 16 }",
            "boot 0x8000000+0x4000 app 0x8004000+0x1bff0 "},
           {"MEMORY { a : ORIGIN = 0, LENGTH = GIVEN b (r) : ORIGIN = 8, LENGTH = DEFINED(x) ? 1 : 2  c : ORIGIN = 4, "
            "LENGTH = 4/0 d : ORIGIN = 1, LENGTH = 1 }",
            "a ? b ? c ? d 0x1+0x1 "},
           {"MEMORY { INCLUDE more.ld ram : ORIGIN = 1, LENGTH = 2 }", "more.ld ? ram 0x1+0x2 "},
           {"SECTIONS { MEMORY = 1; } /* MEMORY { a : ORIGIN = 0, LENGTH = 1 }", ""},
           {"MEMORY { a : ORIGIN = ((", "a ? "},
           {"MEMORY { a (", ""},
       }) {
    std::string shown;
    for (const auto& region : memory_regions(c.text))
      shown += region.name + (region.known ? fmt::format(" {:#x}+{:#x} ", region.origin, region.length) : " ? ");
    EXPECT_EQ(shown, c.regions) << c.text;
  }
}

}  // namespace
