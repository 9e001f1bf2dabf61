#!/usr/bin/env python3
"""Ends commands that write at random moments, and says whether anything half-written stayed.

    scripts/kill.py TOOL KILLS [SEED [VERB …]]

Each verb that writes is started KILLS times and ended after a random part of its usual time, mostly
near its end, where it writes (slowly: slow_disk.c), by SIGKILL, SIGTERM or SIGINT in turn. After each:
the output is absent, or whole and as an undisturbed run writes it. At the end the verb runs undisturbed,
and the folder holds nothing but what it holds then.
"""
import hashlib
import os
import random
import shutil
import signal
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from small_demo import SMALL, small_demo

COMMANDS = [
    ["plan", "hero.shot.toml", "-o", "out.png"],
    ["handoff", "hero.shot.toml", "--to", "."],
    ["start", "plate.jpg", "--replace", "-o", "out.toml"],
    ["bokeh", "triangles.shot.toml", "-o", "out.png", "--table", "out.json"],
    ["page", "triangles.shot.toml", "-o", "out.html"],
    ["trace", "hero.shot.toml", *SMALL, "--samples", "4", "--threads", "1", "-o", "out.exr", "-o", "out.png"],
    ["defocus", "hero.shot.toml", "small.exr", "--threads", "1", "-o", "out.exr"],
    ["finish", "hero.shot.toml", "small.exr", "--set", "lens.look=hazy.look.toml", "--layers", "layers.exr",
     "-o", "out.png"],
    ["expose", "dusk.shot.toml", "dusk.jpg", "--sheet", "out.png"],
    ["expose", "hero.shot.toml", "small.exr", "--stops", "1", "--apply", "-o", "out.exr"],
    ["undistort", "quay.shot.toml", "--set", "lens.distortion.k1=0.03", "-o", "out.exr", "--map", "map.exr"],
    ["redistort", "quay.shot.toml", "small.exr", "--set", "lens.distortion.k1=0.03", "-o", "out.exr"],
    ["desqueeze", "oval.shot.toml", "quay.jpg", "-o", "out.png"],
    ["squeeze", "hero.shot.toml", "small.exr", "--set", "lens.squeeze=2", "-o", "out.png"],
    ["measure", "quay.shot.toml", "--overlay", "out.png"],
    ["compare", "hero.shot.toml", "small.exr", "small.exr", "--no-plate", "--sheet", "out.png"],
    ["samples", "hero.shot.toml", "small.exr", "--distance", "0.5 m", "--map", "out.exr"],
    ["match", "small.shot.toml", "--least", "8", "--accept"],
]


def slow_disk(folder: Path) -> dict[str, str]:
    """The environment in which disks are slow."""
    library = folder / "slow_disk.so"
    subprocess.run(["cc", "-shared", "-fPIC", "-O2", "-o", library, Path(__file__).with_name("slow_disk.c"),
                    "-ldl"], check=True)
    return {**os.environ, "LD_PRELOAD": str(library)}


def digest(folder: Path, inputs: set[str]) -> dict[str, str]:
    found = {}
    for path in folder.iterdir():
        if path.name not in inputs:
            # Headers say when they were written.
            data = path.read_bytes()
            found[path.name] = f"{len(data) // 64}" if path.suffix == ".exr" else hashlib.sha1(data).hexdigest()
    return found


def parts(folder: Path) -> list[str]:
    return [n for n in os.listdir(folder) if n.endswith(".part")]


def main():
    tool = os.path.abspath(sys.argv[1])
    kills = int(sys.argv[2])
    rng = random.Random(int(sys.argv[3]) if len(sys.argv) > 3 else 1)
    commands = [c for c in COMMANDS if c[0] in sys.argv[4:] or len(sys.argv) < 5]
    demo = small_demo(tool)
    slow = slow_disk(demo)
    problems = 0
    ended_late = 0
    for args in commands:
        folder = Path(tempfile.mkdtemp(prefix="jolly_iris_kill_"))
        for name in demo.iterdir():
            os.symlink(name, folder / name.name)
        inputs = set(os.listdir(folder))
        start = time.monotonic()
        subprocess.run([tool, *args], cwd=folder, capture_output=True, check=True, env=slow)
        usual = time.monotonic() - start
        whole = digest(folder, inputs)
        for name in whole:
            (folder / name).unlink()
        late = 0
        for i in range(kills):
            running = subprocess.Popen([tool, *args], cwd=folder, stdout=subprocess.DEVNULL,
                                       stderr=subprocess.DEVNULL, env=slow)
            # Most of them while it writes, which is near the end.
            wait = usual * (rng.uniform(0.0, 1.1) if rng.random() < 0.3 else rng.uniform(0.75, 1.1))
            time.sleep(wait)
            how = [signal.SIGKILL, signal.SIGTERM, signal.SIGINT][i % 3]
            if running.poll() is None:
                running.send_signal(how)
            else:
                late += 1
            running.wait()
            # What others do beside this makes it slower or quicker; kills shall stay near the end.
            usual *= 0.98 if running.returncode == 0 else 1.005
            left = digest(folder, inputs)
            for name, what in left.items():
                if name.endswith(".part"):
                    # What one that was killed left goes when a later one comes to write.
                    if how != signal.SIGKILL and f"-{running.pid}-" in name:
                        problems += 1
                        print(f"{' '.join(args)}: {how.name} left {name}", flush=True)
                    continue
                if what != whole.get(name):
                    problems += 1
                    print(f"{' '.join(args)}: {how.name} after {wait:.3f} s left a half {name}", flush=True)
                (folder / name).unlink()
        subprocess.run([tool, *args], cwd=folder, capture_output=True, check=True)
        if digest(folder, inputs) != whole:
            problems += 1
            print(f"{' '.join(args)}: undisturbed it leaves {sorted(digest(folder, inputs))}", flush=True)
        shutil.rmtree(folder)
        ended_late += late
        print(f"{args[0]:<10} {kills} kills in {usual:.2f} s, {late} had ended before", flush=True)
    shutil.rmtree(demo)
    print(f"{kills * len(commands)} kills of {len(commands)} commands ({ended_late} had ended before), "
          f"{problems} with a problem")
    sys.exit(1 if problems else 0)


main()
