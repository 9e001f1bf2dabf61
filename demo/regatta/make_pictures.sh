#!/usr/bin/env bash
# Makes the demo's ready pictures anew: the sharp CG picture with depth, and the "plate", which is
# traced and given the header a stills camera would write.
#
#   demo/regatta/make_pictures.sh [TOOL]      (some minutes)
set -euo pipefail
cd "$(dirname "$0")"
tool=${1:-../../build/release/bin/jolly-iris}
"$tool" trace hero.shot.toml --half --pinhole --samples 128 -o pinhole.exr
"$tool" trace hero.shot.toml --half --samples 256 -o plate.exr
oiiotool plate.exr --ch R,G,B --colorconvert linear sRGB -d uint8 \
  --attrib Make Meadow --attrib Model Tansy \
  --attrib:type=float Exif:FocalLength 58 --attrib:type=int Exif:FocalLengthIn35mmFilm 89 \
  --attrib:type=float FNumber 2 --attrib:type=float ExposureTime 0.02 \
  --attrib:type=int Exif:PhotographicSensitivity 800 --attrib:type=float Exif:SubjectDistance 2.4 \
  --quality 95 -o plate.jpg
rm plate.exr
# The same from another hour: see make_dusk.cpp.
"$(dirname "$tool")/make_dusk" .
oiiotool dusk.exr --ch R,G,B --colorconvert linear sRGB -d uint8 --quality 95 -o dusk.jpg
rm dusk.exr
