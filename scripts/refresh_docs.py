#!/usr/bin/env python3
"""Runs the commands that the documentation shows and puts what they say now below them.

    scripts/refresh_docs.py TOOL docs/bokeh.md ...      (from the project's folder)

Blocks keep their cuts: each run of lines between two "…" becomes the lines of the new output that are
most like it, numbers aside. Read the difference afterwards: where a paragraph is wrapped otherwise,
or something new is said, a person decides. tests/docs_test.cpp checks the result.
"""
import difflib
import os
import re
import shlex
import subprocess
import sys

CUT = "…"


def plain(line):
    """A line without its numbers, so that changed values are still the same line."""
    return re.sub(r"[-+]?\d+(\.\d+)?", "0", " ".join(line.split()))


def likeness(old, new):
    return difflib.SequenceMatcher(None, plain(old), plain(new)).ratio()


def refreshed(segment, output, begin):
    """The lines of the output from `begin` on that are most like a segment, and where they end."""
    if not any(segment):
        return segment, begin
    size = len(segment)
    places = range(begin, max(begin, len(output) - size) + 1)
    best = max(places, key=lambda at: sum(
        likeness(old, new) for old, new in zip(segment, output[at:at + size])))
    return output[best:best + size], best + size


def block_of(tool, command, lines):
    run = subprocess.run([tool] + shlex.split(command), capture_output=True, text=True, check=False)
    if run.returncode != 0:
        sys.exit(f"$ jolly-iris {command}\n{run.stderr}")
    output = run.stdout.split("\n")[:-1]
    segments = [[]]
    for line in lines:
        if line == CUT:
            segments.append([])
        else:
            segments[-1].append(line)
    out = []
    at = 0
    for i, segment in enumerate(segments):
        if i > 0:
            out.append(CUT)
        if i == 0 and segment:  # what is shown first is said first
            new, at = output[:len(segment)], len(segment)
        else:
            new, at = refreshed(segment, output, at)
        out += new
    return out


def main():
    tool = os.path.abspath(sys.argv[1])
    for name in sys.argv[2:]:
        with open(name, encoding="utf-8") as file:
            text = file.read().split("\n")
        out = []
        i = 0
        while i < len(text):
            out.append(text[i])
            if not text[i].startswith("$ jolly-iris "):
                i += 1
                continue
            end = i + 1
            while not text[end].startswith(("```", "$ jolly-iris ")):
                end += 1
            out += block_of(tool, text[i][len("$ jolly-iris "):], text[i + 1:end])
            i = end
        with open(name, "w", encoding="utf-8") as file:
            file.write("\n".join(out))


if __name__ == "__main__":
    main()
