#!/usr/bin/env bash
# Makes docs/screenshots/controls.png: for every control of the iris and the lens a pair of discs,
# without and with just that control. Needs a release build (or BUILD=…), imagemagick and
# fonts-dejavu-core.
set -euo pipefail
cd "$(dirname "$0")/.."
tool=$PWD/build/${BUILD:-release}/bin/jolly-iris
shot=demo/regatta/hero.shot.toml
scratch=$(mktemp -d)
trap 'rm -rf "$scratch"' EXIT
tiles=()

disc() { # FILE OPTION …
  local file=$1
  shift
  "$tool" bokeh "$shot" --set lens.iris.rotation="0 deg" --set take.stop=f/1.8 \
    --kernel "$file" --size 150 "$@" > "$scratch/log" 2>&1 || { cat "$scratch/log"; exit 1; }
}
with() { # "a=b|c=d" → --set a=b --set c=d
  local IFS='|'
  for s in $1; do printf '%s\n' --set "$s"; done
}
pair() { # WORDS WITHOUT WITH [OPTION …]
  local words=$1 n=${#tiles[@]} off on
  mapfile -t off < <(with "$2")
  mapfile -t on < <(with "$3")
  shift 3
  disc "$scratch/a$n.png" "${off[@]}" "$@"
  disc "$scratch/b$n.png" "${on[@]}" "$@"
  convert "$scratch/a$n.png" "$scratch/b$n.png" +append -background '#f9f7f3' \
    -font DejaVu-Sans -pointsize 12 -fill '#21262e' label:"$words" -gravity center -append \
    "$scratch/p$n.png"
  tiles+=("$scratch/p$n.png")
}

corner=(--pixel 1880,40)
round="lens.iris.blades=0|lens.iris.blade_radius=round"
pair "blades: round, 6 straight" "$round" "lens.iris.blades=6|lens.iris.blade_radius=straight"
pair "rotation: 0, 20 deg" "lens.iris.blades=5" "lens.iris.blades=5|lens.iris.rotation=20 deg"
pair "blade_radius: straight, 1.3 x" "lens.iris.blades=6|lens.iris.blade_radius=straight" \
  "lens.iris.blades=6|lens.iris.blade_radius=1.3 x"
pair "blade_radius: straight, -6 x" "lens.iris.blades=7|lens.iris.blade_radius=straight" \
  "lens.iris.blades=7|lens.iris.blade_radius=-6 x"
pair "uneven: 0, 0.06" "lens.iris.blades=7|lens.iris.blade_radius=straight" \
  "lens.iris.blades=7|lens.iris.blade_radius=straight|lens.iris.uneven=0.06"
pair "outline: none, heart.svg" "$round" "lens.look=../looks/heart.look.toml"
pair "obstruction: 0, 0.45" "$round" "$round|lens.iris.obstruction=0.45"
pair "rim: 0, +1.2 stops" "$round" "$round|lens.iris.rim=1.2"
pair "rim: 0, -2 stops" "$round" "$round|lens.iris.rim=-2"
pair "rings: 0, 8" "$round" "$round|lens.iris.rings=8|lens.iris.ring_strength=0.5"
pair "dust: 0, 45" "$round" "$round|lens.iris.dust=45|lens.iris.dust_size=0.05"
pair "scratches: 0, 8" "$round" "$round|lens.iris.scratches=8"
pair "faults.spherical: 0, 0.14 mm (behind)" "$round" "$round|lens.faults.spherical=0.14 mm"
pair "faults.spherical: 0, 0.14 mm (in front)" "$round" "$round|lens.faults.spherical=0.14 mm" --at 1.2m
pair "focus_red, _blue: 0, ∓0.04 dpt (behind)" "$round" \
  "$round|lens.faults.focus_red=-0.04 dpt|lens.faults.focus_blue=0.04 dpt"
pair "focus_red, _blue: the same, in front" "$round" \
  "$round|lens.faults.focus_red=-0.04 dpt|lens.faults.focus_blue=0.04 dpt" --at 1.2m
pair "magnification_red, _blue: 1 ± 0.002, corner" "$round" \
  "$round|lens.faults.magnification_red=1.002|lens.faults.magnification_blue=0.998" "${corner[@]}"
pair "faults.coma: 0, 0.5 mm, corner" "$round" \
  "$round|lens.faults.coma=0.5 mm|lens.faults.height=14 mm" "${corner[@]}"
pair "barrel: none, swirl, corner" "$round" "$round|lens.look=../looks/swirl.look.toml" "${corner[@]}"
pair "squeeze: 1, 2" "$round" "$round|lens.squeeze=2"

montage "${tiles[@]}" -tile 4x5 -geometry +8+6 -background '#f9f7f3' docs/screenshots/controls.png
convert docs/screenshots/controls.png -resize 1280x docs/screenshots/controls.png
