"""Measures whole commands against an empty C++ program, alternating in one run, and prints ratios of medians.

usage: commands.py PATH_OF_FIBULA [ROUNDS]
"""
import os
import pathlib
import shutil
import statistics
import subprocess
import sys
import tempfile
import time

fibula = os.path.abspath(sys.argv[1])
rounds = int(sys.argv[2]) if len(sys.argv) > 2 else 200
source = pathlib.Path(__file__).resolve().parent.parent


def elapsed(command, **options):
    start = time.perf_counter()
    subprocess.run(command, check=True, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL, **options)
    return time.perf_counter() - start


with tempfile.TemporaryDirectory() as name:
    work = pathlib.Path(name)
    os.environ.update(FIBULA_SHELF=str(work / "shelf"), XDG_CACHE_HOME=str(work / "cache"))
    (work / "empty.cpp").write_text("#include <iostream>\nint main() {}\n")
    subprocess.run(["g++", "-O2", "empty.cpp", "-o", "empty", "-Wl,--no-as-needed"], cwd=work, check=True)
    subprocess.run([source / "demo" / "build_libraries.sh", work / "prebuilt"], check=True)
    project = work / "harbourlog"
    shutil.copytree(source / "demo" / "harbourlog", project)
    for library in ("tidecalc-2.1.0", "moonphase-1.3.0"):
        elapsed([fibula, "take", work / "prebuilt" / library])
        elapsed([fibula, "-C", project, "attach", library.split("-")[0]])
    elapsed([fibula, "-C", project, "build"])
    commands = {
        "an empty C++ program": [str(work / "empty")],
        "fibula --version": [fibula, "--version"],
        "fibula fit (two lanes)": [fibula, "-C", str(project), "fit"],
        "fibula build (two lanes, nothing to do)": [fibula, "-C", str(project), "build"],
    }
    times = {label: [] for label in commands}
    for _ in range(rounds):
        for label, command in commands.items():
            times[label].append(elapsed(command))
    base = statistics.median(times["an empty C++ program"])
    for label, values in times.items():
        median = statistics.median(values)
        print(f"{label:42} {median * 1000:7.2f} ms  {median / base:5.2f} x")
