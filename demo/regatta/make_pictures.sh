#!/usr/bin/env bash
# Makes the demo's ready pictures anew: the sharp CG picture with depth, and the "plates", which are
# traced. The hero's has the header that a stills camera would write, the others none.
#
#   demo/regatta/make_pictures.sh [TOOL]      (some minutes)
#
# The quay's drawn edges stand in its shot file: where its lens or body changes, paste what
# `make_quay demo/regatta edges` prints.
set -euo pipefail
cd "$(dirname "$0")"
tool=${1:-../../build/release/bin/jolly-iris}
makers=$(dirname "$tool")
size="body.pixels=1280 x 720"  # two thirds of the delivered picture

jpeg() { # EXR JPEG QUALITY ATTRIBUTE …
  local from=$1 to=$2 quality=$3
  shift 3
  # Without the attributes that name this program and its command line.
  oiiotool --nosoftwareattrib "$from" --ch R,G,B --colorconvert linear sRGB -d uint8 \
    --attrib DateTime "2026:06:21 21:14:00" "$@" --quality "$quality" -o "$to"
  rm "$from"
}

"$tool" trace hero.shot.toml --set "$size" --pinhole --samples 128 -o pinhole.exr
"$tool" trace hero.shot.toml --set "$size" --samples 256 -o plate.exr
jpeg plate.exr plate.jpg 95 --attrib Make Meadow --attrib Model Tansy \
  --attrib:type=float Exif:FocalLength 53 --attrib:type=int Exif:FocalLengthIn35mmFilm 77 \
  --attrib:type=float FNumber 2.2 --attrib:type=float ExposureTime 0.02 \
  --attrib:type=int Exif:PhotographicSensitivity 800 --attrib:type=float Exif:SubjectDistance 2.4
# The same from another hour: see make_dusk.cpp.
"$makers/make_dusk" .
jpeg dusk.exr dusk.jpg 95
# The houses on the quay: see make_quay.cpp.
"$makers/make_quay" . > /dev/null
jpeg quay.plate.exr quay.jpg 92
# A focus that is pulled: see make_pull.cpp.
"$makers/make_pull" .
for frame in pull/plate.*.exr; do
  # Small ones: there are many. (--quality alone stays without effect beside other attributes.)
  jpeg "$frame" "${frame%.exr}.jpg" 85 --compression jpeg:85
done
