#!/usr/bin/env python3
"""Which lines of src/ the tests of the optimised build run.

  cmake --preset ci -B build/coverage -DCMAKE_CXX_FLAGS=--coverage
  cmake --build build/coverage && ctest --test-dir build/coverage -j 2
  scripts/measure_coverage.py build/coverage [SOURCE]

Prints a row a room, then the files with the most lines that nothing runs.
"""
import collections
import gzip
import json
import pathlib
import subprocess
import sys
import tempfile


def lines_run(build, source):
    """{file: {line: times}} of everything that was compiled into the build's libraries and tool."""
    seen = collections.defaultdict(dict)
    data = [p for p in build.rglob("*.gcda") if "tests" not in p.relative_to(build).parts]
    if not data:
        sys.exit(f"{build}: no *.gcda: build with --coverage and run the tests first")
    for path in data:
        with tempfile.TemporaryDirectory() as folder:
            subprocess.run(["gcov", "--json-format", str(path)], cwd=folder, check=True,
                           stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
            for made in pathlib.Path(folder).glob("*.gcov.json.gz"):
                report = json.loads(gzip.open(made).read())
                folder_then = pathlib.Path(report["current_working_directory"])
                for file in report["files"]:
                    name = (folder_then / file["file"]).resolve()
                    if source not in name.parents:
                        continue
                    for line in file["lines"]:
                        number = line["line_number"]
                        counts = seen[name.relative_to(source)]
                        counts[number] = counts.get(number, 0) + line["count"]
    return seen


def main():
    if len(sys.argv) < 2:
        sys.exit(__doc__)
    build = pathlib.Path(sys.argv[1]).resolve()
    source = pathlib.Path(sys.argv[2] if len(sys.argv) > 2 else "src").resolve()
    rooms = collections.defaultdict(lambda: [0, 0])
    missed = []
    for file, counts in lines_run(build, source).items():
        run = sum(1 for n in counts.values() if n)
        rooms[file.parts[0]][0] += run
        rooms[file.parts[0]][1] += len(counts)
        missed.append((len(counts) - run, len(counts), file))
    for room, (run, all_) in sorted(rooms.items()):
        print(f"{room:<16}{run:>7} of {all_:>6}  {100.0 * run / all_:6.2f} %")
    run = sum(r[0] for r in rooms.values())
    all_ = sum(r[1] for r in rooms.values())
    print(f"{'all':<16}{run:>7} of {all_:>6}  {100.0 * run / all_:6.2f} %")
    print("\nlines that nothing runs")
    for count, of, file in sorted(missed, reverse=True)[:15]:
        print(f"{count:>7} of {of:>5}  {file}")


if __name__ == "__main__":
    main()
