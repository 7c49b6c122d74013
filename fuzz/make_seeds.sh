#!/bin/sh
# Makes small files of every kind that a reader takes, with the compilers that are there. usage: make_seeds.sh FOLDER
set -eu
mkdir -p "$1"
cd "$1"
has() { command -v "$1" >/dev/null; }
printf 'int t[4]; extern int o(int); __thread int l; int f(int i) { return t[i] + o(l); }\n__attribute__((weak)) int w(void) { return 1; }\n' >a.c
printf 'int f(int i) { return i; }\nint d = 1;\n' >l.c
printf '#include <string>\ninline int two() { return 2; }\nstd::string g() { return std::string(two(), 120); }\n' >b.cpp
printf 'inline int two() { return 2; }\nint (*h)() = two;\nnamespace tide { int m(int x) { return x; } }\n' >n.cpp
gcc -g -c a.c -o a.o
gcc -m32 -c a.c -o a32.o
g++ -c b.cpp -o b.o
gcc -flto -c a.c -o lto.o
gcc -shared -fPIC l.c -Wl,-soname,liba.so.1 -o liba.so
gcc -shared -fPIC l.c -Wl,--hash-style=sysv -s -o libs.so
rm -f gnu.a thin.a bsd.a darwin.a
ar rcs gnu.a a.o b.o
ar rcsT thin.a a.o
llvm-ar --format=bsd rcs bsd.a a.o
llvm-ar --format=darwin rcs darwin.a a.o
for cross in aarch64-linux-gnu arm-linux-gnueabihf riscv64-linux-gnu s390x-linux-gnu avr arm-none-eabi; do
  if has $cross-gcc; then $cross-gcc -g -c l.c -o $cross.o; fi
done
for machine in x86_64 i686; do
  if has $machine-w64-mingw32-g++; then
    $machine-w64-mingw32-g++ -g -c n.cpp -o $machine-gnu.obj
    $machine-w64-mingw32-gcc -s -shared l.c -o $machine-gnu.dll -Wl,--out-implib,$machine-gnu.dll.a
  fi
done
if has clang-cl-14; then
  for machine in x86_64 i686 aarch64; do
    clang-cl-14 --target=$machine-pc-windows-msvc /nologo /c /GS- /MDd /Z7 n.cpp /Fo$machine.obj
    clang-14 --target=$machine-pc-windows-msvc -c l.c -o $machine-l.obj
  done
  lld-link-14 /dll /noentry /nodefaultlib /machine:x64 x86_64-l.obj /export:f /export:d,DATA /out:x64.dll /implib:x64.lib /debug /pdb:x64.pdb
fi
if has ld64.lld-14; then
  for arch in arm64 x86_64; do
    clang-14 --target=$arch-apple-macos11 -g -c l.c -o $arch-l.o
    clang-14 --target=$arch-apple-macos11 -stdlib=libc++ -c n.cpp -o $arch-n.o
    ld64.lld-14 -arch $arch -platform_version macos 11.0 11.0 -dylib -install_name @rpath/libl.dylib $arch-l.o $arch-n.o -rpath @loader_path -o $arch.dylib
  done
  llvm-lipo-14 -create x86_64.dylib arm64.dylib -output fat.dylib
fi
clang -flto -c l.c -o bitcode.o
clang -flto --target=arm64-apple-macos11 -stdlib=libc++ -c n.cpp -o bitcode-macos.o
cat >v4.tbd <<'TEXT'
--- !tapi-tbd
tbd-version: 4
targets: [ x86_64-macos, arm64-macos ]
install-name: '/usr/lib/libtide.dylib'
exports:
  - targets: [ arm64-macos ]
    symbols: [ _tide, '_height' ]
    weak-symbols: [ __Znwm ]
    objc-classes: [ Harbour ]
reexported-libraries:
  - targets: [ arm64-macos ]
    libraries: [ '/usr/lib/libmoon.dylib' ]
...
TEXT
printf '%s\n' '{"main_library": {"target_info": [{"target": "arm64-macos", "min_deployment": "11.0"}], "install_names": [{"name": "/usr/lib/libtide.dylib"}],' \
  '"exported_symbols": [{"text": {"global": ["_tide"]}, "data": {"weak": ["_moon"]}}]}, "tapi_tbd_version": 5}' >v5.tbd
echo 'GROUP ( /lib/liba.so AS_NEEDED ( -lb ) )' >script
echo '<!DOCTYPE html><html></html>' >page
: >empty
rm -f a.c b.cpp l.c n.cpp *.pdb
