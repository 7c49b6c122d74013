#include "support/support.hpp"

#include <fmt/format.h>
#include <gtest/gtest.h>

using test::Workplace;

namespace {

/// Keys of its own, beside a shelf and a cache of its own.
class Parcels : public testing::Test {
 protected:
  Workplace place;
  std::string config(const std::string& who) const { return "XDG_CONFIG_HOME=" + test::quoted(place / who) + " "; }
  test::Ran run(const std::string& who, const std::string& words) const {
    return place.shell(config(who) + "$FIBULA " + words);
  }
  /// On the shelf of somebody else.
  test::Ran elsewhere(const std::string& who, const std::string& words) const {
    return place.shell(config(who) + "FIBULA_SHELF=" + test::quoted(place / "elsewhere") + " $FIBULA " + words);
  }

  /// A library of one source as it comes, version 1.0, and `app`, which calls it and builds in these lanes.
  void write_source_library(const std::string& name, const std::string& lanes) const {
    const test::fs::path library = "work/" + name + "-1.0";
    place.folder().write(library / "include" / (name + ".h"), fmt::format("int {}(void);\n", name));
    place.folder().write(library / "src" / (name + ".c"),
                         fmt::format("#include \"{0}.h\"\nint {0}(void) {{ return 0; }}\n", name));
    place.folder().write("work/app/main.c",
                         fmt::format("#include <{0}.h>\nint main(void) {{ return {0}(); }}\n", name));
    place.folder().write(
        "work/app/fibula.toml",
        fmt::format("[[output]]\nname = \"p\"\nsources = [\"main.c\"]\n[library.{}]\n{}", name, lanes));
  }

  /// Headers, a static and a shared library, on the shelf as port 1.0.
  void take_port(const std::string& flags = "", const std::string& header = "int deep(int);\n") const {
    place.folder().write("work/port/include/port.h", header);
    place.folder().write("work/port.c", "int deep(int x) { return x; }\n");
    test::must(
        fmt::format("mkdir -p port/lib && gcc {0} -c port.c && ar rcsD port/lib/libport.a port.o && gcc {0} -fPIC "
                    "-shared -Wl,-soname,libport.so.1 port.c -o port/lib/libport.so.1 && ln -sf libport.so.1 "
                    "port/lib/libport.so",
                    flags),
        place / "work");
    const auto taken = place.fibula("take port --version 1.0 --replace");
    ASSERT_EQ(taken.status, 0) << taken.all();
  }
};

TEST_F(Parcels, ServeElsewhereAndAreTheSameEveryTime) {
  take_port();
  ASSERT_EQ(run("home", "parcel port --to one.tar.zst").status, 0);
  ASSERT_EQ(run("home", "take port --version 1.0 --replace").status, 0);
  ASSERT_EQ(run("home", "parcel port --to two.tar.zst --untried").status, 0);
  EXPECT_EQ(test::read(place / "work/one.tar.zst"), test::read(place / "work/two.tar.zst"));
  test::must("mkdir open && tar --zstd -xf one.tar.zst -C open --strip-components=1", place / "work");
  const auto valid =
      test::shell(fmt::format("'{}' '{}/tests/validate_schema.py' '{}/tests/schemas/bom-1.5.schema.json' "
                              "open/materials.cdx.json",
                              TEST_PYTHON, FIBULA_SOURCE, FIBULA_SOURCE),
                  place / "work");
  EXPECT_EQ(valid.status, 0) << valid.all();
  EXPECT_NE(test::read(place / "work/open/materials.spdx.json").find("\"versionInfo\": \"1.0\""), std::string::npos);

  const auto taken = elsewhere("other", "take one.tar.zst");
  ASSERT_EQ(taken.status, 0) << taken.all();
  EXPECT_NE(taken.out.find("not signed: nobody vouches for it"), std::string::npos) << taken.all();
  place.folder().write("work/app/src/main.c", "#include <port.h>\nint main(void) { return deep(0); }\n");
  for (const char* words : {"begin app", "-C app attach port", "-C app build --run"}) {
    const auto ran = elsewhere("other", words);
    EXPECT_EQ(ran.status, 0) << words << "\n" << ran.all();
  }
}

TEST_F(Parcels, HoldTheVariantsThatAreNamed) {
  take_port();
  ASSERT_EQ(run("home", "parcel port --variant x86_64-elf-static --to one.tar.zst").status, 0);
  const auto list = test::must("tar --zstd -tf one.tar.zst", place / "work");
  EXPECT_NE(list.find("libport.a"), std::string::npos) << list;
  EXPECT_EQ(list.find("libport.so"), std::string::npos) << list;
  EXPECT_EQ(elsewhere("other", "take one.tar.zst").status, 0);
}

/// What was done to a parcel on its way, and what is said of it. Nothing comes onto the shelf.
TEST_F(Parcels, AreLookedAtByteByByte) {
  take_port();
  ASSERT_EQ(run("home", "shelf keys make office").status, 0);
  ASSERT_EQ(run("home", "parcel port --sign office --untried --to good.tar.zst").status, 0);
  take_port("-DOTHER", "int deep(int);\nint deeper;\n");
  ASSERT_EQ(run("home", "parcel port --sign office --untried --to other.tar.zst").status, 0);
  struct Row {
    const char* deed;  ///< in the unpacked folder, with the other parcel in ../o
    const char* said;
  };
  const Row rows[] = {
      {"printf x >> files/include/port.h", "port.h) is not as it was when the parcel was made"},
      {"printf '\\n' >> card.toml", "card.toml) is not as it was"},
      {"printf x > files/extra.h", "extra.h) is in the parcel and nothing there names it"},
      {"rm files/lib/libport.a", "libport.a) is named in the parcel and not in it"},
      {"printf ' ' >> materials.cdx.json", "materials.cdx.json) is not as it was"},
      {"rm materials.spdx.json", "materials.spdx.json) is named in the parcel and not in it"},
      {"rm contents.sha256", "contents.sha256) is named in the parcel and not in it"},
      {"sed -i 's/form = 1/form = 2/' parcel.toml", "is a parcel of form 2, and this Fibula reads form 1"},
      {"sed -i 's/form = 1/form = one/' parcel.toml", "is no parcel's label"},
      {"sed -i 's/name = \"port\"/name = \"..\"/' parcel.toml", "is no parcel's label"},
      {"cp ../o/parcel.signature .", "is no signature of this parcel"},
      {"sed -i 's/^ed25519 ..../ed25519 0000/' parcel.signature", "is no signature of this parcel"},
      {"sed -i 's/^key ..../key 0000/' parcel.signature", "is no signature of this parcel"},
      {"printf junk > parcel.signature", "is no signature of this parcel"},
      {"ln -sf /etc/passwd files/include/port.h", "port.h"},
  };
  for (const auto& row : rows) {
    SCOPED_TRACE(row.deed);
    test::must(fmt::format("rm -rf p o && mkdir p o && tar --zstd -xf good.tar.zst -C p --strip-components=1 && "
                           "tar --zstd -xf other.tar.zst -C o --strip-components=1 && cd p && {} && cd .. && "
                           "mkdir -p t && rm -rf t/* && mv p t/port-1.0 && tar --zstd -C t -cf bad.tar.zst port-1.0",
                           row.deed),
               place / "work");
    auto said = elsewhere("home", "take bad.tar.zst");
    // What stands around the file's name is the report's.
    const auto text = said.all();
    EXPECT_NE(said.status, 0) << text;
    std::string plain = text;
    for (size_t at = plain.find("): "); at != std::string::npos; at = plain.find("): ")) plain.replace(at, 3, ") ");
    EXPECT_NE(plain.find(row.said), std::string::npos) << text;
    EXPECT_NE(text.find("remedy:"), std::string::npos) << text;
    EXPECT_FALSE(std::filesystem::exists(place / "elsewhere/port")) << text;
  }
  test::must("head -c 900 good.tar.zst > cut.tar.zst", place / "work");
  EXPECT_EQ(elsewhere("home", "take cut.tar.zst").status, 3);
}

TEST_F(Parcels, AreVouchedForByKeys) {
  take_port();
  ASSERT_EQ(run("home", "shelf keys make office").status, 0);
  ASSERT_EQ(run("home", "parcel port --sign office --untried --to one.tar.zst").status, 0);
  ASSERT_EQ(run("home", "parcel port --untried --to plain.tar.zst").status, 0);
  const std::string key = test::quoted(place / "home/fibula/keys/office.key");
  struct Row {
    std::string words;
    int status;
    const char* said;
  };
  const Row rows[] = {
      {"take one.tar.zst --signed", 1, "is signed with a key that is not trusted here"},
      {"take plain.tar.zst --signed", 1, "is not signed"},
      {"take port --version 1.0 --signed", 1, "is no parcel"},
      {"take one.tar.zst --dry-run", 0, "by whom is not known"},
      {"shelf keys trust one.tar.zst", 3, "is no key"},
      {"shelf keys trust " + key, 0, "is trusted"},
      {"shelf keys trust " + key, 0, "is trusted"},
      {"take one.tar.zst --signed", 0, "signed with the key office"},
      {"parcel port --sign office --to x.tar.zst --untried", 1, "its secret half is not here"},
      {"shelf keys revoke nobody", 3, "there is no key nobody"},
      {"shelf keys revoke office", 0, "is revoked"},
      {"take one.tar.zst --replace", 1, "which is revoked"},
      {"shelf keys trust " + key, 1, "this key is revoked here"},
      {"shelf keys make office", 1, "there is a key office already"},
      {"shelf keys make ../office", 1, "cannot be a key's name"},
  };
  for (const auto& row : rows) {
    SCOPED_TRACE(row.words);
    const auto ran = elsewhere("other", row.words);
    EXPECT_EQ(ran.status, row.status) << ran.all();
    EXPECT_NE(ran.all().find(row.said), std::string::npos) << ran.all();
  }
  EXPECT_EQ(test::must("stat -c %a home/fibula/keys", place.folder().path()), "700\n");
}

/// What whoever gets it would stumble over is told, and what would not work there is not handed on.
TEST_F(Parcels, AreCheckedBeforeTheyAreMade) {
  struct Row {
    const char* flags;
    const char* header;
    int status;
    const char* said;
  };
  const Row rows[] = {
      {"-g", "int deep(int);\n", 0, "of the machine that it was built on"},
      {"-Wl,-rpath,/home/somebody/lib", "int deep(int);\n", 1, "/home/somebody/lib, a folder of the machine"},
      {"", "size_t deep(int);\n", 1, "compile fails"},
  };
  for (const auto& row : rows) {
    SCOPED_TRACE(fmt::format("{} {}", row.flags, row.header));
    take_port(row.flags, row.header);
    const auto ran = run("home", "parcel port --to one.tar.zst --replace");
    EXPECT_EQ(ran.status, row.status) << ran.all();
    EXPECT_NE(ran.all().find(row.said), std::string::npos) << ran.all();
  }
  // One that is meant to stand behind another is told, and goes out.
  place.folder().write("work/port/include/port_log.h", "int port_log(port_level level);\n");
  take_port("", "int deep(int);\ntypedef int port_level;\n");
  const auto ordered = run("home", "parcel port --to one.tar.zst --replace");
  EXPECT_EQ(ordered.status, 0) << ordered.all();
  EXPECT_NE(ordered.all().find("does so: port_log.h behind port.h"), std::string::npos) << ordered.all();
  test::must("rm port/include/port_log.h", place / "work");
  take_port("", "size_t deep(int);\n");
  test::must("rm -f one.tar.zst", place / "work");
  ASSERT_EQ(run("home", "parcel port --to one.tar.zst").status, 1);
  EXPECT_FALSE(std::filesystem::exists(place / "work/one.tar.zst"));
  EXPECT_EQ(run("home", "parcel port --to one.tar.zst --anyway").status, 0);
  const auto again = run("home", "parcel port --to one.tar.zst --anyway");
  EXPECT_EQ(again.status, 1);
  EXPECT_NE(again.all().find("is there already"), std::string::npos) << again.all();
  // A file that changed on the shelf does not go out as if it had not.
  test::must("f=$(find shelf/port -name libport.a) && chmod u+w $f && printf x >> $f", place.folder().path());
  const auto damaged = run("home", "parcel port --to two.tar.zst --untried");
  EXPECT_EQ(damaged.status, 1) << damaged.all();
  EXPECT_NE(damaged.all().find("is not as it was taken"), std::string::npos) << damaged.all();
  EXPECT_FALSE(std::filesystem::exists(place / "work/two.tar.zst"));
  EXPECT_EQ(test::must("ls -A work | grep -c 'two' || true", place.folder().path()), "0\n");
}

/// Headers that say otherwise than the debugging records of the binaries.
TEST_F(Parcels, AreNotMadeOfHeadersThatLie) {
  place.folder().write("work/port/include/port.h",
                       "struct port { int depth; int width; };\nint deep(const struct port *);\n");
  place.folder().write("work/port.c",
                       "struct port { int depth; long more; int width; };\n"
                       "int deep(const struct port *p) { return p->width; }\n");
  test::must("mkdir -p port/lib && gcc -g -c port.c && ar rcsD port/lib/libport.a port.o", place / "work");
  ASSERT_EQ(place.fibula("take port --version 1.0").status, 0);
  const auto ran = run("home", "parcel port");
  EXPECT_EQ(ran.status, 1) << ran.all();
  EXPECT_NE(ran.out.find("port is 24 bytes in the file, by its debugging records, and 8 bytes in the headers"),
            std::string::npos)
      << ran.all();
}

TEST_F(Parcels, HoldWhatAProjectMakes) {
  place.folder().write("work/app/gauge/gauge.c", "#include <gauge.h>\nint gauge(void) { return 7; }\n");
  place.folder().write("work/app/gauge/include/gauge.h", "int gauge(void);\n");
  place.folder().write("work/app/fibula.toml",
                       "[[output]]\nname = \"gauge\"\nkind = \"static-library\"\nsources = [\"gauge/*.c\"]\n"
                       "headers = [\"gauge/include\"]\n[lane.desk]\ncompiler = \"gcc\"\nconfiguration = \"release\"\n");
  const auto early = run("home", "-C app parcel gauge 1.0");
  EXPECT_EQ(early.status, 1) << early.all();
  EXPECT_NE(early.all().find("build it first"), std::string::npos) << early.all();
  ASSERT_EQ(run("home", "-C app build").status, 0);
  EXPECT_EQ(run("home", "-C app parcel gauge").status, 2);
  const auto made = run("home", "-C app parcel gauge 1.0 --to .");
  ASSERT_EQ(made.status, 0) << made.all();
  const auto taken = elsewhere("other", "take gauge-1.0.tar.zst");
  EXPECT_EQ(taken.status, 0) << taken.all();
}

/// Whoever takes it compiles nothing of it, and gets none of its sources.
TEST_F(Parcels, HoldWhatAProjectBuiltFromSource) {
  write_source_library("reef",
                       "[lane.fast]\ncompiler = \"gcc\"\n[lane.slow]\ncompiler = \"gcc\"\nconfiguration = "
                       "\"debug\"\n");
  place.folder().write("work/reef-1.0/LICENSE", "Permission is hereby granted, free of charge\n");
  ASSERT_EQ(run("home", "take reef-1.0").status, 0);
  const auto says = [&](const std::string& words, const std::string& text, int status) {
    const auto ran = run("home", words);
    EXPECT_EQ(ran.status, status) << words << "\n" << ran.all();
    EXPECT_NE(ran.all().find(text), std::string::npos) << ran.all();
  };
  says("parcel reef", "call this in a project that uses it", 2);
  says("-C app parcel reef", "has not built reef as its sources and settings are now\n  remedy: build it first", 1);
  says("-C app build --lane fast", "built", 0);
  says("-C app parcel reef --to one.tar.zst", "not built as its sources and settings are now, and left out: slow", 0);
  says("-C app build", "built", 0);
  says("-C app parcel reef --to two.tar.zst", "headers, link, start", 0);
  says("-C app parcel reef --to three.tar.zst --untried", "three.tar.zst", 0);
  EXPECT_EQ(test::read(place / "work/two.tar.zst"), test::read(place / "work/three.tar.zst"));
  const auto listed = test::shell("tar --zstd -tf two.tar.zst | sort", place / "work").out;
  EXPECT_EQ(listed.find("reef.c"), std::string::npos) << listed;
  EXPECT_NE(listed.find("files/LICENSE"), std::string::npos) << listed;
  EXPECT_NE(listed.find("files/builds/x86_64-elf-static-debug/lib/libreef.a"), std::string::npos) << listed;
  ASSERT_EQ(elsewhere("other", "take two.tar.zst").status, 0);
  place.folder().write("work/app2/main.c", "#include <reef.h>\nint main(void) { return reef(); }\n");
  for (const char* words : {"begin app2", "-C app2 attach reef", "-C app2 build --run"}) {
    const auto ran = elsewhere("other", words);
    EXPECT_EQ(ran.status, 0) << words << "\n" << ran.all();
    EXPECT_EQ(ran.all().find("compile reef"), std::string::npos) << ran.all();
  }
}

/// What steps of its own installed is what users need of it.
TEST_F(Parcels, HoldWhatOwnStepsInstalled) {
  write_source_library("horn", "[lane.desk]\ncompiler = \"gcc\"\n");
  place.folder().write("work/horn-1.0/make.sh",
                       "mkdir -p $PREFIX/lib $PREFIX/include && cp include/horn.h $PREFIX/include && $CC -Iinclude -c "
                       "src/horn.c && $AR rcs "
                       "$PREFIX/lib/libhorn.a horn.o\n");
  ASSERT_EQ(run("home", "take horn-1.0").status, 0);
  test::must("cd shelf/horn/1.0 && chmod u+w card.toml && sed -i 's/^compile = .*/steps = [\"sh make.sh\"]/' card.toml",
             place.folder().path());
  const auto built = run("home", "-C app build --allow-steps --unsandboxed");
  ASSERT_EQ(built.status, 0) << built.all();
  const auto made = run("home", "-C app parcel horn --to horn.tar.zst");
  ASSERT_EQ(made.status, 0) << made.all();
  ASSERT_EQ(elsewhere("other", "take horn.tar.zst").status, 0);
  const auto shown = elsewhere("other", "shelf show horn");
  EXPECT_NE(shown.out.find("public = [\"builds/x86_64-elf-static-release/include/horn.h\"]"), std::string::npos)
      << shown.all();
  EXPECT_EQ(shown.out.find("file = \"lib/libhorn.a\""), std::string::npos) << shown.all();
  for (const char* words : {"-C app attach horn", "-C app build --run"}) {
    const auto ran = elsewhere("other", words);
    EXPECT_EQ(ran.status, 0) << words << "\n" << ran.all();
    EXPECT_EQ(ran.all().find("steps horn"), std::string::npos) << ran.all();
  }
}

}  // namespace
