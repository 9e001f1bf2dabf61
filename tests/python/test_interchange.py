"""What we write for other programs, as others read it: npm's gltf-validator; a reader of USD text that
was written here from the schema's published rules (UsdGeomCamera, UsdGeomXformable); exiv2."""

import json
import math
import os
import pathlib
import re
import shutil
import subprocess

import pytest

import jolly_iris as ji

ROOT = pathlib.Path(__file__).resolve().parents[2]
VALIDATOR = ROOT / "build" / "npm" / "node_modules" / "gltf-validator"


@pytest.fixture(scope="module")
def handed(tmp_path_factory):
    """Camera files of every shot of the demo that has a place for its camera."""
    folder = tmp_path_factory.mktemp("handed")
    for file in sorted((ROOT / "demo" / "regatta").glob("*.shot.toml")):
        ji.hand_off(ji.load_shot(file), folder)
    return folder


@pytest.mark.skipif(not VALIDATOR.exists(), reason="npm could not bring gltf-validator here")
def test_gltf_is_valid(handed):
    files = [*sorted(handed.glob("*.gltf")), *sorted((ROOT / "demo" / "regatta").glob("*.gltf"))]
    assert len(files) >= 8
    done = subprocess.run(
        ["node", ROOT / "tests" / "validate_gltf.js", VALIDATOR.parent, *files],
        capture_output=True,
        text=True,
    )
    assert done.returncode == 0, done.stdout + done.stderr
    assert done.stdout.count("0 errors, 0 warnings") == len(files), done.stdout


# ---- USD text ------------------------------------------------------------------------------------

TOKEN = re.compile(r'\s*(?:#[^\n]*\n\s*)*("(?:[^"\\]|\\.)*"|[\w.:+-]+(?:\[\])?|[()\[\]{}=,;:])')


class Usd:
    """As much of the text format as a camera is written in; anything else is an error."""

    def __init__(self, text):
        assert text.startswith("#usda 1.0\n")
        self.words = TOKEN.findall(text[len("#usda 1.0\n") :])
        self.at = 0
        self.metadata = self.read_metadata() if self.peek() == "(" else {}
        self.prims = []
        while self.at < len(self.words):
            self.prims.append(self.read_prim())

    def peek(self):
        return self.words[self.at]

    def take(self, wanted=None):
        word = self.words[self.at]
        assert wanted is None or word == wanted, f"{wanted} wanted, but there is {word}"
        self.at += 1
        return word

    def read_metadata(self):
        out = {}
        self.take("(")
        while self.peek() != ")":
            if self.peek().startswith('"'):
                out["comment"] = self.read_value()
                continue
            name = self.take()
            self.take("=")
            out[name] = self.read_value()
        self.take(")")
        return out

    def read_value(self):
        word = self.take()
        if word in "([":
            end = ")" if word == "(" else "]"
            out = []
            while self.peek() != end:
                out.append(self.read_value())
                if self.peek() == ",":
                    self.take()
            self.take(end)
            return out
        if word == "{":
            out = {}
            while self.peek() != "}":
                key = self.take()
                # A frame's number and its colon may stand together.
                if key.endswith(":"):
                    key = key[:-1]
                else:
                    self.take(":")
                out[float(key)] = self.read_value()
                if self.peek() == ",":
                    self.take()
            self.take("}")
            return out
        return json.loads(word) if word.startswith('"') else float(word)

    def read_prim(self):
        self.take("def")
        prim = {"type": self.take(), "name": json.loads(self.take()), "values": {}, "types": {}}
        if self.peek() == "(":
            prim["metadata"] = self.read_metadata()
        self.take("{")
        while self.peek() != "}":
            kind = self.take()
            while kind in ("uniform", "custom"):
                kind = self.take()
            name = self.take()
            self.take("=")
            prim["types"][name] = kind
            prim["values"][name] = self.read_value()
        self.take("}")
        return prim


# UsdGeomCamera's and UsdGeomXformable's attributes, with their types.
SCHEMA = {
    "projection": "token",
    "focalLength": "float",
    "horizontalAperture": "float",
    "verticalAperture": "float",
    "horizontalApertureOffset": "float",
    "verticalApertureOffset": "float",
    "clippingRange": "float2",
    "fStop": "float",
    "focusDistance": "float",
    "xformOp:transform": "matrix4d",
    "xformOpOrder": "token[]",
    "shutter:open": "double",
    "shutter:close": "double",
    "exposure": "float",
}


def test_usd_text_says_the_camera_by_the_schema(handed, demo):
    seen = 0
    for file in sorted(handed.glob("*.usda")):
        stage = Usd(file.read_text())
        assert stage.metadata["upAxis"] in ("Y", "Z")
        unit = stage.metadata["metersPerUnit"]
        cameras = [p for p in stage.prims if p["type"] == "Camera"]
        assert len(cameras) == 1
        camera = cameras[0]
        assert stage.metadata["defaultPrim"] == camera["name"]
        assert re.fullmatch(r"[A-Za-z_]\w*", camera["name"])
        for name, kind in camera["types"].items():
            plain = name.removesuffix(".timeSamples")
            if plain in SCHEMA:
                assert kind == SCHEMA[plain], name
            else:
                assert ":" in plain, f"{name} is no attribute of the schema, nor in a namespace"
        values = camera["values"]
        told = json.loads((file.parent / file.name.replace(".usda", ".json")).read_text())
        # Lengths of the film are in tenths of the stage's unit.
        tenth_mm = unit * 100.0
        film = told["camera"]
        assert values["focalLength"] * tenth_mm == pytest.approx(film["focal_mm"], rel=1e-6)
        wide = values["horizontalAperture"] * tenth_mm
        high = values["verticalAperture"] * tenth_mm
        assert math.degrees(2 * math.atan(wide / (2 * film["focal_mm"]))) == pytest.approx(
            film["picture_fov_deg"][0], abs=1e-4
        )
        assert math.degrees(2 * math.atan(high / (2 * film["focal_mm"]))) == pytest.approx(
            film["picture_fov_deg"][1], abs=1e-4
        )
        assert values["fStop"] == pytest.approx(film["f_number"], rel=1e-6)
        if film["focus_m"] is not None:
            assert values["focusDistance"] * unit == pytest.approx(film["focus_m"], rel=1e-6)
        assert values["xformOpOrder"] == ["xformOp:transform"]
        first = values.get("xformOp:transform")
        samples = values.get("xformOp:transform.timeSamples")
        if first is None:
            first = samples[min(samples)]
        world = told["world_matrix"]
        for row in range(4):
            for column in range(4):
                scale = unit if row == 3 and column < 3 else 1.0
                assert first[row][column] * scale == pytest.approx(world[4 * row + column], abs=1e-6)
        if samples:
            assert stage.metadata["startTimeCode"] == min(samples)
            assert stage.metadata["endTimeCode"] == max(samples)
        seen += 1
    assert seen >= 4


# ---- Exif ----------------------------------------------------------------------------------------


@pytest.mark.skipif(shutil.which("exiv2") is None, reason="exiv2 is not there")
def test_exif_of_another_writer_is_read(demo, tmp_path):
    file = tmp_path / "photo.jpg"
    shutil.copy(demo / "dusk.jpg", file)
    words = {
        "Exif.Photo.FNumber": "28/10",
        "Exif.Photo.FocalLength": "53/1",
        "Exif.Photo.ISOSpeedRatings": "800",
        "Exif.Photo.ExposureTime": "1/50",
        "Exif.Photo.SubjectDistance": "235/100",
        "Exif.Image.Make": "Nonesuch",
        "Exif.Image.Model": "Tansy 8",
    }
    for key, value in words.items():
        subprocess.run(["exiv2", f"-Mset {key} {value}", file], check=True)
    said = subprocess.run(["exiv2", "-Pkv", "pr", file], check=True, capture_output=True, text=True).stdout
    assert "28/10" in said
    made = tmp_path / "photo.shot.toml"
    subprocess.run(
        [os.environ["JOLLY_IRIS_TOOL"], "start", file, "-o", made], check=True, capture_output=True
    )
    text = made.read_text()
    for expected in ("f/2.8", "53", "800", "1/50", "Nonesuch Tansy 8"):
        assert expected in text, expected + " in\n" + text
