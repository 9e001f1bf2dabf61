#!/usr/bin/env bash
# All tests: an optimised build with warnings as errors, then the same under AddressSanitizer and
# UndefinedBehaviorSanitizer, then the readers of files fed with any bytes for a minute. Installs what
# is missing first.
#
#   ./test.sh           all three
#   ./test.sh quick     the optimised build alone
set -euo pipefail
cd "$(dirname "$0")"
jolly_iris_for=tests
source scripts/install_packages.sh

scripts/check_kit.sh

jobs=$(nproc)
presets=(ci sanitize fuzz)
[ "${1:-}" != quick ] || presets=(ci)

mkdir -p build
for preset in "${presets[@]}"; do
  echo "== $preset: building"
  cmake --preset "$preset" > "build/$preset.log" 2>&1 || { cat "build/$preset.log"; exit 1; }
  cmake --build --preset "$preset" > "build/$preset.log" 2>&1 || { tail -60 "build/$preset.log"; exit 1; }
  echo "== $preset: testing"
  ctest --test-dir "build/$preset" -j "$jobs" --output-on-failure --no-tests=error
done
