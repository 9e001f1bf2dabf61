"""Pictures as arrays: what goes in, what comes out, who may stop it."""

import _thread
import concurrent.futures
import gc
import resource
import threading
import time

import numpy as np
import pytest

import jolly_iris as ji


def camera():
    return ji.resolve(
        ji.Body("25.9 x 14.6 mm", (480, 270)), ji.Lens("58 mm"), ji.Take("f/2.2"), "2.4 m"
    )


def set_of(width=480, height=270, metres=10.0):
    colour = np.zeros((height, width, 3), np.float32)
    colour[height // 2, width // 2] = 100.0
    return colour, np.full((height, width), metres, np.float32)


def test_a_lamp_becomes_its_disc():
    colour, depth = set_of()
    out = ji.defocus(colour, depth, camera())
    assert out.shape == colour.shape and out.dtype == np.float32
    assert out.sum() == pytest.approx(colour.sum(), rel=1e-3)
    lit = (out[..., 1] > 0.5 * out[..., 1].max()).sum()
    size = camera().coc_px("10 m")
    assert 2 * np.sqrt(lit / np.pi) == pytest.approx(size, abs=1.0)


def test_in_focus_nothing_changes_and_alpha_comes_back():
    colour, depth = set_of(metres=2.4)
    rgba = np.concatenate([colour, np.ones((*depth.shape, 1), np.float32)], axis=2)
    out = ji.defocus(rgba, depth, camera())
    np.testing.assert_allclose(out, rgba, atol=1e-5)


def test_the_result_is_no_copy():
    colour, depth = set_of()
    out = ji.defocus(colour, depth, camera())
    assert out.base is not None and not out.flags.owndata
    rgb = ji.blur_map(colour, depth, camera())
    assert rgb.shape == depth.shape and rgb[0, 0] == pytest.approx(camera().coc_px("10 m"), rel=1e-5)


@pytest.mark.parametrize(
    "colour, depth, error, says",
    [
        (np.zeros((4, 4, 3)), np.zeros((4, 4), np.float32), TypeError, "float32 is right"),
        (np.zeros((4, 4), np.float32), np.zeros((4, 4), np.float32), ValueError, "x 3 or 4"),
        (np.zeros((4, 4, 3), np.float32), np.ones((5, 4), np.float32), ValueError, "4 x 4"),
        (np.zeros((4, 4, 3), np.float32), np.full((4, 4), -1, np.float32), ji.PictureError, ""),
        (np.full((4, 4, 3), np.nan, np.float32), np.ones((4, 4), np.float32), ji.PictureError, ""),
    ],
)
def test_what_is_no_picture_is_told(colour, depth, error, says):
    with pytest.raises(error, match=says):
        ji.defocus(colour, depth, camera())


def test_strided_arrays_are_read_as_they_are():
    colour, depth = set_of()
    wide = np.repeat(colour, 2, axis=1)[:, ::2]
    assert not wide.flags.c_contiguous
    np.testing.assert_array_equal(
        ji.defocus(wide, depth, camera()), ji.defocus(colour, depth, camera())
    )


def test_progress_is_told_and_an_error_in_it_stops_the_work(demo):
    shot = ji.load_shot(demo / "hero.shot.toml")
    told = []
    ji.trace(shot, samples=1, half=True, progress=told.append)
    assert told and told == sorted(told) and told[-1] == 1.0

    def refuse(done):
        raise RuntimeError("enough")

    with pytest.raises(RuntimeError, match="enough"):
        ji.trace(shot, samples=512, progress=refuse)


def test_ctrl_c_ends_the_work(demo):
    shot = ji.load_shot(demo / "hero.shot.toml")
    threading.Timer(0.5, _thread.interrupt_main).start()
    began = time.monotonic()
    with pytest.raises(KeyboardInterrupt):
        ji.trace(shot, samples=4096)
    assert time.monotonic() - began < 60


def test_other_threads_go_on_meanwhile():
    colour, depth = set_of(960, 540)
    alone = ji.defocus(colour, depth, camera(), threads=1)
    with concurrent.futures.ThreadPoolExecutor(4) as pool:
        all_of_them = list(
            pool.map(lambda _: ji.defocus(colour, depth, camera(), threads=1), range(8))
        )
    for one in all_of_them:
        np.testing.assert_array_equal(one, alone)


def test_nothing_is_left_over():
    colour, depth = set_of(24, 14)
    c = camera()
    body, lens, take = ji.Body("super 35", (48, 27)), ji.Lens("58 mm"), ji.Take("f/2")

    def work(times):
        for _ in range(times):
            ji.defocus(colour, depth, c, threads=1)
            ji.resolve(body, lens, take, "3 m")
            with pytest.raises(ji.OpticsError):
                ji.resolve(body, lens, take, "1 mm")
        gc.collect()

    work(200)
    before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    work(10000)
    # KiB. A picture that stayed each time would be 50 MiB.
    assert resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before < 8 * 1024


def test_files_come_back_as_they_were(tmp_path):
    colour, depth = set_of(32, 18)
    file = tmp_path / "p.exr"
    ji.write_picture(file, colour, depth)
    read, far = ji.read_picture(file)
    np.testing.assert_array_equal(read[..., :3], colour)
    np.testing.assert_array_equal(far, depth)
    with pytest.raises(OSError):
        ji.read_picture(tmp_path / "none.exr")
