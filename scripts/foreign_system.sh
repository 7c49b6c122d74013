#!/bin/sh
# Makes the root of a system for another machine from Debian's packages, which are unpacked and never installed; links that
# lead from its root are made relative, as linkers of this machine need them. usage: foreign_system.sh ARCHITECTURE FOLDER PACKAGE...
set -eu
arch=$1 folder=$2
shift 2
mkdir -p "$folder/lists/partial" "$folder/archives/partial" "$folder/root"
folder=$(cd "$folder" && pwd)
cat >"$folder/apt.conf" <<END
APT::Architecture "$arch"; APT::Architectures { "$arch"; };
Dir::State::lists "$folder/lists"; Dir::State::status "/dev/null"; Dir::Cache "$folder"; Dir::Cache::archives "$folder/archives";
Debug::NoLocking "1"; APT::Sandbox::User "root"; Acquire::Languages "none";
END
export APT_CONFIG="$folder/apt.conf"
apt-get -qq update || true
cd "$folder"
apt-get -qq download "$@"
for package in ./*.deb; do dpkg-deb -x "$package" root; done
# Debian's systems have /lib as a link to /usr/lib; unpacked packages have both.
if [ ! -L root/lib ]; then
  cp -a root/lib/. root/usr/lib/
  rm -r root/lib
  ln -s usr/lib root/lib
fi
find root -type l | while IFS= read -r link; do
  target=$(readlink "$link")
  case $target in
    /*) ln -sfn "$(realpath -m --relative-to="$(dirname "$link")" "root$target")" "$link" ;;
  esac
done
echo "$folder/root"
