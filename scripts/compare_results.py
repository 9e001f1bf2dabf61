#!/usr/bin/env python3
"""Whether two folders of scripts/record_results.py hold the same results; ends with 1 where not.

    scripts/compare_results.py BEFORE AFTER

Numbers of JSON may differ by 1e-9 of themselves; what is found with a margin, by a tenth of it.
Everything printed is compared word by word. How long something took is left out.
"""
import difflib
import json
import os
import re
import sys

RELATIVE = 1e-9
OF_MARGIN = 0.1
# By which word a margin stands beside its value, in the JSON of match, compare and measure.
MARGINS = ("margin", "sigma")


def same_number(a, b, margin):
    if a == b:
        return True
    off = abs(a - b)
    return off <= RELATIVE * max(abs(a), abs(b)) or (margin is not None and off <= OF_MARGIN * margin)


def differences(a, b, path="", margin=None):
    """Sentences, one a leaf that is not the same."""
    number = (int, float)
    if isinstance(a, bool) or isinstance(b, bool) or a is None or b is None:
        return [] if a is b else [f"{path}: {a} became {b}"]
    if isinstance(a, number) and isinstance(b, number):
        return [] if same_number(a, b, margin) else [f"{path}: {a!r} became {b!r}"]
    if type(a) is not type(b):
        return [f"{path}: {a!r} became {b!r}"]
    if isinstance(a, dict):
        out = []
        if list(a) != list(b):
            out.append(f"{path}: keys {list(a)} became {list(b)}")
        beside = next((a[m] for m in MARGINS if isinstance(a.get(m), number)), None)
        for key in a:
            if key in b and key != "seconds":
                near = beside if beside is not None else margin
                out += differences(a[key], b[key], f"{path}.{key}", near)
        return out
    if isinstance(a, list):
        if len(a) != len(b):
            return [f"{path}: {len(a)} entries became {len(b)}"]
        return [d for i, (x, y) in enumerate(zip(a, b)) for d in differences(x, y, f"{path}[{i}]", margin)]
    return [] if a == b else [f"{path}: {a!r} became {b!r}"]


def timeless(text):
    return re.sub(r"\d+\.\d s\b", "# s", text)


def compare(before, after):
    with open(before, encoding="utf-8", errors="replace") as file:
        a = file.read()
    with open(after, encoding="utf-8", errors="replace") as file:
        b = file.read()
    if before.endswith(".json"):
        return differences(json.loads(a), json.loads(b))
    if timeless(a) == timeless(b):
        return []
    if before.endswith((".html", ".svg", ".gltf")):
        return ["not the same bytes"]
    lines = difflib.unified_diff(timeless(a).split("\n"), timeless(b).split("\n"), lineterm="", n=0)
    return [line for line in lines if not line.startswith(("---", "+++", "@@"))]


def main():
    if len(sys.argv) != 3:
        sys.exit(__doc__)
    before, after = sys.argv[1:]
    names = sorted(set(os.listdir(before)) | set(os.listdir(after)))
    bad = 0
    for name in names:
        a, b = os.path.join(before, name), os.path.join(after, name)
        if not os.path.exists(a) or not os.path.exists(b):
            found = ["is in one folder alone"]
        else:
            found = compare(a, b)
        if found:
            bad += 1
            command = os.path.join(before, name[:3] + ".command")
            said = open(command, encoding="utf-8").read().strip() if os.path.exists(command) else ""
            print(f"{name}  ({said})")
            for line in found[:12]:
                print(f"    {line}")
            if len(found) > 12:
                print(f"    … and {len(found) - 12} more")
    print(f"{len(names)} results compared, {bad} differ")
    sys.exit(1 if bad else 0)


if __name__ == "__main__":
    main()
