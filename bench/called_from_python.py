"""Calls from Python against the same from C++, in turns in one run; a pool of threads; the import.

    PYTHONPATH=build/release/python bench/called_from_python.py build/release/bin/called
"""

import concurrent.futures
import pathlib
import statistics
import subprocess
import sys
import time

import jolly_iris as ji

DEMO = pathlib.Path(__file__).resolve().parents[1] / "demo" / "regatta"


def seconds(work):
    begin = time.perf_counter()
    work()
    return time.perf_counter() - begin


def main():
    shot_file, picture = DEMO / "hero.shot.toml", DEMO / "pinhole.exr"
    other = subprocess.Popen(
        [sys.argv[1], shot_file, picture],
        stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True, bufsize=1,
    )

    def cpp(what):
        other.stdin.write(what + "\n")
        return float(other.stdout.readline())

    shot = ji.load_shot(shot_file)
    colour, depth = ji.read_picture(picture)
    ours, theirs = [], []
    for _ in range(15):
        ours.append(seconds(lambda: ji.defocus(colour, depth, shot)))
        theirs.append(cpp("defocus"))
    here, there = statistics.median(ours[1:]), statistics.median(theirs[1:])
    print(f"defocus of {colour.shape[1]} x {colour.shape[0]}: {here:.3f} s, C++ {there:.3f} s, "
          f"{here / there:.2f} x")

    many, focus = 2000, 2.4 * ji.m
    each = seconds(lambda: [ji.resolve(shot.body, shot.lens, shot.take, focus) for _ in range(many)]) / many
    print(f"resolve: {1 / each:,.0f} a second, C++ {1 / cpp('resolve'):,.0f}")

    def one(_):
        ji.defocus(colour, depth, shot, threads=1)

    alone = seconds(lambda: [one(i) for i in range(8)])
    with concurrent.futures.ThreadPoolExecutor(4) as pool:
        together = seconds(lambda: list(pool.map(one, range(8))))
    print(f"8 defoci, one thread each: {alone:.2f} s in turns, {together:.2f} s by a pool of 4, "
          f"{alone / together:.2f} x as quick")

    words = ["-X", "importtime", "-c", "import numpy, jolly_iris"]
    said = [
        subprocess.run([sys.executable, *words], capture_output=True, text=True, check=True).stderr
        for _ in range(5)
    ]
    lines = [l.split("|") for s in said for l in s.splitlines() if l.endswith("| jolly_iris")]
    print(f"import: {min(int(line[1]) for line in lines) / 1000:.0f} ms")


if __name__ == "__main__":
    main()
