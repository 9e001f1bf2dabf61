#!/usr/bin/env python3
"""Whether each room includes only what it may; ends with 1 where not.

    scripts/check_rooms.py      (from the project's folder)

The arrows are those of docs/contributing.md: a room may include the headers of the rooms it is listed with,
and of those they are listed with. What several rooms share beside the public headers is listed too.
"""
import glob
import os
import re
import sys

ROOMS = {
    "optics": [],
    "glass": ["optics"],
    "disk": ["optics"],
    "picture": ["optics", "glass"],
    "scene": ["optics"],
    "trace": ["scene", "picture", "glass"],
    "measure": ["picture"],
    "match": ["optics"],
    "files": ["scene", "glass", "disk"],
    "picture_files": ["picture", "disk"],
    "workflow": ["files", "picture_files", "trace", "measure", "match"],
    "report": ["workflow"],
    "drawing": ["report"],
    "live": ["drawing"],
    "cli": ["live"],
}


def reach(room):
    """A room and all below it."""
    found = {room}
    for below in ROOMS[room]:
        found |= reach(below)
    return found


def main():
    bad = 0
    files = 0
    for room in ROOMS:
        allowed = reach(room)
        for path in sorted(glob.glob(f"src/{room}/**/*.[ch]pp", recursive=True) +
                           glob.glob(f"include/jolly_iris/{room}/*.hpp")):
            files += 1
            with open(path, encoding="utf-8") as file:
                for number, line in enumerate(file, 1):
                    found = re.match(r'#include "(?:jolly_iris/)?(\w+)/', line)
                    if not found or found[1] in allowed or found[1] not in ROOMS:
                        continue
                    # A folder of the room itself may be called as another room is.
                    if os.path.exists(os.path.join(f"src/{room}", line.split('"')[1])):
                        continue
                    bad += 1
                    print(f"{path}:{number}: {room} may not include {found[1]}")
    print(f"{files} files, {bad} includes against the arrows")
    sys.exit(1 if bad else 0)


if __name__ == "__main__":
    main()
