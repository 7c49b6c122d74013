#!/bin/sh
# Makes the seeds in a folder of their own and replays them, and the inputs that once found a fault. usage: replay.sh TARGET
set -eu
here=$(cd "$(dirname "$0")" && pwd)
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
"$here/make_seeds.sh" "$work"
"$1" "$work"/*
