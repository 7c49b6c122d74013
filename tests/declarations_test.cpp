#include "headers/declarations.hpp"
#include "headers/conditionals.hpp"
#include "headers/include_lines.hpp"

#include <gtest/gtest.h>

using fibula::functions_left_to_a_binary;

namespace {

using Names = std::vector<std::string>;

TEST(Declarations, WhatAHeaderLeavesToABinary) {
  struct Case {
    const char* text;
    Names left;
  };
  const Case cases[] = {
      {"int tide(int); double moon(void);", {"tide", "moon"}},
      {"extern \"C\" { void f(const char *name); }", {"f"}},
      {"namespace a { namespace b { int g(); } }", {"g"}},
      {"class Log { public: void write(int); int size() const { return 1; } virtual void end() = 0; Log(const Log&) = "
       "delete; };",
       {"write"}},
      {"struct S { int (*callback)(int); int x; };", {}},
      {"typedef int (*fn)(int); using F = int(int);", {}},
      {"inline int f(int x) { return x; } static inline int g(void);", {}},
      {"int f(int);\ninline int f(int x) { return x; }", {}},
      {"template <class T> T f(T); template <class T> struct X { void g(); };", {}},
      {"#define MAKE(x) int x(void);\nint a = f(3);", {}},
      {"// int f();\n/* int g(); */ const char *s = \"int h();\";", {}},
      {"__attribute__((nonnull(1))) int f(char *);", {"f"}},
      {"API_EXPORT int CALL f(int x);", {"f"}},
      {"static_assert(sizeof(int) == 4);", {}},
      {"constexpr int n = 1'000; int f();", {"f"}},
      {"extern int (tide)(int x); int (*pointer)(int);", {"tide"}},
      {"class Heap { void *operator new(size_t size); explicit operator bool() const; };", {}},
      {"@class Buoy, Quay;\n@protocol Float;\n@interface Buoy (Lamp) <Float>\n@property(nonatomic) int depth;\n"
       "- (void)sink:(int)depth;\n@end\nint tide(int);",
       {"tide"}},
  };
  for (const auto& c : cases) EXPECT_EQ(functions_left_to_a_binary(c.text), c.left) << c.text;
}

TEST(Declarations, OfAPreprocessorsOutputHaveTheirPlace) {
  const auto found = fibula::declared_functions(
      "# 1 \"/usr/include/other.h\" 1\nint other(void);\n"
      "# 7 \"tide.h\" 2\nextern \"C\" {\nint\n tide(int);\n}\n"
      "# 30 \"tide.h\"\nnamespace harbour { inline namespace v2 { void label(); } struct S { void member(); }; }\n"
      "int __attribute__((stdcall)) old(int);\n",
      [](const std::string& file) { return file == "tide.h"; });
  ASSERT_EQ(found.size(), 3U);
  EXPECT_EQ(found[0].name, "tide");
  EXPECT_TRUE(found[0].c_name);
  EXPECT_EQ(found[0].line, 8U);
  EXPECT_EQ(found[1].name, "harbour::label");
  EXPECT_FALSE(found[1].c_name);
  EXPECT_EQ(found[2].name, "old");
  EXPECT_TRUE(found[2].stdcall);
}

/// Which definition makes headers right for a DLL or a static library.
TEST(ImportMacros, AreFoundInConditionals) {
  struct Case {
    const char* header;
    Names for_shared, for_static;
    bool always;
  };
  const Case cases[] = {
      {"#ifdef TIDE_DLL\n#define API __declspec(dllimport)\n#else\n#define API\n#endif", {"TIDE_DLL"}, {}, false},
      {"#if defined(_WIN32) && !defined(TIDE_STATIC)\n#define API __declspec(dllimport)\n#else\n#define API\n#endif",
       {},
       {"TIDE_STATIC"},
       false},
      {"#ifndef TIDE_H\n#define TIDE_H\n#ifdef TIDE_BUILD\n#define API __declspec(dllexport)\n#else\n#define API "
       "__declspec(dllimport)\n#endif\n#endif",
       {},
       {},
       true},
      {"#if defined(_WIN32)\n# if defined(TIDE_BUILD)\n#  define API __declspec(dllexport)\n# elif "
       "defined(TIDE_DLL)\n#  define API \\\n  __declspec(dllimport)\n# else\n#  define API\n# endif\n#endif",
       {"TIDE_DLL"},
       {},
       false},
      // Macros of macros, as GCC's wiki shows them; what is made of them is what counts.
      {"#ifdef _WIN32\n#define HELPER_IMPORT __declspec(dllimport)\n#define HELPER_EXPORT "
       "__declspec(dllexport)\n#endif\n"
       "#ifndef TIDE_STATIC\n#ifdef TIDE_EXPORTS\n#define API HELPER_EXPORT\n#else\n#define API "
       "HELPER_IMPORT\n#endif\n#else\n#define API\n#endif\n#define API_OF(type) API type",
       {},
       {"TIDE_STATIC"},
       false},
      {"#ifdef __linux__\n#define API __declspec(dllimport)\n#endif", {}, {}, false},
      {"#if (((((\n#define API __declspec(dllimport)\n#elif\n#endif\n#endif", {}, {}, false},
      {"int tide(void);", {}, {}, false},
  };
  for (const auto& c : cases) {
    const auto macros = fibula::import_macros(c.header, {"_WIN32", "_MSC_VER"});
    EXPECT_EQ(macros.for_shared, c.for_shared) << c.header;
    EXPECT_EQ(macros.for_static, c.for_static) << c.header;
    EXPECT_EQ(macros.always, c.always) << c.header;
  }
}

TEST(Includes, AreThoseThatACompilerSees) {
  struct Case {
    const char* text;
    std::vector<std::string> always;       ///< "name:line"
    std::vector<std::string> conditional;  ///< the same
  };
  const Case cases[] = {
      {"#include <a.h>\n  # include \"b/c.h\"\n", {"a.h:1", "b/c.h:2"}, {}},
      {"#ifndef A_H\n#define A_H\n#include <a.h>\n#endif\n", {"a.h:3"}, {}},
      {"#pragma once\n#ifndef A_H\n#define A_H\n#include <a.h>\n#endif\n", {"a.h:4"}, {}},
      {"#ifndef _WIN32\n#include <a.h>\n#endif\n", {}, {"a.h:2"}},
      {"#ifndef X\n#define X 1\n#endif\n#ifdef _WIN32\n#include <a.h>\n#endif\n", {}, {"a.h:5"}},
      {"#ifndef X\n#define X 1\n#include <a.h>\n#endif\n#include <b.h>\n", {"b.h:5"}, {"a.h:3"}},
      {"int x;\n#if 0\n#include <a.h>\n#endif\n#include <b.h>\n", {"b.h:5"}, {"a.h:3"}},
      {"/*\n#include <a.h>\n*/\n// #include <b.h>\n", {}, {}},
      {"const char* s = R\"(\n#include <a.h>\n)\";\n#include <b.h>\n", {"b.h:4"}, {}},
      {"auto s = R\"end(\n#include <a.h>\n)\" )end\";\n#include <b.h>\n", {"b.h:4"}, {}},
      {"#include NAME\n#define X \"a.h\"\n", {}, {}},
      {"#import \"a.h\"\n#import \"scale.tlb\"\n", {"a.h:1"}, {}},
      {"R\"(", {}, {}},
  };
  for (const auto& c : cases) {
    std::vector<std::string> always, conditional;
    for (const auto& line : fibula::include_lines(c.text))
      (line.conditional ? conditional : always).push_back(line.name + ":" + std::to_string(line.line));
    EXPECT_EQ(always, c.always) << c.text;
    EXPECT_EQ(conditional, c.conditional) << c.text;
  }
}

TEST(Declarations, BrokenTextEnds) {
  for (const char* text :
       {"int f(", "{{{{", "}}}}", "/* open", "\"open", "'", "#define \\", "int f(int) {", "]=;", "a ] ] = {"})
    (void)functions_left_to_a_binary(text);
}

}  // namespace
