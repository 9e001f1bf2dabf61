#!/usr/bin/env bash
# Makes docs/screenshots/finish.png: for every part of a finish a pair of pictures, without and with
# just that part. Needs a release build (or BUILD=…), imagemagick and fonts-dejavu-core.
set -euo pipefail
cd "$(dirname "$0")/.."
tool=$PWD/build/${BUILD:-release}/bin/jolly-iris
shot=demo/regatta/hero.shot.toml
scratch=$(mktemp -d)
trap 'rm -rf "$scratch"' EXIT
tiles=()

sharp=demo/regatta/pinhole.exr
look() { # FILE "a=b|c=d"
  local IFS='|' sets=() flags=(--finish)
  for s in $2; do sets+=(--set "$s"); done
  [[ $2 == *finish.* ]] || flags=()
  "$tool" defocus "$shot" "$sharp" "${flags[@]}" "${sets[@]}" -o "$1" > "$scratch/log" 2>&1 ||
    { cat "$scratch/log"; exit 1; }
}
pair() { # WORDS WITHOUT WITH CROP
  look "$scratch/a.png" "$2"
  look "$scratch/b.png" "$3"
  tile "$1" "$4"
}
quietly() { "$tool" "$@" > "$scratch/log" 2>&1 || { cat "$scratch/log"; exit 1; }; }
tile() { # WORDS CROP, of a.png and b.png
  local n=${#tiles[@]}
  for side in a b; do
    convert "$scratch/$side.png" -crop "$2" +repage -filter point -resize 290x157! "$scratch/$side$n.png"
  done
  convert "$scratch/a$n.png" "$scratch/b$n.png" +append -background '#f9f7f3' \
    -font DejaVu-Sans -pointsize 12 -fill '#21262e' label:"${1//%/%%}" -gravity center -append "$scratch/p$n.png"
  tiles+=("$scratch/p$n.png")
}
lamps=620x336+660+300
lift="finish.lift_from=4 stops|finish.lift_to=12 stops"
# A picture that ends at white, as from a program that keeps no more.
oiiotool "$sharp" --clamp:max=1,1,1,1,1e30 -o "$scratch/clipped.exr"
sharp=$scratch/clipped.exr
pair "lift: of a picture that ends at white, from 2 stops up, to 9 stops" \
  "take.stop=f/1.8" "take.stop=f/1.8|finish.lift_from=2 stops|finish.lift_to=9 stops" "$lamps"
sharp=demo/regatta/pinhole.exr
passing=demo/regatta/passing.shot.toml
quietly trace "$passing" --frame 1013 --half --pinhole --motion --samples 16 -o "$scratch/passing.exr"
quietly defocus "$passing" "$scratch/passing.exr" --frame 1013 -o "$scratch/a.png"
quietly defocus "$passing" "$scratch/passing.exr" --frame 1013 --finish -o "$scratch/b.png"
tile "smear: a boat that passes while the shutter is open" "520x281+220+259"
pair "halo: 12 % of the light, reach 0.4 %" "$lift" \
  "$lift|finish.halo.share=12 %|finish.halo.reach=0.4 %" "$lamps"
pair "spikes: six straight blades at f/4, ten times as much" \
  "$lift|take.stop=f/4|lens.iris.blades=6|lens.iris.blade_radius=straight" \
  "$lift|take.stop=f/4|lens.iris.blades=6|lens.iris.blade_radius=straight|finish.spikes.times=10" "$lamps"
pair "streak: 6 % of the light, reach 3 %, blue" "$lift" \
  "$lift|finish.streak.share=6 %|finish.streak.reach=3 %|finish.streak.colour=[0.3, 0.6, 1]" "$lamps"
pair "corners: 1.5 stops" "take.stop=f/2.2" "finish.corners=1.5 stops" "1280x694+0+20"
pair "cast: 40 mired warmer" "take.stop=f/2.2" "finish.cast=40" "1280x694+0+20"
pair "grain: 1.5 % of white at mid-grey, softened over 0.8 px of 1920" "take.stop=f/2.2" \
  "finish.grain.grey=0.015|finish.grain.black=0.003|finish.grain.size=0.8 px" "155x84+460+580"
pair "all of demo/looks/hazy.look.toml" "take.stop=f/2.2" \
  "lens.look=../looks/hazy.look.toml|finish.halo.power=2.6" "$lamps"

# The loop: a plate with grain and darker corners, and CG that was given what measure and compare
# say of it.
evening=(--set "finish.corners=0.8 stops" --set finish.grain.black=0.001 --set finish.grain.grey=0.008)
quietly trace "$shot" --half --samples 64 -o "$scratch/lens.exr"
quietly finish "$shot" "$scratch/lens.exr" "${evening[@]}" --set finish.grain.seed=7 -o "$scratch/a.png"
quietly trace "$shot" --half --pinhole --samples 16 -o "$scratch/sharp.exr"
quietly defocus "$shot" "$scratch/sharp.exr" --finish "${evening[@]}" -o "$scratch/b.png"
tile "a plate with grain and corners, and CG with what the plate tells" "960x520+0+10"

montage "${tiles[@]}" -tile 2x5 -geometry +8+2 -background '#f9f7f3' docs/screenshots/finish.png
