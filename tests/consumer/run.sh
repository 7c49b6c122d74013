#!/bin/sh
# Installs a build, configures another project against the installed tree, builds and runs it; then without CMake.
# usage: run.sh BUILD_FOLDER COMPILER SANITIZERS
set -eu
here=$(cd "$(dirname "$0")" && pwd)
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
cmake --install "$1" --prefix "$work/installed" >"$work/install.log"
flags=${3:+-fsanitize=$3}
cmake -S "$here" -B "$work/build" -G Ninja -DCMAKE_PREFIX_PATH="$work/installed" -DCMAKE_CXX_COMPILER="$2" -DCMAKE_CXX_FLAGS="$flags" >"$work/configure.log"
cmake --build "$work/build" >"$work/build.log" || { cat "$work/build.log"; exit 1; }
LD_LIBRARY_PATH="$work/installed/lib:$work/installed/lib/$(gcc -print-multiarch)" "$work/build/consumer" | tee "$work/output"
grep -qx program "$work/output"
"$work/installed/bin/fibula" --version
# The same by a plain line of the compiler, which the tool derives from the installed tree.
export FIBULA_SHELF="$work/shelf" XDG_CACHE_HOME="$work/cache"
"$work/installed/bin/fibula" take "$work/installed" --library fibula --in-place >"$work/take.log"
mkdir "$work/plain"
cp "$here/main.cpp" "$work/plain"
cd "$work/plain"
printf '[library.fibula]\n[lane.here]\ncompiler = "g++"\nconfiguration = "debug"\nflags = ["-std=c++20"%s]\n' "${flags:+, \"$flags\"}" >fibula.toml
g++ -std=c++20 -I"$work/installed/include" $flags -c main.cpp
"$work/installed/bin/fibula" fit --for main.o >"$work/fit.log" || { cat "$work/fit.log"; exit 1; }
g++ $flags main.o @.fibula/here/link.rsp -o consumer
./consumer | grep -qx program
