#!/bin/sh
# Makes the folder in which wine keeps its Windows, once and before tests that start programs side by side. usage: wine_prefix.sh FOLDER
set -eu
[ ! -f "$1/system.reg" ] || exit 0
mkdir -p "$1"
export WINEPREFIX="$1" WINEDEBUG=-all WINEDLLOVERRIDES="mscoree,mshtml,winemenubuilder.exe,winedbg.exe,services.exe,explorer.exe=d"
timeout 120 /usr/lib/wine/wine64 wineboot.exe -i </dev/null >/dev/null 2>&1
# What it wrote is on the disk when its server has ended.
timeout 60 /usr/lib/wine/wineserver64 -w 2>/dev/null || sleep 5
test -f "$1/system.reg"
