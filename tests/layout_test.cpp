/// How programs are laid out, and response files of every family, by what compilers make of them.
#include "support/support.hpp"

#include <fmt/format.h>
#include <gtest/gtest.h>

using test::Workplace;

namespace {

/// A program of one source, in one lane.
struct Program : Workplace {
  Program(const std::string& code, const std::string& output_keys, const std::string& lane) {
    folder().write("work/main.c", code);
    folder().write("work/fibula.toml", "[[output]]\nname = \"log\"\nkind = \"program\"\nsources = [\"main.c\"]\n" +
                                           output_keys + "\n[lane.desk]\n" + lane);
  }
  std::string after_build(const std::string& command) const {
    const auto built = fibula("build");
    EXPECT_EQ(built.status, 0) << built.all();
    return test::must(command, *this / "work/.fibula/desk/bin");
  }
};

constexpr const char* gcc = "compiler = \"gcc\"\n";

}  // namespace

TEST(Layout, ALinkerScriptDefinesWhatTheProgramNeeds) {
  const Program program(
      "extern char harbour_begin[], harbour_end[];\n__attribute__((section(\".harbour\"))) int level = 3;\n"
      "int main(void) { return harbour_end - harbour_begin != sizeof level; }\n",
      "linker-script = \"harbour.ld\"\n", gcc);
  const auto missing = program.fibula("fit");
  EXPECT_EQ(missing.status, 1);
  EXPECT_NE(missing.out.find("misfit (placement)"), std::string::npos) << missing.out;
  program.folder().write(
      "work/harbour.ld",
      "SECTIONS { .harbour : { harbour_begin = .; KEEP(*(.harbour)) PROVIDE(harbour_end = .); } /* end = 1 */ }\n"
      "INSERT AFTER .data;\n");
  program.after_build("./log");
  EXPECT_EQ(program.fibula("fit").status, 0);
  // The script is an input of the link: when it changes, the program is linked again.
  program.folder().write(
      "work/harbour.ld",
      "SECTIONS { .harbour : { harbour_begin = .; *(.harbour) harbour_end = . + 4; } } INSERT AFTER .data;\n");
  EXPECT_EQ(program.fibula("build").status, 0);
  EXPECT_NE(test::shell("./log", program / "work/.fibula/desk/bin").status, 0);
}

TEST(Layout, EntryAndSectionsAreWhereTheyAreAskedFor) {
  const Program program(
      "__attribute__((section(\".fast\"))) int level = 3;\nint main(void) { return level; }\nvoid begin(void) { "
      "main(); }\n",
      "entry = \"main\"\n[output.sections]\n\".fast\" = \"0x20000000\"\n",
      fmt::format("{}flags = [\"-no-pie\"]\nentry = \"begin\"\n", gcc));
  const auto told = program.after_build("readelf -hSW log; nm log");
  const auto begin =
      test::must("nm log | grep ' T begin' | cut -d' ' -f1 | sed 's/^0*//'", program / "work/.fibula/desk/bin");
  EXPECT_NE(told.find("Entry point address:               0x" + begin.substr(0, begin.find('\n'))), std::string::npos)
      << told;
  EXPECT_NE(told.find("0000000020000000"), std::string::npos) << told;
}

#ifndef FIBULA_NATIVE_ONLY
TEST(Layout, WindowsProgramsHaveTheirSubsystem) {
  const Program gnu("int main(void) { return 0; }\n", "subsystem = \"windows\"\n",
                    "compiler = \"x86_64-w64-mingw32-gcc-posix\"\n");
  EXPECT_NE(gnu.after_build("objdump -p log.exe").find("(Windows GUI)"), std::string::npos);
  const Program msvc("int begin(void) { return 0; }\n", "subsystem = \"windows\"\nentry = \"begin\"\n",
                     "compiler = \"clang-cl-14\"\nflags = [\"--target=x86_64-pc-windows-msvc\", \"-fuse-ld=lld\", "
                     "\"/GS-\", \"/Zl\", \"/link\", \"/nodefaultlib\"]\n");
  EXPECT_NE(msvc.after_build("objdump -p log.exe").find("(Windows GUI)"), std::string::npos);
  const Program with_script("int begin(void) { return 0; }\n", "linker-script = \"harbour.ld\"\n",
                            "compiler = \"clang-cl-14\"\nflags = [\"--target=x86_64-pc-windows-msvc\", "
                            "\"-fuse-ld=lld\", \"/link\", \"/nodefaultlib\", \"/entry:begin\"]\n");
  EXPECT_NE(with_script.fibula("fit").out.find("has no such thing"), std::string::npos);
}

/// Response files alone are enough to build by hand, in a folder whose name holds what shells and compilers trip over.
TEST(Layout, ResponseFilesServeEveryFamily) {
  struct Row {
    const char* compiler;
    const char* flags;
    const char* make;   ///< the library, from tide.c
    const char* build;  ///< by hand
  };
  const Row rows[] = {
      {"g++", "", "gcc -c tide.c && ar rcs libtide.a tide.o",
       "gcc main.c -o p @.fibula/desk/compile.rsp @.fibula/desk/link.rsp && ./p"},
      {"clang++", "", "gcc -c tide.c && ar rcs libtide.a tide.o",
       "clang main.c -o p @.fibula/desk/compile.rsp @.fibula/desk/link.rsp && ./p"},
      {"x86_64-w64-mingw32-gcc-posix", "",
       "x86_64-w64-mingw32-gcc-posix -c tide.c && x86_64-w64-mingw32-ar rcs libtide.a tide.o",
       "x86_64-w64-mingw32-gcc-posix main.c -o p.exe @.fibula/desk/compile.rsp @.fibula/desk/link.rsp"},
      {"clang-cl-14",
       "flags = [\"--target=x86_64-pc-windows-msvc\", \"-fuse-ld=lld\", \"/GS-\", \"/Zl\", \"/link\", "
       "\"/nodefaultlib\", \"/entry:main\", \"/subsystem:console\"]\n",
       "clang-cl-14 --target=x86_64-pc-windows-msvc /GS- /Zl /c tide.c /Fotide.obj && llvm-lib-14 /out:tide.lib "
       "tide.obj",
       "clang-cl-14 main.c /Fep.exe @.fibula/desk/compile.rsp @.fibula/desk/link.rsp"},
  };
  for (const auto& row : rows) {
    SCOPED_TRACE(row.compiler);
    const Workplace place;
    const test::fs::path name = "a b'c$d#e&ü(f)";
    place.folder().write("tide-1.0/tide.h", "int tide(void);\n");
    place.folder().write("tide-1.0/tide.c", "int tide(void) { return 0; }\n");
    test::must(std::string(row.make) + " && rm tide.c tide.o*", place / "tide-1.0");
    test::fs::create_directories(place / name);
    test::fs::rename(place / "tide-1.0", place / name / "tide 1.0");
    place.folder().write(name / "main.c",
                         "#include <tide.h>\nint main(void) { return tide() + LEVEL - sizeof(MARK \"\") + 4; }\n");
    place.folder().write(
        name / "fibula.toml",
        fmt::format(
            "[[output]]\nname = \"log\"\nsources = [\"main.c\"]\n[library.tide]\n[lane.desk]\ncompiler = \"{}\"\n"
            "definitions = [\"LEVEL=1\", \"MARK=\\\"a b$\\\"\"]\n{}",
            row.compiler, row.flags));
    ASSERT_EQ(place.fibula("take --here 'tide 1.0' --name tide --version 1", place / name).status, 0);
    const auto fit = place.fibula("fit", place / name);
    ASSERT_EQ(fit.status, 0) << fit.all();
    const auto built = test::shell(row.build, place / name);
    EXPECT_EQ(built.status, 0) << built.all() << test::read(place / name / ".fibula/desk/compile.rsp");
  }
}
#endif
