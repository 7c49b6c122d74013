/// What a link needs from the system is found and chosen by stated rules; a folder given with -L plays the system.
#include "support/support.hpp"

#include <fmt/format.h>
#include <gtest/gtest.h>

using test::Workplace;

namespace {

constexpr const char* needs_moon = "int moon(void); int tide(void) { return moon(); }";
constexpr const char* needs_moon_and_star = "int moon(void), star(void); int tide(void) { return moon() + star(); }";

/// The sources that the system's libraries are made of.
constexpr const char* sources = R"(
echo 'int moon(void) { return 0; }' >moon.c; echo 'int star(void) { return 0; }' >star.c
echo 'int star(void); int moon(void) { return star(); }' >moon_of_star.c
echo 'int moon(void); int star(void) { return moon(); }' >star_of_moon.c
echo 'int moon_inner(void) { return 0; } int moon(void) { return 0; }' >inner.c
shared() { gcc -shared -fPIC -o lib$1.so $2 -Wl,-soname,lib$1.so $3 $4; }
archive() { gcc -fPIC -c $2 -o $1.o && ar rcs lib$1.a $1.o && rm $1.o; }
)";

struct SystemRow {
  const char* title;
  const char* system;             ///< commands in the system's folder
  const char* library;            ///< the code of libtide.a
  const char* beside;             ///< commands in the library's folder
  const char* inputs;             ///< the card's system-inputs
  std::vector<std::string> line;  ///< what is derived, in order: "-lmoon"
  std::string said;               ///< in the reasons, or in the misfit
};

// clang-format off
const SystemRow system_rows[] = {
    {"one has it", "shared moon moon.c", needs_moon, "", "", {"-lmoon"}, "defines moon, which libtide.a(tide.o) needs"},
    {"an archive where there is no other", "archive moon moon.c", needs_moon, "", "", {"-lmoon"}, "defines moon"},
    {"two have it, and the shared form says which", "shared moon moon.c; shared luna moon.c", needs_moon,
     "gcc -shared -fPIC -o libtide.so -Wl,--no-as-needed ../system/libluna.so -x c /dev/null", "", {"-lluna"}, "the shared form of libtide.a asks for libluna.so"},
    {"two have it, and the card says which", "shared moon moon.c; shared luna moon.c", needs_moon, "", "luna", {"-lluna"}, "and its card names it"},
    {"two have it, and nothing says which", "shared moon moon.c; shared luna moon.c", needs_moon, "", "", {}, "system-inputs = [\"luna\"] or [\"moon\"]"},
    {"two have it, and one is loaded in any case", "shared moon moon.c; shared luna moon.c; shared star star.c -Wl,--no-as-needed ./libluna.so", needs_moon_and_star, "", "", {"-lstar", "-lluna"}, "libluna.so is loaded in any case"},
    {"two have it, and one belongs to the library", "shared moon moon.c; shared tidemoon moon.c", needs_moon, "", "", {"-ltidemoon"}, "it belongs to libtide.a"},
    {"two have it, and one has more", "shared moon moon.c; gcc -shared -fPIC -o libsky.so moon.c star.c", needs_moon_and_star, "", "", {"-lsky"}, "defines moon"},
    {"what is added needs things too", "archive moon moon_of_star.c; archive star star.c", needs_moon, "", "", {"-lmoon", "-lstar"}, "defines star, which libmoon.a(moon.o) needs"},
    {"a circle that one pass serves", "archive moon moon_of_star.c; archive star star_of_moon.c", needs_moon, "", "", {"-lmoon", "-lstar"}, "defines star"},
    {"only its archive has the name", "gcc -shared -fPIC -fvisibility=hidden -o libmoon.so -x c - <<<'__attribute__((visibility(\"default\"))) int moon(void) { return 0; }'; archive moon inner.c",
     "int moon(void), moon_inner(void); int tide(void) { return moon() + moon_inner(); }", "", "", {"system/libmoon.a"}, "defines moon"},
    {"only its run-time file is there", "shared moon moon.c; mv libmoon.so libmoon.so.2", needs_moon, "", "", {"system/libmoon.so.2"}, "defines moon"},
    {"a script that names others", "shared moon moon.c; mv libmoon.so libmoon.so.2; echo 'INPUT(libmoon.so.2)' >libmoon.so", needs_moon, "", "", {"-lmoon"}, "defines moon"},
    {"a damaged file beside it", "printf '!<arch>\\nrubbish' >libbad.a; shared moon moon.c", needs_moon, "", "", {"-lmoon"}, "defines moon"},
    {"a library of another machine beside it", "gcc -m32 -c moon.c && ar rcs libmoon32.a moon.o && rm moon.o; shared moon moon.c", needs_moon, "", "", {"-lmoon"}, "defines moon"},
    {"the C library's companions", "", "double cos(double); int tide(void) { volatile double d = 1; return cos(d) > 2; }", "", "", {"-lm"}, "defines cos"},
    {"nobody has it", "", needs_moon, "", "", {}, "no input of the link defines it"},
    {"never a sanitizer's run-time", "", "void __asan_init(void); int tide(void) { __asan_init(); return 0; }", "", "", {}, "give the lane flags = [\"-fsanitize=address\"]"},
    {"a card that names what is not there", "", needs_moon, "", "luna", {}, "no input of the link defines it"},
};
// clang-format on

/// libtide on the shelf and attached, in a lane that searches the system's folder.
class Sea : public Workplace {
  /// The index of the real system's folders is the same for all.
  static const test::fs::path& shared_indices() {
    static const test::Folder kept;
    return kept.path();
  }
  test::fs::path indices() const { return *this / "cache/fibula/kept/providers-3"; }

 public:
  ~Sea() { test::fs::copy(indices(), shared_indices(), test::fs::copy_options::skip_existing); }
  explicit Sea(const SystemRow& row) {
    test::fs::create_directories(indices());
    test::fs::copy(shared_indices(), indices());
    folder().write("system/made", "");
    test::must("bash -ec " + test::quoted(std::string(sources) + row.system + "\nrm -f *.c"), *this / "system");
    folder().write("tide-1.0/tide.c", row.library);
    folder().write("tide-1.0/tide.h", "int tide(void);\n");
    test::must("gcc -fPIC -c tide.c && ar rcs libtide.a tide.o && rm tide.o tide.c", *this / "tide-1.0");
    if (*row.beside != '\0') test::must(row.beside, *this / "tide-1.0");
    folder().write("work/main.c", "#include <tide.h>\nint main(void) { return tide(); }\n");
    folder().write(
        "work/fibula.toml",
        "[[output]]\nname = \"log\"\nkind = \"program\"\nsources = [\"main.c\"]\n\n[library.tide]\nlinkage = "
        "\"static\"\n\n[lane.desk]\ncompiler = \"gcc\"\nflags = [\"-L../system\"]\n");
    EXPECT_EQ(fibula("take ../tide-1.0").status, 0);
    if (*row.inputs != '\0') {
      test::must(fmt::format("sed -i 's/^linkage = \"static\"/system-inputs = [\"{}\"]\\n&/' card.toml", row.inputs),
                 shelf() / "tide/1.0");
    }
  }
};

}  // namespace

TEST(Derivation, TakesFromTheSystemWhatIsMissing) {
  for (const auto& row : system_rows) {
    SCOPED_TRACE(row.title);
    const Sea sea(row);
    const auto fit = sea.fibula("fit --json");
    const auto answer = nlohmann::json::parse(fit.out);
    std::vector<std::string> derived;
    for (const auto& input : answer["lanes"][0]["link_inputs"]) {
      const auto argument = input["arguments"][0].get<std::string>();
      if (input["library"] == "system")
        derived.push_back(argument.starts_with("-l") ? argument : argument.substr(argument.find("system/")));
    }
    EXPECT_EQ(derived, row.line);
    const auto escaped = nlohmann::json(row.said).dump();
    EXPECT_NE(fit.out.find(escaped.substr(1, escaped.size() - 2)), std::string::npos) << fit.out;
    EXPECT_EQ(fit.status, row.line.empty() ? 1 : 0);
    if (row.line.empty()) continue;
    EXPECT_EQ(sea.fibula("build").status, 0);
  }
}

/// Bad input: what is wrong is told, and no line is given that cannot work.
TEST(Derivation, FilesThatServeNobodyAreTold) {
  struct Bad {
    const char* title;
    const char* make;  ///< in the library's files on the shelf, after it was taken
    int status;
    const char* said;
  };
  const Bad rows[] = {
      {"an archive without members", "rm libtide.a && ar rcs libtide.a", 1, "tide is needed by main.c.o"},
      {"an archive without a symbol table", "rm libtide.a && gcc -c x.c && ar rcS libtide.a x.o", 1,
       "run ranlib on it"},
      {"a symbol table that is stale", "sed -i \"0,/tide/s//tidy/\" libtide.a", 1, "it is stale"},
      {"a member that is no object", "sed -i \"s/\\x7fELF/text/\" libtide.a", 3,
       "libtide.a: at member tide.o: is of no known kind"},
      {"an archive cut short", "head -c 300 libtide.a >cut && cp cut libtide.a", 3, "libtide.a"},
      {"an object of another machine", "gcc -m32 -c x.c -o tide.o && ar rcs libtide.a tide.o", 1,
       "libtide.a(tide.o) is for 32-bit x86 elf"},
  };
  for (const auto& row : rows) {
    SCOPED_TRACE(row.title);
    const Sea sea({"", "", "int tide(void) { return 0; }", "", "", {}, ""});
    ASSERT_EQ(sea.fibula("build").status, 0);
    test::must(fmt::format("chmod -R u+w . && echo 'int tide(void) {{ return 0; }}' >x.c && {}", row.make),
               sea.shelf() / "tide/1.0/files");
    const auto fit = sea.fibula("fit");
    EXPECT_EQ(fit.status, row.status) << fit.all();
    EXPECT_NE(fit.all().find(row.said), std::string::npos) << fit.all();
    EXPECT_NE(sea.fibula("build").status, 0);
  }
}

TEST(Derivation, ASystemWithoutItsCLibraryIsTold) {
  const Sea sea({"", "", "int tide(void) { return 0; }", "", "", {}, ""});
  test::must(
      "mkdir -p root/usr/include && echo 'typedef int size_t;' >root/usr/include/stdio.h && cp "
      "root/usr/include/stdio.h root/usr/include/stdlib.h",
      sea / "system");
  test::must("sed -i 's|-L../system|--sysroot=../system/root|;s|\"gcc\"|\"clang\"|' fibula.toml", sea / "work");
  const auto fit = sea.fibula("fit");
  EXPECT_NE(fit.status, 0);
  EXPECT_NE(fit.all().find("hands c to every link"), std::string::npos) << fit.all();
  EXPECT_EQ(fit.all().find("misfit (undefined)"), std::string::npos) << fit.all();
}

TEST(Derivation, HeadersThatHideOthersAreTold) {
  const Sea sea({"", "", "int tide(void) { return 0; }", "", "", {}, ""});
  sea.folder().write("moon-1.0/tide.h", "#define MOON_TIDE 3\n");
  ASSERT_EQ(sea.fibula("take ../moon-1.0").status, 0);
  ASSERT_EQ(sea.fibula("attach moon").status, 0);
  const auto fit = sea.fibula("fit");
  EXPECT_EQ(fit.status, 0);
  EXPECT_NE(fit.out.find("wrong-header-found-first"), std::string::npos) << fit.out;
  EXPECT_NE(fit.out.find("#include <tide.h> finds"), std::string::npos) << fit.out;
  test::must("cp shelf/tide/1.0/files/tide.h shelf/moon/1.0/files/tide.h", sea / ".");
  EXPECT_EQ(sea.fibula("fit").out.find("wrong-header-found-first"), std::string::npos);
}

TEST(Derivation, KnowsWhenTheSystemChanged) {
  const Sea sea({"", "shared moon moon.c", needs_moon, "", "", {}, ""});
  const auto line = [&] { return sea.fibula("fit --json").out; };
  EXPECT_NE(line().find("-lmoon"), std::string::npos);
  test::must("mv libmoon.so libluna.so", sea / "system");
  EXPECT_NE(line().find("-lluna"), std::string::npos);
  test::must("rm libluna.so", sea / "system");
  EXPECT_EQ(sea.fibula("fit").status, 1);
  // What is kept can be damaged: it is made again.
  test::must("for kept in *; do head -c 100 $kept >cut; cp cut $kept; done", sea / "cache/fibula/kept/providers-3");
  test::must("echo 'int moon(void) { return 0; }' >moon.c && gcc -shared -fPIC -o libmoon.so moon.c && rm moon.c",
             sea / "system");
  EXPECT_NE(line().find("-lmoon"), std::string::npos);
}

TEST(Derivation, WhatTheProgramItselfCallsIsToBeAttached) {
  const Sea sea({"", "shared moon moon.c", "int tide(void) { return 0; }", "", "", {}, ""});
  sea.folder().write("work/main.c", "int tide(void), moon(void); int main(void) { return tide() + moon(); }\n");
  EXPECT_NE(sea.fibula("build").status, 0);  // the objects are there now, and say what they need
  const auto fit = sea.fibula("fit");
  EXPECT_EQ(fit.status, 1);
  EXPECT_NE(fit.out.find("libmoon.so defines it"), std::string::npos) << fit.out;
  EXPECT_NE(fit.out.find("fibula attach moon"), std::string::npos) << fit.out;
}

TEST(Derivation, WhatNothingNeedsIsLeftOut) {
  const Sea sea({"",
                 "",
                 "int tide(void) { return 0; }",
                 "echo 'int buoy(void) { return 0; }' | gcc -x c -c - -o b.o && ar rcs libbuoy.a b.o && rm b.o",
                 "",
                 {},
                 ""});
  EXPECT_EQ(sea.fibula("build").status, 0);
  const auto lane = sea.fibula_json("fit")["lanes"][0];
  EXPECT_EQ(lane["link_inputs"].size(), 1U) << lane.dump(1);
  const auto& left_out = lane["outputs"][0]["left_out"];
  ASSERT_EQ(left_out.size(), 1U) << lane.dump(1);
  EXPECT_TRUE(left_out[0]["path"].get<std::string>().ends_with("libbuoy.a"));
  EXPECT_NE(sea.fibula("fit --why buoy").out.find("nothing in log needs what it defines"), std::string::npos);
}

#ifndef FIBULA_NATIVE_ONLY
TEST(Derivation, WhatIsPartOfWindowsNeedNotBeAttached) {
  const Workplace place;
  place.folder().write("tide-1.0/tide.c",
                       "unsigned __stdcall timeGetTime(void); int tide(void) { return timeGetTime() == 1; }");
  place.folder().write("tide-1.0/tide.h", "int tide(void);\n");
  test::must(
      "x86_64-w64-mingw32-gcc-posix -c tide.c && x86_64-w64-mingw32-ar rcs libtide.a tide.o && rm tide.*o tide.c",
      place / "tide-1.0");
  place.folder().write("work/main.c",
                       "#include <tide.h>\nint __stdcall closesocket(unsigned long long);\nint main(void) { return "
                       "tide() + closesocket(0) - closesocket(0); }\n");
  place.folder().write("work/fibula.toml",
                       "[[output]]\nname = \"log\"\nsources = [\"main.c\"]\n[library.tide]\n[lane.desk]\ncompiler = "
                       "\"x86_64-w64-mingw32-gcc-posix\"\n");
  ASSERT_EQ(place.fibula("take ../tide-1.0").status, 0);
  const auto before = place.fibula("fit");
  EXPECT_NE(before.out.find("-lwinmm"), std::string::npos) << before.out;

  const auto built = place.fibula("build");
  EXPECT_EQ(built.status, 0) << built.all();
  EXPECT_NE(place.fibula("fit").out.find("-lws2_32"), std::string::npos);
}
#endif
