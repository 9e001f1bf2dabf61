#!/usr/bin/env bash
# The packages in a bare Debian: installed, run, removed, and nothing left. As root; takes some minutes.
#
#   scripts/try_packages.sh [FOLDER WITH .deb] [WHERE THE BARE DEBIAN GOES] [MIRROR]
set -euo pipefail
cd "$(dirname "$0")/.."
packages=$(realpath "${1:-build/packages}")
bare=${2:-build/bare}
mirror=${3:-http://deb.debian.org/debian}
command -v debootstrap > /dev/null || apt-get install -y -qq --no-install-recommends debootstrap > /dev/null
if [ ! -e "$bare/usr/bin/apt-get" ]; then
  echo "== a bare Debian 12 in $bare"
  debootstrap --variant=minbase bookworm "$bare" "$mirror" > "$bare.log" 2>&1 || { tail "$bare.log"; exit 1; }
fi
cp /etc/resolv.conf "$bare/etc/resolv.conf" 2> /dev/null || true
rm -rf "$bare/packages" "$bare/demo"
mkdir "$bare/packages"
cp "$packages"/*.deb "$bare/packages/"
cp -r demo/regatta "$bare/demo"
inside() { chroot "$bare" env DEBIAN_FRONTEND=noninteractive LC_ALL=C "$@"; }
files() { (cd "$bare" && find . -xdev \( -path ./proc -o -path ./sys -o -path ./dev -o -path ./demo -o -path ./packages \
  -o -path ./var/lib/apt -o -path ./var/cache -o -path ./var/log -o -path ./var/lib/dpkg -o -path ./tmp \) -prune -o -print | sort); }

inside apt-get update -qq
# What they need from Debian comes first, and stays: it is ours that must leave nothing.
echo "== what they need"
inside sh -c 'apt-get install -y -qq --no-install-recommends $(for d in /packages/*.deb; do dpkg-deb -f $d Depends; done |
  tr "," "\n" | sed "s/[(|].*//" | grep -v jolly | sort -u) > /dev/null'
files > "$bare.before"
echo "== installing"
inside sh -c 'dpkg -i /packages/*.deb > /dev/null'
inside jolly-iris report /demo/hero.shot.toml | head -5
inside jolly-iris trace /demo/hero.shot.toml --half --samples 1 --box 0,0,64,64 -o /tmp/t.exr
inside python3 -c 'import jolly_iris as ji; print("python:", ji.load_shot("/demo/hero.shot.toml").camera.focal)'
echo "== removing"
inside dpkg --purge jolly-iris libjolly-iris-dev python3-jolly-iris libjolly-iris0.1 > /dev/null
files > "$bare.after"
diff "$bare.before" "$bare.after" && echo "nothing is left"
