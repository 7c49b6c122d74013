#!/bin/sh
# Installs from Debian's packages what is missing to build Fibula and, with --test, to test it; --native leaves out the compilers for
# other systems. usage: install_packages.sh [--test [--native]]
set -eu
packages="g++ cmake ninja-build ccache git python3-minimal
  libfmt-dev libcli11-dev nlohmann-json3-dev libtomlplusplus-dev libexpected-dev nettle-dev libxxhash-dev libuv1-dev libyaml-dev libarchive-dev"
# Any of libcurl's development packages will do, and they exclude each other.
ls /usr/include/sqlite3.h >/dev/null 2>&1 || packages="$packages libsqlite3-dev"
ls /usr/include/*/curl/curl.h >/dev/null 2>&1 || packages="$packages libcurl4-openssl-dev"
if [ "${1:-}" = --test ]; then
  packages="$packages clang llvm g++-12-multilib nasm libgtest-dev libbenchmark-dev libsqlite3-dev zlib1g-dev python3-jsonschema
    bubblewrap make fish zsh zip bzip2 xz-utils zstd p7zip-full rpm nginx-light util-linux bsdutils graphviz"
fi
# Compilers and linkers for other systems, and what starts their programs here; 680 MB to fetch.
if [ "${1:-}" = --test ] && [ "${2:-}" != --native ]; then
  packages="$packages clang-14 clangd libclang-rt-14-dev clang-tools-14 lld-14 llvm-14 libc++-14-dev libc++abi-14-dev musl-tools
    g++-aarch64-linux-gnu g++-arm-linux-gnueabihf g++-riscv64-linux-gnu g++-s390x-linux-gnu
    g++-mingw-w64-x86-64-posix g++-mingw-w64-x86-64-win32 g++-mingw-w64-i686-posix g++-mingw-w64-i686-win32
    gcc-arm-none-eabi libnewlib-arm-none-eabi gcc-avr avr-libc mold qemu-user qemu-system-arm simavr wine64"
fi
missing=
for package in $packages; do
  dpkg-query -W -f '${Status}' "$package" 2>/dev/null | grep -q 'install ok installed' || missing="$missing $package"
done
[ -n "$missing" ] || exit 0
echo "installing:$missing"
sudo=
[ "$(id -u)" = 0 ] || sudo=sudo
export DEBIAN_FRONTEND=noninteractive
$sudo apt-get -o DPkg::Lock::Timeout=900 -qq update
# --no-remove: a package that would throw out a compiler of the machine stops here.
# shellcheck disable=SC2086
$sudo apt-get -o DPkg::Lock::Timeout=900 -qq install -y --no-remove --no-install-recommends $missing >/dev/null
