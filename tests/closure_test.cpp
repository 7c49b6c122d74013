/// The run-time files behind `inspect --needs`, checked against the real loader where one runs here.
#include "support/support.hpp"

#include <fibula/fibula.hpp>

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <algorithm>
#include <map>

using namespace fibula;

namespace {

/// `name status why` of each need that is not part of the system.
std::vector<std::string> own_needs(const std::filesystem::path& file) {
  const auto closure = closure_of(file);
  EXPECT_TRUE(closure) << render(closure.error());
  std::vector<std::string> lines;
  for (const auto& entry : *closure) {
    if (entry.status != NeedStatus::system) lines.push_back(fmt::format("{} {}", entry.name, to_string(entry.status)));
  }
  return lines;
}

/// A program that needs libtide, which needs libmoon; `links` are the last options of the three.
struct Chain {
  test::Folder folder;
  Chain(const std::string& program, const std::string& tide, const std::string& where = "lib") {
    folder.write("moon.c", "int moon(void) { return 1; }");
    folder.write("tide.c", "int moon(void); int tide(void) { return moon(); }");
    folder.write("main.c", "int tide(void); int main(void) { return tide() - 1; }");
    test::must(fmt::format("mkdir -p {0} && gcc -shared -fPIC moon.c -o {0}/libmoon.so && gcc -shared -fPIC tide.c "
                           "-L{0} -lmoon {2} -o {0}/libtide.so && "
                           "gcc main.c -L{0} -ltide -Wl,-rpath-link,{0} {1} -o main",
                           where, program, tide),
               folder.path());
  }
  bool starts() const { return test::shell("./main", folder.path()).status == 0; }
};

TEST(Closure, GoesTheLoadersWay) {
  using Lines = std::vector<std::string>;
  struct Case {
    const char* what;
    const char* program;
    const char* tide;
    Lines needs;
    bool starts;
  };
  const std::string origin = "-Wl,-rpath,'$ORIGIN/lib'";
  const Case cases[] = {
      {"run paths in both",
       "-Wl,--enable-new-dtags,-rpath,'$ORIGIN/lib'",
       "-Wl,--enable-new-dtags,-rpath,'$ORIGIN'",
       {"libtide.so found", "libmoon.so found"},
       true},
      {"a run path does not serve the needs of needs",
       "-Wl,--enable-new-dtags,-rpath,'$ORIGIN/lib'",
       "",
       {"libtide.so found", "libmoon.so by-luck"},
       false},
      {"the older kind of run path does",
       "-Wl,--disable-new-dtags,-rpath,'$ORIGIN/lib'",
       "",
       {"libtide.so found", "libmoon.so found"},
       true},
      {"no run path", "", "", {"libtide.so missing"}, false},
  };
  for (const auto& c : cases) {
    SCOPED_TRACE(c.what);
    const Chain chain(c.program, c.tide);
    EXPECT_EQ(own_needs(chain.folder / "main"), c.needs);
    EXPECT_EQ(chain.starts(), c.starts);
  }
}

/// What lies in the chain's lib folder in place of libmoon.so, or how it is asked for; and whether the program starts.
TEST(Closure, TellsWhatLoadersStopAt) {
  struct Case {
    const char* what;
    const char* make;  ///< commands in the folder of the chain
    const char* last;  ///< the need of libtide.so
    const char* why;
    bool starts;
  };
  const Case cases[] = {
      {"a folder", "rm lib/libmoon.so && mkdir lib/libmoon.so", "libmoon.so unloadable", "is a folder", false},
      {"a dangling link", "ln -sf nowhere lib/libmoon.so", "libmoon.so missing", "not on a run path", false},
      {"a text", "yes text | head -c 2000 >lib/libmoon.so", "libmoon.so unloadable", "is a text file", false},
      {"an archive", "gcc -c moon.c && rm lib/libmoon.so && ar rcs lib/libmoon.so moon.o", "libmoon.so unloadable",
       "which loaders do not read", false},
      {"an empty file", ": >lib/libmoon.so", "libmoon.so unloadable", "is an empty file", false},
      {"cut short", "head -c 4000 lib/libmoon.so >cut && mv cut lib/libmoon.so", "libmoon.so unloadable", ": need",
       false},
      {"a circle", "gcc -shared -fPIC moon.c -Wl,--no-as-needed -Llib -ltide -o lib/libmoon.so", "libmoon.so found",
       "run path of libtide.so", true},
      {"two files of one soname",
       "mkdir -p two && gcc -shared -fPIC moon.c -Wl,-soname,libmoon.so -o two/libother.so && "
       "gcc main.c -Llib -ltide -Wl,--no-as-needed two/libother.so -Wl,-rpath-link,lib "
       "-Wl,-rpath,'$ORIGIN/two:$ORIGIN/lib' -o main",
       "libmoon.so found", "run path", true},
      {"a path in the name",
       "gcc -shared -fPIC moon.c -Wl,-soname,lib/libmoon.so -o lib/libmoon.so && gcc -shared -fPIC tide.c "
       "lib/libmoon.so -o lib/libtide.so",
       "lib/libmoon.so by-luck", "a path seen from the folder in which the program is started", true},
      {"an empty entry of the run path",
       "gcc -shared -fPIC tide.c -Llib -lmoon -Wl,-rpath,'/nowhere:' -o lib/libtide.so && cp lib/libmoon.so .",
       "libmoon.so by-luck", "has an empty entry", true},
      {"a relative entry", "gcc -shared -fPIC tide.c -Llib -lmoon -Wl,-rpath,lib -o lib/libtide.so",
       "libmoon.so by-luck", "the run path of libtide.so has lib", true},
      {"a token in the name",
       "gcc -shared -fPIC moon.c -Wl,-soname,'$ORIGIN/../lib/libmoon.so' -o lib/libmoon.so && gcc -shared -fPIC tide.c "
       "lib/libmoon.so -o lib/libtide.so",
       "$ORIGIN/../lib/libmoon.so found", "by its path", true},
      {"no directories of the system's",
       "gcc -shared -fPIC tide.c -Wl,-z,nodefaultlib -Llib -lmoon -o lib/libtide.so && mv lib/libmoon.so .",
       "libmoon.so by-luck", "beside the program", false},
  };
  for (const auto& c : cases) {
    SCOPED_TRACE(c.what);
    const Chain chain("-Wl,-rpath,'$ORIGIN/lib'", "-Wl,-rpath,'$ORIGIN'");
    test::must(c.make, chain.folder.path());
    const auto closure = closure_of(chain.folder / "main");
    ASSERT_TRUE(closure);
    const auto is_moon = [](const ClosureEntry& one) { return one.name.find("moon") != std::string::npos; };
    auto moon = std::find_if(closure->begin(), closure->end(), is_moon);
    ASSERT_NE(moon, closure->end());
    EXPECT_EQ(fmt::format("{} {}", moon->name, to_string(moon->status)), c.last);
    EXPECT_NE(moon->why.find(c.why), std::string::npos) << moon->why;
    EXPECT_EQ(chain.starts(), c.starts);
  }
}

TEST(Closure, TellsOfAnotherFileBesideTheProgram) {
  const Chain chain("-Wl,-rpath,'$ORIGIN/lib'", "-Wl,-rpath,'$ORIGIN'");
  test::must("gcc -shared -fPIC moon.c -DOTHER -g -o libmoon.so && cp lib/libtide.so .", chain.folder.path());
  const auto closure = closure_of(chain.folder / "main");
  ASSERT_TRUE(closure);
  for (const auto& entry : *closure) {
    const bool moon = entry.name == "libmoon.so";
    EXPECT_EQ(entry.passed_over,
              moon ? std::vector{(chain.folder / "libmoon.so").string()} : std::vector<std::string>())
        << entry.name;
  }
}

TEST(Closure, FollowsWhatIsOpenedWhileTheProgramRuns) {
  const Chain chain("-Wl,-rpath,'$ORIGIN/lib'", "-Wl,-rpath,'$ORIGIN'");
  chain.folder.write("star.c", "int star(void) { return 1; }");
  chain.folder.write("plugin.c", "int star(void); int open_me(void) { return star(); }");
  test::must(
      "gcc -shared -fPIC star.c -o lib/libstar.so && gcc -shared -fPIC plugin.c -Llib -lstar -o plugin.so && rm "
      "lib/libstar.so",
      chain.folder.path());
  const auto closure =
      closure_of(chain.folder / "main", {.plugins = {chain.folder / "plugin.so", chain.folder / "gone.so"}});
  ASSERT_TRUE(closure);
  std::vector<std::string> bad;
  for (const auto& entry : *closure) {
    if (is_bad(entry)) bad.push_back(entry.name);
  }
  EXPECT_EQ(bad, (std::vector<std::string>{"gone.so", "libstar.so"}));
}

/// What was followed before is answered again only as long as every path that it rests on is as it was.
TEST(Closure, KeptAnswersHoldWhileNothingChanged) {
  const test::Workplace place;
  const Chain chain("-Wl,-rpath,'$ORIGIN/first:$ORIGIN/lib'", "-Wl,-rpath,'$ORIGIN/../first:$ORIGIN'");
  const auto needs = [&] { return place.fibula("inspect --needs " + (chain.folder / "main").string()); };
  const auto is_kept = [&] {
    std::error_code none;
    return !std::filesystem::is_empty(place / "cache/fibula/kept/closures-2", none) && !none;
  };
  const auto before = needs();
  EXPECT_EQ(before.status, 0);
  ASSERT_TRUE(is_kept());
  EXPECT_EQ(needs().out, before.out);
  const std::pair<const char*, const char*> changes[] = {
      {"mkdir first && cp lib/libmoon.so first", "first/libmoon.so"},
      {"gcc -m32 -shared -fPIC moon.c -o first/libmoon.so", "lib/libmoon.so"},
      {"mv lib/libmoon.so moon.so", "libmoon.so  wrong-architecture"},
      {"mv moon.so lib/libmoon.so && rm first/libmoon.so", "lib/libmoon.so"},
      {"gcc -shared -fPIC tide.c -o lib/libtide.so", "libtide.so"},
      {"gcc main.c -Llib -Wl,--allow-shlib-undefined -ltide -o main", "libtide.so  missing"}};
  for (const auto& [change, said] : changes) {
    test::must(change, chain.folder.path());
    const auto now = needs();
    EXPECT_NE(now.out.find(said), std::string::npos) << change << "\n" << now.out;
  }
  EXPECT_EQ(needs().out.find("libmoon.so"), std::string::npos);
  // What is kept can be damaged: it is followed again.
  test::must("gcc main.c -Llib -ltide -Wl,--allow-shlib-undefined -Wl,-rpath,'$ORIGIN/lib' -o main",
             chain.folder.path());
  const auto whole = needs();
  EXPECT_EQ(whole.status, 0);
  test::must("for kept in *; do head -n 5 $kept >cut; mv cut $kept; done", place / "cache/fibula/kept/closures-2");
  EXPECT_EQ(needs().out, whole.out);
}

/// A system below a folder: its loader's cache, made by the real ldconfig, and its configuration where there is none.
TEST(Closure, SeesASystemBelowAFolder) {
  const Chain chain("", "");
  test::must(
      "mkdir -p root/etc root/opt/harbour root/lib && cp lib/*.so root/opt/harbour && echo /opt/harbour "
      ">root/etc/ld.so.conf && rm -r lib",
      chain.folder.path());
  const auto status_of_tide = [&] {
    const auto closure = closure_of(chain.folder / "main", {.sysroot = chain.folder / "root"});
    const auto tide =
        std::find_if(closure->begin(), closure->end(), [](const auto& one) { return one.name == "libtide.so"; });
    return std::string(to_string(tide->status)) + ": " + tide->why;
  };
  EXPECT_EQ(status_of_tide(), "system: standard directory /opt/harbour");
  test::must("/sbin/ldconfig -r root", chain.folder.path());
  EXPECT_EQ(status_of_tide(), "system: the loader's cache: /opt/harbour");
  test::must(
      "rm root/etc/ld.so.cache && mkdir root/empty && echo /empty >root/etc/ld.so.conf && /sbin/ldconfig -r root && "
      "echo /opt/harbour >root/etc/ld.so.conf",
      chain.folder.path());
  EXPECT_NE(status_of_tide().find("ldconfig was not run since"), std::string::npos) << status_of_tide();
  EXPECT_EQ(closure_of(chain.folder / "main", {.sysroot = chain.folder / "nowhere"}).error().what,
            "is no folder with a system below it");
  // A cache that was cut short is as good as none.
  test::must("head -c 30 root/etc/ld.so.cache >cut && cp cut root/etc/ld.so.cache", chain.folder.path());
  EXPECT_EQ(status_of_tide(), "system: standard directory /opt/harbour");
}

TEST(Closure, TellsTheWrongMachineAndTheMissingVersion) {
  const Chain chain("-Wl,-rpath,'$ORIGIN/lib'", "-Wl,-rpath,'$ORIGIN'");
  test::must("gcc -m32 -shared -fPIC moon.c -o lib/libmoon.so", chain.folder.path());
  EXPECT_EQ(own_needs(chain.folder / "main").back(), "libmoon.so wrong-architecture");
  EXPECT_FALSE(chain.starts());
  chain.folder.write("v1.map", "V1 { moon; };");
  chain.folder.write("v2.map", "V2 { moon; };");
  test::must(
      "gcc -shared -fPIC moon.c -Wl,--version-script=v1.map -o lib/libmoon.so && gcc -shared -fPIC tide.c -Llib -lmoon "
      "-Wl,-rpath,'$ORIGIN' -o lib/libtide.so && "
      "gcc -shared -fPIC moon.c -Wl,--version-script=v2.map -o lib/libmoon.so",
      chain.folder.path());
  EXPECT_EQ(own_needs(chain.folder / "main").back(), "libmoon.so lacks-version");
  EXPECT_FALSE(chain.starts());
}

TEST(Closure, IsShownByInspectAndDecidesItsStatus) {
  const test::Workplace place;
  const Chain good("-Wl,-rpath,'$ORIGIN/lib'", "-Wl,-rpath,'$ORIGIN'"), bad("", "");
  const auto shown = place.fibula("inspect --needs " + (good.folder / "main").string());
  EXPECT_EQ(shown.status, 0);
  EXPECT_NE(shown.out.find("  libtide.so    found  "), std::string::npos) << shown.out;
  EXPECT_NE(shown.out.find("    libmoon.so  found  "), std::string::npos) << shown.out;
  EXPECT_NE(shown.out.find("1 of the system: libc.so.6"), std::string::npos) << shown.out;
  EXPECT_EQ(place.fibula("inspect --needs " + (bad.folder / "main").string()).status, 1);
  // Of many files only what is wrong is told.
  const auto many = place.fibula("inspect --needs " + good.folder.path().string() + " " + bad.folder.path().string());
  EXPECT_EQ(many.status, 1);
  EXPECT_NE(many.out.find("5 of 6 programs"), std::string::npos) << many.out;
  EXPECT_EQ(many.out.find((good.folder / "main").string()), std::string::npos) << many.out;
  const auto archive =
      place.fibula("inspect --needs " + (std::filesystem::path(TEST_KINDS) / "gnu/libtide.a").string());
  EXPECT_EQ(archive.status, 1);
  EXPECT_NE(archive.err.find("needs no run-time files: only programs and shared libraries do"), std::string::npos);
}

#ifndef FIBULA_NATIVE_ONLY
/// Windows: what is imported must be exported, what is forwarded is loaded too, and some names are never looked up.
TEST(Closure, BindsNamesAsWindowsDoes) {
  const test::Folder folder;
  const std::string gcc = "x86_64-w64-mingw32-gcc-posix -nostdlib -shared -Wl,-e,0 ";
  folder.write("moon.c", "int moon(void) { return 1; }");
  folder.write("tide.def", "LIBRARY tide.dll\nEXPORTS\n tide = moon.moon\n other = star.other\n");
  folder.write("user.c", "__declspec(dllimport) int tide(void); int user(void) { return tide(); }");
  test::must(gcc + "moon.c -o moon.dll && printf '' >e.c && " + gcc +
                 "e.c tide.def -o tide.dll -Wl,--out-implib,libtide.a && " + gcc + "user.c libtide.a -o user.dll",
             folder.path());
  EXPECT_EQ(own_needs(folder / "user.dll"), (std::vector<std::string>{"tide.dll found", "moon.dll found"}));
  test::must("rm moon.dll", folder.path());
  EXPECT_EQ(own_needs(folder / "user.dll"), (std::vector<std::string>{"tide.dll found", "moon.dll missing"}));
  folder.write("tide.def", "LIBRARY tide.dll\nEXPORTS\n other = star.other\n");
  test::must(gcc + "e.c tide.def -o tide.dll", folder.path());
  EXPECT_EQ(own_needs(folder / "user.dll"), std::vector<std::string>{"tide.dll lacks-symbol"});
  // Letter case does not count, and a known DLL beside the program is not taken.
  test::must(
      "mv tide.dll Tide.DLL && x86_64-w64-mingw32-gcc-posix -shared user.c libtide.a -o user.dll && cp Tide.DLL "
      "KERNEL32.dll",
      folder.path());
  const auto closure = closure_of(folder / "user.dll");
  ASSERT_TRUE(closure);
  for (const auto& entry : *closure) {
    const bool known = entry.name == "KERNEL32.dll", tide = entry.name == "tide.dll";
    EXPECT_EQ(entry.passed_over.size(), known ? 1U : 0U) << entry.name;
    EXPECT_EQ(to_string(entry.status), tide ? "lacks-symbol" : "system") << entry.name;
    EXPECT_EQ(entry.path, tide ? (folder / "Tide.DLL").string() : "") << entry.name;
  }
}

/// Every way in which macOS' files name others, in an image for two machines.
TEST(Closure, FollowsEveryFormOfMacOsNames) {
  const test::Folder folder;
  const std::filesystem::path system = std::filesystem::path(TEST_KINDS) / "macos";
  std::string script = "mkdir -p app/Frameworks app/plugins\n";
  const auto dylib = [&](const std::string& name, const std::string& place, const std::string& more) {
    for (const std::string arch : {"x86_64", "arm64"})
      script += fmt::format(
          "clang-14 --target={0}-apple-macos11 -c {1}.c -o {1}-{0}.o && ld64.lld-14 -arch {0} -platform_version macos "
          "11.0 11.0 -dylib "
          "-install_name '{2}' {1}-{0}.o -L{3} -lSystem {4} -o {1}-{0}.dylib\n",
          arch, name, place, system.string(), more);
    script += fmt::format("llvm-lipo-14 -create {0}-x86_64.dylib {0}-arm64.dylib -output lib{0}.dylib\n", name);
    folder.write(name + ".c", "int " + name + "(void) { return 0; }");
  };
  dylib("one", "@rpath/libone.dylib", "");
  dylib("two", "@executable_path/Frameworks/libtwo.dylib", "");
  dylib("three", "@loader_path/libthree.dylib", "");
  dylib("four", "/opt/harbour/libfour.dylib", "");
  dylib("five", "@rpath/libfive.dylib", "");
  script += "cp libone.dylib libtwo.dylib libthree.dylib app/Frameworks\n";
  // `five` is a plugin's need: found by the run path that the program gives on.
  script += "cp libfive.dylib app/Frameworks\n";
  for (const std::string arch : {"x86_64", "arm64"})
    script += fmt::format(
        "clang-14 --target={0}-apple-macos11 -c main.c -o main-{0}.o && ld64.lld-14 -arch {0} -platform_version macos "
        "11.0 11.0 main-{0}.o -L{1} -lSystem "
        "-needed_library libone.dylib -needed_library libtwo.dylib -weak_library libfour.dylib -rpath "
        "@executable_path/Frameworks -o app/main-{0} && "
        "ld64.lld-14 -arch {0} -platform_version macos 11.0 11.0 -bundle main-{0}.o -L{1} -lSystem -needed_library "
        "libthree.dylib -needed_library libfive.dylib -o app/plugins/p-{0}\n",
        arch, system.string());
  script +=
      "llvm-lipo-14 -create app/main-x86_64 app/main-arm64 -output app/main && llvm-lipo-14 -create "
      "app/plugins/p-x86_64 app/plugins/p-arm64 -output app/plugins/p.bundle";
  folder.write("main.c", "int main(void) { return 0; }");
  test::must("bash -ec " + test::quoted(script), folder.path());
  const auto closure = closure_of(folder / "app/main", {.plugins = {folder / "app/plugins/p.bundle"}});
  ASSERT_TRUE(closure) << render(closure.error());
  std::map<std::string, std::string> status;
  for (const auto& entry : *closure) status[entry.name] = to_string(entry.status);
  const std::map<std::string, std::string> expected = {{"@rpath/libone.dylib", "found"},
                                                       {"@executable_path/Frameworks/libtwo.dylib", "found"},
                                                       {"/opt/harbour/libfour.dylib", "missing"},
                                                       {"/usr/lib/libSystem.B.dylib", "system"},
                                                       {"p.bundle", "found"},
                                                       {"@loader_path/libthree.dylib", "missing"},
                                                       {"@rpath/libfive.dylib", "found"}};
  EXPECT_EQ(status, expected);
  for (const auto& entry : *closure)
    EXPECT_EQ(is_bad(entry), entry.name == "@loader_path/libthree.dylib") << entry.name;
}

TEST(Closure, OfOtherSystems) {
  using Lines = std::vector<std::string>;
  const std::filesystem::path kinds = TEST_KINDS;
  EXPECT_EQ(own_needs(kinds / "mingw/i686-posix-log.dll"),
            (Lines{"libgcc_s_dw2-1.dll missing", "libstdc++-6.dll missing"}));
  EXPECT_EQ(own_needs(kinds / "msvc/debug-runtime.dll"), (Lines{"msvcp140.dll missing", "VCRUNTIME140D.dll missing"}));
  EXPECT_EQ(own_needs(kinds / "macos/arm64-user.dylib"), (Lines{"@rpath/libtide.dylib missing"}));
  EXPECT_EQ(own_needs(kinds / "cross/musl-program"), Lines{});
  const test::Folder folder;
  folder.write("user.dylib", test::read(kinds / "macos/x86_64-user.dylib"));
  folder.write("libtide.dylib", test::read(kinds / "macos/fat.dylib"));
  EXPECT_EQ(own_needs(folder / "user.dylib"), Lines{"@rpath/libtide.dylib by-luck"});
  folder.write("libtide.dylib", test::read(kinds / "macos/arm64.dylib"));
  EXPECT_EQ(own_needs(folder / "user.dylib"), Lines{"@rpath/libtide.dylib wrong-architecture"});
}
#endif

}  // namespace
