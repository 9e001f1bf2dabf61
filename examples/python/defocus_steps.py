# %% As a notebook has it: one cell after the other.
"""A straight picture with depth, blurred by a lens, looked at on the way.

python3 defocus_steps.py demo/regatta/hero.shot.toml demo/regatta/pinhole.exr out.exr
"""
import sys

import numpy as np

import jolly_iris as ji

shot_file, picture_file, out_file = sys.argv[1:4]

# %% The lens, and a picture that a pinhole made.
shot = ji.load_shot(shot_file)
colour, depth = ji.read_picture(picture_file)
print(f"{colour.shape[1]} x {colour.shape[0]}, {np.isfinite(depth).mean():.0%} of it not sky")

# %% How large would the blur be?
blur = ji.blur_map(colour, depth, shot)
print(f"discs from {blur.min():+.1f} to {blur.max():+.1f} px; {np.mean(np.abs(blur) < 2):.0%} is sharp")

# %% Through the lens, and two stops closed.
wide = ji.defocus(colour, depth, shot)
closed = ji.defocus(colour, depth, shot.with_values({"take.stop": "f/4.5"}))
print(f"differ by {np.abs(wide - closed).mean():.4f} on average")

# %% As a file.
ji.write_picture(out_file, wide, depth)
