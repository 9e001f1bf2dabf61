"""What all tests share: the demo's folder and the tool."""

import json
import os
import pathlib
import subprocess

import pytest

ROOT = pathlib.Path(__file__).resolve().parents[2]


@pytest.fixture
def demo():
    return ROOT / "demo" / "regatta"


@pytest.fixture
def glasses():
    return ROOT / "demo" / "glass"


@pytest.fixture
def tool():
    """The command line's JSON for some words."""

    def run(*words):
        done = subprocess.run(
            [os.environ["JOLLY_IRIS_TOOL"], *map(str, words), "--json"],
            cwd=ROOT,
            capture_output=True,
            check=True,
            text=True,
        )
        return json.loads(done.stdout)

    return run
