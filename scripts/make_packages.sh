#!/usr/bin/env bash
# Debian packages of the tool, the libraries, their headers and the Python module, looked at by lintian.
#
#   scripts/make_packages.sh [FOLDER]      [build/packages]
set -euo pipefail
cd "$(dirname "$0")/.."
jolly_iris_for=packages
source scripts/install_packages.sh
folder=${1:-build/packages}
build=build/packaged
cmake --preset release -B "$build" -DCMAKE_INSTALL_PREFIX=/usr -DJOLLY_IRIS_BUILD_TESTS=OFF \
  -DJOLLY_IRIS_BUILD_EXAMPLES=OFF -DJOLLY_IRIS_BUILD_BENCH=OFF
CCACHE_BASEDIR=$PWD CCACHE_NOHASHDIR=1 CCACHE_SLOPPINESS=pch_defines,time_macros cmake --build "$build"
mkdir -p "$folder"
rm -f "$folder"/*.deb
(cd "$build" && cpack -G DEB -B "$OLDPWD/$folder")
rm -rf "$folder/_CPack_Packages"
lintian --fail-on error --tag-display-limit 0 "$folder"/*.deb
ls -l "$folder"/*.deb
