"""Measures taking a 200 MB archive of small files against unpacking it with libarchive's own tool and hashing every file, and what a shelf
of a thousand libraries costs, alternating in one run; prints medians and ratios.

usage: shelf.py PATH_OF_FIBULA [ROUNDS]     needs bsdtar (Debian's libarchive-tools)
"""
import os
import pathlib
import random
import shutil
import statistics
import subprocess
import sys
import tempfile
import time

fibula = os.path.abspath(sys.argv[1])
rounds = int(sys.argv[2]) if len(sys.argv) > 2 else 5
MEGABYTES = 200


def elapsed(command, **options):
    start = time.perf_counter()
    subprocess.run(command, check=True, stdout=subprocess.DEVNULL, shell=isinstance(command, str), **options)
    return time.perf_counter() - start


def fill(folder):
    """Headers of 2 to 60 kB with words that compress like text."""
    chance = random.Random(7)
    words = [f"harbour_{chance.randrange(9999)}" for _ in range(3000)]
    size = count = 0
    while size < MEGABYTES * 1_000_000:
        text = f"static inline int tide_{count}(void) {{ return {count}; }}\n"
        text += "\n".join(f"static const int {chance.choice(words)}_{i} = {chance.randrange(10**6)};" for i in range(chance.randrange(50, 1500))) + "\n"
        file = folder / "include" / f"part{count % 97}" / f"tide{count}.h"
        file.parent.mkdir(parents=True, exist_ok=True)
        file.write_text(text)
        size += len(text)
        count += 1
    return count, size


def small_library(folder, name, version):
    (folder / "include" / name).mkdir(parents=True)
    (folder / "lib").mkdir()
    (folder / "include" / name / f"{name}.h").write_text(f'#define {name.upper()}_VERSION "{version}"\nint {name}(void);\n')
    (folder / "f.c").write_text(f"int {name}(void) {{ return 1; }}\n")
    subprocess.run(["gcc", "-c", "f.c"], cwd=folder, check=True)
    subprocess.run(["ar", "rcs", f"lib/lib{name}.a", "f.o"], cwd=folder, check=True)
    (folder / "f.o").unlink()
    (folder / "f.c").unlink()


def middle(times):
    return statistics.median(times)


with tempfile.TemporaryDirectory() as name:
    work = pathlib.Path(name)
    os.environ.update(FIBULA_SHELF=str(work / "shelf"), XDG_CACHE_HOME=str(work / "cache"))
    os.environ.pop("LIBRARY_PATH", None)
    count, size = fill(work / "tides-1.0")
    for archive, options in (("tides-1.0.tar.gz", "-czf"), ("tides-1.0.tar.zst", "--zstd -cf"), ("tides-1.0.zip", "-a -cf")):
        subprocess.run(f"bsdtar {options} {archive} tides-1.0", shell=True, check=True, cwd=work)
        takes, references = [], []
        for _ in range(rounds):
            shutil.rmtree(work / "shelf", ignore_errors=True)
            shutil.rmtree(work / "out", ignore_errors=True)
            (work / "out").mkdir()
            subprocess.run("sync", check=True)
            references.append(elapsed(f"bsdtar -xf {archive} -C out && cd out && find . -type f -print0 | xargs -0 sha256sum > ../sums && sha256sum ../{archive}", cwd=work))
            subprocess.run("sync", check=True)
            takes.append(elapsed([fibula, "take", work / archive]))
        print(f"{archive}: {count} files, {size / 1e6:.0f} MB, packed {(work / archive).stat().st_size / 1e6:.0f} MB: take {middle(takes):.2f} s, bsdtar and sha256sum {middle(references):.2f} s: {middle(takes) / middle(references):.2f} times")

    shutil.rmtree(work / "shelf")
    small_library(work / "quay", "quay", "1.0")
    elapsed([fibula, "take", work / "quay"])
    card = (work / "shelf/quay/1.0/card.toml").read_text()
    for i in range(999):
        entry = work / "shelf" / f"quay{i // 3}x" / f"{i % 3}.0"
        shutil.copytree(work / "shelf/quay/1.0", entry)
        (entry / "card.toml").write_text(card.replace('name = "quay"', f'name = "quay{i // 3}x"').replace('version = "1.0"', f'version = "{i % 3}.0"'))
    (work / "empty.cpp").write_text("#include <iostream>\nint main() {}\n")
    subprocess.run(["g++", "-O2", "empty.cpp", "-o", "empty", "-Wl,--no-as-needed"], cwd=work, check=True)
    (work / "app").mkdir()
    (work / "app/main.c").write_text("int main(void) { return 0; }\n")
    first = elapsed([fibula, "shelf"])
    elapsed([fibula, "take", "--replace", work / "quay"])
    elapsed([fibula, "-C", work / "app", "attach", "quay7x"])
    lists, attaches, bases = [], [], []
    for i in range(max(rounds * 6, 30)):
        bases.append(elapsed([work / "empty"]))
        lists.append(elapsed([fibula, "shelf"]))
        attaches.append(elapsed([fibula, "-C", work / "app", "attach", f"quay{i}x"]))
    print(f"1,000 libraries: shelf {middle(lists) * 1e3:.1f} ms ({middle(lists) / middle(bases):.1f} empty C++ programs; without an index {first * 1e3:.0f} ms), attach {middle(attaches) * 1e3:.1f} ms ({middle(attaches) / middle(bases):.1f})")
