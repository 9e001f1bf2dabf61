#!/usr/bin/env bash
# From a fresh Debian 12 to pictures in out/: installs what is missing, builds, and runs the demo
# shots through every verb.
set -euo pipefail
cd "$(dirname "$0")"
source scripts/install_packages.sh

echo "Building (some minutes the first time) ..."
mkdir -p build
{ cmake --preset release && cmake --build --preset release --target jolly-iris; } \
  > build/demo.log 2>&1 || { tail -40 build/demo.log; exit 1; }

tool=build/release/bin/jolly-iris
shot=demo/regatta/hero.shot.toml
mkdir -p out
run() {
  echo
  echo "\$ jolly-iris $*"
  "$tool" "$@"
}
run start demo/regatta/plate.jpg -o out/first.shot.toml --replace
run start demo/regatta/regatta.gltf -o out/scene.shot.toml --replace
run report out/scene.shot.toml
run report "$shot"
run report demo/regatta/drift.shot.toml --frames all --step 12
run solve "$shot" --hold "boat,second boat"
run report "$shot" --against demo/regatta/quick.typed.toml
run trace "$shot" --half --samples 64 -o out/hero.trace.png -o out/hero.trace.exr
run defocus "$shot" demo/regatta/pinhole.exr -o out/hero.defocus.png -o out/hero.defocus.exr
run finish "$shot" out/hero.defocus.exr --set "finish.halo.share=6 %" --set "finish.halo.reach=0.4 %" \
  --set finish.grain.grey=0.006 -o out/hero.finish.png
passing=demo/regatta/passing.shot.toml
run trace "$passing" --frame 1013 --half --pinhole --motion --samples 16 -o out/passing.exr
run defocus "$passing" out/passing.exr --frame 1013 --finish -o out/passing.png
run trace "$shot" --half --samples 16 -o out/test.exr
run samples "$shot" out/test.exr --depth demo/regatta/pinhole.exr --rays 16 --took "40 s"
run bokeh demo/regatta/oval.shot.toml -o out/oval.bokeh.png
run glass demo/glass/sedge-17.glass.toml --on "super 35 3-perf" --section out/sedge.png
run trace demo/glass/evening.shot.toml --half --samples 16 -o out/evening.png
torch=demo/glass/torch.shot.toml
run trace "$torch" --half --pinhole --samples 16 -o out/torch.exr
run bokeh demo/glass/evening.shot.toml -o out/evening.bokeh.png
run defocus "$torch" out/torch.exr --finish -o out/torch.defocus.exr
run flare "$torch" out/torch.defocus.exr -o out/torch.flare.png
run defocus "$shot" demo/regatta/pinhole.exr --set lens.look=../looks/hollow-rims.look.toml -o out/hero.rims.png
run measure demo/regatta/quay.shot.toml --focal
run measure "$shot" --discs --overlay out/hero.discs.png
# What is accepted is written beside its shot: a copy of it, so that demo/ stays as it is.
mkdir -p out/regatta
for file in notes.shot.toml tansy.body.toml linden-53.lens.toml regatta.gltf regatta.bin plate.jpg; do
  cp "demo/regatta/$file" out/regatta/
done
notes=out/regatta/notes.shot.toml
run match "$notes" --accept
run defocus "$notes" demo/regatta/pinhole.exr --as-noted -o out/noted.png
run defocus "$notes" demo/regatta/pinhole.exr -o out/solved.png
run compare "$notes" out/noted.png out/solved.png --sheet out/tries.png
run compare "$notes" out/solved.png --blink out/solved.gif
# The same evening by a camera with grain and darker corners: what its plate tells, CG is given.
evening=out/regatta/evening.shot.toml
run finish "$shot" out/hero.trace.exr --set "finish.corners=0.8 stops" --set finish.grain.black=0.001 \
  --set finish.grain.grey=0.008 --set finish.grain.seed=7 -o out/regatta/evening.exr
sed 's/plate.jpg/evening.exr/; s/"sRGB"/"linear"/' "$shot" > "$evening"
run trace "$evening" --half --pinhole --samples 16 -o out/sharp.exr
run measure "$evening" --finish --overlay out/evening.found.png
"$tool" measure "$evening" --finish --only toml >> "$evening"
run defocus "$evening" out/sharp.exr --finish -o out/evening.cg.exr
run compare "$evening" out/evening.cg.exr
run defocus "$evening" out/sharp.exr --finish --set "finish.corners=0.8 stops" -o out/evening.cg.exr
run compare "$evening" out/evening.cg.exr --side out/evening.beside.png
run undistort demo/regatta/quay.shot.toml --variant measured -o out/quay.straight.png
run solve demo/regatta/quay.shot.toml --level
dusk=demo/regatta/dusk.shot.toml
run expose "$shot" --set take.stop=f/1.8 --pay shutter
run defocus "$dusk" demo/regatta/pinhole.exr -o out/dusk.cg.exr
run expose "$dusk" out/dusk.cg.exr --as-plate --light "5600 K" --sheet out/dusk.sheet.png \
  --apply -o out/dusk.like.png
run plan "$shot" -o out/hero.plan.png
run plan demo/regatta/drift.shot.toml -o out/drift.plan.svg
run page "$shot" --sharp demo/regatta/pinhole.exr --steps take.stop=f/1.8,f/2.2,f/2.8,f/4,f/8 \
  --with out/hero.trace.png --cg out/hero.defocus.exr --match --bokeh -o out/hero.page.html
run handoff "$shot" --to out
run handoff demo/regatta/drift.shot.toml --to out

cat <<'EOT'

Look at:
  out/hero.trace.png          the truth: the scene ray-traced through the lens
  out/hero.defocus.png        the same blur, put onto demo/regatta/pinhole.exr in a second
  out/hero.finish.png         the same with soft light around lamps, and grain
  out/evening.found.png       what a plate tells of its grain, halo, smear, corners
  out/evening.beside.png      that plate, and beside it CG with the same finish
  out/passing.png             a boat that passes while the shutter is open, smeared and blurred
  out/oval.bokeh.png          what discs look like over the frame
  out/hero.rims.png           the same blur with bright rims: a look of demo/looks
  out/hero.discs.png          the discs found in the plate
  out/tries.png               the plate, CG with the wrong notes, and with what the plate says
  out/hero.page.html          the shot as a page: open it, point into the plate
  out/hero.plan.png           the set from above
  out/dusk.sheet.png          how bright a picture is, place by place
  out/dusk.like.png           CG made as bright and as warm as demo/regatta/dusk.jpg
  out/quay.straight.png       a plate without its lens's distortion
  out/hero.camera.gltf        the camera in its place, for any glTF reader
  out/hero.camera.json        all numbers of the report
  out/drift.camera.usda       a camera that moves and pulls focus, in USD text
  out/first.shot.toml         a shot file begun from the plate's own header
  out/scene.shot.toml         one begun from the scene alone: what is guessed, with its reason
Then change something:
  build/release/bin/jolly-iris report demo/regatta/hero.shot.toml --set take.stop=f/5.6
EOT
