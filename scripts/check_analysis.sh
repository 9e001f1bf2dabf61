#!/usr/bin/env bash
# What clang-tidy and cppcheck have to say of our code; ends with 1 and their words where they have.
#
#   scripts/check_analysis.sh [ROOM …]      rooms of src; all of them otherwise
#
# A room's files are looked at together, since most of the time goes into the headers they share. With the
# compiler's own warnings: builds join a few files at a time, and which ones changes with every new file.
set -euo pipefail
cd "$(dirname "$0")/.."

rooms=("$@")
if [ ${#rooms[@]} = 0 ]; then
  for room in src/*/; do rooms+=("$(basename "$room")"); done
fi
made=build/analysis
rm -rf "$made"
mkdir -p "$made"
for room in "${rooms[@]}"; do
  find "src/$room" -name '*.cpp' | sort | sed "s|.*|#include \"$PWD/&\"|" > "$made/$room.cpp"
done

tidy() {
  clang-tidy-16 --quiet "$1" -- -Wall -Wextra -Wshadow -Werror -std=c++20 -DFMT_SHARED -Iinclude -Isrc \
    -isystem /usr/include/cairo -isystem /usr/include/eigen3 -isystem /usr/include/Imath \
    > "$1.said" 2> "$1.err" && return
  grep -E '(warning|error): ' "$1.said" || tail -5 "$1.err"
  return 1
}
export -f tidy
good=true
# The largest first, so that none is left over at the end.
wc -c "$made"/*.cpp | sort -rn | awk '$2 != "total" { print $2 }' |
  xargs -P "$(nproc)" -I{} bash -c 'tidy {}' || good=false
cppcheck --enable=warning,performance,portability --inline-suppr --std=c++20 --language=c++ --quiet \
  -j "$(nproc)" --error-exitcode=1 -Iinclude -Isrc "${rooms[@]/#/src/}" || good=false
$good || exit 1
echo "clang-tidy and cppcheck have nothing to say"
