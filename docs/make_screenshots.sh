#!/usr/bin/env bash
# Makes docs/screenshots/ anew from the demo data (some minutes). Beyond the build's packages it
# needs: xvfb xauth xterm imagemagick fonts-dejavu-core chromium.
set -euo pipefail
cd "$(dirname "$0")/.."
tool=$PWD/build/${BUILD:-release}/bin
shots=docs/screenshots
scratch=$(mktemp -d)
trap 'rm -rf "$scratch"' EXIT

# Commands one below the other, as they look in a terminal of 1280 × 800.
terminal() { # NAME LETTER-SIZE COMMAND …
  local name=$1 size=$2
  shift 2
  printf '#!/bin/bash\nexport PATH=%q:$PATH\nclear\n' "$tool" > "$scratch/run.sh"
  for command in "$@"; do
    printf 'echo %q\n%s 2>&1\necho\n' "\$ $command" "$command" >> "$scratch/run.sh"
  done
  echo 'sleep 30' >> "$scratch/run.sh"
  xvfb-run -a -s '-screen 0 1280x800x24' bash -c "
    xterm -fa 'DejaVu Sans Mono' -fs $size -geometry 200x70+0+0 -bg '#1d2024' -fg '#dcdcd4' \
      -b 10 -e bash '$scratch/run.sh' & sleep 8; import -window root '$shots/$name.png'; kill %1" || true
}

hero=demo/regatta/hero.shot.toml
terminal report 9 "jolly-iris report demo/regatta/reeds.shot.toml"
terminal solve 10 "jolly-iris solve $hero --hold 'boat,second boat'" \
  "jolly-iris solve $hero --wish 'buoy 1 by 3 px' --wish 'footbridge at least 20 px'" \
  "jolly-iris solve $hero --blur '30 px' --at footbridge --by all" \
  "jolly-iris report $hero --for fixed-gate" \
  "jolly-iris report $hero --against demo/regatta/quick.typed.toml"
convert "$shots/report.png" "$shots/solve.png" -append -strip "$scratch/both.png"
mv "$scratch/both.png" "$shots/report.png"
rm "$shots/solve.png"
quay=demo/regatta/quay.shot.toml
terminal start 9 "jolly-iris start demo/regatta/regatta.gltf -o out/scene.shot.toml --replace" \
  "jolly-iris handoff out/scene.shot.toml --to out" "grep -A7 'def Camera' out/scene.camera.usda"
terminal match 9 "jolly-iris match demo/regatta/notes.shot.toml"

dusk=demo/regatta/dusk.shot.toml
"$tool/jolly-iris" defocus "$dusk" demo/regatta/pinhole.exr -o "$scratch/dusk.cg.exr"
"$tool/jolly-iris" expose "$dusk" "$scratch/dusk.cg.exr" --as-plate --light "5600 K" \
  --sheet "$shots/exposure.png"

# ---- plan and page ----
"$tool/jolly-iris" glass demo/glass/sedge-17.glass.toml --on "super 35 3-perf" --section "$shots/glass.png"
"$tool/jolly-iris" plan "$hero" -o "$shots/plan.png"
"$tool/jolly-iris" shots demo/regatta --variants --sheet "$shots/shots.png"
"$tool/jolly-iris" match demo/regatta/pull.shot.toml --frames all --sheet "$shots/pull.png"
"$tool/jolly-iris" measure "$hero" --discs --overlay "$shots/discs.png"
notes=demo/regatta/notes.shot.toml
"$tool/jolly-iris" match "$notes" --accept
"$tool/jolly-iris" defocus "$notes" demo/regatta/pinhole.exr --as-noted -o "$scratch/noted.png"
"$tool/jolly-iris" defocus "$notes" demo/regatta/pinhole.exr -o "$scratch/solved.png"
"$tool/jolly-iris" compare "$notes" "$scratch/noted.png" "$scratch/solved.png" --sheet "$shots/compare.png"
"$tool/jolly-iris" page "$hero" --sharp demo/regatta/pinhole.exr --steps take.stop=f/1.8,f/2.2,f/2.8,f/4,f/8 \
  --with demo/regatta/plate.jpg -o "$scratch/hero.page.html"
browser() { # NAME WIDTH,HEIGHT
  chromium --headless=new --no-sandbox --disable-gpu --hide-scrollbars --window-size="$2" \
    --screenshot="$shots/$1.png" "file://$scratch/$1.html" > "$scratch/browser.log" 2>&1
}
# A focus and two edges as somebody would point at them.
pointing='<script>addEventListener("load", () => { const p = document.getElementById("plate");
const at = (x, y) => { const b = p.getBoundingClientRect(); p.dispatchEvent(new MouseEvent("click",
{clientX: b.left + x * b.width, clientY: b.top + y * b.height})); };
const tool = (n) => document.querySelector(`.tools input[value=${n}]`).click();
tool("line"); document.getElementById("runs").value = "vertical";
at(0.1, 0.1); at(0.098, 0.42); document.getElementById("end-edge").click();
at(0.62, 0.12); at(0.621, 0.42); document.getElementById("end-edge").click();
tool("focus"); at(0.79, 0.77); });</script>'
sed "s#</body>#$(echo "$pointing" | tr '\n' ' ' | sed 's/[&#]/\\&/g')</body>#" "$scratch/hero.page.html" > "$scratch/page.html"
browser page 1280,800
docs/live_shots.py "$tool/jolly-iris" "$shots"
# ---- the quay: as shot, straight, level ----
"$tool/jolly-iris" undistort "$quay" --variant measured --same-size -o "$scratch/straight.png"
level=()
while IFS= read -r set; do level+=(--set "$set"); done < <("$tool/jolly-iris" solve "$quay" --level \
  --by lines --keep 960,925 --json | sed -n '/"try"/,/]/s/^ *"\(.*=.*\)",\{0,1\}$/\1/p')
"$tool/jolly-iris" trace "$quay" "${level[@]}" --half --samples 48 -o "$scratch/level.png"

oiiotool demo/regatta/pinhole.exr --ch R,G,B --colorconvert linear sRGB -d uint8 -o "$scratch/pinhole.png"
"$tool/jolly-iris" trace demo/regatta/hero.shot.toml --half --samples 256 -o "$shots/trace.png"
"$tool/jolly-iris" trace demo/glass/evening.shot.toml --half --samples 256 -o "$scratch/glass.png"
convert "$shots/trace.png" "$scratch/glass.png" -append -strip "$scratch/both.png"
mv "$scratch/both.png" "$shots/trace.png"
"$tool/jolly-iris" defocus demo/regatta/hero.shot.toml demo/regatta/pinhole.exr -o "$shots/defocus.png"

label() { # FILE TEXT
  convert "$1" -resize 640x -font DejaVu-Sans -pointsize 17 -fill '#dcdcd4' -gravity NorthWest \
    -annotate +12+8 "$2" "$1"
}

cp demo/regatta/quay.jpg "$scratch/shot.png.jpg"
convert "$scratch/shot.png.jpg" "$scratch/shot.png"
label "$scratch/shot.png" "the plate: its lens bends lines, its camera looks up"
label "$scratch/straight.png" "undistort: edges are straight; verticals still converge"
label "$scratch/level.png" "CG through solve --level: verticals are parallel"
convert "$scratch/shot.png" "$scratch/straight.png" "$scratch/level.png" -resize 640x \
  -background '#1d2024' \( -clone 0-1 +append \) \( -clone 2 -gravity center -extent 1280x360 \) \
  -delete 0-2 -append "$shots/lines.png"

# ---- bokeh ----
BUILD=${BUILD:-release} docs/make_pairs.sh
BUILD=${BUILD:-release} docs/make_finish_pairs.sh
"$tool/jolly-iris" bokeh demo/regatta/oval.shot.toml -o "$shots/bokeh.png"
looks=
for n in clean six-sided soft swirl hollow-rims oval onion fringed comets hazy starry streaked; do
  looks+=${looks:+,}../looks/$n.look.toml
done
"$tool/jolly-iris" bokeh "$hero" --set take.stop=f/1.4 --set lens.widest=f/1.4 --vary "lens.look=$looks" \
  --as defocus --sharp demo/regatta/pinhole.exr -o "$shots/looks.png"
