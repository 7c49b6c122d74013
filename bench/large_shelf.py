#!/usr/bin/env python3
"""What a shelf of many libraries costs: take, attach, fit and a look-up, beside the same on a small one.

usage: large_shelf.py FIBULA [--entries N]     (N made-up libraries; 16,000 when left out)"""
import argparse
import hashlib
import os
import pathlib
import shutil
import statistics
import subprocess
import tempfile
import time

parser = argparse.ArgumentParser()
parser.add_argument("fibula")
parser.add_argument("--entries", type=int, default=16_000)
asked = parser.parse_args()
fibula = str(pathlib.Path(asked.fibula).resolve())


def run(environment, *words, cwd=None):
    began = time.perf_counter()
    ran = subprocess.run([fibula, *map(str, words)], env=environment, cwd=cwd, capture_output=True, text=True)
    return time.perf_counter() - began, ran


def make_entries(shelf, count, sample):
    """Copies of a taken entry under other names, as many as asked for."""
    card = (sample / "card.toml").read_text()
    contents = (sample / "contents.sha256").read_bytes()
    for i in range(count):
        name = f"lamp{i}"
        entry = shelf / name / "1.0"
        (entry / "files" / "include").mkdir(parents=True)
        (entry / "files" / "include" / f"{name}.h").write_text(f"int {name}_light(void);\n")
        text = card.replace('name = "lamp"', f'name = "{name}"').replace("lamp.h", f"{name}.h")
        # A card that somebody wrote: without the line about its digest.
        (entry / "card.toml").write_text("\n".join(line for line in text.splitlines() if not line.startswith("#")) + "\n")
        (entry / "contents.sha256").write_bytes(contents)


def measure(count):
    with tempfile.TemporaryDirectory() as folder:
        place = pathlib.Path(folder)
        environment = dict(os.environ, FIBULA_SHELF=str(place / "shelf"), XDG_CACHE_HOME=str(place / "cache"))
        for name in ("lamp", "quay", "buoy"):
            (place / name / "include").mkdir(parents=True)
            (place / name / "include" / f"{name}.h").write_text(f"#define {name.upper()} 1\n")
        run(environment, "take", place / "lamp", "--version", "1.0")
        make_entries(place / "shelf", count, place / "shelf" / "lamp" / "1.0")
        # The index learns of them once.
        (place / "shelf" / "shelf.index").unlink()
        run(environment, "take", place / "buoy", "--version", "1.0")
        times = {}
        samples = []
        for i in range(5):
            took, ran = run(environment, "take", place / "quay", "--version", f"1.{i}")
            assert ran.returncode == 0, ran.stderr
            samples.append(took)
        times["take"] = statistics.median(samples)
        app = place / "app"
        (app / "src").mkdir(parents=True)
        (app / "src" / "main.c").write_text("#include <quay.h>\nint main(void) { return QUAY - 1; }\n")
        run(environment, "begin", app)
        times["attach"] = min(run(environment, "-C", app, "attach", "quay")[0] for _ in range(3))
        times["fit"] = min(run(environment, "-C", app, "fit")[0] for _ in range(3))
        # A header that some library has, and one that none has: nothing of the others may be read for it.
        for what, header in (("header", "lamp77.h"), ("no header", "nobody.h")):
            (app / "src" / "main.c").write_text(f"#include <{header}>\nint main(void) {{ return 0; }}\n")
            run(environment, "-C", app, "fit")
            times[what] = min(run(environment, "-C", app, "fit")[0] for _ in range(3))
        # A symbol that some library has, and one that none has; who has a name.
        (place / "tern" / "include").mkdir(parents=True)
        (place / "tern" / "lib").mkdir()
        (place / "tern" / "include" / "tern.h").write_text("int tern_light(void);\n")
        (place / "t.c").write_text("int tern_light(void) { return 0; }\n")
        subprocess.run(["gcc", "-c", place / "t.c", "-o", place / "t.o"], check=True)
        subprocess.run(["ar", "rcs", place / "tern" / "lib" / "libtern.a", place / "t.o"], check=True)
        run(environment, "take", place / "tern", "--version", "1.0")
        for what, symbol in (("symbol", "tern_light"), ("no symbol", "nobody_has")):
            (app / "src" / "main.c").write_text(f"int {symbol}(void);\nint main(void) {{ return {symbol}(); }}\n")
            ran = run(environment, "-C", app, "build", "--lane", "desk-debug")[1]
            assert symbol in ran.stdout and ("fibula attach tern" in ran.stdout) == (what == "symbol"), ran.stdout
            times[what] = min(run(environment, "-C", app, "fit", "--lane", "desk-debug")[0] for _ in range(3))
        took, ran = run(environment, "locate", "tern_light", "--only-shelf")
        assert "libtern.a" in ran.stdout, ran.stdout
        times["locate"] = min(run(environment, "locate", "tern_light", "--only-shelf")[0] for _ in range(3))
        times["shelf"] = min(run(environment, "shelf")[0] for _ in range(3))
        return times


small, large = measure(100), measure(asked.entries)
print(f"{'':10} {100:>10} {asked.entries:>10}   ratio")
for what in small:
    print(f"{what:10} {small[what] * 1000:9.1f}ms {large[what] * 1000:9.1f}ms   {large[what] / small[what]:.2f}")
