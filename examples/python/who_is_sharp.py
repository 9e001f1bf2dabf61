"""A table of who is sharp in each shot of a folder.

    python3 who_is_sharp.py demo/regatta
"""

import pathlib
import sys

import jolly_iris as ji


def main(folder: str) -> int:
    files = sorted(pathlib.Path(folder).glob("*.shot.toml"))
    print(f"{'shot':<22}{'camera':<24}{'sharp':<34}nearest that is not")
    for file in files:
        try:
            shot = ji.load_shot(file)
        except ji.Error as e:
            print(f"{file.name:<22}cannot be read: {str(e).splitlines()[0]}")
            continue
        seen = [s for s in shot.subjects if s.in_picture]
        sharp = [s.name for s in seen if s.sharp]
        rest = [s for s in seen if not s.sharp and not s.partly_sharp]
        nearest = min(rest, key=lambda s: abs(s.coc_px), default=None)
        camera = f"{shot.camera.focal.mm:.2f} mm f/{shot.camera.f_number:.2f}"
        print(
            f"{file.name:<22}{camera:<24}{', '.join(sharp)[:32]:<34}"
            + (f"{nearest.name} {nearest.coc_px:+.1f} px" if nearest else "")
        )
    return 0 if files else 1


if __name__ == "__main__":
    sys.exit(main(sys.argv[1] if len(sys.argv) > 1 else "."))
