"""What `pip install .` calls (PEP 517): builds with CMake and puts the module, and the libraries that it
needs, into a wheel. Nothing is fetched: pip needs no network, and Debian's packages that are needed
(README.md, Install) are looked for by CMake.

    pip install .
    pip install . --config-settings folder=build/release

folder: where it is built, or was already [build/wheel]; preset: of CMakePresets.json, for a folder where
nothing is yet [release].
"""

import base64
import hashlib
import pathlib
import re
import shutil
import subprocess
import sys
import sysconfig
import tempfile
import zipfile

ROOT = pathlib.Path(__file__).resolve().parents[2]
NAME = "jolly_iris"


def _version():
    return re.search(r"project\(JollyIris VERSION ([\d.]+)", (ROOT / "CMakeLists.txt").read_text())[1]


def _tag():
    python = f"cp{sys.version_info.major}{sys.version_info.minor}"
    return f"{python}-{python}-{re.sub(r'[-.]', '_', sysconfig.get_platform())}"


def _metadata():
    return (
        f"Metadata-Version: 2.1\nName: jolly-iris\nVersion: {_version()}\n"
        "Summary: The virtual camera equal to the real one\nRequires-Python: >=3.9\n"
        "Requires-Dist: numpy\n"
    )


def _run(*words):
    subprocess.run([str(w) for w in words], check=True, cwd=ROOT)


def _built(settings):
    settings = settings or {}
    unknown = set(settings) - {"preset", "folder"}
    if unknown:
        raise ValueError(f"config settings are preset and folder, not {', '.join(sorted(unknown))}")
    folder = ROOT / settings.get("folder", "build/wheel")
    if not (folder / "CMakeCache.txt").exists():
        _run(
            *("cmake", "--preset", settings.get("preset", "release"), "-B", folder),
            *("-DJOLLY_IRIS_BUILD_TESTS=OFF", "-DJOLLY_IRIS_BUILD_EXAMPLES=OFF"),
            *("-DJOLLY_IRIS_BUILD_BENCH=OFF", "-DJOLLY_IRIS_BUILD_PYTHON=ON"),
            f"-DPython3_EXECUTABLE={sys.executable}",
            *([] if shutil.which("ccache") else ["-DCMAKE_CXX_COMPILER_LAUNCHER="]),
        )
    _run("cmake", "--build", folder)
    return folder


def _laid_out(folder, into):
    """The package with its libraries in a folder of its own: the module looks for them there, too."""
    for part in ("libraries", "python"):
        _run("cmake", "--install", folder, "--prefix", into, "--component", part, "--strip")
    package = next(into.rglob("__init__.py")).parent
    wanted = package / ("_core" + sysconfig.get_config_var("EXT_SUFFIX"))
    if not wanted.exists():
        raise RuntimeError(f"{folder} was built for another Python: there is no {wanted.name} in it")
    libraries = next(into.rglob("libjolly_iris_optics.so*")).parent
    site = into / "site"
    shutil.copytree(package, site / NAME)
    (site / NAME / "lib").mkdir()
    for path in libraries.iterdir():
        if path.name.startswith("libjolly_iris_"):
            shutil.copy2(path, site / NAME / "lib", follow_symlinks=False)
    shutil.copytree(libraries / NAME, site / NAME / "lib" / NAME)
    return site


def _add(wheel, records, name, data):
    wheel.writestr(zipfile.ZipInfo(name), data, zipfile.ZIP_DEFLATED)
    digest = base64.urlsafe_b64encode(hashlib.sha256(data).digest()).rstrip(b"=").decode()
    records.append(f"{name},sha256={digest},{len(data)}")


def build_wheel(wheel_directory, config_settings=None, metadata_directory=None):
    name = f"{NAME}-{_version()}-{_tag()}.whl"
    about = f"{NAME}-{_version()}.dist-info"
    records = []
    with tempfile.TemporaryDirectory() as folder:
        site = _laid_out(_built(config_settings), pathlib.Path(folder))
        files = [p for p in sorted(site.rglob("*")) if not p.is_dir()]
        # A wheel has no links: what a library is asked for by is its file.
        behind = {p.resolve() for p in files if p.is_symlink()}
        with zipfile.ZipFile(pathlib.Path(wheel_directory) / name, "w") as wheel:
            for path in files:
                if path.is_symlink() or path not in behind:
                    _add(wheel, records, path.relative_to(site).as_posix(), path.read_bytes())
            _add(wheel, records, f"{about}/METADATA", _metadata().encode())
            _add(wheel, records, f"{about}/LICENSE", (ROOT / "LICENSE").read_bytes())
            kind = f"Wheel-Version: 1.0\nGenerator: jolly-iris\nRoot-Is-Purelib: false\nTag: {_tag()}\n"
            _add(wheel, records, f"{about}/WHEEL", kind.encode())
            records.append(f"{about}/RECORD,,")
            wheel.writestr(zipfile.ZipInfo(f"{about}/RECORD"), "\n".join(records) + "\n")
    return name


def build_sdist(sdist_directory, config_settings=None):
    raise NotImplementedError("there is no archive of sources by itself: install from a clone")
