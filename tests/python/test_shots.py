"""Shots, plates and glasses against what the command line says of them."""

import shutil

import pytest

import jolly_iris as ji

def test_every_shot_says_what_the_tool_says(demo, tool):
    compared = 0
    for file in sorted(demo.glob("*.shot.toml")):
        told = tool("report", file)
        shot = ji.load_shot(file, frame=None)
        assert shot.to_dict() == told, file.name
        compared += 1
    assert compared >= 4


def test_of_a_glass_too(glasses, tool):
    for file in sorted(glasses.glob("*.glass.toml")):
        told = tool("glass", file, "--at", "1.5 m")
        told.pop("written")
        assert ji.load_glass(file, at="1.5 m").to_dict() == told | {"file": str(file)}
    twin = ji.load_glass(glasses / "hornbeam-50.glass.toml", at=1.5 * ji.m).twin()
    assert twin["refractions"] == 10
    with pytest.raises(TypeError, match="no unit"):
        ji.load_glass(glasses / "hornbeam-50.glass.toml", at=1.5)


def test_values_are_tried_without_a_file(demo):
    shot = ji.load_shot(demo / "hero.shot.toml")
    wider = shot.with_values({"take.stop": "f/2", "focus.at": 3 * ji.m})
    assert wider.camera.focus.m == pytest.approx(3)
    assert wider.camera.aperture_radius > shot.camera.aperture_radius
    with pytest.raises(ji.ShotFileError) as e:
        shot.with_values({"take.stop": "f/-3"})
    assert e.value.key == "take.stop"


def test_saved_by_lines(demo, tmp_path):
    for file in demo.iterdir():
        if file.is_file():
            shutil.copy(file, tmp_path)
    mine = tmp_path / "hero.shot.toml"
    before = mine.read_text()
    shot = ji.load_shot(mine)
    shot.save({"take.stop": "f/2.5"})
    after = mine.read_text()
    changed = [a for a, b in zip(before.splitlines(), after.splitlines()) if a != b]
    assert len(changed) == 1 and "stop" in changed[0]
    assert ji.load_shot(mine).take.stop == 2.5
    with pytest.raises(ji.UsageError):
        shot.save({"take.stop": "wide open"})
    assert mine.read_text() == after


def test_match_says_what_the_tool_says(demo, tool):
    told = tool("match", demo / "notes.shot.toml")
    m = ji.match(ji.load_shot(demo / "notes.shot.toml"))
    assert m.notes == told.pop("notes")
    assert m.to_dict() == told
    assert not m.notes_agree and m.mistakes
    assert {u.name for u in m.unknowns} >= {"stop", "focus", "focal length"}
    assert "Notes and plate disagree" in m.to_text()
