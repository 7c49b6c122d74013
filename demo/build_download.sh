#!/bin/sh
# Makes the folder of a download as it would come from a maker who builds for everything: beacon 1.4 for Windows, macOS and
# Linux, with the slips that such downloads have. Needs Clang 14 with LLD. usage: build_download.sh FOLDER
set -eu
mkdir -p "$1"
cd "$1"
rm -rf beacon-1.4
mkdir -p beacon-1.4/include/beacon beacon-1.4/doc
cd beacon-1.4
cat >include/beacon/beacon.h <<'C'
#ifndef BEACON_H
#define BEACON_H
#define BEACON_VERSION "1.4"
#ifdef __cplusplus
extern "C" {
#endif
int beacon_flash(int seconds); /* how often a beacon flashes in that time */
extern int beacon_period;      /* seconds between two flashes */
#ifdef __cplusplus
}
#endif
#endif
C
printf '#include "beacon.h"\nint beacon_sector(int degrees);\n' >include/beacon/sector.h
printf 'beacon 1.4: lights for every harbour\n' >doc/readme.txt
cat >beacon.c <<'C'
#if defined(BEACON_DLL)
#define API __declspec(dllexport)
#else
#define API
#endif
API int beacon_period = 6;
API int beacon_flash(int seconds) { return seconds / beacon_period; }
API int beacon_sector(int degrees) { return degrees / 45 % 8; }
C
windows() {  # architecture, folder, run-time option, configuration
  mkdir -p lib/"$2"/"$4" bin/"$2"
  clang-cl-14 --target="$1"-pc-windows-msvc /nologo /c /GS- "/$3" beacon.c /Fobeacon.obj
  llvm-lib-14 /nologo /out:lib/"$2"/"$4"/beacon_s.lib beacon.obj
  clang-cl-14 --target="$1"-pc-windows-msvc /nologo /c /GS- "/$3" /DBEACON_DLL beacon.c /Fobeacon.obj
  suffix=
  [ "$4" = release ] || suffix=d
  lld-link-14 /dll /noentry /nodefaultlib beacon.obj /out:bin/"$2"/beacon$suffix.dll /implib:lib/"$2"/"$4"/beacon$suffix.lib
}
windows x86_64 x64 MD release
windows x86_64 x64 MDd debug
windows i686 x86 MD release
# The slips: a debug build among the release ones, a 32-bit archive in the 64-bit folder, a file that was never fetched.
windows i686 x86 MDd debug
cp lib/x86/debug/beacon_s.lib lib/x86/release/beacon_s.lib
cp lib/x86/release/beacon_s.lib lib/x64/release/beacon_old.lib
rm -r lib/x86/debug bin/x86/beacond.dll
printf 'version https://git-lfs.github.com/spec/v1\noid sha256:00\nsize 5120\n' >lib/x64/release/sector.lib

mkdir -p lib/macos lib/linux
for arch in arm64 x86_64; do
  clang-14 --target=$arch-apple-macos11 -O1 -c beacon.c -o $arch.o
  ld64.lld-14 -arch $arch -platform_version macos 11.0 11.0 -dylib -install_name @rpath/libbeacon.dylib $arch.o -o $arch.dylib
done
llvm-lipo-14 -create arm64.dylib x86_64.dylib -output lib/macos/libbeacon.dylib
gcc -shared -fPIC -O2 -g beacon.c -Wl,-soname,libbeacon.so.1 -o lib/linux/libbeacon.so.1.4
gcc -O2 -fPIC -c beacon.c -o beacon.o && ar rcs lib/linux/libbeacon.a beacon.o
ln -s libbeacon.so.1.4 lib/linux/libbeacon.so
rm -f ./*.o ./*.obj ./*.dylib beacon.c
