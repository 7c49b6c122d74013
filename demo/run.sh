#!/bin/sh
# The harbour's story: prebuilt libraries are taken onto a shelf, attached to harbourlog, fitted, built and run.
# usage: run.sh PATH_OF_FIBULA
set -eu
fibula=$1
here=$(cd "$(dirname "$0")" && pwd)
work=$here/work
export FIBULA_SHELF="$work/shelf"
mkdir -p "$work"

say() { printf '\n$ %s\n' "$*"; }
tell() { say fibula "$@"; "$fibula" "$@"; }

# The libraries are built once, as their makers would have handed them over.
[ -d "$work/prebuilt" ] || "$here/build_libraries.sh" "$work/prebuilt"
[ -d "$work/prebuilt/saltlog-1.2.0" ] || "$here/build_log_libraries.sh" "$work/prebuilt"
[ -d "$work/harbourlog" ] || cp -r "$here/harbourlog" "$work/harbourlog"
cd "$work"

tell inspect prebuilt/tidecalc-2.1.0/lib/libtidecalc.a
tell take prebuilt/tidecalc-2.1.0
tell take prebuilt/moonphase-1.3.0
tell take prebuilt/saltlog-1.2.0
tell take prebuilt/foghorn-0.4.0
tell take prebuilt/mooring-0.9.2.tar.gz
tell shelf
tell shelf show foghorn
cd harbourlog
tell attach tidecalc
tell attach moonphase
tell fit
tell build
say fibula build --lane desk-release --run
"$fibula" build --lane desk-release --run
tell stage --into ../harbourlog-1.0 --lane desk-release
tell stage --check ../harbourlog-1.0

# Libraries that come as source: one is compiled, the other runs the steps that it brings, after it was agreed to.
[ -d "$work/quayhand" ] || cp -r "$here/quayhand" "$work/quayhand"
cd "$work/quayhand"
tell take "$here/beacon"
tell take "$here/lampbus"
tell shelf show beacon
tell attach mooring
tell attach beacon
tell attach lampbus
tell fit
# Where this machine lets nobody make a sandbox, the steps run without one.
steps=--allow-steps
bwrap --unshare-all --ro-bind / / true 2>/dev/null || steps="--allow-steps --unsandboxed"
# shellcheck disable=SC2086
tell build $steps --run
tell build
