#!/usr/bin/env python3
"""Whether every link of our pages leads somewhere; ends with 1 where one does not.

    scripts/check_links.py      (from anywhere)

Links to files, and to headings within them. What leads out of the project is not followed.
"""
import glob
import os
import re
import sys

HERE = os.path.abspath(os.path.join(os.path.dirname(os.path.abspath(__file__)), ".."))


def text_of(page):
    with open(page, encoding="utf-8") as file:
        return re.sub(r"```.*?```", "", file.read(), flags=re.S)


def anchors(page):
    """Headings as repositories show them: small letters, dashes for spaces, no other signs."""
    out = set()
    for heading in re.findall(r"^#+ +(.*)$", text_of(page), flags=re.M):
        plain = re.sub(r"\[([^]]*)\]\([^)]*\)", r"\1", heading).replace("`", "").lower()
        out.add(re.sub(r"[^\w\- ]", "", plain).strip().replace(" ", "-"))
    return out


def main():
    dead = []
    links = 0
    pages = glob.glob(os.path.join(HERE, "*.md")) + glob.glob(os.path.join(HERE, "docs/*.md"))
    for page in sorted(pages):
        for target in re.findall(r"\]\(([^)\s]+)\)", text_of(page)):
            if re.match(r"[a-z]+:", target):
                continue
            links += 1
            path, _, anchor = target.partition("#")
            there = os.path.normpath(os.path.join(os.path.dirname(page), path)) if path else page
            where = os.path.relpath(page, HERE)
            if not os.path.exists(there):
                dead.append(f"{where}: {target}: there is no such file")
            elif anchor and there.endswith(".md") and anchor not in anchors(there):
                dead.append(f"{where}: {target}: there is no such heading")
    for line in dead:
        print(line)
    print(f"{links} links, {len(dead)} dead")
    return 1 if dead else 0


sys.exit(main())
