#!/bin/sh
# Prepares the sample in a folder of its own, runs one example there, and compares what it prints.
# usage: run.sh EXAMPLE TOOL SOURCE_FOLDER NAME
set -eu
unset LIBRARY_PATH CPATH || true
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
export FIBULA_SHELF="$work/shelf" XDG_CACHE_HOME="$work/cache"
"$3/demo/build_libraries.sh" "$work/prebuilt"
cp -r "$3/demo/harbourlog" "$work/"
cd "$work"
rm -rf harbourlog/.fibula
"$2" take prebuilt/tidecalc-2.1.0 >log
"$2" take prebuilt/moonphase-1.3.0 >>log
"$2" -C harbourlog attach tidecalc >>log
"$2" -C harbourlog attach moonphase >>log
# One lane that cannot work, so that there is a misfit to print.
printf '\n[lane.desk32-release]\ncompiler = "g++"\nflags = ["-m32"]\n' >>harbourlog/fibula.toml
[ "$4" != which_download ] || "$3/demo/build_libraries.sh" "$work/for32" -m32
[ "$4" != check_staged ] || "$2" -C harbourlog stage --lane desk-release --into "$work/staged" >>log
"$1" | sed "s#$work#WORK#g" >output
diff "$3/examples/$4.expected" output
