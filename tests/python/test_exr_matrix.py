"""EXRs as studios have them: made by another program, read as they are, written back."""

import itertools
import subprocess

import numpy as np
import pytest

import jolly_iris as ji

WIDTH, HEIGHT = 64, 48
# Of the file's pixels against the frame's: beside, above.
WINDOWS = {"equal": (0, 0), "larger": (8, 6), "smaller": (-12, -9)}
CASES = list(
    itertools.product(
        ["scanline", "tiled"], ["zip", "piz", "dwaa"], ["one", "apart"], ["R", "beauty.R"], WINDOWS
    )
)


def oiiotool(*words):
    subprocess.run(["oiiotool", *map(str, words)], check=True, capture_output=True)


@pytest.fixture(scope="module")
def sources(tmp_path_factory):
    """Colour and depth of each window as plain files, and what the frame must show of them."""
    folder = tmp_path_factory.mktemp("exr")
    random = np.random.default_rng(260201)
    # Smooth, so that what loses says how much; multiples that half floats keep.
    y, x = np.mgrid[-6 : HEIGHT + 6, -8 : WIDTH + 8]
    colour = np.stack([1.5 + np.sin(x / (9 + k)) * np.cos(y / 7) for k in range(3)], axis=2)
    colour = np.round(colour * 256).astype(np.float32) / 256
    depth = (random.integers(64, 640, colour.shape[:2]) / 64).astype(np.float32)
    out = {}
    for name, (beside, above) in WINDOWS.items():
        part = np.s_[6 - above : 6 + HEIGHT + above, 8 - beside : 8 + WIDTH + beside]
        file = folder / f"{name}.exr"
        ji.write_picture(file, np.ascontiguousarray(colour[part]), np.ascontiguousarray(depth[part]))
        shown = np.zeros((HEIGHT, WIDTH, 3), np.float32)
        far = np.full((HEIGHT, WIDTH), np.inf, np.float32)
        inside = np.s_[max(0, -above) : HEIGHT - max(0, -above), max(0, -beside) : WIDTH - max(0, -beside)]
        shown[inside] = colour[6 : 6 + HEIGHT, 8 : 8 + WIDTH][inside]
        far[inside] = depth[6 : 6 + HEIGHT, 8 : 8 + WIDTH][inside]
        out[name] = (file, shown, far, (beside, above))
    return out


@pytest.mark.parametrize("layout, compression, parts, names, window", CASES)
def test_read_right_and_written_back(sources, tmp_path, layout, compression, parts, names, window):
    assert len(CASES) == 72
    source, shown, far, (beside, above) = sources[window]
    place = ["--origin", f"{-beside:+d}{-above:+d}", "--fullsize", f"{WIDTH}x{HEIGHT}+0+0"]
    layer = names[:-1]
    channels = ",".join(layer + c for c in "RGB")
    file = tmp_path / "made.exr"
    colour = [source, "--ch", "R,G,B", "--chnames", channels, *place]
    depth = [source, "--ch", "Z", *place]
    if parts == "one":
        made = [*colour, *depth, "--chappend"]
    else:
        made = [*colour, "--attrib", "oiio:subimagename", "rgb"]
        made += [*depth, "--attrib", "oiio:subimagename", "depth", "--siappend"]
    tiles = ["--tile", 16, 16] if layout == "tiled" else ["--scanline"]
    oiiotool(*made, *tiles, "--compression", compression, "-d", "float", "-o", file)

    read, z = ji.read_picture(file)
    # DWA at its usual level of 45 loses a hundredth or two of smooth light.
    loss = {"atol": 0.03} if compression == "dwaa" else {"atol": 0, "rtol": 0}
    np.testing.assert_allclose(read[..., :3], shown, **loss)
    np.testing.assert_array_equal(z, far)

    back = tmp_path / "back.exr"
    ji.write_picture(back, np.ascontiguousarray(read), z)
    again, z_again = ji.read_picture(back)
    np.testing.assert_allclose(again, read, atol=2e-3 if compression == "dwaa" else 0)
    np.testing.assert_array_equal(z_again, z)

