"""The demo's files in a folder of their own, with small pictures, a small plate and what is solved of it
besides: to run commands on thousands of times."""
import shutil
import subprocess
import tempfile
from pathlib import Path

DEMO = Path(__file__).resolve().parent.parent / "demo"
SMALL = ["--set", "body.pixels=160 x 90"]


def small_demo(tool: str) -> Path:
    folder = Path(tempfile.mkdtemp(prefix="jolly_iris_small_"))
    for name in [*(DEMO / "regatta").iterdir(), *(DEMO / "looks").iterdir()]:
        if name.suffix not in {".cpp", ".hpp", ".sh"}:
            shutil.copy(name, folder / name.name)
    shutil.copy(DEMO.parent / "dialects" / "shares.dialect.toml", folder / "own.dialect.toml")
    (folder / "own.curve.csv").write_text("number,light\n0,0\n0.4,0.18\n1,8\n")
    body = (folder / "tansy.body.toml").read_text()
    (folder / "small.body.toml").write_text(body.replace("1920 x 1080", "480 x 270"))
    notes = (folder / "notes.shot.toml").read_text()
    (folder / "small.shot.toml").write_text(
        notes.replace("tansy.body.toml", "small.body.toml").replace("plate.jpg", "small.jpg"))

    def run(*words: str) -> None:
        subprocess.run([tool, *words], cwd=folder, capture_output=True, check=True)

    run("trace", "hero.shot.toml", *SMALL, "--pinhole", "--samples", "4", "-o", "small.exr")
    run("trace", "hero.shot.toml", "--set", "body.pixels=480 x 270", "--samples", "32", "-o", "small.jpg")
    run("match", "small.shot.toml", "--least", "8", "--accept")
    return folder
