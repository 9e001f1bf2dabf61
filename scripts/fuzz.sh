#!/usr/bin/env bash
# Feeds every reader with any bytes for some hours, and says what came of it:
#
#   scripts/fuzz.sh HOURS [TARGET …]
#
# Built without sanitizers, which makes it ten times as quick; the tests run the same targets with them
# for seconds each. What is found is kept in build/fuzz/found, and belongs into fuzz/corpus once it is
# mended.
set -euo pipefail
cd "$(dirname "$0")/.."
hours=${1:?how many hours}
shift
cmake --preset fuzz > /dev/null
cmake --build --preset fuzz > build/fuzz.log 2>&1 || { tail -40 build/fuzz.log; exit 1; }
targets=("$@")
if [ ${#targets[@]} = 0 ]; then
  for program in build/fuzz/bin/fuzz_*; do targets+=("${program##*fuzz_}"); done
fi
cores=$(nproc)
seconds=$(awk "BEGIN { print int($hours * 3600 * $cores / ${#targets[@]}) }")
mkdir -p build/fuzz/found build/fuzz/logs

one() {
  local what=$1 words=()
  mkdir -p "build/fuzz/corpus/$what"
  [ -e "fuzz/words/$what.words" ] && words=(-dict="fuzz/words/$what.words")
  "build/fuzz/bin/fuzz_$what" "$PWD/build/fuzz/corpus/$what" "$PWD/fuzz/corpus/$what" "${words[@]}" \
    -max_total_time="$2" -max_len=4096 -entropic=0 -timeout=5 -rss_limit_mb=1024 -print_final_stats=1 \
    -artifact_prefix="$PWD/build/fuzz/found/$what-" > /dev/null 2> "build/fuzz/logs/$what.log" || true
}
export -f one
printf '%s\n' "${targets[@]}" | xargs -P "$cores" -I{} bash -c "one {} $seconds"

printf '%-12s %14s %10s %12s  %s\n' target executions 'a second' 'most MB' found
for what in "${targets[@]}"; do
  log=build/fuzz/logs/$what.log
  number() { sed -n "s/^stat::$1: *//p" "$log" | tail -1; }
  found=$(find build/fuzz/found -name "$what-*" | wc -l)
  printf '%-12s %14s %10s %12s  %s\n' "$what" "$(number number_of_executed_units)" \
    "$(number average_exec_per_sec)" "$(number peak_rss_mb)" "$found"
done
