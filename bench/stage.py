#!/usr/bin/python3
"""Staging a folder in which nothing changed: 500 data files, medians of whole commands in one run, beside an empty C++ program; the
build with nothing to do, which `stage` does first, beside it.

usage: stage.py FIBULA [ROUNDS]
"""
import os
import pathlib
import statistics
import subprocess
import sys
import tempfile
import time

fibula = os.path.abspath(sys.argv[1])
rounds = int(sys.argv[2]) if len(sys.argv) > 2 else 25


def elapsed(command, folder):
    start = time.perf_counter()
    subprocess.run(command, cwd=folder, stdout=subprocess.DEVNULL, check=True)
    return (time.perf_counter() - start) * 1000


def main():
    os.environ.pop("LIBRARY_PATH", None)
    with tempfile.TemporaryDirectory() as name:
        work = pathlib.Path(name)
        os.environ.update(FIBULA_SHELF=str(work / "shelf"), XDG_CACHE_HOME=str(work / "cache"))
        project = work / "project"
        (project / "tables").mkdir(parents=True)
        for i in range(500):
            (project / f"tables/{i}.txt").write_text(f"{i}\n" * 1000)
        (project / "main.c").write_text("int main(void) { return 0; }\n")
        (project / "fibula.toml").write_text('[[output]]\nname = "log"\nsources = ["main.c"]\ndata = ["tables/*.txt"]\n[lane.desk]\ncompiler = "gcc"\n')
        (work / "empty.cpp").write_text("#include <iostream>\nint main() {}\n")
        subprocess.run(["g++", "-O2", "empty.cpp", "-o", "empty"], cwd=work, check=True)
        ways = {"an empty C++ program": [work / "empty"], "fibula build, nothing to do": [fibula, "build"], "fibula stage, nothing changed": [fibula, "stage", "--into", work / "out"]}
        times = {label: [] for label in ways}
        for _ in range(rounds + 1):
            for label, command in ways.items():
                times[label].append(elapsed(command, project))
        for label, values in times.items():
            print(f"{label:32} {statistics.median(values[1:]):7.2f} ms")


if __name__ == "__main__":
    main()
