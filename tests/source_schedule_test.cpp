/// How libraries that come as source are built: side by side with the project's own code, and by their own steps.
#include "support/situations.hpp"

#include <fmt/format.h>
#include <gtest/gtest.h>

using test::check;
using test::desk;
using test::Files;
using test::one_program;
using test::with;

namespace {

/// Two libraries of which the upper needs the lower, and a program that calls the upper.
Files quarry(const std::string& lower = "int flint(void) { return 2; }\n") {
  return {{"flint-1/include/flint.h", "#define FLINT_VERSION \"1.0\"\nint flint(void);\n"},
          {"flint-1/src/flint.c", lower},
          {"slate-1/include/slate.h", "#define SLATE_VERSION \"1.0\"\n#include <flint.h>\nint slate(void);\n"},
          {"slate-1/src/slate.c", "#include <slate.h>\nint slate(void) { return flint() + 1; }\n"},
          {"main.c", "#include <slate.h>\nint main(void) { return slate(); }\n"},
          {"alone.c", "int main(void) { return 0; }\n"}};
}

const std::string take_quarry = "$FIBULA take flint-1 >/dev/null && $FIBULA take slate-1 >/dev/null && ";
const std::string with_slate = one_program + "[library.slate]\n";
/// The commands of a build in the order in which they ended, in one line.
const std::string in_order = " 2>&1 | sed -n 's/^[[][0-9/]*[]] //p' | tr '\\n' ';'";

TEST(SourceSchedule, OwnCodeIsCompiledWhileLibrariesAreBuilt) {
  check({{"nothing waits that need not",
          with(quarry(), {{"fibula.toml", with_slate + desk}}),
          take_quarry + "$FIBULA build -j 1" + in_order,
          0,
          {"compile flint: src/flint.c;archive flint;compile main.c;compile slate: src/slate.c;archive slate;link p;"}},
         {"and nothing is made twice",
          with(quarry(), {{"fibula.toml", with_slate + desk}}),
          take_quarry + "$FIBULA build >/dev/null && touch main.c && $FIBULA build",
          0,
          {"nothing to do"}},
         {"definitions that its users need",
          with(quarry(), {{"fibula.toml", with_slate + "definitions = [\"CALM=3\"]\n" + desk},
                          {"main.c", "#include <slate.h>\nint main(void) { return slate() + CALM; }\n"}}),
          take_quarry + "$FIBULA build --run",
          6,
          {}}});
}

TEST(SourceSchedule, ALibraryThatFailsStopsWhoUsesIt) {
  const std::string broken = "#ifdef STORM\n#error a storm\n#endif\nint flint(void) { return 2; }\n";
  const std::string storm = "[lane.storm]\ncompiler = \"gcc\"\ndefinitions = [\"STORM\"]\n";
  const std::string apart = "[[output]]\nname = \"q\"\nsources = [\"alone.c\"]\nuses = []\n[library.slate]\n";
  check({{"another lane is built",
          with(quarry(broken), {{"fibula.toml", with_slate + storm + desk}}),
          take_quarry + "$FIBULA build -j 1; test -x .fibula/desk/bin/p && echo there",
          0,
          {"a storm", "flint, which it requires, is not built", "lane storm", "there"}},
         {"what does without it is built",
          with(quarry(broken), {{"fibula.toml", one_program + apart + storm}}),
          take_quarry + "$FIBULA build -j 1; test -x .fibula/storm/bin/q && echo there",
          0,
          {"a storm", "built in part, not p", "there"}},
         {"own code that fails stops all, and says nothing of libraries",
          with(quarry(), {{"fibula.toml", with_slate + desk}, {"main.c", "#error mine\n"}}),
          take_quarry + "$FIBULA build -j 1",
          1,
          {"compile main.c failed", "not built"},
          {"slate (source)", "comes as source", "is not built"}},
         {"and the next build ends it",
          with(quarry(), {{"fibula.toml", with_slate + desk}, {"wrong.c", "#error mine\n"}}),
          take_quarry + "cp main.c right.c; cp wrong.c main.c; $FIBULA build -j 1 >/dev/null; cp right.c main.c; "
                        "$FIBULA build --run",
          3,
          {}}});
}

/// A tree with a configure script and a makefile, as short as they can be.
Files beacon(const std::string& configure, const std::string& install =
                                               "mkdir -p $(DESTDIR)$(prefix)/lib $(prefix)/include\n"
                                               "\tcp libbeacon.a $(prefix)/lib\n\tcp beacon.h $(prefix)/include\n") {
  return {{"beacon-1/beacon.h", "#define BEACON_VERSION \"1.0\"\nint beacon(void);\n"},
          {"beacon-1/beacon.c", "#include \"config.h\"\n#include \"beacon.h\"\nint beacon(void) { return PERIOD; }\n"},
          {"beacon-1/config.h.in", "#undef PERIOD\n"},
          {"beacon-1/configure",
           "#!/bin/sh\nfor a; do case $a in --prefix=*) prefix=${a#*=};; esac; done\n" + configure +
               "\necho '#define PERIOD 6' > config.h\nsed \"s|@prefix@|$prefix|\" Makefile.in > Makefile\n"},
          {"beacon-1/Makefile.in",
           "prefix = @prefix@\nlibbeacon.a: beacon.c\n\t$(CC) $(CFLAGS) -c beacon.c\n\t$(AR) rcs $@ beacon.o\n"
           "install: libbeacon.a\n\t" +
               install},
          {"main.c", "#include <beacon.h>\nint main(void) { return beacon(); }\n"},
          {"fibula.toml", one_program + "[library.beacon]\n" + desk}};
}

const std::string take_beacon =
    "export XDG_STATE_HOME=$PWD/state && chmod +x beacon-1/configure && $FIBULA take beacon-1 >/dev/null && ";

/// Machines that let nobody make a room of its own are told so; the steps run there all the same when asked to.
bool sandbox_works() {
  return test::shell("bwrap --unshare-all --ro-bind / / true").status == 0;
}

/// Where no sandbox can be made, what is not about it is tried without one.
std::vector<test::Situation> for_this_machine(std::vector<test::Situation> situations) {
  if (sandbox_works()) return situations;
  std::erase_if(situations,
                [](const auto& s) { return std::string_view(s.name).find("sandbox") != std::string_view::npos; });
  for (auto& s : situations) {
    for (size_t at = s.command.find("--allow-steps"); at != std::string::npos;
         at = s.command.find("--allow-steps", at + 1))
      s.command.replace(at, 13, "--allow-steps --unsandboxed");
  }
  return situations;
}

TEST(SourceSchedule, OwnStepsRunAfterConsentInASandbox) {
  check(for_this_machine({
      {"without consent",
       beacon(""),
       take_beacon + "$FIBULA build",
       1,
       {"its own build steps run only when you agree: ./configure --prefix=\"$PREFIX\"", "fibula build --allow-steps"}},
      {"with it, remembered for the same steps and tree",
       beacon(""),
       take_beacon + "$FIBULA build --allow-steps >/dev/null && $FIBULA build --run; s=$?; rm -rf "
                     "\"$FIBULA_SHELF/.built\" .fibula; "
                     "$FIBULA build --run && exit 99; [ $s = 6 ] && [ $? = 0 ]",
       0,
       {"steps beacon"}},
      {"in every lane of this machine",
       with(beacon(""), {{"fibula.toml", one_program + "[library.beacon]\n" + desk +
                                             "[lane.arm]\ncompiler = \"gcc\"\nconfiguration = \"debug\"\n"}}),
       take_beacon + "$FIBULA build --allow-steps && $FIBULA build",
       0,
       {"nothing to do"}},
      {"a step that fails",
       beacon("echo no boats today >&2; exit 3"),
       take_beacon + "$FIBULA build --allow-steps",
       1,
       {"step 1 of 3: ./configure", "no boats today", "its own build steps failed in lane desk", "steps.log"}},
      {"a script that gives up, and says how to do without",
       beacon("echo \"configure: error: Install fog or disable the horn using '--disable-horn'.\" >&2; exit 1"),
       take_beacon + "$FIBULA build --allow-steps",
       1,
       {"its configure script says --disable-horn would do without what it misses: add that to its line of steps in"}},
      {"what is no part of the library is left out where the script can do so",
       beacon("# Generated by GNU Autoconf\n#  --enable-doxygen  documents [default=yes]\n#  --disable-docbook\n#  "
              "--enable-examples  with "
              "examples\n#  "
              "--disable-tests\nfor a; do "
              "case $a in --disable-doxygen) no=1;; esac; done; [ \"$no\" ] || exit 4"),
       take_beacon + "grep '^steps\\|configure --prefix' \"$FIBULA_SHELF\"/beacon/*/card.toml; $FIBULA build "
                     "--allow-steps >/dev/null; $FIBULA build --run",
       6,
       {"$LINKAGE_OPTIONS --disable-doxygen --disable-tests"},
       {"--disable-doc ", "--disable-examples"}},
      {"sandbox: a step that reads the home and writes elsewhere",
       beacon("[ -e \"$HOME/main.c\" ] && exit 4; ls /root /home 2>/dev/null | grep . && exit 5; touch /usr/here "
              "2>/dev/null && exit 6; :"),
       take_beacon + "HOME=$PWD $FIBULA build --allow-steps >/dev/null; $FIBULA build --run",
       6,
       {}},
      {"sandbox: a step that needs the network",
       beacon("(exec 3<>/dev/tcp/127.0.0.1/80) 2>/dev/null && exit 7; [ \"$(ls /sys/class/net 2>/dev/null | grep -v "
              "lo)\" = '' ] || exit 8"),
       take_beacon + "$FIBULA build --allow-steps >/dev/null; $FIBULA build --run",
       6,
       {}},
      {"a step that asks a question",
       beacon("read answer || { echo nobody answers; exit 9; }"),
       take_beacon + "$FIBULA build --allow-steps",
       1,
       {"nobody answers"}},
      {"a list of machines that is older than this one",
       with(beacon("sh ./config.sub \"$HOST\" || [ -n \"$ac_cv_host\" ] || exit 5"),
            {{"beacon-1/config.sub", "echo \"machine $1 not recognized\"; exit 1\n"}}),
       take_beacon + "$FIBULA build --allow-steps >/dev/null; $FIBULA build --run",
       6,
       {}},
      {"one that installs no library",
       beacon("", ":\n"),
       take_beacon + "$FIBULA build --allow-steps",
       1,
       {"no static library was made", "desk"}},
      {"links with whole paths stay whole files",
       beacon("",
              "mkdir -p $(prefix)/lib $(prefix)/include\n\tcp libbeacon.a $(prefix)/lib/real.a\n\tln -s "
              "$(prefix)/lib/real.a "
              "$(prefix)/lib/libbeacon.a\n\tcp beacon.h $(prefix)/include\n"),
       take_beacon + "$FIBULA build --allow-steps >/dev/null; $FIBULA build --run",
       6,
       {}},
      {"nothing half-made is left by a failure",
       beacon("[ ! -e half ] || exit 3; touch half; exit 2"),
       take_beacon + "$FIBULA build --allow-steps >/dev/null; $FIBULA build --allow-steps",
       1,
       {"step 1 of 3"}},
  }));
}

}  // namespace
