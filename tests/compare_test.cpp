#include "support/support.hpp"

#include <fibula/compare.hpp>

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <algorithm>

using test::Workplace;

namespace {

/// One change of a library, and what a program does that was built before it and finds the new file.
struct ChangeRow {
  const char* name;
  const char* header[2];
  const char* source[2];
  const char* program;  ///< the body of main; what it gives is 0 with the first version
  const char* kind;     ///< of the difference that says it
  const char* subject;  ///< its name
  const char* effect;   ///< of it
  bool stands_in;
  bool cxx = false;
};

void PrintTo(const ChangeRow& row, std::ostream* out) {
  *out << row.name;
}

const ChangeRow change_rows[] = {
    {"nothing",
     {"int tide(int hour);", "int tide(int hour);"},
     {"int tide(int hour) { return hour; }", "int tide(int hour) { return hour + 1 - 1; }"},
     "return tide(3) != 3;",
     "",
     "",
     "",
     true},
    {"function-gone",
     {"int tide(int); int moon(int);", "int tide(int);"},
     {"int tide(int h) { return h; } int moon(int h) { return h; }", "int tide(int h) { return h; }"},
     "return moon(3) != 3;",
     "symbol",
     "moon",
     "built",
     false},
    {"undeclared-function-gone",
     {"int tide(int);", "int tide(int);"},
     {"int tide(int h) { return h; } int tide_inner(void) { return 1; }", "int tide(int h) { return h; }"},
     "return tide(3) != 3;",
     "symbol",
     "tide_inner",
     "none",
     true},
    {"function-added",
     {"int tide(int);", "int tide(int); int moon(int);"},
     {"int tide(int h) { return h; }", "int tide(int h) { return h; } int moon(int h) { return h; }"},
     "return tide(3) != 3;",
     "symbol",
     "moon",
     "none",
     true},
    {"parameter-type",
     {"int tide(int h);", "int tide(double h);"},
     {"int tide(int h) { return h; }", "int tide(double h) { return (int)h + 7; }"},
     "return tide(3) != 3;",
     "signature",
     "tide",
     "built",
     false},
    {"parameter-more",
     {"int tide(int h);", "int tide(int h, const char *port);"},
     {"int tide(int h) { return h; }", "int tide(int h, const char *port) { return port == (const char *)9 ? h : 1; }"},
     "return tide(3) != 3;",
     "signature",
     "tide",
     "built",
     false},
    {"parameter-const",
     {"int tide(char *port);", "int tide(const char *port);"},
     {"int tide(char *p) { return p[0]; }", "int tide(const char *p) { return p[0]; }"},
     "char port[2] = {5, 0}; return tide(port) != 5;",
     "",
     "",
     "",
     true},
    {"result-type",
     {"double tide(int);", "long tide(int);"},
     {"double tide(int h) { return h; }", "long tide(int h) { return h; }"},
     "return tide(3) != 3;",
     "signature",
     "tide",
     "built",
     false},
    {"structure-grew",
     {"struct port { int depth; }; void port_clear(struct port *);",
      "struct port { int depth; char name[4000]; }; void port_clear(struct port *);"},
     {"void port_clear(struct port *p) { p->depth = 0; }",
      "void port_clear(struct port *p) { p->depth = 0; for (int i = 0; i < 4000; ++i) ((volatile char *)p->name)[i] = "
      "1; }"},
     "struct { struct port p; volatile char after[64]; } all = {{3}, {0}}; port_clear(&all.p); return all.after[9] != "
     "0;",
     "layout",
     "port",
     "built",
     false},
    {"member-moved",
     {"struct port { int depth; int width; }; int wide(const struct port *);",
      "struct port { int width; int depth; }; int wide(const struct port *);"},
     {"int wide(const struct port *p) { return p->width; }", "int wide(const struct port *p) { return p->width; }"},
     "struct port p = {1, 2}; return wide(&p) != 2;",
     "layout",
     "port::width",
     "built",
     false},
    {"member-in-padding",
     {"struct port { char open; int depth; }; int deep(const struct port *);",
      "struct port { char open; char lit; int depth; }; int deep(const struct port *);"},
     {"int deep(const struct port *p) { return p->depth; }", "int deep(const struct port *p) { return p->depth; }"},
     "struct port p = {1, 2}; return deep(&p) != 2;",
     "layout",
     "port::lit",
     "none",
     true},
    {"member-renamed",
     {"struct port { int depth; }; int deep(const struct port *);",
      "struct port { int deepness; }; int deep(const struct port *);"},
     {"int deep(const struct port *p) { return p->depth; }", "int deep(const struct port *p) { return p->deepness; }"},
     "struct port p = {2}; return deep(&p) != 2;",
     "layout",
     "port::depth",
     "source",
     true},
    {"hidden-structure-grew",
     {"struct port; struct port *port_new(void); int deep(const struct port *);",
      "struct port; struct port *port_new(void); int deep(const struct port *);"},
     {"struct port { int depth; }; static struct port p = {2}; struct port *port_new(void) { return &p; }"
      " int deep(const struct port *q) { return q->depth; }",
      "struct port { long more; int depth; }; static struct port p = {1, 2}; struct port *port_new(void) { return &p; }"
      " int deep(const struct port *q) { return q->depth; }"},
     "return deep(port_new()) != 2;",
     "",
     "",
     "",
     true},
    {"bit-field",
     {"struct port { unsigned open : 1; unsigned lit : 2; }; int lit(const struct port *);",
      "struct port { unsigned lit : 2; unsigned open : 1; }; int lit(const struct port *);"},
     {"int lit(const struct port *p) { return p->lit; }", "int lit(const struct port *p) { return p->lit; }"},
     "struct port p = {1, 2}; return lit(&p) != 2;",
     "layout",
     "port::lit",
     "built",
     false},
    {"member-of-unnamed-union",
     {"struct port { int kind; union { int a; float b; }; }; int first(const struct port *);",
      "struct port { int kind; union { double a; float b; }; }; int first(const struct port *);"},
     {"int first(const struct port *p) { return p->a; }", "int first(const struct port *p) { return (int)p->a; }"},
     "struct port p = {0, {2}}; return first(&p) != 2;",
     "layout",
     "port::a",
     "built",
     false},
    {"enumerator-inserted",
     {"enum light { LIGHT_RED, LIGHT_GREEN }; int is_green(enum light);",
      "enum light { LIGHT_RED, LIGHT_WHITE, LIGHT_GREEN }; int is_green(enum light);"},
     {"int is_green(enum light l) { return l == LIGHT_GREEN; }",
      "int is_green(enum light l) { return l == LIGHT_GREEN; }"},
     "return !is_green(LIGHT_GREEN);",
     "enumerator",
     "LIGHT_GREEN",
     "built",
     false},
    {"enumerator-appended",
     {"enum light { LIGHT_RED, LIGHT_GREEN }; int is_green(enum light);",
      "enum light { LIGHT_RED, LIGHT_GREEN, LIGHT_WHITE }; int is_green(enum light);"},
     {"int is_green(enum light l) { return l == LIGHT_GREEN; }",
      "int is_green(enum light l) { return l == LIGHT_GREEN; }"},
     "return !is_green(LIGHT_GREEN);",
     "enumerator",
     "LIGHT_WHITE",
     "none",
     true},
    {"data-grew",
     {"extern int lamps[2]; int lamp(int);", "extern int lamps[64]; int lamp(int);"},
     {"int lamps[2] = {1, 2}; int lamp(int i) { return lamps[i]; }",
      "int lamps[64] = {1, 2, [60] = 5}; int lamp(int i) { return lamps[60] == 5 ? lamps[i] : -1; }"},
     "return lamp(1) != lamps[1];",
     "data-size",
     "lamps",
     "built",
     false},
    {"macro-value",
     {"#define MOST_LAMPS 4\nint tide(int);", "#define MOST_LAMPS 8\nint tide(int);"},
     {"int tide(int h) { return h; }", "int tide(int h) { return h; }"},
     "return tide(MOST_LAMPS) != MOST_LAMPS;",
     "macro",
     "MOST_LAMPS",
     "doubt",
     true},
    {"macro-gone",
     {"#define TWICE(x) (2 * (x))\nint tide(int);", "int tide(int);"},
     {"int tide(int h) { return h; }", "int tide(int h) { return h; }"},
     "return tide(TWICE(2)) != 4;",
     "macro",
     "TWICE",
     "source",
     true},
    {"callback-type",
     {"int each(int (*call)(int));", "int each(int (*call)(double));"},
     {"int each(int (*call)(int)) { return call(4); }", "int each(int (*call)(double)) { return call(9.0); }"},
     "int same(int x); return each(same) != 4; } int same(int x) { return x;",
     "signature",
     "each",
     "built",
     false},
    {"virtual-inserted",
     {"struct Gate { virtual int width() const; virtual int depth() const; }; Gate* gate();",
      "struct Gate { virtual int width() const; virtual int height() const; virtual int depth() const; }; Gate* "
      "gate();"},
     {"int Gate::width() const { return 1; } int Gate::depth() const { return 2; } Gate* gate() { return new Gate; }",
      "int Gate::width() const { return 1; } int Gate::height() const { return 3; }"
      "int Gate::depth() const { return 2; } Gate* gate() { return new Gate; }"},
     "return gate()->depth() != 2;",
     "virtual-table",
     "Gate::depth() const",
     "built",
     false,
     true},
    {"base-grew",
     {"struct Wall { int high; }; struct Gate : Wall { int wide; }; int wide(const Gate&);",
      "struct Wall { int high; int thick; }; struct Gate : Wall { int wide; }; int wide(const Gate&);"},
     {"int wide(const Gate& g) { return g.wide; }", "int wide(const Gate& g) { return g.wide; }"},
     "Gate g; g.high = 1; g.wide = 2; return wide(g) != 2;",
     "layout",
     "Gate::wide",
     "built",
     false,
     true},
    {"overload-gone",
     {"namespace harbour { int tide(int); int tide(double); }", "namespace harbour { int tide(int); }"},
     {"namespace harbour { int tide(int h) { return h; } int tide(double h) { return (int)h; } }",
      "namespace harbour { int tide(int h) { return h; } }"},
     "return harbour::tide(2.0) != 2;",
     "symbol",
     "harbour::tide(double)",
     "built",
     false,
     true},
    {"default-argument",
     {"namespace harbour { int tide(int hour = 3); }", "namespace harbour { int tide(int hour = 5); }"},
     {"namespace harbour { int tide(int h) { return h; } }", "namespace harbour { int tide(int h) { return h; } }"},
     "return harbour::tide() != 3;",
     "default-argument",
     "harbour::tide",
     "none",
     true,
     true},
    {"inline-member-gone",
     {"struct Gate { int w = 1; int wide() const { return w; } int deep() const; };",
      "struct Gate { int w = 1; int deep() const; };"},
     {"int Gate::deep() const { return wide(); }", "int Gate::deep() const { return w; }"},
     "return Gate().wide() + Gate().deep() != 2;",
     "declaration",
     "",
     "",
     true,
     true},
};

class Compared : public testing::TestWithParam<ChangeRow> {};

/// Makes `v1` and `v2` with a header and a shared library each, and the program for the first.
void make_versions(const Workplace& place, const ChangeRow& row, const char* flags) {
  const char *compiler = row.cxx ? "g++" : "gcc", *ending = row.cxx ? "cpp" : "c",
             *header = row.cxx ? "port.hpp" : "port.h";
  for (int i = 0; i < 2; ++i) {
    const std::string folder = fmt::format("work/v{}", i + 1);
    place.folder().write(folder + "/include/" + header, fmt::format("#pragma once\n{}\n", row.header[i]));
    const std::string source = fmt::format("source{}.{}", i, ending);
    place.folder().write("work/" + source,
                         fmt::format("#include \"v{}/include/{}\"\n{}\n", i + 1, header, row.source[i]));
    test::must(
        fmt::format("mkdir -p v{0}/lib && {1} {2} -fPIC -shared {3} -o v{0}/lib/libport.so.1 -Wl,-soname,libport.so.1",
                    i + 1, compiler, flags, source),
        place / "work");
  }
  place.folder().write(fmt::format("work/main.{}", ending),
                       fmt::format("#include <{}>\nint main() {{ {} }}\n", header, row.program));
  test::must(fmt::format("{} -w -fPIE -pie main.{} -Iv1/include v1/lib/libport.so.1 -o program", compiler, ending),
             place / "work");
}

/// The answer, and the difference that gives it, with debugging records and without; and that the program runs with the
/// second version just when that is said.
TEST_P(Compared, IsToldAsItHappens) {
  const ChangeRow& row = GetParam();
  for (const char* flags : {"-g", "-g -gdwarf-4 -gz", "-O1"}) {
    SCOPED_TRACE(flags);
    const Workplace place;
    make_versions(place, row, flags);
    ASSERT_EQ(test::shell("LD_LIBRARY_PATH=v1/lib LD_BIND_NOW=1 ./program", place / "work").status, 0);
    const auto found = place.fibula_json("compare v1 v2");
    EXPECT_EQ(found["stands_in"], row.stands_in ? "yes" : "no") << found.dump(1);
    EXPECT_TRUE(found["not_compared"].empty()) << found.dump(1);
    const int status = test::shell("LD_LIBRARY_PATH=v2/lib LD_BIND_NOW=1 ./program", place / "work").status;
    EXPECT_EQ(status == 0, row.stands_in) << found.dump(1);
    bool told = *row.effect == '\0';
    for (const char* how : {"removed", "added", "changed"}) {
      for (const auto& one : found[how])
        told = told || (one["kind"] == row.kind && one["name"] == row.subject && one["effect"] == row.effect);
    }
    EXPECT_TRUE(told) << found.dump(1);
    // What is the same is not told as different.
    const size_t told_otherwise = found["changed"].size() + found["removed"].size();
    EXPECT_TRUE(*row.kind != '\0' || told_otherwise == 0) << found.dump(1);
  }
}

INSTANTIATE_TEST_SUITE_P(Changes, Compared, testing::ValuesIn(change_rows), [](const auto& row) {
  std::string name = row.param.name;
  std::replace(name.begin(), name.end(), '-', '_');
  return name;
});

/// `port` with `deep` and `wide`, and a second version without `wide`, on the shelf.
void take_two_versions(const Workplace& place) {
  for (const auto* version : {"1.0", "2.0"}) {
    const bool second = version[0] == '2';
    const std::string folder = std::string("work/port-") + version;
    place.folder().write(folder + "/include/port.h", second ? "int deep(int);\n" : "int deep(int);\nint wide(int);\n");
    place.folder().write(folder + "/port.c", second ? "int deep(int x) { return x; }\n"
                                                    : "int deep(int x) { return x; }\nint wide(int x) { return x; }\n");
    test::must("gcc -c port.c && ar rcs libport.a port.o && rm port.c port.o", place / folder);
    ASSERT_EQ(place.fibula(fmt::format("take port-{0} --name port --version {0}", version)).status, 0);
  }
}

/// What a project does not use does not keep it from taking the second version.
TEST(Compare, JudgesForTheProject) {
  const Workplace place;
  take_two_versions(place);
  place.folder().write("work/app/src/main.c", "#include <port.h>\nint main(void) { return deep(0); }\n");
  ASSERT_EQ(place.fibula("begin app").status, 0);
  ASSERT_EQ(place.fibula("-C app attach port =1.0").status, 0);
  auto found = place.fibula_json("-C app compare port/1.0 2.0");
  EXPECT_EQ(found["stands_in"], "no") << found.dump(1);
  EXPECT_EQ(found["in_this_project"]["stands_in"], "yes") << found.dump(1);
  EXPECT_EQ(place.fibula("-C app compare port/1.0 2.0").status, 0);
  EXPECT_EQ(place.fibula_json("-C app compare port 1.0 2.0"), found);

  place.folder().write("work/app/src/main.c",
                       "#include <port.h>\n/* wide */\nint main(void) {\n  return wide(0);\n}\n");
  found = place.fibula_json("-C app compare port/1.0 port/2.0");
  EXPECT_EQ(found["in_this_project"]["stands_in"], "no") << found.dump(1);
  ASSERT_EQ(found["removed"].size(), 1U) << found.dump(1);
  const auto& use = found["removed"][0]["used_by"].at(0);
  EXPECT_TRUE(use["file"].get<std::string>().ends_with("src/main.c")) << found.dump(1);
  EXPECT_EQ(use["line"], 4);
  EXPECT_EQ(place.fibula("-C app compare port/1.0 port/2.0").status, 1);
}

/// Another version is compared before it is used, and what stood there comes back.
TEST(Compare, IsShownBeforeAnAttachAndTakenBackAfter) {
  const Workplace place;
  take_two_versions(place);
  place.folder().write("work/app/src/main.c", "#include <port.h>\nint main(void) { return wide(0); }\n");
  ASSERT_EQ(place.fibula("begin app").status, 0);
  ASSERT_EQ(place.fibula("-C app attach --undo").status, 1);
  ASSERT_EQ(place.fibula("-C app attach port =1.0").status, 0);
  ASSERT_EQ(place.fibula("-C app build").status, 0);
  const auto toml = test::read(place / "work/app/fibula.toml"), lock = test::read(place / "work/app/fibula.lock");
  const auto attached = place.fibula("-C app attach port =2.0");
  EXPECT_EQ(attached.status, 0) << attached.all();
  EXPECT_NE(attached.out.find("port 1.0 -> port 2.0: breaks what this project uses"), std::string::npos)
      << attached.all();
  EXPECT_NE(attached.out.find("main.c:2"), std::string::npos) << attached.all();
  EXPECT_NE(test::read(place / "work/app/fibula.toml"), toml);
  EXPECT_EQ(place.fibula("-C app attach --undo").status, 0);
  EXPECT_EQ(test::read(place / "work/app/fibula.toml"), toml);
  EXPECT_EQ(test::read(place / "work/app/fibula.lock"), lock);
  EXPECT_EQ(place.fibula("-C app attach --undo").status, 1);
  EXPECT_EQ(place.fibula("-C app build").status, 0);
  // What somebody changed since is theirs.
  ASSERT_EQ(place.fibula("-C app attach port =2.0").status, 0);
  test::must("printf '# mine\\n' >> app/fibula.toml", place / "work");
  const auto refused = place.fibula("-C app attach --undo");
  EXPECT_EQ(refused.status, 1);
  EXPECT_NE(refused.err.find("was changed since the library was attached"), std::string::npos) << refused.err;
}

/// Words that name nothing, or two things that are not alike.
TEST(Compare, RefusesWhatItCannotCompare) {
  const Workplace place;
  place.folder().write("work/page.html", "<html></html>\n");
  place.folder().write("work/folder/include/port.h", "int deep(int);\n");
  struct Row {
    const char* words;
    int status;
    const char* said;
  };
  const Row refused[] = {
      {"compare nosuch other", 3, "nosuch is no file, no folder and no library on the shelf"},
      {"compare page.html page.html", 3, "page.html"},
      {"compare page.html folder", 2, "are not of one kind"},
      {"compare nosuch/1.0 2.0", 3, "it is no file and no folder either"},
      {"compare folder", 2, "SECOND"},
  };
  for (const auto& row : refused) {
    SCOPED_TRACE(row.words);
    const auto ran = place.fibula(row.words);
    EXPECT_EQ(ran.status, row.status) << ran.all();
    EXPECT_NE(ran.all().find(row.said), std::string::npos) << ran.all();
  }
}

}  // namespace
