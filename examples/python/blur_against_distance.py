"""How large discs are against how far away their lights are, at a few stops, as a plot.

    python3 blur_against_distance.py demo/regatta/hero.shot.toml blur.png
"""

import sys

import matplotlib

matplotlib.use("Agg")
import matplotlib.pyplot as plt
import numpy as np

import jolly_iris as ji


def main(file: str, out: str) -> None:
    shot = ji.load_shot(file)
    metres = np.geomspace(0.5, 100.0, 400)
    figure, axes = plt.subplots(figsize=(12.8, 8.0), dpi=100)
    for stop in ("f/2", "f/2.8", "f/4", "f/5.6", "f/8"):
        camera = ji.resolve(shot.body, shot.lens, ji.Take(stop), shot.camera.focus)
        axes.plot(metres, np.abs(camera.coc_px(metres)), label=stop)
    for s in shot.subjects:
        if s.in_picture and s.axial.is_finite:
            axes.axvline(s.axial.m, color="0.9", zorder=0)
    axes.axhline(2.0, color="0.4", linestyle=":", label="2 px: sharp")
    axes.set_xscale("log")
    axes.set_yscale("symlog", linthresh=2.0)
    axes.set_xlabel("distance from the entrance pupil, m")
    axes.set_ylabel("diameter of the disc, px")
    axes.set_title(f"{shot.lens.name}, focused at {shot.camera.focus.m:.2f} m")
    axes.legend()
    figure.savefig(out)
    print(f"{out}: {len(metres)} distances, 5 stops")


if __name__ == "__main__":
    main(*sys.argv[1:3])
