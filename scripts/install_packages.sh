#!/bin/sh
# Installs from Debian's packages what is missing to build Fibula and, with --test, to test it.
# usage: install_packages.sh [--test]
set -eu
packages="g++ cmake ninja-build ccache git python3-minimal
  libfmt-dev libcli11-dev nlohmann-json3-dev libtomlplusplus-dev libexpected-dev nettle-dev libxxhash-dev libuv1-dev libyaml-dev"
if [ "${1:-}" = --test ]; then
  packages="$packages clang llvm g++-12-multilib libgtest-dev libbenchmark-dev libsqlite3-dev zlib1g-dev python3-jsonschema"
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
