#!/bin/sh
# Installs what is missing, builds Fibula, with sanitizers too, and runs all tests; ends with ctest's summary.
# usage: test.sh [--quick] [--long]
#   --quick  without the sanitizers' build and without compilers for other systems
#   --long   also runs each fuzz target for 30 seconds
set -eu
cd "$(dirname "$0")/.."
quick= long=
for option in "$@"; do
  case $option in
    --quick) quick=1 ;;
    --long) long=1 ;;
    *) echo "usage: scripts/test.sh [--quick] [--long]" >&2; exit 2 ;;
  esac
done
if [ -n "$quick" ]; then scripts/install_packages.sh --test --native; else scripts/install_packages.sh --test; fi
# Variables that compilers add to every command would make this machine's results its own.
unset LIBRARY_PATH CPATH C_INCLUDE_PATH CPLUS_INCLUDE_PATH || true

if [ -z "$quick" ]; then
  # The readers, the rehearsal and the fuzz targets under the sanitizers.
  cmake --preset sanitize >/dev/null
  cmake --build --preset sanitize --target reader-tests damage-tests rehearsal-tests fuzz-replays
  (cd build/sanitize && ctest --output-on-failure -j2 -R '^(reader-tests|damage-tests|rehearsal-tests|fuzz)\.')
fi
if [ -n "$long" ]; then scripts/fuzz.sh 30; fi

cmake --preset development -DFIBULA_NATIVE_ONLY=$([ -n "$quick" ] && echo ON || echo OFF) >/dev/null
cmake --build --preset development
cd build/development
ctest --output-on-failure -j2
