"""What `start` takes from photographs against what exiv2 reads of them.

    bench/exif.py build/release/bin/jolly-iris $(bench/fetch_photographs.sh FOLDER)
"""

import fractions
import math
import pathlib
import subprocess
import sys
import tempfile
import tomllib

# Exiv2's key, where `start` puts it, and how the text becomes a number.
KEYS = {
    "Exif.Photo.FNumber": ("take", "stop", lambda t: float(t.removeprefix("f/"))),
    "Exif.Photo.FocalLength": ("lens", "focal", lambda t: float(t.removesuffix(" mm"))),
    "Exif.Photo.ISOSpeedRatings": ("take", "iso", float),
    "Exif.Photo.ExposureTime": ("take", "shutter", lambda t: float(fractions.Fraction(t.removesuffix(" s")))),
}


def theirs(picture):
    words = ["exiv2", "-q", "-Pkv", *(w for key in KEYS for w in ("-K", key)), picture]
    said = subprocess.run(words, capture_output=True, text=True).stdout  # 1: it has none
    pairs = (line.split(None, 1) for line in said.splitlines())
    return {key: float(fractions.Fraction(value.strip())) for key, value in pairs}


def ours(tool, picture, folder):
    file = pathlib.Path(folder) / (pathlib.Path(picture).stem + ".shot.toml")
    subprocess.run([tool, "start", picture, "-o", file], check=True, capture_output=True)
    return tomllib.loads(file.read_text())


def main():
    tool, *pictures = sys.argv[1:]
    wrong = compared = 0
    with tempfile.TemporaryDirectory() as folder:
        for picture in pictures:
            read = ours(tool, picture, folder)
            said = theirs(picture)
            for key, (table, name, number) in KEYS.items():
                # A guess or a usual value is nothing that was read.
                has = name in read.get(table, {}) and f"{table}.{name}" not in flat(read.get("guessed", {}))
                compared += 1
                value = number(str(read[table][name])) if has else None
                same = value is None if key not in said else value is not None and math.isclose(
                    value, said[key], rel_tol=1e-3)
                if not same:
                    wrong += 1
                    print(f"{pathlib.Path(picture).name}: {key}: exiv2 {said.get(key)}, start {value}")
    print(f"{compared - wrong} of {compared} alike, of {len(pictures)} photographs")


def flat(table, before=""):
    out = set()
    for key, value in table.items():
        out |= flat(value, before + key + ".") if isinstance(value, dict) else {before + key}
    return out


if __name__ == "__main__":
    main()
