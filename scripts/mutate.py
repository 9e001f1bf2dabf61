#!/usr/bin/env python3
"""Runs whole commands on damaged copies of the demo's files, and says what came of it.

    scripts/mutate.py TOOL RUNS [SEED]

Every run has a bounded address space and time. It must end with an exit code from 0 to 3 (75 where a
wait was asked for), with a sentence where it is not 0, with JSON where that was asked for, without a
number that is none, and without a new file where it failed. What is not so is printed with the seed that
makes it again, and kept.
"""
import json
import os
import random
import re
import resource
import shutil
import subprocess
import sys
import tempfile
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from small_demo import small_demo

SECONDS = 60
ADDRESS_SPACE = 4 << 30
NO_NUMBER = re.compile(r"(?<![A-Za-z_\\'])[-+]?(nan|inf)(?![A-Za-z_'])")

# What is run, and which files are damaged for it. {x} are names in a folder of the run's own.
TINY = ["--set", "body.pixels=96 x 54"]
QUICK = [
    (["report", "hero.shot.toml", "--json"], ["hero.shot.toml", "linden-53.lens.toml", "tansy.body.toml"]),
    (["report", "hero.shot.toml"], ["regatta.gltf"]),
    (["report", "bank.shot.toml", "--frames", "all", "--step", "9"], ["bank.shot.toml", "bank.track.csv"]),
    (["report", "drift.shot.toml", "--frames", "all", "--step", "7", "--json"], ["drift.gltf", "drift.bin"]),
    (["report", "willow.shot.toml"], ["willow.shot.toml", "willow.ply", "willow.body.toml"]),
    (["report", "quay.shot.toml", "--json"], ["quay.shot.toml", "quay.track.csv"]),
    (["report", "small.shot.toml", "--json"], ["small.solved.toml"]),
    (["report", "hero.shot.toml", "--against", "quick.typed.toml", "--json"], ["quick.typed.toml"]),
    (["report", "hero.shot.toml", "--for", "own.dialect.toml", "--json"], ["own.dialect.toml"]),
    (["plan", "oval.shot.toml", "-o", "out.svg"], ["oval.shot.toml", "regatta.gltf"]),
    (["plan", "reeds.shot.toml", "-o", "out.png"], ["reeds.shot.toml"]),
    (["handoff", "hero.shot.toml", "--to", "."], ["hero.shot.toml", "regatta.gltf"]),
    (["solve", "hero.shot.toml", "--hold", "boat,second boat", "--json"], ["hero.shot.toml", "regatta.gltf"]),
    (["solve", "quay.shot.toml", "--level"], ["quay.shot.toml"]),
    (["desqueeze", "oval.shot.toml", "--sizes"], ["oval.shot.toml", "alder.lens.toml"]),
    (["measure", "quay.shot.toml", "--json"], ["quay.shot.toml"]),
    (["bokeh", "triangles.shot.toml", "-o", "out.svg", "--table", "out.json"], ["triangles.shot.toml"]),
    (["bokeh", "hero.shot.toml", "--set", "lens.look=heart.look.toml", "-o", "out.svg"], ["heart.look.toml", "heart.svg"]),
    (["expose", "hero.shot.toml", "small.exr", "--transfer", "own.curve.csv", "--json"], ["own.curve.csv", "small.exr"]),
]
# One run in eight.
SLOW = [
    (["start", "plate.jpg", "-o", "out.toml"], ["plate.jpg"]),
    (["expose", "dusk.shot.toml", "dusk.jpg", "--json"], ["dusk.shot.toml", "dusk.jpg"]),
    (["desqueeze", "oval.shot.toml", "small.jpg", "-o", "out.png"], ["oval.shot.toml", "small.jpg"]),
    (["squeeze", "oval.shot.toml", "small.exr", "-o", "out.png"], ["oval.shot.toml", "small.exr"]),
    (["undistort", "quay.shot.toml", "--set", "lens.distortion.k1=0.03", "-o", "out.png"], ["quay.shot.toml", "quay.jpg"]),
    (["redistort", "hero.shot.toml", "small.exr", "--set", "lens.distortion.k1=0.03", "-o", "out.png"], ["small.exr"]),
    (["measure", "small.shot.toml", "--discs", "--json"], ["small.jpg", "small.shot.toml"]),
    (["match", "small.shot.toml", "--least", "8", "--json"], ["small.shot.toml", "small.jpg", "small.body.toml"]),
    (["trace", "hero.shot.toml", *TINY, "--samples", "2", "-o", "out.exr"], ["hero.shot.toml", "regatta.gltf", "regatta.bin"]),
    (["trace", "willow.shot.toml", *TINY, "--samples", "1", "-o", "out.exr"], ["willow.ply"]),
    (["defocus", "hero.shot.toml", "small.exr", "-o", "out.exr"], ["small.exr", "hero.shot.toml"]),
    (["finish", "hero.shot.toml", "small.exr", "--set", "lens.look=starry.look.toml", "-o", "out.exr"],
     ["small.exr", "starry.look.toml"]),
    (["measure", "small.shot.toml", "--finish", "--json"], ["small.jpg", "small.shot.toml"]),
    (["compare", "hero.shot.toml", "small.exr", "small.jpg", "--no-plate", "--json"], ["small.exr", "small.jpg"]),
    (["samples", "hero.shot.toml", "small.exr", "--rays", "4", "--map", "out.exr", "--json"], ["small.exr", "hero.shot.toml"]),
    (["page", "triangles.shot.toml", "-o", "out.html"], ["triangles.shot.toml"]),
]
ODD = [b"nan", b"inf", b"-1", b"0", b"1e300", b"1e-300", b"99999999999", b"\x1b]0;t\x07", b"\xff\xfe", b"\x00",
       b"[[", b"{", b"\"", b"'''", b"= = ", b"../../", b"/dev/zero", b"1e15", b"-1e15", b"infinity"]


def damaged(data: bytes, rng: random.Random) -> bytes:
    data = bytearray(data)
    for _ in range(rng.choice([1, 1, 1, 2, 4, 16])):
        kind = rng.randrange(7)
        at = rng.randrange(len(data) + 1)
        # Headers are where it hurts most.
        if rng.random() < 0.4:
            at = rng.randrange(min(len(data), 600) + 1)
        if kind == 0 and data:
            data[at % len(data)] ^= 1 << rng.randrange(8)
        elif kind == 1:
            data[at:at + rng.randrange(1, 40)] = b""
        elif kind == 2:
            data[at:at] = rng.choice(ODD)
        elif kind == 3:
            data[at:at] = data[at:at + rng.randrange(1, 200)]
        elif kind == 4 and rng.random() < 0.3:
            data = data[:at]
        elif kind == 5:  # a number becomes another
            numbers = list(re.finditer(rb"-?\d+(\.\d+)?", bytes(data[:20000])))
            if numbers:
                m = rng.choice(numbers)
                data[m.start():m.end()] = rng.choice(
                    [b"0", b"-1", b"1e9", b"1e-9", b"1e16", b"nan", b"4294967296", b"0.5", m.group() + b"0"])
        elif kind == 6:  # a line goes, or comes twice
            lines = bytes(data).split(b"\n")
            i = rng.randrange(len(lines))
            lines[i:i + 1] = rng.choice([[], [lines[i], lines[i]]])
            data = bytearray(b"\n".join(lines))
    return bytes(data)


def no_number(word: str):
    raise ValueError(word + " is no number")


def limit():
    resource.setrlimit(resource.RLIMIT_AS, (ADDRESS_SPACE, ADDRESS_SPACE))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))


def one(tool: str, seed: int, base: Path, demo: Path) -> tuple[str, str]:
    rng = random.Random(seed)
    args, files = rng.choice(SLOW if seed % 8 == 0 else QUICK)
    folder = base / str(seed)
    folder.mkdir()
    for name in demo.iterdir():
        os.symlink(name, folder / name.name)
    victim = rng.choice(files)
    (folder / victim).unlink()
    (folder / victim).write_bytes(damaged((demo / victim).read_bytes(), rng))
    # A name that was damaged so is said as it is.
    echoes = NO_NUMBER.search((folder / victim).read_bytes().decode("utf8", "replace")) is not None
    before = set(os.listdir(folder))
    problem = ""
    try:
        ran = subprocess.run([tool, *args], cwd=folder, capture_output=True, timeout=SECONDS, preexec_fn=limit)
        out = ran.stdout.decode("utf8", "replace")
        if ran.returncode not in (0, 1, 2, 3, 75):
            problem = f"ended with {ran.returncode}"
        elif ran.returncode and not ran.stderr:
            problem = f"exit {ran.returncode} without a sentence"
        elif "--json" in args:
            json.loads(out, parse_constant=no_number)
        elif ran.returncode == 0 and not echoes and NO_NUMBER.search(out):
            problem = "a number that is none: " + out[max(0, NO_NUMBER.search(out).start() - 60):][:120]
        if not problem and ran.returncode and set(os.listdir(folder)) != before:
            problem = f"a new file on failure: {set(os.listdir(folder)) - before}"
        if not problem and b"\x1b" in ran.stdout + ran.stderr:
            problem = "an escape reached the terminal"
    except subprocess.TimeoutExpired:
        problem = f"did not end in {SECONDS} s"
    except ValueError as e:
        problem = f"no JSON: {e}"
    if problem:
        return f"{' '.join(args)}  ({victim})", problem
    shutil.rmtree(folder)
    return "", ""


def main():
    tool = os.path.abspath(sys.argv[1])
    runs = int(sys.argv[2])
    first = int(sys.argv[3]) if len(sys.argv) > 3 else 1
    base = Path(tempfile.mkdtemp(prefix="jolly_iris_mutate_"))
    demo = small_demo(tool)
    problems = 0
    with ThreadPoolExecutor(os.cpu_count()) as pool:
        for seed, (what, problem) in zip(range(first, first + runs),
                                         pool.map(lambda s: one(tool, s, base, demo), range(first, first + runs))):
            if problem:
                problems += 1
                print(f"seed {seed}: {what}: {problem}   [{base / str(seed)}]", flush=True)
    shutil.rmtree(demo)
    print(f"{runs} runs of {len(QUICK) + len(SLOW)} commands, {problems} with a problem")
    if not problems:
        shutil.rmtree(base)
    sys.exit(1 if problems else 0)


main()
