#!/usr/bin/env python3
"""Time and memory of verbs on small files that ask for much, and of many subjects and nodes: the table of
docs/limits.md.

    scripts/hostile.py TOOL [WORD …]      only rows with one of the words
"""
import os
import shutil
import struct
import subprocess
import sys
import tempfile
import time
import zlib
from pathlib import Path

SHOT = """[body]
gate = "24 x 13.5 mm"
pixels = "960 x 540"
[lens]
focal = "18 mm"
[take]
stop = "f/2"
mark = "3 m"
"""
GLTF = '{"asset":{"version":"2.0"},"cameras":[{"type":"perspective","perspective":{"yfov":0.6,"znear":0.1}}],'
MANY = 20000


def chunk(kind: bytes, data: bytes) -> bytes:
    return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))


def png(width: int, height: int, row: bytes, rows: int) -> bytes:
    packer = zlib.compressobj(9)
    data = b"".join(packer.compress(row) for _ in range(rows)) + packer.flush()
    header = struct.pack(">IIBBBBB", width, height, 8, 2, 0, 0, 0)
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", header) + chunk(b"IDAT", data) + chunk(b"IEND", b"")


def scene(folder: Path, name: str, rest: str) -> str:
    (folder / f"{name}.gltf").write_text(GLTF + rest)
    (folder / f"{name}.shot.toml").write_text(f'{SHOT}[scene]\nfile = "{name}.gltf"\n')
    return f"{name}.shot.toml"


def nodes(link: bool) -> str:
    each = []
    for i in range(1, MANY):
        down = f',"children":[{i + 1}]' if link and i + 1 < MANY else ""
        x = 0 if link else i % 141 - 70
        each.append(f'{{"name":"n{i}","translation":[{x},0,{-0.001 if link else -3 - i // 141}]{down}}}')
    roots = "0" if link else ",".join(str(i) for i in range(MANY))
    children = ',"children":[1]' if link else ""
    return f'"nodes":[{{"name":"c","camera":0{children}}},{",".join(each)}],"scenes":[{{"nodes":[{roots}]}}]}}'


def cases(folder: Path) -> list[tuple[str, list[str]]]:
    (folder / "a.shot.toml").write_text(SHOT)
    deep = scene(folder, "deep", '"extras":' + "[" * 20000 + "]" * 20000 + "}")
    (folder / "dotted.shot.toml").write_text(SHOT + "a." * 100000 + "a = 1\n")
    (folder / "wrong.shot.toml").write_text(SHOT + "".join(f"wrong{i} = 1\n" for i in range(5000)))
    count = scene(folder, "count", '"nodes":[{"mesh":0}],"meshes":[{"primitives":[{"attributes":{"POSITION":0}}]}],'
                  '"scenes":[{"nodes":[0]}],"accessors":[{"componentType":5126,"type":"VEC3","count":4611686018427387904}]}')
    (folder / "liar.png").write_bytes(png(10000, 10000, b"\0" * 100001, 1))
    (folder / "even.png").write_bytes(png(10000, 10000, b"\0" + b"\x40" * 30000, 10000))
    (folder / "crowd.shot.toml").write_text(SHOT + "".join(
        f'[[subject]]\nname = "s{i}"\nat = "{1 + 0.001 * i:.3f} m"\n' for i in range(10000)))
    chain = scene(folder, "chain", nodes(True))
    field = scene(folder, "field", nodes(False))
    (folder / "edges.shot.toml").write_text(SHOT + "".join(
        f'[[plate.line]]\nname = "e{i}"\nruns = "vertical"\npoints = [[{i % 90}, 1], [{i % 90}, 25], [{i % 90}, 50]]\n'
        for i in range(1000)))
    (folder / "plate.shot.toml").write_text(SHOT + '[plate]\nfile = "even.png"\n')
    out = []
    out.append(("`report`: 40 KB of brackets in a glTF file", ["report", deep]))
    out.append(("`report`: a key of 100,000 parts", ["report", "dotted.shot.toml"]))
    out.append(("`report`: 5000 wrong keys", ["report", "wrong.shot.toml"]))
    out.append(("`report`: an accessor of 2^62 elements", ["report", count]))
    out.append(("`expose`: a PNG of 170 bytes that tells of 10,000 x 10,000 px", ["expose", "a.shot.toml", "liar.png"]))
    for verb in (["report"], ["plan", "-o", "o.svg"], ["page", "-o", "o.html"]):
        for what, shot in (("10,000 subjects", "crowd.shot.toml"), ("20,000 nodes side by side", field),
                           ("a chain of 20,000 nodes", chain)):
            out.append((f"`{verb[0]}`: {what}", [verb[0], shot, *verb[1:]]))
    crowd = "crowd.shot.toml"
    for words in (["solve", crowd, "--hold", "s1,s9000"], ["bokeh", crowd, "-o", "o.svg"], ["handoff", crowd, "--to", "."],
                  ["report", crowd, "--json"]):
        out.append((f"`{words[0]}{' --json' if '--json' in words else ''}`: 10,000 subjects", words))
    out.append(("`trace`, 96 x 54 px: a chain of 20,000 nodes",
                ["trace", chain, "--set", "body.pixels=96 x 54", "--samples", "4", "-o", "o.exr"]))
    (folder / "liar.shot.toml").write_text(SHOT + '[plate]\nfile = "liar.png"\n')
    liar, bent = "liar.shot.toml", ["--set", "lens.distortion.k1=0.03"]
    squeezed = ["--set", "lens.squeeze=2"]
    for words in (["measure", liar, "--discs"], ["match", liar], ["page", liar, "-o", "o.html"],
                  ["compare", liar, "liar.png"], ["defocus", liar, "liar.png", "--distance", "5 m", "-o", "o.exr"],
                  ["finish", liar, "liar.png", "--set", "finish.cast=20", "-o", "o.exr"], ["measure", liar, "--finish"],
                  ["samples", liar, "liar.png", "--distance", "5 m"], ["live", liar, "liar.png", "--distance", "5 m"],
                  ["undistort", liar, *bent, "-o", "o.exr"], ["redistort", liar, "liar.png", *bent, "-o", "o.exr"],
                  ["desqueeze", liar, *squeezed, "-o", "o.exr"], ["squeeze", liar, "liar.png", *squeezed, "-o", "o.exr"]):
        out.append((f"`{words[0]}{' --finish' if words[-1] == '--finish' else ''}`: that PNG of 170 bytes", words))
    out.append(("`measure`: 1000 drawn edges of three points", ["measure", "edges.shot.toml"]))
    even = "a PNG of one colour, 10,000 x 10,000 px"
    out.append((f"`start`: {even}", ["start", "even.png", "-o", "o.toml", "--replace"]))
    out.append((f"`expose`: {even}, which is work", ["expose", "a.shot.toml", "even.png"]))
    out.append((f"`measure --discs`: {even}, which is work", ["measure", "plate.shot.toml", "--discs"]))
    out.append((f"`defocus`: {even}, which is work",
                ["defocus", "a.shot.toml", "even.png", "--distance", "5 m", "-o", "o.exr"]))
    return out


def main():
    tool = os.path.abspath(sys.argv[1])
    folder = Path(tempfile.mkdtemp(prefix="jolly_iris_hostile_"))
    print("| what | ends with | time | memory |\n|---|---|---|---|")
    for what, args in cases(folder):
        if not any(word in what for word in sys.argv[2:] or [""]):
            continue
        start = time.monotonic()
        running = subprocess.Popen([tool, *args], cwd=folder, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
        _, status, used = os.wait4(running.pid, 0)
        code = os.waitstatus_to_exitcode(status)
        print(f"| {what} | {code} | {time.monotonic() - start:.1f} s | {used.ru_maxrss / 1000:.0f} MB |", flush=True)
    shutil.rmtree(folder)


main()
