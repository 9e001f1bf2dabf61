"""docs/python.md says what Python says, and the examples run."""

import doctest
import pathlib
import subprocess
import sys

ROOT = pathlib.Path(__file__).resolve().parents[2]


def test_what_the_page_shows_is_so(monkeypatch):
    monkeypatch.chdir(ROOT)
    told = doctest.testfile(
        str(ROOT / "docs" / "python.md"), module_relative=False, optionflags=doctest.ELLIPSIS
    )
    assert told.attempted > 20 and told.failed == 0


def example(name, *words):
    done = subprocess.run(
        [sys.executable, ROOT / "examples" / "python" / name, *map(str, words)],
        cwd=ROOT,
        capture_output=True,
        text=True,
    )
    assert done.returncode == 0, done.stderr
    return done.stdout


def test_who_is_sharp_in_a_folder(demo):
    said = example("who_is_sharp.py", demo)
    assert "hero.shot.toml" in said and "41.21 mm f/1.71" in said and "boat" in said


def test_blur_against_distance(demo, tmp_path):
    out = tmp_path / "blur.png"
    assert "400 distances" in example("blur_against_distance.py", demo / "hero.shot.toml", out)
    assert out.stat().st_size > 20_000


def test_defocus_in_steps(demo, tmp_path):
    said = example(
        "defocus_steps.py", demo / "hero.shot.toml", demo / "pinhole.exr", tmp_path / "out.exr"
    )
    assert "is sharp" in said and "differ by" in said
