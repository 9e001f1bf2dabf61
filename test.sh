#!/usr/bin/env bash
# All tests: what clang-tidy and cppcheck say, an optimised build with warnings as errors, then most tests
# under AddressSanitizer and UndefinedBehaviorSanitizer (clang), where the readers of files are fed with any
# bytes for a minute as well. Installs what is missing first.
#
#   ./test.sh           all of it
#   ./test.sh quick     the optimised build alone, without analysis, browser, documentation, whole chains on the
#                       demo data and statistics over many made plates
set -euo pipefail
cd "$(dirname "$0")"
jolly_iris_for=tests
source scripts/install_packages.sh

scripts/check_kit.sh
scripts/check_rooms.py
scripts/check_links.py
scripts/check_format.sh

jobs=$(nproc)
presets=(ci sanitize)
which=()
if [ "${1:-}" = quick ]; then
  presets=(ci)
  which=(-L quick)
fi

mkdir -p build
[ "${1:-}" = quick ] || scripts/check_analysis.sh
for preset in "${presets[@]}"; do
  echo "== $preset: building"
  cmake --preset "$preset" > "build/$preset.log" 2>&1 || { cat "build/$preset.log"; exit 1; }
  cmake --build --preset "$preset" > "build/$preset.log" 2>&1 || { tail -60 "build/$preset.log"; exit 1; }
  echo "== $preset: testing"
  ctest --test-dir "build/$preset" -j "$jobs" --output-on-failure --no-tests=error ${which[@]+"${which[@]}"}
done
