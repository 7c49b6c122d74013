#!/bin/sh
# Makes the Debian packages of the committed state, has lintian look at them, and builds and runs a program against the
# static and the shared library out of them. About fifteen minutes on two cores. usage: check_packages.sh
set -eu
cd "$(dirname "$0")/.."
for program in dh lintian dpkg-buildpackage; do
  command -v $program >/dev/null || apt-get -qq install -y --no-install-recommends debhelper lintian dpkg-dev >/dev/null
done
version=$(sed -n '1s/.*(\(.*\)-.*/\1/p' debian/changelog)
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
mkdir "$work/fibula-$version"
git archive HEAD | tar -x -C "$work/fibula-$version"
(cd "$work/fibula-$version" && dpkg-buildpackage -us -uc -b "-j$(nproc)") >"$work/build.log" 2>&1 || { tail -n 40 "$work/build.log"; exit 1; }
lintian --fail-on error "$work"/*.changes
for package in fibula_ libfibula"${version%.*}"_ libfibula-dev_; do dpkg -x "$work/$package$version"*.deb "$work/root"; done
mkdir "$work/consumer"
cp tests/consumer/main.cpp "$work/consumer"
cat >"$work/consumer/CMakeLists.txt" <<'END'
cmake_minimum_required(VERSION 3.25)
project(consumer LANGUAGES CXX)
find_package(fibula REQUIRED)
foreach(form fibula shared)
  add_executable(with-${form} main.cpp)
  target_link_libraries(with-${form} PRIVATE fibula::${form})
endforeach()
END
cmake -S "$work/consumer" -B "$work/consumer/build" -G Ninja -DCMAKE_PREFIX_PATH="$work/root/usr" >/dev/null
cmake --build "$work/consumer/build" >/dev/null
for form in fibula shared; do
  LD_LIBRARY_PATH="$work/root/usr/lib/$(gcc -print-multiarch)" "$work/consumer/build/with-$form" | grep -qx program
done
man -l "$work/root/usr/share/man/man1/fibula.1.gz" >/dev/null
"$work/root/usr/bin/fibula" --version
ls -l "$work"/*.deb
