// Libraries in lanes: what the rules say, and what linkers, loaders and emulators make of it. A verdict of `ok` must
// link and start; a misfit must be refused, not start, or go wrong, or be one that tools are known to let through.
#include "support/support.hpp"

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <algorithm>
#include <cstdlib>
#include <sstream>

namespace {

namespace fs = std::filesystem;

enum class Reality {
  works,     ///< fibula builds the program, and it ends with 0
  links,     ///< fibula builds the program; nothing here can start it
  refused,   ///< the lane's linker refuses it
  wrong,     ///< it links, and the program does not start, crashes, or computes something else
  accepted,  ///< it links, and nothing here can show what is wrong with it
};

struct Situation {
  std::string name;
  std::string compiler;  ///< of the lane
  std::vector<std::string> flags;
  std::string make;  ///< shell lines that make the library in `lib/`, beside its source
  std::string verdict;
  std::string rule;                   ///< that speaks; empty for none
  std::vector<std::string> evidence;  ///< parts of both sides
  Reality reality = Reality::works;
  std::string runner = {};
  std::string language = "c";  ///< of the library
  std::string lane_extra = {};
  /// Texts in the place of the usual ones.
  std::string header = {}, library = {}, program = {};
};

std::ostream& operator<<(std::ostream& out, const Situation& s) {
  return out << s.name;
}

constexpr const char* c_library = R"(double scale(double a, double b) { return a * b + 1; }
#ifndef BARE
#include <stdio.h>
int note(char* into, int number) { return sprintf(into, "%d", number); }
#endif
)";
constexpr const char* c_header = R"(#ifdef __cplusplus
extern "C" {
#endif
double scale(double a, double b);
#ifdef __cplusplus
}
#endif
)";
constexpr const char* c_program = R"(#include <scale.h>
int main(void) { volatile double a = 3; return scale(a, 4) == 13 ? 0 : 1; }
)";
constexpr const char* cxx_library = R"(#include "scale.h"
std::string label(const std::string& name, const std::vector<int>& marks) { return name + std::to_string(marks.size()); }
)";
constexpr const char* cxx_header = R"(#pragma once
#include <string>
#include <vector>
std::string label(const std::string& name, const std::vector<int>& marks);
)";
constexpr const char* cxx_program = R"(#include <scale.h>
int main() { return label("buoy", {1, 2}) == "buoy2" ? 0 : 1; }
)";

/// Without Microsoft's files: the C run-time of wine behind the names that the compiler asks for.
constexpr const char* msvc_run_time = R"(mkdir -p crt && cd crt
printf 'LIBRARY ucrtbase.dll\nEXPORTS\nexit\n' >u.def && llvm-dlltool-14 -m i386:x86-64 -d u.def -l u.lib
printf 'int main(void); void exit(int); void mainCRTStartup(void) { exit(main()); } int _fltused;' >s.c
clang-cl-14 --target=x86_64-pc-windows-msvc /Zl /GS- /c s.c /Fos.obj
for name in msvcrt msvcrtd libcmt libcmtd; do llvm-lib-14 /out:$name.lib u.lib s.obj; done
printf '' >e.c && clang-cl-14 --target=x86_64-pc-windows-msvc /Zl /c e.c /Foe.obj && llvm-lib-14 /out:oldnames.lib e.obj
)";

std::string archive(const std::string& compile, const std::string& ar = "ar") {
  return fmt::format("{} -c source/library.* -o o.o && {} rcs lib/libscale.a o.o", compile, ar);
}

std::string shared(const std::string& compile) {
  return fmt::format("{} -shared -fPIC source/library.* -o lib/libscale.so -Wl,-soname,libscale.so", compile);
}

std::string msvc(const std::string& flag, const std::string& target = "x86_64-pc-windows-msvc") {
  return fmt::format(
      "clang-cl-14 --target={} {} /O2 /GS- /DBARE /c source/library.c /Foo.obj && llvm-lib-14 /out:lib/scale.lib o.obj",
      target, flag);
}

std::string macos(const std::string& arch) {
  return fmt::format(
      "clang-14 --target={0}-apple-macos11 -DBARE -c source/library.c -o o.o && "
      "ld64.lld-14 -arch {0} -platform_version macos 11.0 11.0 -dylib -install_name @rpath/libscale.dylib o.o "
      "-L{1}/macos -lSystem -o lib/libscale.dylib",
      arch, TEST_KINDS);
}

const std::string qemu_arm = "qemu-arm -L /usr/arm-linux-gnueabihf",
                  qemu_aarch64 = "qemu-aarch64 -L /usr/aarch64-linux-gnu",
                  qemu_riscv64 = "qemu-riscv64 -L /usr/riscv64-linux-gnu", wine = "/usr/lib/wine/wine64";
const std::string m4_hard = "arm-none-eabi-gcc -mcpu=cortex-m4 -mthumb -mfloat-abi=hard -mfpu=fpv4-sp-d16",
                  m4_soft = "arm-none-eabi-gcc -mcpu=cortex-m4 -mthumb -mfloat-abi=soft",
                  m0 = "arm-none-eabi-gcc -mcpu=cortex-m0 -mthumb";
const std::vector<std::string> m4_hard_flags{"-mcpu=cortex-m4", "-mthumb", "-mfloat-abi=hard", "-mfpu=fpv4-sp-d16",
                                             "--specs=nosys.specs"};
const std::vector<std::string> m0_flags{"-mcpu=cortex-m0", "-mthumb", "--specs=nosys.specs"};
const std::vector<std::string> msvc_flags(const std::string& flag) {
  return {flag, "-fuse-ld=lld", "/GS-", "/link", "/libpath:crt"};
}
const std::vector<std::string> macos_flags(const std::string& arch) {
  return {"--target=" + arch + "-apple-macos11", "-fuse-ld=lld", "-nostdlib", fmt::format("-L{}/macos", TEST_KINDS),
          "-lSystem"};
}

// One situation a line, as wide as it is.
// clang-format off
const Situation native[] = {
    {"GCC's own", "g++", {}, archive("gcc -O2"), "ok", "", {}},
    {"GCC's C++", "g++", {}, archive("g++ -O2"), "ok", "", {}, Reality::works, "", "cpp"},
    {"GCC's library for Clang and LLD", "clang++", {"-fuse-ld=lld"}, archive("g++ -O2"), "ok", "", {}, Reality::works, "", "cpp"},
    {"a release library in a debug lane", "g++", {}, archive("gcc -O2 -g"), "ok", "", {}, Reality::works, "", "c", "configuration = \"debug\""},
    {"a debug library in a release lane", "g++", {}, archive("gcc -O0 -g"), "caution", "configuration", {"a debug build", "lane x is release"}},
    {"the 64-bit one in a 32-bit lane", "g++", {"-m32"}, archive("gcc"), "misfit", "architecture", {"64-bit x86_64", "needs 32-bit x86"}, Reality::refused},
    {"32 bits", "gcc", {"-m32"}, archive("gcc -m32 -O2"), "ok", "", {}},
    {"the 32-bit one in a 64-bit lane", "gcc", {}, archive("gcc -m32"), "misfit", "architecture", {"32-bit x86", "needs 64-bit x86_64"}, Reality::refused},
    {"the old string ABI", "g++", {}, archive("g++ -D_GLIBCXX_USE_CXX11_ABI=0"), "misfit", "string-abi", {"own-strings old", "string-abi new"}, Reality::refused, "", "cpp"},
    {"the old string ABI in a lane for it", "g++", {"-D_GLIBCXX_USE_CXX11_ABI=0"}, archive("g++ -D_GLIBCXX_USE_CXX11_ABI=0"), "ok", "", {}, Reality::works, "", "cpp"},
    {"debugging containers", "g++", {}, archive("g++ -D_GLIBCXX_DEBUG"), "misfit", "stl-debug", {"stl-debug on", "stl-debug off"}, Reality::refused, "", "cpp"},
    {"fixed addresses in a lane of movable programs", "gcc", {}, archive("gcc -O2 -fno-pie -mcmodel=medium -DFIXED"), "caution", "pic", {"not position independent: R_X86_64_", "position-independent programs"}, Reality::refused},
    {"fixed addresses where they may be", "gcc", {"-no-pie"}, archive("gcc -O2 -fno-pie -mcmodel=medium -DFIXED"), "ok", "", {}},
    {"a shared library for a static program", "gcc", {"-static"}, shared("gcc"), "misfit", "linkage", {"is shared", "links everything statically"}, Reality::refused},
    {"GCC's link-time code for GCC", "gcc", {}, archive("gcc -flto -O2", "gcc-ar"), "ok", "", {}},
    {"a sanitized library", "gcc", {}, archive("gcc -fsanitize=address"), "misfit", "sanitizer", {"sanitizers address", "without sanitizers"}, Reality::refused},
    {"a sanitized library in a sanitized lane", "gcc", {"-fsanitize=address"}, archive("gcc -fsanitize=address"), "ok", "", {}},
    {"a library with a main of its own", "g++", {}, "printf 'int main(void) { return 3; }' >m.c && gcc -c m.c -o m.o && " + archive("gcc") + " m.o", "caution", "entry", {"brings its own main"}},
    {"a higher processor level", "gcc", {}, shared("gcc -march=x86-64-v3 -Wl,-z,x86-64-v3"), "caution", "cpu-level", {"cpu-floor x86-64-v3", "processor level x86-64 "}},
    {"a newer C library", "gcc", {}, "printf 'GLIBC_2.99 { tide_new; };' >v && printf 'int tide_new(void) { return 1; }' >n.c && mkdir n && gcc -shared -fPIC n.c -o n/libc.so.6 -Wl,--version-script=v,-soname,libc.so.6 && printf 'int tide_new(void); int tide(void) { return tide_new(); }' >>source/library.c && gcc -shared -fPIC source/library.c n/libc.so.6 -o lib/libscale.so -Wl,-soname,libscale.so", "misfit", "libc-floor", {"libc-floor 2.99", "glibc 2."}, Reality::refused},
    {"a shared library under another name", "gcc", {}, "gcc -shared -fPIC source/library.c -o lib/libscale.so -Wl,-soname,libscale.so.4", "ok", "", {}},
};

const Situation foreign[] = {
    {"gold", "g++", {"-fuse-ld=gold"}, archive("gcc"), "ok", "", {}},
    {"mold", "g++", {"-fuse-ld=mold"}, archive("gcc"), "ok", "", {}},
    {"a shared library by path in a static link of mold", "gcc", {"-static", "-fuse-ld=mold"}, shared("gcc"), "misfit", "linkage", {"is shared"}, Reality::wrong},
    {"GCC's link-time code for LLD", "clang", {"-fuse-ld=lld"}, archive("gcc -flto -O2", "gcc-ar"), "misfit", "toolset", {"link-time GCC 12", "clang 14"}, Reality::refused},
    {"Clang's link-time code for GCC", "gcc", {}, archive("clang-14 -flto", "llvm-ar-14"), "misfit", "toolset", {"link-time LLVM 14", "gcc 12"}, Reality::refused},
    {"Clang's link-time code for Clang and LLD", "clang-14", {"-fuse-ld=lld"}, archive("clang-14 -flto", "llvm-ar-14"), "ok", "", {}},
    {"aarch64", "aarch64-linux-gnu-g++", {}, archive("aarch64-linux-gnu-g++"), "ok", "", {}, Reality::works, qemu_aarch64, "cpp"},
    {"x86_64 for aarch64", "aarch64-linux-gnu-gcc", {}, archive("gcc"), "misfit", "architecture", {"x86_64", "needs 64-bit aarch64"}, Reality::refused},
    {"armhf", "arm-linux-gnueabihf-gcc", {}, archive("arm-linux-gnueabihf-gcc"), "ok", "", {}, Reality::works, qemu_arm},
    {"soft floats in a hard-float program, BFD", "arm-linux-gnueabihf-gcc", {}, archive("arm-linux-gnueabihf-gcc -mfloat-abi=soft -DBARE"), "misfit", "float-abi", {"float-abi soft", "float-abi hard"}, Reality::refused, qemu_arm},
    {"soft floats in a hard-float program, LLD", "clang-14", {"--target=arm-linux-gnueabihf", "-fuse-ld=lld"}, archive("arm-linux-gnueabihf-gcc -mfloat-abi=soft -DBARE"), "misfit", "float-abi", {"float-abi soft", "float-abi hard"}, Reality::wrong, qemu_arm},
    {"riscv64", "riscv64-linux-gnu-gcc", {}, archive("riscv64-linux-gnu-gcc"), "ok", "", {}, Reality::works, qemu_riscv64},
    {"soft floats on riscv64", "riscv64-linux-gnu-gcc", {}, archive("riscv64-linux-gnu-gcc -march=rv64imac -mabi=lp64 -DBARE"), "misfit", "float-abi", {"float-abi soft", "float-abi double"}, Reality::refused},
    {"musl's own", "musl-gcc", {}, archive("musl-gcc"), "ok", "", {}},
    {"glibc's in a musl program", "musl-gcc", {}, archive("gcc -O2 -D_FORTIFY_SOURCE=2"), "misfit", "c-runtime", {"c-runtime glibc", "c-runtime musl"}, Reality::refused},
    {"musl's shared library in a glibc program", "gcc", {}, shared("musl-gcc"), "misfit", "c-runtime", {"c-runtime musl", "c-runtime glibc"}, Reality::wrong},
    {"libc++", "clang++-14", {"-stdlib=libc++"}, archive("clang++-14 -stdlib=libc++"), "ok", "", {}, Reality::works, "", "cpp"},
    {"libstdc++ in a libc++ lane", "clang++-14", {"-stdlib=libc++"}, archive("g++"), "misfit", "cxx-runtime", {"cxx-runtime libstdc++", "cxx-runtime libc++"}, Reality::refused, "", "cpp"},
    {"mingw", "x86_64-w64-mingw32-g++-posix", {"-static"}, archive("x86_64-w64-mingw32-g++-posix", "x86_64-w64-mingw32-ar"), "ok", "", {}, Reality::works, wine, "cpp"},
    {"mingw, 32 bits", "i686-w64-mingw32-gcc", {}, archive("i686-w64-mingw32-gcc", "i686-w64-mingw32-ar"), "ok", "", {}, Reality::links},
    {"64 bits in 32-bit mingw", "i686-w64-mingw32-gcc", {}, archive("x86_64-w64-mingw32-gcc", "x86_64-w64-mingw32-ar"), "misfit", "architecture", {"x86_64", "needs 32-bit x86"}, Reality::refused},
    {"the other thread model", "x86_64-w64-mingw32-g++-win32", {"-static"}, "printf '#include <thread>\\nvoid work() { std::thread([] {}).join(); }' >>source/library.cpp && " + archive("x86_64-w64-mingw32-g++-posix", "x86_64-w64-mingw32-ar"), "misfit", "threads", {"threads posix", "threads win32"}, Reality::refused, wine, "cpp"},
    {"the other thread model, without threads", "x86_64-w64-mingw32-g++-win32", {"-static"}, archive("x86_64-w64-mingw32-g++-posix", "x86_64-w64-mingw32-ar"), "caution", "threads", {"threads posix", "threads win32"}, Reality::works, wine, "cpp"},
    {"an ELF archive in mingw", "x86_64-w64-mingw32-gcc", {}, archive("gcc -fno-pie -DBARE"), "misfit", "object-format", {"is elf", "needs pe"}, Reality::refused},
    {"/MD in a lane with /MD", "clang-cl-14", msvc_flags("/MD"), msvc("/MD"), "ok", "", {}, Reality::works, wine},
    {"/MT in a lane with /MD", "clang-cl-14", msvc_flags("/MD"), msvc("/MT"), "misfit", "runtime-flavour", {"c-runtime msvc-static", "c-runtime msvc-dynamic"}, Reality::accepted},
    {"/MDd in a lane with /MD", "clang-cl-14", msvc_flags("/MD"), msvc("/MDd"), "misfit", "runtime-flavour", {"msvc-dynamic-debug", "no macro _DEBUG"}, Reality::accepted},
    {"another machine, MSVC-style", "clang-cl-14", msvc_flags("/MD"), msvc("/MD", "i686-pc-windows-msvc"), "misfit", "architecture", {"32-bit x86", "needs 64-bit x86_64"}, Reality::refused},
    {"macOS", "clang-14", macos_flags("arm64"), macos("arm64"), "ok", "", {}, Reality::links},
    {"arm64 in an x86_64 program of macOS", "clang-14", macos_flags("x86_64"), macos("arm64"), "misfit", "architecture", {"64-bit aarch64", "needs 64-bit x86_64"}, Reality::accepted},
    {"Cortex-M4, hard floats", "arm-none-eabi-gcc", m4_hard_flags, archive(m4_hard, "arm-none-eabi-ar"), "ok", "", {}, Reality::links},
    {"soft floats in hard ones on Cortex-M4", "arm-none-eabi-gcc", m4_hard_flags, archive(m4_soft, "arm-none-eabi-ar"), "misfit", "float-abi", {"float-abi soft", "float-abi hard"}, Reality::refused},
    {"code of a Cortex-M4 on a Cortex-M0", "arm-none-eabi-gcc", m0_flags, archive(m4_soft, "arm-none-eabi-ar"), "misfit", "cpu-level", {"v7E-M", "v6-M"}, Reality::accepted},
    {"Cortex-M0", "arm-none-eabi-gcc", m0_flags, archive(m0, "arm-none-eabi-ar"), "ok", "", {}, Reality::links},
    {"AVR", "avr-gcc", {"-mmcu=atmega328p"}, archive("avr-gcc -mmcu=atmega328p", "avr-ar"), "ok", "", {}, Reality::links},
    {"avr4 code in an avr5 program", "avr-gcc", {"-mmcu=atmega328p"}, archive("avr-gcc -mmcu=atmega88", "avr-ar"), "caution", "cpu-level", {"avr4", "avr5", "8 KB"}, Reality::links},
    {"avr6 code in an avr5 program", "avr-gcc", {"-mmcu=atmega328p"}, archive("avr-gcc -mmcu=atmega2560", "avr-ar"), "misfit", "cpu-level", {"avr6", "avr5"}, Reality::refused},
};
// clang-format on

const std::string three = "int one(int); int two(int); int three(int);\n";
const std::string twelve =
    "int a(int), b(int); int c(int); int d(int); int e(int); int f(int); int g(int); int h(int); int i(int); int "
    "j(int); int k(int); int l(int); int m(int);\n";
const std::string plain_program = "#include <scale.h>\nint main(void) { return one(0); }\n";
const std::string api_header = R"(#if defined(_WIN32) && defined(SCALE_DLL)
# define SCALE_API __declspec(dllimport)
#else
# define SCALE_API
#endif
SCALE_API int one(int);
)";
const std::string mingw_c = "x86_64-w64-mingw32-gcc", mingw_32 = "i686-w64-mingw32-gcc";

std::string c_block(const std::string& text) {
  return "#ifdef __cplusplus\nextern \"C\" {\n#endif\n" + text + "#ifdef __cplusplus\n}\n#endif\n";
}

std::string one_function(const std::string& more = "") {
  return "int one(int n) { return n; }\n" + more;
}

// clang-format off
const Situation headers[] = {
    {"a C header without extern C", "g++", {}, archive("gcc -x c"), "misfit", "language-linkage", {"scale.h:1 declares one without extern", "plain C name"}, Reality::refused, "", "cpp", "", "int one(int);\n", one_function(), plain_program},
    {"the same, included inside extern C", "g++", {}, archive("gcc -x c"), "ok", "", {}, Reality::works, "", "cpp", "", "int one(int);\n", one_function(), "extern \"C\" {\n" + plain_program.substr(0, 19) + "}\nint main() { return one(0); }\n"},
    {"the same, in a program in C", "g++", {}, archive("gcc"), "ok", "", {}, Reality::works, "", "c", "", "int one(int);\n", one_function(), plain_program},
    {"a C header of a library that was compiled as C++", "g++", {}, archive("g++"), "misfit", "language-linkage", {"inside extern", "mangled"}, Reality::refused, "", "cpp", "", c_block("int one(int);\n"), one_function(), plain_program},
    {"a C program and a library that was compiled as C++", "gcc", {}, archive("g++"), "misfit", "language-linkage", {"declares one to the project's C sources", "mangled"}, Reality::refused, "", "c", "", "int one(int);\n", one_function(), plain_program},
    {"headers of another library", "gcc", {}, archive("gcc"), "misfit", "header-match", {"declares one, two, three", "3 of 3"}, Reality::refused, "", "c", "", c_block(three), "int other(void) { return 0; }\n", plain_program},
    {"headers of a newer version", "gcc", {}, archive("gcc"), "caution", "header-match", {"declares three", "1 of 3"}, Reality::works, "", "c", "", c_block(three), one_function("int two(int n) { return n; }\n"), plain_program},
    {"one conditional feature among many", "gcc", {}, archive("gcc"), "ok", "", {}, Reality::works, "", "c", "", c_block(twelve + "int one(int);\n"), one_function("int a(int n) { return n; } int c(int n) { return n; } int d(int n) { return n; } int e(int n) { return n; } int f(int n) { return n; } int g(int n) { return n; } int h(int n) { return n; } int i(int n) { return n; } int j(int n) { return n; } int k(int n) { return n; } int l(int n) { return n; }\n"), plain_program},
    {"inline functions, templates and members", "g++", {}, archive("g++"), "ok", "", {}, Reality::works, "", "cpp", "",
     "#pragma once\ninline int two(int n) { return n; }\ntemplate <class T> T three(T t);\nstruct Tide { int level() const; static int high(); virtual ~Tide() = default; };\nnamespace harbour { int one(int); }\nusing harbour::one;\n", "namespace harbour { int one(int n) { return n; } }\n", plain_program},
    {"a header that needs C++17", "g++", {"-std=c++11"}, archive("g++"), "misfit", "standard", {"need at least c++17", "c++11"}, Reality::refused, "", "cpp", "", "#include <optional>\nint one(std::optional<int>);\n", "#include <optional>\nint one(std::optional<int> n) { return *n; }\n", plain_program},
    {"the same with C++17", "g++", {"-std=c++17"}, archive("g++"), "ok", "", {}, Reality::works, "", "cpp", "", "#include <optional>\nint one(std::optional<int>);\n", "#include <optional>\nint one(std::optional<int> n) { return *n; }\n", plain_program},
    {"a header that wants another before it", "gcc", {}, archive("gcc"), "ok", "", {}, Reality::works, "", "c", "", "int one(tide_level);\n", one_function(), "typedef int tide_level;\n" + plain_program},
    {"a run-time file that needs another", "clang", {"-fuse-ld=lld"}, "mkdir d && printf 'int deep(void) { return 0; }' >d.c && gcc -shared -fPIC d.c -o d/libdeep.so -Wl,-soname,libdeep.so && gcc -shared -fPIC source/library.c -Ld -Wl,--no-as-needed -ldeep -o lib/libscale.so -Wl,-soname,libscale.so", "misfit", "closure", {"needs libdeep.so", "no attached library brings it"}, Reality::wrong},
    {"a run-time file that brings what it needs", "gcc", {}, "printf 'int deep(void) { return 0; }' >d.c && gcc -shared -fPIC d.c -o lib/libdeep.so -Wl,-soname,libdeep.so && gcc -shared -fPIC source/library.c -Llib -Wl,--no-as-needed -ldeep -o lib/libscale.so -Wl,-soname,libscale.so", "ok", "", {}},
    {"a licence with conditions, when asked for", "gcc", {}, "echo '/* SPDX-License-Identifier: LGPL-2.1-or-later */' >>download/include/scale.h && " + archive("gcc"), "caution", "licence-static", {"LGPL-2.1-or-later"}, Reality::works, "", "c", "#licences"},
    {"a licence with conditions, when not asked for", "gcc", {}, "echo '/* SPDX-License-Identifier: LGPL-2.1-or-later */' >>download/include/scale.h && " + archive("gcc"), "ok", "", {}},
};
const Situation imports[] = {
    {"imports for a DLL", mingw_c, {}, mingw_c + " -shared source/library.c -o lib/scale.dll -Wl,--out-implib,lib/libscale.dll.a", "ok", "", {}, Reality::works, wine, "c", "", api_header, one_function(), plain_program},
    {"no imports for a static library", mingw_c, {}, archive(mingw_c, "x86_64-w64-mingw32-ar"), "ok", "", {}, Reality::works, wine, "c", "", api_header, one_function(), plain_program},
    {"imports declared for a static library", mingw_c, {}, archive(mingw_c, "x86_64-w64-mingw32-ar"), "misfit", "import-define", {"declare imports where SCALE_DLL is defined", "the project defines SCALE_DLL"}, Reality::refused, "", "c", "definitions = [\"SCALE_DLL\"]", api_header, one_function(), "#define SCALE_DLL\n" + plain_program},
    {"imports whatever is defined", mingw_c, {}, archive(mingw_c, "x86_64-w64-mingw32-ar"), "misfit", "import-define", {"whatever is defined"}, Reality::refused, "", "c", "", "#ifdef _WIN32\n#define SCALE_API __declspec(dllimport)\n#else\n#define SCALE_API\n#endif\nSCALE_API int one(int);\n", one_function(), plain_program},
    {"another calling convention", mingw_32, {}, archive(mingw_32 + " -DHERE=__stdcall", "i686-w64-mingw32-ar"), "misfit", "language-linkage", {"without a calling convention", "__stdcall"}, Reality::refused, "", "c", "", c_block("int one(int);\n"), "int HERE one(int n) { return n; }\n", plain_program},
    {"the right calling convention", mingw_32, {}, archive(mingw_32 + " -DHERE=__stdcall", "i686-w64-mingw32-ar"), "ok", "", {}, Reality::links, "", "c", "", c_block("int __stdcall one(int);\n"), "int HERE one(int n) { return n; }\n", plain_program},
};
// clang-format on

class Lanes : public testing::TestWithParam<Situation> {
 protected:
  void SetUp() override {
    ::setenv("WINEPREFIX", TEST_WINE_PREFIX, 1);
    ::setenv("WINEDEBUG", "-all", 1);
    ::setenv("WINEDLLOVERRIDES", "mscoree,mshtml,winemenubuilder.exe,winedbg.exe,services.exe,explorer.exe=d", 1);
    const auto& s = GetParam();
    const bool cxx = s.language == "cpp";
    const auto& folder = place_.folder();
    const auto text = [](const std::string& own, const char* usual) { return own.empty() ? usual : own; };
    folder.write("source/library." + s.language, text(s.library, cxx ? cxx_library : c_library));
    folder.write("download/include/scale.h", text(s.header, cxx ? cxx_header : c_header));
    fs::create_directories(place_ / "download/lib");
    fs::create_directory_symlink("download/lib", place_ / "lib");
    fs::create_directory_symlink("../download/include/scale.h", place_ / "source/scale.h");
    folder.write("work/main." + s.language, text(s.program, cxx ? cxx_program : c_program));
    std::string flags;
    for (const auto& flag : s.flags) flags += fmt::format("{}\"{}\"", flags.empty() ? "" : ", ", flag);
    folder.write("work/fibula.toml",
                 (s.lane_extra == "#licences" ? "check-licences = true\n" : "") +
                     fmt::format("[[output]]\nname = \"main\"\nsources = [\"main.*\"]\n\n[library.scale]\n\n"
                                 "[lane.x]\ncompiler = \"{}\"\nflags = [{}]\nstart-through = \"{}\"\n{}\n",
                                 s.compiler, flags, s.runner, s.lane_extra));
    if (s.compiler == "clang-cl-14") test::must(msvc_run_time, place_ / "work");
    test::must(s.make, folder.path());
    ASSERT_EQ(place_.fibula("take download --name scale --version 1", folder.path()).status, 0);
  }

  /// The lane's compiler on the program and the library, without asking any rule.
  test::Ran link_by_hand() const {
    const auto& s = GetParam();
    std::string flags, last;
    for (const auto& flag : s.flags) (last.empty() && flag != "/link" ? flags : last) += " " + flag;
    const bool msvc_style = s.compiler.starts_with("clang-cl");
    return test::shell(fmt::format("{}{} -I../download/include main.{} ../lib/*scale* {}{}", s.compiler, flags,
                                   s.language, msvc_style ? "/Fehand.exe" : "-o hand.exe", last),
                       place_ / "work");
  }

  test::Ran run_by_hand() const {
    return test::shell(fmt::format("timeout 60 {} ./hand.exe", GetParam().runner), place_ / "work");
  }

  test::Workplace place_;
};

TEST_P(Lanes, TheVerdictIsWhatHappens) {
  const auto& s = GetParam();
  const auto lane = place_.fibula_json("fit")["lanes"][0];
  const auto& library = lane["libraries"][0];
  EXPECT_EQ(library["verdict"], s.verdict) << library.dump(1);
  const auto& misfits = library["misfits"];
  ASSERT_EQ(misfits.size(), s.rule.empty() ? 0U : 1U) << misfits.dump(1);
  if (!s.rule.empty()) {
    EXPECT_EQ(misfits[0]["rule"], s.rule);
    EXPECT_FALSE(misfits[0]["remedy"].get<std::string>().empty());
    const std::string evidence = misfits[0]["evidence"].dump();
    for (const auto& part : s.evidence) EXPECT_NE(evidence.find(part), std::string::npos) << part << " in " << evidence;
  }
  switch (s.reality) {
    case Reality::works:
    case Reality::links: {
      const auto built = place_.fibula(s.reality == Reality::works ? "build --run" : "build");
      EXPECT_EQ(built.status, 0) << built.all();
      break;
    }
    case Reality::refused:
      EXPECT_EQ(lane["verdict"], "misfit") << lane.dump(1);
      EXPECT_NE(link_by_hand().status, 0);
      break;
    case Reality::wrong:
    case Reality::accepted: {
      const auto linked = link_by_hand();
      ASSERT_EQ(linked.status, 0) << linked.all();
      if (s.reality == Reality::wrong) {
        EXPECT_NE(run_by_hand().status, 0);
      }
      break;
    }
  }
}

std::string test_name(const testing::TestParamInfo<Situation>& info) {
  std::string name;
  for (const char c : info.param.name) name += std::isalnum(static_cast<unsigned char>(c)) != 0 ? c : '_';
  return name;
}

INSTANTIATE_TEST_SUITE_P(Native, Lanes, testing::ValuesIn(native), test_name);
INSTANTIATE_TEST_SUITE_P(Headers, Lanes, testing::ValuesIn(headers), test_name);
#ifndef FIBULA_NATIVE_ONLY
INSTANTIATE_TEST_SUITE_P(Imports, Lanes, testing::ValuesIn(imports), test_name);
INSTANTIATE_TEST_SUITE_P(Foreign, Lanes, testing::ValuesIn(foreign), test_name);
#endif

TEST(FitTable, TwelveLanesFitEightyColumnsAndEveryRefusalIsTold) {
  const test::Workplace place;
  place.folder().write("download/include/scale.h", c_header);
  place.folder().write("source/library.c", c_library);
  fs::create_directories(place / "download/x86");
  fs::create_directories(place / "download/old");
  test::must(
      "gcc -m32 -c source/library.c -o o.o && ar rcs download/x86/libscale.a o.o && "
      "gcc -fsanitize=address -c source/library.c -o o.o && ar rcs download/old/libscale.a o.o",
      place.folder().path());
  ASSERT_EQ(place.fibula("take download --name scale --version 1", place.folder().path()).status, 0);
  std::string project = "[[output]]\nname = \"main\"\nsources = [\"main.c\"]\n[library.scale]\n";
  for (int i = 1; i <= 12; ++i)
    project += fmt::format("[lane.harbour-side-{}]\ncompiler = \"gcc\"\nflags = [\"-DSIDE={}\"]\n", i, i);
  place.folder().write("work/fibula.toml", project);
  place.folder().write("work/main.c", c_program);
  const auto ran = place.fibula("fit");
  EXPECT_EQ(ran.status, 1);
  std::istringstream lines(ran.out.substr(0, ran.out.find("misfit (")));
  for (std::string line; std::getline(lines, line);) {
    const auto columns = std::count_if(line.begin(), line.end(), [](char c) { return (c & 0xc0) != 0x80; });
    EXPECT_LE(columns, 80) << line;
  }
  for (int i = 1; i <= 12; ++i) EXPECT_NE(ran.out.find(fmt::format("harbour-side-{}", i)), std::string::npos);
  const auto library = place.fibula_json("fit")["lanes"][0]["libraries"][0];
  ASSERT_EQ(library["refused"].size(), 2U) << library.dump(1);
  EXPECT_EQ(library["refused"][0]["first"]["rule"], "sanitizer") << "the nearest stands first";
  EXPECT_EQ(library["refused"][1]["first"]["rule"], "architecture");
  EXPECT_EQ(library["wanted"], "a build for 64-bit x86_64 elf, glibc");
}

TEST(Lanes, ASharedLibraryWithUnresolvedNeedsIsToldThoughLinkersAcceptIt) {
  const test::Workplace place;
  place.folder().write("download/include/scale.h", "int one(int);\n");
  place.folder().write("work/main.c", "#include <scale.h>\nint main(void) { return one(0); }\n");
  place.folder().write(
      "work/fibula.toml",
      "[[output]]\nname = \"main\"\nsources = [\"main.c\"]\n[library.scale]\n[lane.x]\ncompiler = \"gcc\"\n");
  fs::create_directories(place / "download/lib");
  test::must(
      "printf 'int gone(void); int one(int n) { return gone() + n; }' >one.c && gcc -shared -fPIC one.c -o "
      "download/lib/libscale.so -Wl,-soname,libscale.so",
      place.folder().path());
  ASSERT_EQ(place.fibula("take download --name scale --version 1", place.folder().path()).status, 0);
  const auto lane = place.fibula_json("fit")["lanes"][0];
  ASSERT_EQ(lane["misfits"].size(), 1U) << lane.dump(1);
  EXPECT_EQ(lane["misfits"][0]["rule"], "undefined");
  EXPECT_EQ(lane["misfits"][0]["evidence"][0], "gone is needed by libscale.so");
}

TEST(FitTable, WhatIsUnknownOrHarmlessIsShownWhenAsked) {
  const test::Workplace place;
  ASSERT_EQ(place.fibula("take " + (place.prebuilt() / "tidecalc-2.1.0").string()).status, 0);
  ASSERT_EQ(place.fibula("take " + (place / "prebuilt/moonphase-1.3.0").string()).status, 0);
  const auto project = place.harbourlog();
  ASSERT_EQ(place.fibula("attach tidecalc --linkage static", project).status, 0);
  ASSERT_EQ(place.fibula("attach moonphase", project).status, 0);
  const auto quiet = place.fibula("fit", project), full = place.fibula("-v fit", project);
  EXPECT_EQ(quiet.status, 0);
  EXPECT_EQ(quiet.out.find("unknown (c-runtime)"), std::string::npos);
  EXPECT_NE(quiet.out.find("1 fact could not be determined: fibula -v fit says which"), std::string::npos) << quiet.out;
  EXPECT_NE(full.out.find("unknown (c-runtime): tidecalc in lanes desk-debug, desk-release"), std::string::npos);
}

}  // namespace
