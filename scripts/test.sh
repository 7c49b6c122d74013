#!/bin/sh
# Installs what is missing, builds Fibula, with sanitizers too, and runs all tests; ends with ctest's summary.
# usage: test.sh [--quick] [--long]
#   --quick  without the sanitizers' build and without compilers for other systems
#   --long   also runs each fuzz target for 30 seconds, and more tests under the sanitizers
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
# Tests wait for clocks and other programs now and then: one more than there are cores keeps these busy.
jobs=$(($(nproc) + 1))
# Variables that compilers add to every command would make this machine's results its own.
unset LIBRARY_PATH CPATH C_INCLUDE_PATH CPLUS_INCLUDE_PATH || true

if [ -z "$quick" ]; then
  # Under the sanitizers: the readers, the rehearsal and the fuzz targets, and the tool in whole stories; with --long all.
  checked='^(reader-tests|damage-tests|rehearsal-tests|fuzz)\.|^tool-tests\.(Story|Begin|Build|SecondTime|Outputs)'
  [ -z "$long" ] || checked='^(reader-tests|damage-tests|rehearsal-tests|fuzz|kinds|tool-tests|kinds-tests)\.'
  # From nothing, debugging records cost more than they tell: what a sanitizer says names functions all the same.
  if [ -n "${CI:-}" ]; then set -- "-DCMAKE_CXX_FLAGS_RELWITHDEBINFO=-O0 -g0"; else set --; fi
  cmake --preset sanitize "$@" -DFIBULA_SANITIZE_ALL=$([ -n "$long" ] && echo ON || echo OFF) >/dev/null
  cmake --build --preset sanitize --target reader-tests damage-tests rehearsal-tests fuzz-replays tool-tests fibula-cli ${long:+kinds-tests}
  # Some build one project over and over, or compare words, which says little more under the sanitizers.
  repeated='ADamagedRecordOnlyCostsTime|ACorrectedProjectIsBuilt|WhatTheProjectItselfHasIsLookedThrough|EveryInputIsNamedAndChecked'
  [ -z "$long" ] || repeated='^$'
  (cd build/sanitize && ctest --output-on-failure -j"$jobs" -R "$checked" -E "$repeated")
fi
if [ -n "$long" ]; then scripts/fuzz.sh 30; fi

# From nothing, larger units without debug information take half of the time, and what ran under the sanitizers need not
# run again; who works on the files keeps builds that go step by step.
if [ -n "${CI:-}" ]; then
  set -- -DFIBULA_LARGE_UNITS=ON -DCMAKE_CXX_FLAGS_DEBUG=-g0 -DFIBULA_REPLAYS=OFF
else
  set --
fi
cmake --preset development "$@" -DFIBULA_NATIVE_ONLY=$([ -n "$quick" ] && echo ON || echo OFF) >/dev/null
cmake --build --preset development
cd build/development
ctest --output-on-failure -j"$jobs"
