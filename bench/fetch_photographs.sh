#!/usr/bin/env bash
# Brings photographs without lamps out of focus for bench/lookalikes: those of Debian's wallpaper
# packages that show some thing or place. Nothing is installed and nothing kept but the pictures.
#
#   bench/fetch_photographs.sh FOLDER        prints their names
set -euo pipefail
folder=${1:?"give a folder for the pictures"}
mkdir -p "$folder"
cd "$folder"
[ -d pictures ] || {
  apt-get download -qq plasma-workspace-wallpapers > /dev/null 2>&1
  for package in *.deb; do dpkg -x "$package" unpacked; done
  mkdir pictures
  for name in Autumn BytheWater ColdRipple ColorfulCups DarkestHour EveningGlow FallenLeaf Grey Kite \
    OneStandsOut Path summer_1am; do
    cp unpacked/usr/share/wallpapers/"$name"/contents/images/2560x1600.jpg "pictures/$name.jpg"
  done
  rm -r unpacked ./*.deb
}
ls -d "$PWD"/pictures/*
