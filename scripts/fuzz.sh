#!/bin/sh
# Runs every fuzz target for a number of seconds each, and tells how many inputs it tried. usage: fuzz.sh SECONDS
set -eu
cd "$(dirname "$0")/.."
dpkg-query -W -f '${Status}' libclang-rt-14-dev 2>/dev/null | grep -q 'install ok' ||
  apt-get -qq install -y --no-install-recommends libclang-rt-14-dev >/dev/null
cmake --preset fuzz >/dev/null
cmake --build --preset fuzz --target fuzz-replays
seeds=build/fuzz/seeds
fuzz/make_seeds.sh "$seeds"
for target in build/fuzz/bin/fuzz-*; do
  name=$(basename "$target")
  mkdir -p "build/fuzz/corpus/$name"
  "$target" -max_total_time="$1" -max_len=65536 -timeout=10 -rss_limit_mb=2048 -print_final_stats=1 \
    -artifact_prefix="build/fuzz/found-$name-" "build/fuzz/corpus/$name" "$seeds" >"build/fuzz/$name.log" 2>&1 ||
    { tail -40 "build/fuzz/$name.log"; exit 1; }
  echo "$name: $(grep -o 'stat::number_of_executed_units: *[0-9]*' "build/fuzz/$name.log" | grep -o '[0-9]*$') inputs in $1 s, nothing found"
done
