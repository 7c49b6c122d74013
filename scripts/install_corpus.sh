#!/bin/sh
# Installs the Debian packages of a list in scripts/corpus: those that cannot be installed beside what is here are told and left out.
# usage: install_corpus.sh LIST...
set -eu
export DEBIAN_FRONTEND=noninteractive
as_root=
[ "$(id -u)" = 0 ] || as_root=sudo
for list in "$@"; do
  packages=$(grep -v '^#' "$list" | tr ' ' '\n' | grep .)
  if $as_root apt-get -o DPkg::Lock::Timeout=900 install -y -qq --no-remove --no-install-recommends $packages >/dev/null 2>&1; then continue; fi
  for package in $packages; do
    $as_root apt-get -o DPkg::Lock::Timeout=900 install -y -qq --no-remove --no-install-recommends "$package" >/dev/null 2>&1 ||
      echo "$package: cannot be installed here" >&2
  done
done
