"""What is drawn, and what a plate is in another colour space: the tool's own files, byte for byte."""

import base64
import re

import numpy as np
import pytest

import jolly_iris as ji


def numbered_from_one(svg):
    """Cairo numbers the surfaces of a process: the same drawing, the second time, has other numbers."""
    seen = {}
    return re.sub(rb"surface\d+", lambda m: b"surface%d" % seen.setdefault(m[0], len(seen)), svg)


def without_numbers(html):
    return re.sub(
        "svg\\+xml;base64,([A-Za-z0-9+/=]+)",
        lambda m: numbered_from_one(base64.b64decode(m[1])).decode(),
        html,
    )


def test_sheets_are_the_tools(demo, tool, tmp_path):
    hero = demo / "hero.shot.toml"
    shot = ji.load_shot(hero)
    tool("plan", hero, "-o", tmp_path / "plan.png")
    assert ji.plan(shot) == (tmp_path / "plan.png").read_bytes()
    tool("plan", hero, "--side", "-o", tmp_path / "side.svg")
    side = ji.plan(shot, side=True, kind="svg")
    assert numbered_from_one(side) == numbered_from_one((tmp_path / "side.svg").read_bytes())
    tool("bokeh", hero, "--at", "boat,infinity", "-o", tmp_path / "discs.png")
    assert ji.bokeh(shot, at=["boat", "infinity"]) == (tmp_path / "discs.png").read_bytes()
    with pytest.raises(ValueError, match="'png' or 'svg', not 'pdf'"):
        ji.plan(shot, kind="pdf")
    with pytest.raises(ji.UsageError, match="bota"):
        ji.bokeh(shot, at=["bota"])


def test_the_page_is_the_tools(demo, tool, tmp_path):
    hero = demo / "hero.shot.toml"
    tool("page", hero, "--bokeh", "-o", tmp_path / "hero.html")
    ours = without_numbers(ji.page(ji.load_shot(hero), bokeh=True))
    assert ours == without_numbers((tmp_path / "hero.html").read_text())
    assert "surface0" in ours


def test_what_plates_tell_is_what_the_tool_says(demo, tool):
    notes = demo / "notes.shot.toml"
    shot = ji.load_shot(notes)
    told = tool("measure", notes)
    ours = ji.measure(shot).to_dict()
    for key, value in ours.items():
        assert told[key] == value, key
    told = tool("compare", demo / "hero.shot.toml", demo / "pinhole.exr")
    ours = ji.compare(ji.load_shot(demo / "hero.shot.toml"), [str(demo / "pinhole.exr")]).to_dict()
    for key, value in ours.items():
        assert told[key] == value, key


def test_a_plate_of_a_studios_config(demo, tmp_path):
    shot = ji.load_shot(
        demo / "dusk.shot.toml", set={"plate.ocio": "lake.ocio", "plate.transfer": "ocio:lake log"}
    )
    light = ji.read_plate(shot)
    plain = ji.read_plate(ji.load_shot(demo / "dusk.shot.toml"))
    assert light.shape == plain.shape and light.dtype == np.float32
    assert not np.allclose(light, plain, rtol=0.1)
    with pytest.raises(ji.UsageError, match="lake log"):
        shot.with_values({"plate.transfer": "ocio:lake lgo"})
    with pytest.raises(ji.UsageError, match="no plate"):
        ji.read_plate(ji.load_shot(demo / "drift.shot.toml"))


def test_shown_as_the_tool_shows(demo, tool, tmp_path):
    by = {"plate.ocio": "lake.ocio", "plate.display": "lake monitor", "plate.view": "dusk"}
    hero = demo / "hero.shot.toml"
    words = [w for key, value in by.items() for w in ("--set", f"{key}={value}")]
    tool("defocus", hero, demo / "pinhole.exr", "-o", tmp_path / "theirs.png", *words)
    shot = ji.load_shot(hero, set=by)
    blurred = ji.defocus(*ji.read_picture(demo / "pinhole.exr"), shot)
    ji.write_picture(tmp_path / "mine.png", ji.displayed(blurred, shot))
    theirs, mine = (ji.read_picture(tmp_path / n)[0] for n in ("theirs.png", "mine.png"))
    assert np.array_equal(theirs, mine)
    untouched = ji.load_shot(hero)
    assert np.array_equal(ji.displayed(blurred, untouched), blurred)
