#!/usr/bin/env python3
"""Keeps what the tool says to every command of the demo and the documentation, as text and as JSON.

    scripts/record_results.py TOOL FOLDER      (from the project's folder)

Each command runs in a copy of demo/, so the tree stays as it is. In FOLDER: NUMBER.command, NUMBER.txt
(what it printed), NUMBER.json (the same with --json) and NUMBER.KIND of each text file that it wrote.
Two such folders, of one commit and another, are compared by scripts/compare_results.py.
"""
import os
import re
import shlex
import shutil
import subprocess
import sys
import tempfile

PAGES = ["docs/camera-and-focus.md", "docs/seeing-the-set.md", "docs/exposure.md", "docs/bokeh.md",
         "docs/matching.md", "README.md"]
TEXT_FILES = (".toml", ".json", ".svg", ".usda", ".gltf", ".csv", ".html")


def commands():
    """Every command once, in the order in which they build upon each other."""
    all_of_them = []
    with open("demo.sh", encoding="utf-8") as file:
        text = file.read().replace("\\\n", " ")
    names = dict(re.findall(r"^(shot|dusk)=(\S+)$", text, re.M))
    for line in re.findall(r"^run (.*)$", text, re.M):
        for name, value in names.items():
            line = line.replace(f'"${name}"', value)
        all_of_them.append(line)
    for page in PAGES:
        with open(page, encoding="utf-8") as file:
            all_of_them += re.findall(r"^\$ jolly-iris (.*)$", file.read(), re.M)
    # What each demo shot is asked besides, so that none is left out.
    for name in sorted(os.listdir("demo/regatta")):
        if name.endswith(".shot.toml"):
            shot = "demo/regatta/" + name
            all_of_them += [f"report {shot}", f"handoff {shot} --to out",
                            f"plan {shot} -o out/{name}.svg"]
    return list(dict.fromkeys(" ".join(line.split()) for line in all_of_them))


def files_in(folder):
    """Each text file that a command may have written, by its time."""
    found = {}
    for root, _, names in os.walk(folder):
        for name in names:
            if name.endswith(TEXT_FILES):
                path = os.path.join(root, name)
                found[path] = os.stat(path).st_mtime_ns
    return found


def main():
    if len(sys.argv) != 3:
        sys.exit(__doc__)
    tool, kept = os.path.abspath(sys.argv[1]), os.path.abspath(sys.argv[2])
    shutil.rmtree(kept, ignore_errors=True)  # nothing of another recording
    os.makedirs(kept)
    lines = commands()
    with tempfile.TemporaryDirectory() as scratch:
        shutil.copytree("demo", os.path.join(scratch, "demo"))
        os.mkdir(os.path.join(scratch, "out"))
        for number, line in enumerate(lines):
            print(f"\r{number + 1} of {len(lines)}: {line[:70]:<70}", end="", file=sys.stderr)
            stem = os.path.join(kept, f"{number:03}")
            with open(stem + ".command", "w", encoding="utf-8") as file:
                file.write(line + "\n")
            words = shlex.split(line)
            before = files_in(scratch)
            run = subprocess.run([tool] + words, cwd=scratch, capture_output=True, check=False)
            with open(stem + ".txt", "wb") as file:
                file.write(f"ends with {run.returncode}\n".encode() + run.stdout + run.stderr)
            for path, time in files_in(scratch).items():
                if before.get(path) != time:
                    shutil.copy(path, f"{stem}.{os.path.basename(path)}")
            if {"--json", "--only", "--csv"} & set(words):
                continue
            run = subprocess.run([tool] + words + ["--json"], cwd=scratch, capture_output=True,
                                 check=False)
            if run.returncode == 0:
                with open(stem + ".json", "wb") as file:
                    file.write(run.stdout)
    print(file=sys.stderr)


if __name__ == "__main__":
    main()
