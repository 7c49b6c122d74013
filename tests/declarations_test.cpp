#include "facts/declarations.hpp"

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
  };
  for (const auto& c : cases) EXPECT_EQ(functions_left_to_a_binary(c.text), c.left) << c.text;
}

TEST(Declarations, BrokenTextEnds) {
  for (const char* text : {"int f(", "{{{{", "}}}}", "/* open", "\"open", "'", "#define \\", "int f(int) {"})
    (void)functions_left_to_a_binary(text);
}

}  // namespace
