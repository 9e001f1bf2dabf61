#!/usr/bin/env python3
"""Plays the first minutes of an hour in a browser and keeps a picture of it: live.png.

    docs/live_shots.py TOOL OUT_FOLDER        (needs chromium and its chromedriver)
"""
import base64
import json
import os
import re
import shutil
import subprocess
import sys
import tempfile
import time
import urllib.request
from pathlib import Path

SECOND_BOAT = (0.775, 0.785)  # where the picture shows it, as shares of its width and height


class Browser:
    """A browser without a window, by the W3C WebDriver protocol."""

    def __init__(self, width, height, profile):
        self.driver = subprocess.Popen(["chromedriver", "--port=0"], stdout=subprocess.PIPE, text=True)
        for line in self.driver.stdout:
            found = re.search(r"successfully on port (\d+)", line)
            if found:
                self.base = f"http://127.0.0.1:{found[1]}"
                break
        options = {
            "args": ["--headless=new", "--no-sandbox", "--disable-gpu", "--hide-scrollbars",
                     f"--window-size={width},{height}", f"--user-data-dir={profile}"],
            "mobileEmulation": {"deviceMetrics": {"width": width, "height": height, "pixelRatio": 1.0,
                                                  "touch": False}},
        }
        asked = {"capabilities": {"alwaysMatch": {"browserName": "chrome", "goog:chromeOptions": options}}}
        self.session = ""
        self.session = "/session/" + self.post("/session", asked)["sessionId"]

    def post(self, path, body):
        request = urllib.request.Request(self.base + self.session + path, json.dumps(body).encode(),
                                         {"Content-Type": "application/json"})
        return json.load(urllib.request.urlopen(request, timeout=120))["value"]

    def script(self, text, *arguments):
        return self.post("/execute/sync", {"script": text, "args": list(arguments)})

    def click(self, selector, x=0.5, y=0.5):
        at = self.script(
            "const e = document.querySelector(arguments[0]); e.scrollIntoView({block: 'nearest'});"
            "const b = e.getBoundingClientRect();"
            "return [b.left + arguments[1] * b.width, b.top + arguments[2] * b.height]", selector, x, y)
        steps = [{"type": "pointerMove", "duration": 0, "x": int(at[0]), "y": int(at[1])},
                 {"type": "pointerDown", "button": 0}, {"type": "pointerUp", "button": 0}]
        self.post("/actions", {"actions": [{"type": "pointer", "id": "mouse", "actions": steps}]})

    def enter(self, selector, text):
        self.script("const e = document.querySelector(arguments[0]); e.value = arguments[1];"
                    "e.dispatchEvent(new Event('change'))", selector, text)

    def shot(self, path):
        answer = urllib.request.urlopen(self.base + self.session + "/screenshot")
        Path(path).write_bytes(base64.b64decode(json.load(answer)["value"]))

    def close(self):
        self.driver.kill()


def main():
    tool, out = Path(sys.argv[1]).resolve(), Path(sys.argv[2]).resolve()
    demo = Path(__file__).resolve().parent.parent / "demo" / "regatta"
    folder = tempfile.mkdtemp()
    for name in ("regatta.gltf", "regatta.bin"):
        shutil.copy(demo / name, folder)
    os.chdir(folder)
    subprocess.run([tool, "start", "regatta.gltf", "--camera", "taking camera", "-o", "first.shot.toml"],
                   check=True, stdout=subprocess.DEVNULL)
    live = subprocess.Popen([tool, "live", "first.shot.toml"], stdout=subprocess.PIPE, text=True)
    browser = Browser(1280, 800, tempfile.mkdtemp())
    try:
        browser.post("/url", {"url": live.stdout.readline().strip()})

        def still():
            for _ in range(400):
                time.sleep(0.1)
                if browser.script("const s = document.getElementById('stage').dataset;"
                                  "return fetch('state').then(r => r.json()).then(j => s.whole === '1' "
                                  "&& +s.version === j.version)"):
                    return
            raise SystemExit("the picture does not come")

        still()
        browser.click("#cg", *SECOND_BOAT)
        still()
        browser.enter("#c-take-stop-text", "f/1.4")
        browser.enter("#c-lens-iris-blades-text", "6")
        still()
        browser.script("scrollTo(0, 0)")
        browser.shot(out / "live.png")
    finally:
        browser.close()
        live.kill()
        shutil.rmtree(folder, ignore_errors=True)


if __name__ == "__main__":
    main()
