#!/bin/sh
# Installs what is missing, builds Fibula, and runs the harbour sample from its libraries to its tables.
# The work folder demo/work can be removed at any time.
set -eu
cd "$(dirname "$0")/.."
scripts/install_packages.sh
cmake --preset release -DFIBULA_DEVELOPER=OFF >/dev/null
cmake --build --preset release --target fibula-cli
exec demo/run.sh "$PWD/build/release/bin/fibula"
