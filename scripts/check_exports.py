#!/usr/bin/env python3
"""Whether our shared libraries let others see only what headers declare; ends with 1 where not.

    scripts/check_exports.py build/ci/lib      (from anywhere)

Strong symbols of each library are looked up by name: in the public headers, among the entries of
modules, and in the few headers that rooms share with each other.
"""
import glob
import os
import re
import subprocess
import sys

HERE = os.path.join(os.path.dirname(os.path.abspath(__file__)), "..")
# What rooms use of each other beside the public headers.
SHARED = ["src/disk/base64.hpp", "src/disk/disk.hpp", "src/disk/file_lock.hpp",
          "src/disk/file_stamp.hpp", "src/disk/json.hpp",
          "src/disk/module.hpp",
          "src/drawing/result_sheets.hpp", "src/drawing/shots_page.hpp", "src/files/answer_json.hpp", "src/files/csv_table.hpp",
          "src/optics/nearest.hpp", "src/picture/decode_straight.hpp", "src/picture/parallel.hpp",
          "src/picture/require_finite.hpp",
          "src/optics/value_text.hpp"] + sorted(
              os.path.relpath(f, HERE) for f in glob.glob(os.path.join(HERE, "src/report/*.hpp")))
ENTRIES = {"jolly_iris_picture_backend", "jolly_iris_colour_backend"}


def declared():
    """Every name that these headers have."""
    names = set()
    headers = glob.glob(os.path.join(HERE, "include/jolly_iris/**/*.hpp"), recursive=True)
    for header in headers + [os.path.join(HERE, s) for s in SHARED]:
        with open(header, encoding="utf-8") as file:
            names |= set(re.findall(r"[A-Za-z_]\w*", file.read()))
    return names


def name_of(symbol):
    """The last name of a demangled symbol: "jolly_iris::Json::dump(int) const" is dump."""
    symbol = re.sub(r"\[abi:\w+\]", "", symbol)
    depth = 0
    plain = ""
    for c in symbol:  # without templates' and functions' arguments
        if c in "<(":
            depth += 1
        elif c in ">)":
            depth -= 1
        elif depth == 0:
            plain += c
    words = re.findall(r"[~A-Za-z_][\w~]*", plain.replace("const", ""))
    return words[-1].lstrip("~") if words else symbol


def main():
    if len(sys.argv) != 2:
        sys.exit(__doc__)
    names = declared()
    libraries = sorted(glob.glob(os.path.join(sys.argv[1], "libjolly_iris_*.so")) +
                       glob.glob(os.path.join(sys.argv[1], "jolly_iris", "*.so")))
    if not libraries:
        sys.exit(f"{sys.argv[1]}: holds no library of ours")
    bad = 0
    for library in libraries:
        run = subprocess.run(["nm", "-DC", "--defined-only", library], capture_output=True, text=True,
                             check=True)
        for line in run.stdout.splitlines():
            _, kind, symbol = line.split(" ", 2)
            if kind not in "TDBR" or symbol in ENTRIES:
                continue
            if symbol.startswith(("typeinfo", "vtable", "VTT")):
                symbol = symbol.split(" for ", 1)[1]
            if name_of(symbol) in names or "operator" in symbol:
                continue
            bad += 1
            print(f"{os.path.basename(library)}: {symbol}: no header declares it")
    print(f"{len(libraries)} libraries, {bad} symbols that no header declares")
    sys.exit(1 if bad else 0)


if __name__ == "__main__":
    main()
