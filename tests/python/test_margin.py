"""What a render has beyond the frame, against a much wider render: the frame's edge comes out alike."""

import numpy as np

import jolly_iris as ji

WIDER = (120, 68)  # px beside and above of the wider render: an eighth of the frame


def test_the_frames_edge_is_as_in_a_wider_render(demo, tool, tmp_path):
    hero = demo / "hero.shot.toml"
    by = [
        *("--set", f"body.gate={25.9 * 1200 / 960} x {14.6 * 676 / 540} mm"),
        *("--set", "body.pixels=2400 x 1352"),
    ]
    tool("trace", hero, "--pinhole", "--half", "--samples", "1", *by, "-o", tmp_path / "wide.exr")
    colour, depth = ji.read_picture(tmp_path / "wide.exr")
    assert colour.shape == (676, 1200, 4)

    def with_margin(beside, above):
        part = (
            slice(WIDER[1] - above, 676 - WIDER[1] + above),
            slice(WIDER[0] - beside, 1200 - WIDER[0] + beside),
        )
        file = tmp_path / "part.exr"
        ji.write_picture(file, np.ascontiguousarray(colour[part]), np.ascontiguousarray(depth[part]))
        tool("defocus", hero, file, "--margin", f"{beside},{above}", "-o", tmp_path / "out.exr")
        return np.clip(ji.read_picture(tmp_path / "out.exr")[0][..., :3], 0.0, 1.0)

    truth = with_margin(*WIDER)
    edge = np.ones(truth.shape[:2], bool)
    edge[9:-9, 9:-9] = False

    def decibels(other):
        return -10.0 * np.log10(((other - truth)[edge] ** 2).mean())

    # So much is what report asks for: 17 px beyond the whole picture, 9 of the half.
    assert tool("report", hero)["camera"]["margin_px"] == [17, 17]
    assert decibels(with_margin(9, 9)) > 95.0  # half floats hold no more
    assert decibels(with_margin(0, 0)) < 50.0
