"""`pip install .`, without a network, into a folder that knows nothing of where it was built."""

import json
import os
import pathlib
import subprocess
import sys

ROOT = pathlib.Path(__file__).resolve().parents[2]


def test_pip_installs_what_runs_by_itself(demo, tmp_path):
    site = tmp_path / "site"
    built = os.environ["JOLLY_IRIS_BUILD"]
    words = ["--no-index", "--no-deps", "--quiet", "--target", site]
    words += ["--root-user-action", "ignore", "--config-settings", f"folder={built}"]
    subprocess.run([sys.executable, "-m", "pip", "install", ROOT, *words], check=True)
    said = subprocess.run(
        [
            *(sys.executable, "-c"),
            "import json, sys; import jolly_iris as ji;"
            "shot = ji.load_shot(sys.argv[1]);"
            "ji.read_picture(sys.argv[2]);"  # loads what knows picture formats
            "print(round(shot.camera.focal.mm, 3), ji.__version__);"
            "maps = [l.split()[-1] for l in open('/proc/self/maps') if 'jolly_iris' in l];"
            "print(json.dumps(maps))",
            *(demo / "hero.shot.toml", demo / "pinhole.exr"),
        ],
        check=True,
        capture_output=True,
        text=True,
        cwd=tmp_path,
        env={"PYTHONPATH": str(site), "PATH": os.environ["PATH"]},
    ).stdout.splitlines()
    assert said[0] == "41.209 0.1.0"
    loaded = [name for name in json.loads(said[1]) if name.endswith((".so", ".so.0.1"))]
    assert len(set(loaded)) > 5
    assert all(name.startswith(str(site)) for name in loaded), loaded
    listed = next(site.glob("jolly_iris-*.dist-info")) / "RECORD"
    assert "jolly_iris/_core" in listed.read_text()
