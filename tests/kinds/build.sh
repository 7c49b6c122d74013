#!/bin/bash
# Builds one small library in every way that the installed compilers can: what tests and fuzz targets read.
# usage: build.sh FOLDER [--quick]        --quick  only what the native compiler makes
# Files lie in FOLDER/<group>/<name>; what is left out for want of a compiler is told on standard error.
set -eu
mkdir -p "$1"
out=$(cd "$1" && pwd)
src=$out/src
quick=${2:-}
unset LIBRARY_PATH CPATH C_INCLUDE_PATH CPLUS_INCLUDE_PATH || true
mkdir -p "$src"

cat >"$src/tide.c" <<'C'
#ifdef TIDE_DLL
#define API __declspec(dllexport)
#else
#define API
#endif
static int table[4] = {3, 1, 4, 1};
API int tide_level = 7;
API int tide_height(int i) { return table[i & 3] + tide_level; }
C
cat >"$src/user.c" <<'C'
extern int tide_height(int);
extern int tide_level;
int common_mark;
__attribute__((weak)) int moon_phase(int day) { return day % 28; }
int mooring(int day) { return tide_height(moon_phase(day)) + tide_level + common_mark; }
C
cat >"$src/log.cpp" <<'C'
#include <stdexcept>
#include <string>
#include <vector>
std::string entry(const std::vector<int>& heights) {
  if (heights.empty()) throw std::runtime_error("no heights");
  return std::to_string(heights.at(heights.size() - 1));
}
C
cat >"$src/plain.cpp" <<'C'
namespace tide { int level(int x) { return x; } }
inline int two() { return 2; }
int (*pointer)() = two;
C
cat >"$src/rng.f" <<'C'
      subroutine lunar(n)
      integer n
      print *, n
      end
C

missing() { echo "not built, no $1: $2" >&2; }
group() { mkdir -p "$out/$1"; cd "$out/$1"; }
c() { echo "$src/$1"; }

group gnu
gcc -c -O2 -g "$(c tide.c)" -o release.o
gcc -c -O0 -g "$(c tide.c)" -o debug.o
gcc -c -O2 -fPIC "$(c user.c)" -o user.o
g++ -c -O2 -g "$(c log.cpp)" -o log.o
gcc -c -O1 -fno-pic -mcmodel=medium "$(c user.c)" -o nonpic.o
gcc -c -O1 -fno-pic "$(c tide.c)" -o nonpic-tide.o
gcc -c -fcommon "$(c user.c)" -o common.o
g++ -c -D_GLIBCXX_USE_CXX11_ABI=0 "$(c log.cpp)" -o old-string.o
g++ -c -D_GLIBCXX_DEBUG "$(c log.cpp)" -o stl-debug.o
gcc -c -fsanitize=address,undefined "$(c tide.c)" -o sanitized.o
gcc -c --coverage "$(c tide.c)" -o coverage.o
gcc -c -pg "$(c tide.c)" -o profiled.o
gcc -c -flto -O2 "$(c tide.c)" -o lto-slim.o
gcc -c -flto -ffat-lto-objects "$(c tide.c)" -o lto-fat.o
g++ -c -flto "$(c log.cpp)" -o lto-log.o
gcc -shared -fPIC -O2 "$(c tide.c)" -Wl,-soname,libtide.so.1 -Wl,-rpath,'$ORIGIN' -o libtide.so.1
gcc -shared -fPIC "$(c tide.c)" -Wl,--disable-new-dtags,-rpath,/opt/harbour/lib -o librpath.so
g++ -shared -fPIC -g "$(c log.cpp)" -Wl,-soname,liblog.so.2 -o liblog.so.2
gcc -shared -fPIC "$(c tide.c)" -s -Wl,--hash-style=sysv -o libsysv.so
printf 'int main(void) { return 0; }' | gcc -x c - -o program
printf 'int main(void) { return 0; }' | gcc -x c - -no-pie -o program-fixed
printf 'int main(void) { return 0; }' | gcc -x c - -static -o program-static
rm -f ./*.a
ar rcs libtide.a release.o user.o
ar rcsT libthin.a release.o
ar rcS libnoindex.a release.o
ar rcs libmixed-strings.a log.o old-string.o
ar rcs liblto.a lto-slim.o
ar rcs libempty.a
llvm-ar --format=bsd rcs libbsd.a release.o user.o
ln -sf libtide.so.1 libtide.so
echo 'GROUP ( libtide.so.1 AS_NEEDED ( liblog.so.2 ) )' >libscript.so
gcc -m32 -c -O2 "$(c tide.c)" -o m32.o
gcc -mx32 -c -O2 "$(c tide.c)" -o x32.o
gcc -c "$(c tide.c)" -Wa,--compress-debug-sections -g -o compressed.o
[ "$quick" != --quick ] || exit 0

group cross
for target in aarch64-linux-gnu arm-linux-gnueabihf riscv64-linux-gnu s390x-linux-gnu powerpc64le-linux-gnu; do
  if ! command -v $target-gcc >/dev/null; then missing $target-gcc cross/$target.o; continue; fi
  $target-gcc -c -O2 -g "$(c tide.c)" -o $target.o
  $target-g++ -c -O2 "$(c log.cpp)" -o $target-log.o
  $target-gcc -shared -fPIC "$(c tide.c)" -Wl,-soname,libtide.so.1 -o $target.so
  rm -f $target.a && $target-ar rcs $target.a $target.o $target-log.o
done
if command -v arm-none-eabi-gcc >/dev/null; then
  m4="-mcpu=cortex-m4 -mthumb -Os"
  arm-none-eabi-gcc $m4 -mfloat-abi=hard -mfpu=fpv4-sp-d16 -c "$(c tide.c)" -o cortex-hard.o
  arm-none-eabi-gcc $m4 -mfloat-abi=softfp -mfpu=fpv4-sp-d16 -c "$(c tide.c)" -o cortex-softfp.o
  arm-none-eabi-gcc $m4 -mfloat-abi=soft -c "$(c tide.c)" -o cortex-soft.o
  arm-none-eabi-gcc -mcpu=cortex-m0 -mthumb -c "$(c tide.c)" -o cortex-m0.o
else missing arm-none-eabi-gcc cross/cortex-*.o; fi
if command -v avr-gcc >/dev/null; then
  avr-gcc -mmcu=atmega328p -Os -c "$(c tide.c)" -o avr5.o
  avr-gcc -mmcu=attiny85 -Os -c "$(c tide.c)" -o avr25.o
else missing avr-gcc cross/avr*.o; fi
if command -v musl-gcc >/dev/null; then
  musl-gcc -shared -fPIC "$(c tide.c)" -o musl.so
  printf 'int main(void) { return 0; }' | musl-gcc -x c - -o musl-program
else missing musl-gcc cross/musl.so; fi
clang++ -stdlib=libc++ -c "$(c log.cpp)" -o libcxx.o && clang++ -stdlib=libc++ -shared -fPIC "$(c log.cpp)" -o libcxx.so || missing libc++ cross/libcxx.o

group mingw
for machine in x86_64 i686; do
  for model in posix win32; do
    g=$machine-w64-mingw32-gcc-$model gxx=$machine-w64-mingw32-g++-$model at=$machine-$model
    if ! command -v $gxx >/dev/null; then missing $gxx mingw/$at; continue; fi
    $g -c -O2 -g "$(c tide.c)" -o $at.o
    $gxx -c -O2 "$(c log.cpp)" -o $at-log.o
    $g -c "$(c user.c)" -o $at-user.o
    rm -f $at.a && $machine-w64-mingw32-ar rcs $at.a $at.o $at-log.o $at-user.o
    $g -shared "$(c tide.c)" -DTIDE_DLL -o $at.dll -Wl,--out-implib,$at.dll.a
    $gxx -shared "$(c log.cpp)" -o $at-log.dll
    printf 'int main(void) { return 0; }' | $g -x c - -mwindows -o $at.exe
    $g -c -flto "$(c tide.c)" -o $at-lto.o
  done
  as=$machine-w64-mingw32-as
  if command -v $as >/dev/null; then
    $machine-w64-mingw32-gcc -S "$(c user.c)" -o - | $as -mbig-obj - -o $machine-bigobj.o
  fi
done

group msvc
for machine in x86_64 i686 aarch64; do
  cl="clang-cl-14 --target=$machine-pc-windows-msvc /nologo /c /GS-"
  for flavour in MD MDd MT MTd; do
    $cl /$flavour /Fo$machine-$flavour.obj -- "$(c plain.cpp)"  # a path with / would look like an option
    llvm-lib-14 /nologo /out:$machine-$flavour.lib $machine-$flavour.obj
  done
  $cl /Z7 /Fo$machine-user.obj -- "$(c user.c)"
  $cl /DTIDE_DLL /Fo$machine-tide.obj -- "$(c tide.c)"
  short=$(echo $machine | sed 's/x86_64/x64/;s/i686/x86/;s/aarch64/arm64/')
  lld-link-14 /dll /noentry /nodefaultlib /machine:$short $machine-tide.obj /out:$machine.dll /implib:$machine.lib /debug /pdb:$machine.pdb
  printf '#pragma detect_mismatch("RuntimeLibrary","MDd_DynamicDebug")\n#pragma detect_mismatch("_ITERATOR_DEBUG_LEVEL","2")\n#pragma detect_mismatch("_MSC_VER","1900")\nint f() { return 1; }\n' >keys.cpp
  $cl /MDd keys.cpp /Fo$machine-keys.obj
done
rm -f ./*.pdb keys.cpp
printf 'LIBRARY msvcp140.dll\nEXPORTS\nf\n' >msvcp140.def
printf 'LIBRARY VCRUNTIME140D.dll\nEXPORTS\ng\n' >vcruntime140d.def
for dll in msvcp140 vcruntime140d; do llvm-dlltool-14 -m i386:x86-64 -d $dll.def -l $dll.lib; done
printf 'extern int f(void), g(void); __declspec(dllexport) int both(void) { return f() + g(); }\n__declspec(dllexport) int one(void) { return f(); }' >uses.c
clang-cl-14 /nologo /c /GS- /Zl uses.c /Fouses.obj
lld-link-14 /dll /noentry /nodefaultlib uses.obj msvcp140.lib vcruntime140d.lib /out:debug-runtime.dll /implib:debug-runtime.lib /export:forwarded=msvcp140.f
lld-link-14 /dll /noentry /nodefaultlib uses.obj msvcp140.lib vcruntime140d.lib /out:delayed.dll /implib:delayed.lib /delayload:msvcp140.dll /alternatename:__delayLoadHelper2=one 2>/dev/null || rm -f delayed.dll delayed.lib
rm -f ./*.def uses.c

group macos
cat >libSystem.tbd <<'TEXT'
--- !tapi-tbd
tbd-version:     4
targets:         [ x86_64-macos, arm64-macos ]
install-name:    '/usr/lib/libSystem.B.dylib'
exports:
  - targets:         [ x86_64-macos, arm64-macos ]
    symbols:         [ _printf, dyld_stub_binder, _exit, __tlv_bootstrap ]
    weak-symbols:    [ __Znwm ]
    objc-classes:    [ Harbour ]
  - targets:         [ arm64-macos ]
    symbols:         [ _only_arm ]
...
TEXT
sed "s|^\.\.\.|reexported-libraries:\n  - targets: [ arm64-macos ]\n    libraries: [ '/usr/lib/libmoon.dylib' ]\n...|" libSystem.tbd >v4.tbd
cat >v3.tbd <<'TEXT'
--- !tapi-tbd-v3
archs:           [ x86_64, arm64 ]
platform:        macosx
install-name:    '/usr/lib/libtide.dylib'
exports:
  - archs:           [ arm64 ]
    re-exports:      [ '/usr/lib/libmoon.dylib' ]
    symbols:         [ _tide ]
    objc-classes:    [ _Harbour ]
...
TEXT
printf '%s\n' '{"main_library": {"target_info": [{"target": "arm64-macos", "min_deployment": "11.0"}],' \
  '"install_names": [{"name": "/usr/lib/libtide.dylib"}], "exported_symbols": [{"text": {"global": ["_tide"]},' \
  '"data": {"weak": ["_moon"]}}]}, "tapi_tbd_version": 5}' >v5.tbd
for arch in arm64 x86_64; do
  clang="clang-14 --target=$arch-apple-macos11"
  ld="ld64.lld-14 -arch $arch -platform_version macos 11.0 12.0"
  $clang -g -O1 -c "$(c tide.c)" -o $arch-release.o
  $clang -g -O0 -c "$(c user.c)" -o $arch-debug.o
  $clang -stdlib=libc++ -c "$(c plain.cpp)" -o $arch-plain.o
  clang-14 --target=$arch-apple-ios14 -c "$(c tide.c)" -o $arch-ios.o
  rm -f $arch.a && llvm-ar-14 --format=darwin rcs $arch.a $arch-release.o $arch-plain.o
  $ld -dylib -install_name @rpath/libtide.dylib $arch-release.o $arch-plain.o -L. -lSystem -rpath @loader_path -o $arch.dylib
  $ld -dylib -install_name @rpath/libuser.dylib $arch-debug.o -reexport_library $arch.dylib -L. -lSystem -o $arch-user.dylib
  $ld -bundle $arch-release.o -L. -lSystem -o $arch.bundle
  printf 'int main(void) { return 0; }' | $clang -x c -c - -o main.o && $ld main.o -L. -lSystem -o $arch-program && rm main.o
done
llvm-lipo-14 -create x86_64.dylib arm64.dylib -output fat.dylib
llvm-lipo-14 -create x86_64.a arm64.a -output fat.a

group bitcode
clang-14 -flto -c "$(c user.c)" -o linux.o
clang-14 -flto=thin -c "$(c tide.c)" -o thin.o
clang-14 --target=arm64-apple-macos11 -flto -c "$(c user.c)" -o macos.o
clang-14 --target=i686-pc-windows-msvc -flto -c "$(c tide.c)" -o windows.obj
rm -f bitcode.a && llvm-ar-14 rcs bitcode.a linux.o thin.o
