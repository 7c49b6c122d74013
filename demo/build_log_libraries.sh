#!/bin/sh
# Builds what comes with the log book: saltlog in debug and release, its add-on foghorn, and mooring as an archive of sources. Needs the
# libraries of build_libraries.sh in the same folder. usage: build_log_libraries.sh OUTPUT_FOLDER
set -eu
here=$(cd "$(dirname "$0")" && pwd)
out=$1
tide=$out/tidecalc-2.1.0

# Debug and release builds lie side by side, told apart by a d at the end of the name.
salt=$out/saltlog-1.2.0
mkdir -p "$salt/lib"
cp -r "$here/saltlog/include" "$salt/"
for build in "saltlogd -g -O0" "saltlog -O2 -DNDEBUG"; do
  name=${build%% *}
  # shellcheck disable=SC2086
  g++ ${build#* } -fPIC -I"$tide/include" -I"$salt/include" -c "$here/saltlog/src/log.cpp" -o "$salt/lib/$name.o"
  rm -f "$salt/lib/lib$name.a"
  ar rcsD "$salt/lib/lib$name.a" "$salt/lib/$name.o"
  rm "$salt/lib/$name.o"
done

# An add-on: its header lies among those of saltlog, and it brings a data file.
horn=$out/foghorn-0.4.0
mkdir -p "$horn/lib"
cp -r "$here/foghorn/include" "$here/foghorn/share" "$horn/"
mkdir -p "$horn/joined"
cp -r "$salt/include/saltlog" "$horn/include/saltlog" "$horn/joined/"
g++ -O2 -fPIC -I"$horn/joined" -c "$here/foghorn/src/foghorn.cpp" -o "$horn/lib/foghorn.o"
rm -r "$horn/joined"
rm -f "$horn/lib/libfoghorn.a"
ar rcsD "$horn/lib/libfoghorn.a" "$horn/lib/foghorn.o"
rm "$horn/lib/foghorn.o"

# Comes as source, in an archive.
cp -r "$here/mooring" "$out/mooring-0.9.2"
tar -C "$out" -czf "$out/mooring-0.9.2.tar.gz" mooring-0.9.2
rm -r "$out/mooring-0.9.2"
