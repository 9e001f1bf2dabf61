"""Units, cameras, samplers: without a file."""

import math

import numpy as np
import pytest

import jolly_iris as ji


def camera(focus="2.4 m", blades=7):
    return ji.resolve(
        ji.Body("25.9 x 14.6 mm", (1920, 1080)),
        ji.Lens(58 * ji.mm, blades=blades),
        ji.Take("f/2.2"),
        focus,
    )


def test_lengths_carry_their_unit():
    assert (58 * ji.mm).mm == 58
    assert ji.Length("58 mm") == 58 * ji.mm
    assert 2.4 * ji.m / (1 * ji.foot) == pytest.approx(7.874015748)
    assert (ji.m - 10 * ji.cm).mm == pytest.approx(900)
    assert not ji.infinity.is_finite
    assert len({58 * ji.mm, ji.Length("58 mm")}) == 1


@pytest.mark.parametrize("bare", [58, 58.0, True, None])
def test_a_bare_number_is_refused_and_told_why(bare):
    with pytest.raises(TypeError, match="no unit.*58 \\* ji.mm"):
        ji.Lens(bare)


def test_resolve_is_the_thin_lens():
    c = camera()
    f, s = 58.0, 2400.0
    v = f * s / (s - f)
    assert c.focal.mm == pytest.approx(v, rel=1e-12)
    assert c.f_number == pytest.approx(v / (f / 2.2), rel=1e-12)
    coc = f / 2.2 * v * (1 / s - 1 / 10000.0)
    assert c.coc("10 m").mm == pytest.approx(coc, rel=1e-12)
    px = c.coc_px(np.array([2.4, 10.0, np.inf]))
    assert px.shape == (3,)
    assert px[0] == pytest.approx(0, abs=1e-9)
    assert px[1] == c.coc_px(10 * ji.m)
    near, far = c.sharp_range(2.0)
    assert c.coc_px(near) == pytest.approx(-2) and c.coc_px(far) == pytest.approx(2)


def test_errors_are_what_python_programs_catch():
    with pytest.raises(ValueError) as e:
        camera("1 mm")
    assert isinstance(e.value, ji.OpticsError) and isinstance(e.value, ji.Error)
    with pytest.raises(OSError, match="nothing.shot.toml"):
        ji.load_shot("nothing.shot.toml")
    with pytest.raises(ji.UsageError, match="is not a length"):
        ji.Lens("58")


def test_points_are_even_over_the_opening():
    lens = ji.LensSampler(camera(blades=0))
    random = np.random.default_rng(260101)
    u, v = random.random((2, 100_000))
    at = lens.points(u, v)
    assert at.shape == (100_000, 2)
    assert np.abs(at.mean(axis=0)).max() < 0.01
    # Of an even disc half of the area lies within 1/sqrt(2) of its radius.
    r = np.hypot(at[:, 0], at[:, 1])
    assert np.mean(r < r.max() / math.sqrt(2)) == pytest.approx(0.5, abs=0.005)


def test_rays_of_one_place_meet_in_the_focus_plane():
    c = camera()
    random = np.random.default_rng(260102)
    u, v = random.random((2, 50))
    origin, direction, weight = ji.LensSampler(c).rays(0.004, -0.002, u, v)
    assert (direction[:, 2] == -1).all() and weight.shape == (50, 3)
    there = origin + direction * c.focus.m
    assert np.ptp(there, axis=0).max() < 1e-9
    with pytest.raises(ValueError, match="different lengths"):
        ji.LensSampler(c).rays(np.zeros(3), 0.0, u, v)
    with pytest.raises(ValueError, match="0 red, 1 green or 2 blue"):
        ji.LensSampler(c).rays(0.0, 0.0, u, v, 3)
