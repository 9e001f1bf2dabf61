#!/usr/bin/env bash
# The kit of the demo and the tests is made up: no file holds two numbers of the set that an earlier
# kit was made of, and that stands too near to equipment which exists. One alone is a number like any
# other (match tries adapters of 0.71, since such are sold).
#
#   scripts/check_kit.sh      names each file that holds two or more, and exits 1
set -euo pipefail
cd "$(dirname "$0")/.."

# However it is written: "58 mm", 58_mm, 58.0 mm; a gate in millimetres with x, × or a comma between.
unit='( mm|_mm|mm)?'
between=' *[x×,] *'
set_of=(
  '(^|[^0-9.])58(\.0+)?( mm|_mm|mm)([^a-z]|$)'
  '(^|[^0-9.])0\.710?([^0-9]|$)'
  "(^|[^0-9.])24\.60*$unit${between}13\.80*([^0-9]|$)"
  "(^|[^0-9.])17\.30*$unit${between}9\.730*([^0-9]|$)"
  '(^|[^0-9.])41\.180*([^0-9]|$)'
  '(^|[^0-9.])41\.20*( mm|_mm|mm)([^a-z]|$)'
)

mapfile -t files < <(git ls-files -co --exclude-standard -- ':!scripts/check_kit.sh')
found=$(for pattern in "${set_of[@]}"; do
  grep -lIE -- "$pattern" "${files[@]}" 2>/dev/null || true
done | sort | uniq -d)
if [ -n "$found" ]; then
  echo "These files hold two or more numbers of the old kit:"
  for file in $found; do
    echo "  $file"
    for pattern in "${set_of[@]}"; do grep -nIE -m 2 -- "$pattern" "$file" | sed 's/^/    /' | cut -c1-120 || true; done
  done
  exit 1
fi
echo "kit: ${#files[@]} files searched, none holds two numbers of the old kit"
