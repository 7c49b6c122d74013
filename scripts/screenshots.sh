#!/bin/sh
# Takes the pictures in docs/screenshots: each command runs on the sample in a terminal window on a screen of its own.
# usage: screenshots.sh PATH_OF_FIBULA [NAME...]     (only the pictures that are named; what stands before them runs all the same)
set -eu
cd "$(dirname "$0")/.."
for program in Xvfb xterm import chromium dot; do
  command -v $program >/dev/null || apt-get -qq install -y --no-install-recommends xvfb xterm imagemagick fonts-dejavu-core chromium graphviz >/dev/null
done
demo=$PWD/demo out=$PWD/docs/screenshots
bin=$(dirname "$(readlink -f "$1")")
shift
wanted=" $* "
# A short path, so that what is shown is what a person would see in a folder of their own.
work=/tmp/harbour
rm -rf $work
mkdir -p $work
trap 'rm -rf $work; kill $screen 2>/dev/null || true' EXIT
Xvfb :77 -screen 0 1280x800x24 >/dev/null 2>&1 &
screen=$!
unset LIBRARY_PATH CPATH
export DISPLAY=:77 PATH="$bin:$PATH" FIBULA_SHELF=$work/shelf XDG_STATE_HOME=$work/state
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
  case "$wanted" in
    "  " | *" $1 "*) ;;
    *) (cd "$2" && sed 's/^sleep.*//' $work/play | sh -s $work/lines >/dev/null 2>&1) || true; return ;;
  esac
  (cd "$2" && timeout 60 xterm -geometry 126x40+0+0 -fa 'DejaVu Sans Mono' -fs 12 -bg '#fbfaf7' -fg '#222222' -e sh $work/play $work/lines) &
  sleep 3
  import -window root -crop 1280x800+0+0 "$out/$1.png"
  wait %+ 2>/dev/null || wait $! || true
}

demo/build_libraries.sh $work >/dev/null
demo/build_log_libraries.sh $work >/dev/null
demo/build_libraries.sh $work/wrong -m32 >/dev/null
demo/build_download.sh $work >/dev/null
cp -r demo/harbourlog $work/
cd $work
shot inspect $work 'fibula inspect beacon-1.4'
shot card $work 'fibula inspect beacon-1.4/lib/x64/debug/beacon_s.lib --symbols
fibula inspect beacon-1.4/lib/x64/debug/beacond.lib
fibula inspect tidecalc-2.1.0/lib/libtidecalc.so --needs'
(cd $work && tar -czf tidecalc-2.1.0-linux64.tar.gz tidecalc-2.1.0)
shot take $work 'fibula take tidecalc-2.1.0-linux64.tar.gz
fibula take saltlog-1.2.0
fibula take foghorn-0.4.0
fibula take mooring-0.9.2.tar.gz
fibula take moonphase-1.3.0
fibula shelf
fibula shelf check'
shot begin $work 'fibula begin quaylog
cat quaylog/fibula.toml
fibula -C quaylog lanes --add desk32-debug --compiler g++ --flag=-m32
fibula -C quaylog build --run'
shot which $work 'fibula inspect --for g++ tidecalc-2.1.0-linux64.tar.gz beacon-1.4 wrong/tidecalc-2.1.0 moonphase-1.3.0
fibula inspect --for "g++ -m32" tidecalc-2.1.0-linux64.tar.gz beacon-1.4 wrong/tidecalc-2.1.0 moonphase-1.3.0'
shot show $work 'fibula shelf show foghorn | head -37'
shot explain $work/harbourlog 'fibula explain -- g++ src/*.cpp -o harbourlog'
fibula -C harbourlog attach tidecalc >/dev/null
fibula -C harbourlog attach moonphase >/dev/null
shot fit $work/harbourlog 'fibula fit'
printf '#include <tidecalc.h>\nint main() { int n; return tide_sample_harbour(&n) == nullptr; }\n' >quay.cpp
shot check $work 'fibula check -- g++ quay.cpp -o quay
fibula check -- g++ -Itidecalc-2.1.0/include quay.cpp -Lwrong/tidecalc-2.1.0/lib -ltidecalc -o quay
fibula locate "tide_*" --only-shelf --in harbourlog/src | cut -c1-124
fibula -C harbourlog trial tidecalc'
# A version whose structure grew: programs that were compiled with the one before keep it shorter.
cp -r tidecalc-2.1.0 tidecalc-2.2.0
cp -r "$demo/tidecalc" tide-2.2
sed -i 's/2\.1\.0/2.2.0/; s/  double phase_degrees;/&\n  double speed_change;/' tide-2.2/include/tidecalc.h
cp tide-2.2/include/tidecalc.h tidecalc-2.2.0/include/
(cd tide-2.2 && gcc -w -O2 -fPIC -Iinclude -c src/*.c && ar rcsD ../tidecalc-2.2.0/lib/libtidecalc.a ./*.o &&
  gcc -shared -Wl,-soname,libtidecalc.so.2 ./*.o -lm -o ../tidecalc-2.2.0/lib/libtidecalc.so.2.1.0)
fibula take tidecalc-2.2.0 >/dev/null
shot versions $work/harbourlog 'fibula compare tidecalc/2.1.0 2.2.0
fibula parcel tidecalc 2.1.0 --to ..
fibula take ../tidecalc-2.1.0.tar.zst --dry-run | head -5'
fibula shelf drop tidecalc 2.2.0 >/dev/null
shot build $work/harbourlog 'fibula build --lane desk-release --run -- 3'
fibula -C harbourlog attach tidecalc --linkage shared >/dev/null
fibula -C harbourlog attach foghorn >/dev/null
fibula -C harbourlog attach saltlog >/dev/null
cp -r "$demo/quayhand" $work/
cp -r "$demo/beacon" $work/beacon-1.5.0
cp -r "$demo/lampbus" $work/lampbus-2.1.0
for library in beacon-1.5.0 lampbus-2.1.0; do fibula take $work/$library >/dev/null; done
for library in mooring beacon lampbus; do fibula -C quayhand attach $library >/dev/null; done
shot source $work/quayhand 'fibula fit
fibula build
fibula build --allow-steps --run
fibula build'
shot stage $work/harbourlog 'fibula stage --into ../harbourlog-1.0 --lane desk-release --licences
fibula inspect --needs ../harbourlog-1.0/harbourlog | tail -3
fibula stage --check ../harbourlog-1.0'
rm harbourlog-1.0/libtidecalc.so.2
shot load $work/harbourlog-1.0 'fibula explain -- ./harbourlog
fibula stage --check .'
fibula -C harbourlog detach foghorn >/dev/null
fibula -C harbourlog detach saltlog >/dev/null
fibula -C harbourlog attach tidecalc --linkage any >/dev/null
export FIBULA_SHELF=$work/shelf2
fibula take wrong/tidecalc-2.1.0 >/dev/null
fibula take moonphase-1.3.0 >/dev/null
shot misfit $work/harbourlog 'fibula fit'
# The same project in more lanes: another word size, a board, Windows; tidecalc was built for three of them.
export FIBULA_SHELF=$work/shelf3
mkdir -p many/lib/x64 many/lib/x86 many/lib/arm
cp -r tidecalc-2.1.0/include many/
cp tidecalc-2.1.0/lib/libtidecalc.a many/lib/x64/
cp wrong/tidecalc-2.1.0/lib/libtidecalc.a many/lib/x86/
arm-none-eabi-gcc -O2 -march=armv7-a -mfloat-abi=soft -Itidecalc-2.1.0/include -c "$demo"/tidecalc/src/*.c
arm-none-eabi-ar rcs many/lib/arm/libtidecalc.a ./*.o
rm -f ./*.o
fibula take many --name tidecalc --version 2.1.0 >/dev/null
fibula take moonphase-1.3.0 >/dev/null
cat >>harbourlog/fibula.toml <<'END'

[lane.desk32]
compiler = "g++"
flags = ["-m32"]

[lane.board]
compiler = "arm-linux-gnueabihf-g++"
start-through = "qemu-arm -L /usr/arm-linux-gnueabihf"

[lane.counter]
compiler = "x86_64-w64-mingw32-g++"
start-through = "wine64"

[lane.cellar]
compiler = "clang++"
flags = ["-stdlib=libc++"]
END
shot lanes $work/harbourlog 'fibula lanes'
shot lanes-fit $work/harbourlog 'fibula fit'

# The page, in light and dark.
case "$wanted" in "  " | *" report "*) ;; *) exit ;; esac
(cd harbourlog && fibula build --lane desk-debug --lane desk-release >/dev/null 2>&1 || true
 fibula report --lane desk-debug --lane desk-release --lane desk32 --to $work/report.html >/dev/null)
for mode in light dark; do
  chromium --headless --no-sandbox --disable-gpu --hide-scrollbars --window-size=1280,1000 \
    --blink-settings=preferredColorScheme=$([ $mode = dark ] && echo 0 || echo 1) \
    --screenshot="$out/report$([ $mode = dark ] && echo -dark || true).png" file://$work/report.html >/dev/null 2>&1
done
