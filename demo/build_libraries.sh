#!/bin/sh
# Builds the sample's prebuilt libraries as their makers would hand them over: one folder each, headers and libraries inside.
# usage: build_libraries.sh OUTPUT_FOLDER [COMPILER FLAGS...]
set -eu
here=$(cd "$(dirname "$0")" && pwd)
out=$1
shift

tide=$out/tidecalc-2.1.0
mkdir -p "$tide/include" "$tide/lib" "$tide/objects"
cp "$here/tidecalc/include/tidecalc.h" "$tide/include/"
for source in harbour height high_water; do
  gcc "$@" -O2 -fPIC -I"$here/tidecalc/include" -c "$here/tidecalc/src/$source.c" -o "$tide/objects/$source.o"
done
rm -f "$tide/lib/libtidecalc.a"
ar rcsD "$tide/lib/libtidecalc.a" "$tide/objects/harbour.o" "$tide/objects/height.o" "$tide/objects/high_water.o"
gcc "$@" -shared -Wl,-soname,libtidecalc.so.2 "$tide"/objects/*.o -lm -o "$tide/lib/libtidecalc.so.2.1.0"
ln -sf libtidecalc.so.2.1.0 "$tide/lib/libtidecalc.so.2"
ln -sf libtidecalc.so.2 "$tide/lib/libtidecalc.so"
rm -r "$tide/objects"

moon=$out/moonphase-1.3.0
mkdir -p "$moon/include/moonphase"
cp "$here/moonphase/include/moonphase/moonphase.hpp" "$moon/include/moonphase/"
