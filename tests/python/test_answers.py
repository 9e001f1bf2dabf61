"""Solving, exposure, white, shot lists, carrying and handing off, against what the tool says."""

import json
import pathlib

import numpy as np
import pytest

import jolly_iris as ji


def without(told, *keys):
    return {k: v for k, v in told.items() if k not in keys}


def test_solved_as_the_tool_solves(demo, tool):
    hero = demo / "hero.shot.toml"
    shot = ji.load_shot(hero)
    held = ji.solve_hold(shot, "boat", "second boat")
    told = tool("solve", hero, "--hold", "boat,second boat")
    for key, value in held.to_dict().items():
        assert told[key] == value, key
    blur = ji.solve_blur(shot, "12 px", "infinity")
    told = tool("solve", hero, "--blur", "12 px")
    for key, value in blur.to_dict().items():
        assert told[key] == value, key


def test_what_was_solved_does_it(demo):
    shot = ji.load_shot(demo / "hero.shot.toml")
    solved = ji.solve_blur(shot, "12 px", "infinity")
    tried = shot.with_values(solved.values)
    assert tried.camera.coc_px(np.array([1e9]))[0] == pytest.approx(12.0, abs=0.05)
    held = shot.with_values(ji.solve_hold(shot, "boat", "second boat").values)
    px = {s.name: s.coc_px for s in held.subjects}
    assert abs(px["boat"] + px["second boat"]) < 0.1
    with pytest.raises(ji.UsageError, match="second boat"):
        ji.solve_hold(shot, "boat", "secnd boat")


def test_the_same_picture_on_another_body(demo):
    shot = ji.load_shot(demo / "hero.shot.toml")
    other = ji.solve_body(shot, demo / "willow.body.toml")
    assert "stop" in other.to_dict()
    assert "willow" in repr(other) or "mm" in repr(other)


def test_light_is_what_the_tool_says(demo, tool):
    shot = ji.load_shot(demo / "dusk.shot.toml")
    told = tool("expose", demo / "dusk.shot.toml")
    ours = ji.exposure(shot)
    for key, value in ours.items():
        assert told[key] == value, key
    look = ji.look_at(shot, demo / "dusk.jpg")
    told = tool("expose", demo / "dusk.shot.toml", demo / "dusk.jpg")
    for key in ("metered",):
        assert look[key] == told[key]


def test_white_goes_there_and_back():
    warm = ji.White(3200)
    gains = warm.gains()
    assert gains[1] == pytest.approx(1.0)
    assert gains[2] > gains[0]
    back = ji.white_of_gains(gains)
    assert back.kelvin == pytest.approx(3200, rel=1e-3)
    assert back.tint == pytest.approx(0.0, abs=1e-4)
    seen = [1.0 / g for g in gains]
    assert ji.white_of_patch(seen).kelvin == pytest.approx(3200, rel=1e-3)
    with pytest.raises(ji.OpticsError):
        ji.White(200)
    with pytest.raises(ji.UsageError, match="Rec.709"):
        warm.gains("rec2020")


def test_a_folder_side_by_side(demo, tool):
    ours = ji.list_shots([str(demo)], columns=["take.stop", "focus_m"])
    told = tool("shots", demo, "--columns", "take.stop,focus_m")
    assert ours == without(told, "notes", "written")
    seen = []
    ji.list_shots([str(demo)], progress=seen.append)
    assert seen[-1] == 1.0


def test_a_look_is_carried(demo, tool):
    told = tool("carry", demo / "hero.shot.toml", "--to", demo / "bank.shot.toml")
    ours = ji.carry(ji.load_shot(demo / "hero.shot.toml"), [str(demo / "bank.shot.toml")])
    assert ours["shots"] == told["shots"]


def test_handed_off_as_the_tool_hands_off(demo, tool, tmp_path):
    mine, theirs = tmp_path / "mine", tmp_path / "theirs"
    mine.mkdir()
    theirs.mkdir()
    tool("handoff", demo / "drift.shot.toml", "--to", theirs)
    names = ji.hand_off(ji.load_shot(demo / "drift.shot.toml"), mine)
    assert sorted(pathlib.Path(n).name for n in names) == sorted(p.name for p in theirs.iterdir())
    for file in theirs.iterdir():
        assert (mine / file.name).read_bytes() == file.read_bytes(), file.name
    assert json.loads((mine / "drift.camera.gltf").read_text())["cameras"]
    with pytest.raises(ji.FileError, match="is no folder"):
        ji.hand_off(ji.load_shot(demo / "hero.shot.toml"), tmp_path / "none")
