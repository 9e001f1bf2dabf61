#!/usr/bin/env bash
# Whether clang-format has nothing to say of our code; ends with 1 and its words where it has.
set -euo pipefail
cd "$(dirname "$0")/.."
find bench bindings demo examples fuzz include src tests -name '*.cpp' -o -name '*.hpp' |
  xargs clang-format --dry-run --Werror
echo "the formatter has nothing to say"
