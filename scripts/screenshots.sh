#!/bin/sh
# Takes the pictures in docs/screenshots: each command runs on the sample in a terminal window on a screen of its own.
# usage: screenshots.sh PATH_OF_FIBULA
set -eu
cd "$(dirname "$0")/.."
for program in Xvfb xterm import; do
  command -v $program >/dev/null || apt-get -qq install -y --no-install-recommends xvfb xterm imagemagick fonts-dejavu-core >/dev/null
done
out=$PWD/docs/screenshots
bin=$(dirname "$(readlink -f "$1")")
# A short path, so that what is shown is what a person would see in a folder of their own.
work=/tmp/harbour
rm -rf $work
mkdir -p $work
trap 'rm -rf $work; kill $screen 2>/dev/null || true' EXIT
Xvfb :77 -screen 0 1280x800x24 >/dev/null 2>&1 &
screen=$!
export DISPLAY=:77 PATH="$bin:$PATH" FIBULA_SHELF=$work/shelf
sleep 1

# shot NAME FOLDER SCRIPT: runs the script's lines as if they were typed.
shot() {
  printf '%s\n' "$3" >$work/lines
  cat >$work/play <<'END'
while IFS= read -r line; do
  printf '\033[1;34m$\033[0m %s\n' "$line"
  eval "$line"
done <$1
sleep 4
END
  (cd "$2" && timeout 60 xterm -geometry 126x40+0+0 -fa 'DejaVu Sans Mono' -fs 12 -bg '#fbfaf7' -fg '#222222' -e sh $work/play $work/lines) &
  sleep 3
  import -window root -crop 1280x800+0+0 "$out/$1.png"
  wait %+ 2>/dev/null || wait $! || true
}

demo/build_libraries.sh $work >/dev/null
demo/build_libraries.sh $work/wrong -m32 >/dev/null
demo/build_download.sh $work >/dev/null
cp -r demo/harbourlog $work/
cd $work
shot inspect $work 'fibula inspect beacon-1.4'
shot card $work 'fibula inspect beacon-1.4/lib/x64/debug/beacon_s.lib --symbols
fibula inspect beacon-1.4/lib/x64/debug/beacond.lib
fibula inspect tidecalc-2.1.0/lib/libtidecalc.so --needs'
shot take $work 'fibula take tidecalc-2.1.0
fibula take moonphase-1.3.0
fibula shelf
fibula shelf check'
shot explain $work/harbourlog 'fibula explain -- g++ src/*.cpp -o harbourlog'
fibula -C harbourlog attach tidecalc >/dev/null
fibula -C harbourlog attach moonphase >/dev/null
shot fit $work/harbourlog 'fibula fit'
shot build $work/harbourlog 'fibula build --lane desk-release --run -- 3'
export FIBULA_SHELF=$work/shelf2
fibula take wrong/tidecalc-2.1.0 >/dev/null
fibula take moonphase-1.3.0 >/dev/null
shot misfit $work/harbourlog 'fibula fit'
