"""How long a fit of many libraries takes, as a ratio to reading the same cards' bytes, in one run.

usage: lanes.py PATH_OF_FIBULA [ROUNDS]

Two hundred made-up libraries with four variants each (static and shared, for x86_64 and for x86) in eight lanes, the compilers
already asked and the headers already read. No library is linked: the project has no sources that use them, so that what is measured
is cards, matching and choice.
"""
import os
import pathlib
import statistics
import subprocess
import sys
import tempfile
import time

fibula = os.path.abspath(sys.argv[1])
rounds = int(sys.argv[2]) if len(sys.argv) > 2 else 15
LIBRARIES, LANES = 200, 8
walk = pathlib.Path(fibula).with_name("fit-lanes")  # the same fit by the library alone, where it was built


def make_libraries(work):
    """One set of binaries, on the shelf under many names: a copy of its folder each, taken in one go."""
    source = work / "download"
    for folder in ("include", "lib/x64", "lib/x86"):
        (source / folder).mkdir(parents=True)
    for flags, folder in (([], "lib/x64"), (["-m32"], "lib/x86")):
        (source / "tide.c").write_text("int tide(void) { return 1; }\n")
        target = source / folder
        subprocess.run(["gcc", *flags, "-c", "tide.c", "-o", "tide.o"], cwd=source, check=True)
        subprocess.run(["ar", "rcs", target / "libtide.a", "tide.o"], cwd=source, check=True)
        subprocess.run(["gcc", *flags, "-shared", "-fPIC", "tide.c", "-o", target / "libtide.so", "-Wl,-soname,libtide.so"], cwd=source, check=True)
    (source / "tide.c").unlink()
    (source / "tide.o").unlink()
    (source / "include/tide.h").write_text("int tide(void);\n")
    for number in range(LIBRARIES):
        subprocess.run([fibula, "take", source, "--name", f"tide{number}", "--version", "1.0"], check=True, stdout=subprocess.DEVNULL)


def write_project(work):
    lines = ['[[output]]', 'name = "harbour"', 'kind = "static-library"', 'sources = ["none.c"]', '']
    lines += [f'[library.tide{number}]\n' for number in range(LIBRARIES)]
    for number in range(LANES):
        flags = ["-m32"] if number % 2 else []
        flags.append(f"-DLANE={number}")
        lines += [f"[lane.lane{number}]", 'compiler = "gcc"', f"flags = {flags}".replace("'", '"'), '']
    project = work / "project"
    project.mkdir()
    (project / "none.c").write_text("int none(void) { return 0; }\n")
    (project / "fibula.toml").write_text("\n".join(lines))
    return project


def elapsed(*command):
    start = time.perf_counter()
    subprocess.run(command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    return time.perf_counter() - start


def main():
    with tempfile.TemporaryDirectory() as name:
        work = pathlib.Path(name)
        os.environ.update(FIBULA_SHELF=str(work / "shelf"), XDG_CACHE_HOME=str(work / "cache"))
        os.environ.pop("LIBRARY_PATH", None)
        make_libraries(work)
        project = write_project(work)
        (work / "empty.cpp").write_text("#include <iostream>\nint main() {}\n")
        subprocess.run(["g++", "-O2", "empty.cpp", "-o", "empty"], cwd=work, check=True)
        ways = {"an empty C++ program": [work / "empty"], "cat of every card": ["sh", "-c", f"cat {work}/shelf/*/*/card.toml"],
                "fibula fit, 200 libraries in 8 lanes": [fibula, "-C", project, "fit"]}
        times = {label: [] for label in ways}
        for _ in range(rounds + 1):
            for label, command in ways.items():
                times[label].append(elapsed(*command))
        parts = [subprocess.run([walk, project], capture_output=True, text=True).stdout.split() for _ in range(rounds)] if walk.exists() else []
        base = statistics.median(times["cat of every card"][1:])
        for label, values in times.items():
            median = statistics.median(values[1:])
            print(f"{label:40} {median * 1000:8.2f} ms {median / base:7.2f} x")
        for index, label in enumerate(("opening the project", "fit_all", "its JSON")):
            if parts:
                print(f"  of it, {label:31} {statistics.median(float(part[index]) for part in parts):8.2f} ms")


if __name__ == "__main__":
    main()
