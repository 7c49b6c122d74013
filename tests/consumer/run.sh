#!/bin/sh
# Installs a build, configures another project against the installed tree, builds and runs it.
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
