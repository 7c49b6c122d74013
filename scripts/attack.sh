#!/bin/sh
# Repeats the hostile hour: builds the tool optimised and binaries of every kind, and lets attack.py at them.
# usage: attack.sh [MINUTES]   (25 where none are given)
set -eu
cd "$(dirname "$0")/.."
cmake --preset release >/dev/null
cmake --build --preset release --target fibula-cli
kinds=$(mktemp -d)
trap 'rm -rf "$kinds"' EXIT
sh tests/kinds/build.sh "$kinds" >/dev/null
python3 scripts/attack.py build/release/bin/fibula "$kinds" --minutes "${1:-25}" --seed "$(date +%j)"
