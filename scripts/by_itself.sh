#!/bin/sh
# Builds Fibula with Fibula, from Debian's packages and the project's own fibula.toml, and lets the result pass the tests
# that drive the tool: stories, examples of rules, pages of the guide, cases. About half an hour on two cores.
# usage: by_itself.sh FIBULA [LANE...]      (desk-release and clang-release when left out)
set -eu
here=$(cd "$(dirname "$0")/.." && pwd)
fibula=$(realpath "$1")
shift
[ $# -gt 0 ] || set -- desk-release clang-release
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
export FIBULA_SHELF="$work/shelf" XDG_CACHE_HOME="$work/cache"
cp -r "$here" "$work/fibula"
rm -rf "$work/fibula/build" "$work/fibula/.fibula"
cd "$work/fibula"
for library in tl/expected.hpp nlohmann_json CLI11 tomlplusplus xxhash fmt nettle yaml uv; do
  "$fibula" take /usr --library "$library" --in-place
done
for lane in "$@"; do
  "$fibula" build --lane "$lane"
  "$fibula" build --lane "$lane" | grep -q 'nothing to do'
  own=$work/fibula/.fibula/$lane/bin/fibula
  "$own" --version
  passed=0
  for story in tests/stories/*.txt tests/rules/*.txt; do
    python3 tests/run_story.py "$own" demo "$story"
    passed=$((passed + 1))
  done
  for page in docs/guide/*.md; do
    python3 tests/run_page.py "$own" demo "$page"
    passed=$((passed + 1))
  done
  echo "$lane: $passed stories and pages passed"
  python3 tests/run_cases.py "$own" tests/cases/*.txt --share 5
done
