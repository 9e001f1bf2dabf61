"""What jolly_iris is made of; import jolly_iris instead."""

import os
from collections.abc import Callable, Sequence
from typing import Any, final

import numpy as np
from numpy.typing import ArrayLike, NDArray

_Floats = NDArray[np.float32]
_Doubles = NDArray[np.float64]
_Path = str | os.PathLike[str]
_Length = Length | str
_Progress = Callable[[float], object] | None
_Values = dict[str, Any]

__version__: str
mm: Length
cm: Length
m: Length
inch: Length
foot: Length
infinity: Length

class Error(Exception):
    """Anything Jolly Iris refuses to do; catch this to catch all of it."""

    key: str
    """the shot file's key at fault, where one can be named, else empty"""
    place: str
    """file, line and column, where there is one, else empty"""

class OpticsError(Error, ValueError): ...
class UsageError(Error, ValueError): ...
class ShotFileError(UsageError): ...
class PictureError(Error, ValueError): ...
class WorkTooLargeError(Error, MemoryError): ...
class FileError(Error, OSError): ...
class TransientError(FileError): ...

class Length:
    """A length with its unit: 58 * ji.mm, Length("2.4 m"). Infinity is a distance, too."""

    def __init__(self, text: str) -> None: ...
    @property
    def mm(self) -> float: ...
    @property
    def m(self) -> float: ...
    @property
    def is_finite(self) -> bool: ...
    def __add__(self, arg0: Length, /) -> Length: ...
    def __sub__(self, arg0: Length, /) -> Length: ...
    def __neg__(self) -> Length: ...
    def __mul__(self, arg0: float, /) -> Length: ...
    def __rmul__(self, arg0: float, /) -> Length: ...
    def __truediv__(self, arg0: Any, /) -> Any: ...
    def __lt__(self, arg0: Length, /) -> bool: ...
    def __le__(self, arg0: Length, /) -> bool: ...
    def __gt__(self, arg0: Length, /) -> bool: ...
    def __ge__(self, arg0: Length, /) -> bool: ...
    def __eq__(self, arg0: object, /) -> bool: ...
    def __hash__(self) -> int: ...

class Angle:
    """An angle with its unit: Angle("172.8 deg")."""

    def __init__(self, text: str) -> None: ...
    @property
    def degrees(self) -> float: ...
    @property
    def radians(self) -> float: ...

class Body:
    """The real camera: its gate and the picture that it delivers.

    gate: "25.9 x 14.6 mm", or a trade format's name ("super 35"); pixels: (width, height)
    """

    def __init__(self, gate: str, pixels: tuple[int, int], name: str = "") -> None: ...
    @property
    def name(self) -> str: ...
    @property
    def gate(self) -> tuple[Length, Length]: ...
    @property
    def pixels(self) -> tuple[int, int]: ...

class Lens:
    """The lens. blade_radius: "1.5 x" of the opening's radius, "13.7 mm", "straight"."""

    def __init__(
        self,
        focal: _Length,
        *,
        adapter: float = 1.0,
        squeeze: float = 1.0,
        squeeze_rear: bool = False,
        blades: int = 0,
        blade_radius: str | None = None,
        name: str = "",
    ) -> None: ...
    @property
    def name(self) -> str: ...
    @property
    def focal(self) -> Length: ...
    @property
    def adapter(self) -> float: ...
    @property
    def squeeze(self) -> float: ...
    @property
    def blades(self) -> int: ...

class Take:
    """What was set on the day. stop: "f/2.8", "T2.9"; mark: from the sensor plane."""

    def __init__(self, stop: str, mark: _Length | None = None, iso: float | None = None) -> None: ...
    @property
    def stop(self) -> float: ...
    @property
    def mark(self) -> Length | None: ...

@final
class VirtualCamera:
    """What to type into a virtual camera. focal and f_number are a pair, lens_focal and
    lens_f_number another; never mix them."""

    @property
    def focal(self) -> Length: ...
    @property
    def f_number(self) -> float: ...
    @property
    def aperture_radius(self) -> Length: ...
    @property
    def focus(self) -> Length: ...
    @property
    def lens_focal(self) -> Length: ...
    @property
    def lens_f_number(self) -> float: ...
    @property
    def lens_t_number(self) -> float: ...
    @property
    def squeeze(self) -> float: ...
    @property
    def pupil_to_sensor(self) -> Length: ...
    @property
    def gate(self) -> tuple[Length, Length]: ...
    @property
    def pixels(self) -> tuple[int, int]: ...
    @property
    def fields_of_view(self) -> tuple[Angle, Angle]: ...
    def coc(self, z: _Length) -> Length:
        """Signed diameter of the blur disc on the gate, + behind the focus. z: axial."""
    def coc_px(self, z: Any) -> Any:
        """The same in px: of one distance a float, of an array in metres an array."""
    def sharp_range(self, pixels: float = 2.0) -> tuple[Length, Length]:
        """Nearest and farthest that is blurred by no more than so many px."""
    def hyperfocal(self, pixels: float = 2.0) -> Length: ...

class LensSampler:
    """From places of the frame and two numbers in [0, 1) to rays of the lens."""

    def __init__(self, camera: VirtualCamera) -> None: ...
    def points(self, u: ArrayLike, v: ArrayLike) -> _Doubles:
        """Even points of the opening, n x 2, in radii of it."""
    def rays(
        self, right: ArrayLike, up: ArrayLike, u: ArrayLike, v: ArrayLike, colour: int = 1
    ) -> tuple[_Doubles, _Doubles, _Doubles]:
        """right, up: metres on the gate. Origin n x 3 (metres), direction n x 3 (z is -1), weight
        n x 3 (red, green, blue; 0 where the barrel hides it)."""

@final
class Subject:
    """One that has a name and a place: how sharp it is."""

    @property
    def name(self) -> str: ...
    @property
    def axial(self) -> Length: ...
    @property
    def radial(self) -> Length: ...
    @property
    def tape(self) -> Length: ...
    @property
    def front(self) -> Length: ...
    @property
    def back(self) -> Length: ...
    @property
    def coc_px(self) -> float: ...
    @property
    def coc(self) -> Length: ...
    @property
    def sharp(self) -> bool: ...
    @property
    def partly_sharp(self) -> bool: ...
    @property
    def in_picture(self) -> bool: ...

@final
class Shot:
    """Body, lens, take, scene, plate and focus, answered."""

    @property
    def file(self) -> str: ...
    @property
    def files(self) -> list[str]: ...
    @property
    def camera(self) -> VirtualCamera: ...
    @property
    def body(self) -> Body: ...
    @property
    def lens(self) -> Lens: ...
    @property
    def take(self) -> Take: ...
    @property
    def subjects(self) -> list[Subject]: ...
    def to_dict(self) -> dict[str, Any]: ...
    def with_values(self, set: _Values) -> Shot: ...
    def at_frame(self, frame: float) -> Shot: ...
    def save(self, values: _Values, to: _Path | None = None) -> None: ...

@final
class Disc:
    """A light out of focus, px of the plate; margins are 95 %."""

    @property
    def name(self) -> str: ...
    @property
    def at(self) -> tuple[float, float]: ...
    @property
    def height_px(self) -> float: ...
    @property
    def margin_px(self) -> float: ...
    @property
    def width_px(self) -> float: ...
    @property
    def clipped(self) -> bool: ...
    @property
    def outlier(self) -> bool: ...

@final
class FoundDiscs:
    """The discs of a plate, and the iris that drew them."""

    @property
    def discs(self) -> list[Disc]: ...
    @property
    def blades(self) -> int | None: ...
    def to_dict(self) -> dict[str, Any]: ...

@final
class Unknown:
    """What a plate says of one number of the notes."""

    @property
    def name(self) -> str: ...
    @property
    def noted(self) -> float: ...
    @property
    def value(self) -> float: ...
    @property
    def margin(self) -> float: ...
    @property
    def determined(self) -> bool: ...

@final
class Match:
    """Which camera took a plate, and what its notes have wrong."""

    @property
    def notes_agree(self) -> bool: ...
    @property
    def unexplained(self) -> bool: ...
    @property
    def unknowns(self) -> list[Unknown]: ...
    @property
    def mistakes(self) -> list[list[str]]: ...
    @property
    def notes(self) -> list[str]: ...
    def to_dict(self) -> dict[str, Any]: ...
    def to_text(self) -> str: ...

@final
class Comparison:
    """How alike a plate and CG are."""

    def to_dict(self) -> dict[str, Any]: ...

@final
class Glass:
    """A lens by its surfaces, focused and opened."""

    @property
    def name(self) -> str: ...
    @property
    def focal(self) -> Length: ...
    @property
    def widest(self) -> float: ...
    @property
    def nearest(self) -> Length: ...
    @property
    def circle(self) -> Length: ...
    @property
    def notes(self) -> list[str]: ...
    def to_dict(self) -> dict[str, Any]: ...
    def twin(self) -> dict[str, Any]: ...

def resolve(body: Body, lens: Lens, take: Take, focus: _Length | None = None) -> VirtualCamera:
    """The virtual camera that equals the real one. focus: axial, from the entrance pupil; None: at
    the take's mark. Raises OpticsError for what no camera has."""

def load_shot(
    file: _Path,
    set: _Values = ...,
    variant: str = "",
    frame: float | None = None,
    as_noted: bool = False,
) -> Shot:
    """Reads a shot file and answers it. set: values laid over it. Raises FileError, ShotFileError
    (all its mistakes at once), OpticsError."""

def defocus(
    colour: _Floats,
    depth: _Floats | None,
    camera: Shot | VirtualCamera,
    *,
    edge: str = "repeat",
    distance: _Length | None = None,
    vignetting: bool = True,
    threads: int = 0,
    progress: _Progress = None,
) -> _Floats:
    """A sharp picture as the lens would have seen it. colour: H x W x 3 or 4, linear light; depth:
    H x W, axial metres, infinity is sky; None with `distance`. Raises PictureError."""

def blur_map(colour: _Floats, depth: _Floats, camera: Shot | VirtualCamera) -> _Floats:
    """Signed diameter of each pixel's disc, px of the picture's height: H x W."""

def finish(
    colour: _Floats, shot: Shot, *, frame: float = 0.0, threads: int = 0, progress: _Progress = None
) -> _Floats:
    """What light does after the opening, as the shot's [finish] says."""

def trace(
    shot: Shot,
    *,
    samples: int = 64,
    pinhole: bool = False,
    half: bool = False,
    seed: int = 1,
    threads: int = 0,
    progress: _Progress = None,
) -> tuple[_Floats, _Floats | None]:
    """The shot's scene through its lens, ray by ray: colour H x W x 4 and, of a pinhole, depth."""

def read_picture(file: _Path) -> tuple[_Floats, _Floats | None]:
    """Colour H x W x 4, linear, and depth H x W or None. Raises FileError, PictureError."""

def read_plate(shot: Shot) -> _Floats:
    """The shot's plate as linear light, H x W x 4, decoded as the shot says: by its transfer, or by
    its OpenColorIO config into the working space. Raises UsageError without a plate, FileError."""

def displayed(colour: _Floats, shot: Shot) -> _Floats:
    """Light as the display and view of the shot show it; the same where it names none. Write it as
    PNG, JPEG or TIFF: the file has the display's numbers."""

def write_picture(file: _Path, colour: _Floats, depth: _Floats | None = None) -> None:
    """Whole or not at all."""

def measure(
    shot: Shot, *, least: float = 12.0, threads: int = 0, progress: _Progress = None
) -> FoundDiscs:
    """The discs of the shot's plate, from `least` px on."""

def match(
    shot: Shot, *, least: float = 12.0, threads: int = 0, progress: _Progress = None
) -> Match:
    """The shot's notes against its plate. Raises OpticsError where nothing is seen of a known
    distance."""

def compare(
    shot: Shot,
    pictures: list[str],
    *,
    among_themselves: bool = False,
    threads: int = 0,
    progress: _Progress = None,
) -> Comparison:
    """The shot's plate against pictures, by their files."""

def plan(shot: Shot, *, side: bool = False, kind: str = "png") -> bytes:
    """The set from above, or from the side: a PNG or SVG of 1280 x 800."""

def bokeh(shot: Shot, *, at: list[str] = ..., kind: str = "png") -> bytes:
    """Discs over the frame, a row for each of `at` (subjects, distances; none: before, in and behind
    the focus): a PNG or SVG of 1280 x 800. Raises UsageError for what is not before the camera."""

def page(
    shot: Shot,
    *,
    pictures: list[str] = ...,
    cg: str = "",
    match: bool = False,
    bokeh: bool = False,
    threads: int = 0,
    progress: _Progress = None,
) -> str:
    """The shot's page as HTML, complete in itself. pictures: to show on it; cg: a render to compare
    with the plate; match: what the plate says of the notes; bokeh: discs over the frame."""

def load_glass(
    file: _Path, *, at: _Length | None = None, stop: float | None = None, gate: str | None = None
) -> Glass:
    """A prescription, focused `at` a distance from the film plane, with an f-number, over a gate."""

@final
class Solution:
    """What it would take, and how to try it."""
    @property
    def values(self) -> dict[str, str]:
        """For Shot.with_values and Shot.save."""
    @property
    def notes(self) -> list[str]: ...
    def to_dict(self) -> Any:
        """What `jolly-iris solve --json` says of it."""
    def to_text(self) -> str: ...

def solve_hold(shot: Shot, a: str, b: str) -> Solution:
    """Focus and stop that keep two subjects, or distances, just sharp. Raises OpticsError for equal
    distances or a focus the lens cannot reach, UsageError for a subject that is not there."""

def solve_blur(shot: Shot, blur: str, at: str, by_lens: bool = False) -> Solution:
    """The stop (or the lens, from another place) that blurs something by so much: "12 px"."""

def solve_body(shot: Shot, body: _Path, adapter: float = 1.0) -> Solution:
    """The lens and the stop that make the same picture on another body, by its file."""

def solve_level(shot: Shot, keep: str = "") -> Solution:
    """The level camera with a shifted lens that sees the same; `keep` is a subject or "x,y" in px.
    Raises OpticsError where the lean is not known."""

@final
class White:
    """The white of a light. kelvin: 1000 to 25000; tint: distance from the white locus (Duv), + greener,
    -0.05 to 0.05. Raises OpticsError."""
    def __init__(self, kelvin: float, tint: float = 0.0) -> None: ...
    @property
    def kelvin(self) -> float: ...
    @property
    def tint(self) -> float: ...
    def gains(self, primaries: str = "Rec.709") -> list[float]:
        """Red, green, blue that make this light's grey neutral; green is 1."""

def white_of_gains(gains: Sequence[float], primaries: str = "Rec.709") -> White:
    """The white that such gains neutralise."""

def white_of_patch(rgb: Sequence[float], primaries: str = "Rec.709") -> White:
    """The light in which a grey card looks so; linear."""

def exposure(shot: Shot) -> Any:
    """What the take means for light, as `jolly-iris expose --json` says it."""

def look_at(shot: Shot, picture: _Path, as_plate: bool = False) -> Any:
    """What a picture's file shows of its light: metered, its white, against the shot's plate."""

def list_shots(
    what: Sequence[str],
    columns: Sequence[str] = ...,
    *,
    threads: int = 0,
    progress: _Progress = None,
) -> Any:
    """All cameras of files and folders side by side, as `jolly-iris shots --json` has them."""

def carry(
    master: Shot,
    to: Sequence[str],
    *,
    disc: bool = False,
    exposure: bool = False,
    white: bool = False,
    finish: bool = False,
    of: str = "",
    threads: int = 0,
    progress: _Progress = None,
) -> Any:
    """A master shot's blur (and more) carried to other shots by optics; no file is touched. `of`: whose
    blur; else what is infinitely far."""

def hand_off(shot: Shot, folder: _Path, stamp: Sequence[str] = ...) -> list[str]:
    """Writes the camera for other programs into a folder that is there; the files' names."""
