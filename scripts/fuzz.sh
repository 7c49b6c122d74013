#!/bin/sh
# Runs every fuzz target for a number of seconds each, two at a time, and tells how many inputs it tried; the corpus grows from run to
# run. usage: fuzz.sh SECONDS
set -eu
cd "$(dirname "$0")/.."
dpkg-query -W -f '${Status}' libclang-rt-14-dev 2>/dev/null | grep -q 'install ok' ||
  apt-get -qq install -y --no-install-recommends libclang-rt-14-dev >/dev/null
cmake --preset fuzz >/dev/null
cmake --build --preset fuzz --target fuzz-replays
# Seeds: files of every kind that the compilers here can make, one folder deep.
kinds=$PWD/build/fuzz/kinds seeds=$PWD/build/fuzz/seeds
tests/kinds/build.sh "$kinds"
mkdir -p "$seeds"
find "$kinds" -type f -size -64k | while read -r file; do
  cp "$file" "$seeds/$(echo "${file#"$kinds/"}" | tr / _)"
done
texts=$PWD/fuzz/seeds
run() {
  target=build/fuzz/bin/fuzz-$1 log=build/fuzz/$1.log
  mkdir -p "build/fuzz/corpus/$1"
  from=$seeds length=65536
  case $binaries in *" $1 "*) ;; *) from=$texts length=4096 ;; esac
  if ! "$target" -max_total_time="$2" -max_len=$length -timeout=10 -rss_limit_mb=2048 -print_final_stats=1 \
    -artifact_prefix="build/fuzz/found-$1-" -dict=fuzz/words.dict "build/fuzz/corpus/$1" "$from" >"$log" 2>&1; then
    tail -40 "$log"
    return 1
  fi
  echo "$1: $(sed -n 's/stat::number_of_executed_units: *//p' "$log") inputs in $2 s, nothing found"
}
failed=0
binaries=" ar elf coff pe macho universal stub bitcode script loader_cache inspect types "
set -- "$1" $binaries project card lock index contents entry_names log headers version commands trees
seconds=$1
shift
while [ $# -gt 0 ]; do
  run "$1" "$seconds" &
  first=$!
  shift
  if [ $# -gt 0 ]; then
    run "$1" "$seconds" || failed=1
    shift
  fi
  wait $first || failed=1
done
exit $failed
