#!/usr/bin/python3
"""Deriving and rehearsing the link of one program with many static libraries, beside what linkers take for the same link: the program refers
to a function of each library, the order is the derived one. Times are medians of whole processes in one run.

usage: links.py DERIVE_LINE [--folder /usr/lib/llvm-14/lib] [--rounds 5]
"""
import argparse
import glob
import os
import pathlib
import statistics
import subprocess
import tempfile
import time

parser = argparse.ArgumentParser()
parser.add_argument("tool", type=os.path.abspath)
parser.add_argument("--folder", default="/usr/lib/llvm-14/lib")
parser.add_argument("--rounds", type=int, default=5)
options = parser.parse_args()
os.environ.pop("LIBRARY_PATH", None)


def function_of(path):
    names = subprocess.run(["nm", "-g", "--defined-only", path], capture_output=True, text=True, errors="replace").stdout.split("\n")
    functions = [line.split(" ")[2] for line in names if " T " in line and not line.endswith(" main")]
    return functions[0] if functions else None


def timed(command, folder, rounds):
    times = []
    for _ in range(rounds):
        start = time.perf_counter()
        ran = subprocess.run(command, cwd=folder, capture_output=True, text=True, errors="replace")
        times.append((time.perf_counter() - start) * 1000)
    return statistics.median(times), ran


def symbols_of(paths):
    text = subprocess.run(["nm", "-g", *paths], capture_output=True, text=True, errors="replace").stdout
    return sum(1 for line in text.split("\n") if line[17:18].isalpha() or line[16:17] == " ")


def main():
    archives = sorted(glob.glob(os.path.join(options.folder, "*.a")))
    named = [(path, function_of(path)) for path in archives]
    named = [(path, name) for path, name in named if name]
    print(f"{len(named)} static libraries with functions in {options.folder}")
    for count in sorted({10, 100, len(named)}):
        step = max(1, len(named) // count)
        some = named[::step][:count] if count < len(named) else named
        with tempfile.TemporaryDirectory() as name:
            folder = pathlib.Path(name)
            code = "".join(f'extern void f{i}(void) __asm__("{symbol}");\n' for i, (_, symbol) in enumerate(some))
            code += "void (*volatile all[])(void) = {" + ", ".join(f"f{i}" for i in range(len(some))) + "};\nint main(void) { return 0; }\n"
            (folder / "main.c").write_text(code)
            subprocess.run(["gcc", "-c", "main.c"], cwd=folder, check=True)
            # What the chosen ones need is among all: linkers and derivation are given the same libraries.
            command = [options.tool, "g++", "main.o", *archives]
            own, ran = timed(command, folder, options.rounds)
            words = []
            group = "0"
            for line in ran.stdout.splitlines():
                number, word = line.split("\t")
                if number != group:
                    words += ["-Wl,--end-group"] * (group != "0") + ["-Wl,--start-group"] * (number != "0")
                    group = number
                words.append(word)
            words += ["-Wl,--end-group"] * (group != "0")
            left = len(ran.stderr.split())
            lld, linked = timed(["g++", "-fuse-ld=lld", "main.o", *words, "-o", "out"], folder, 3)
            bfd, linked_bfd = timed(["g++", "-fuse-ld=bfd", "main.o", *words, "-o", "out"], folder, 1)
            print(f"{len(some)} referred to, {len(words)} inputs on the line, {left} names left over; "
                  f"links with lld: {linked.returncode == 0}, with bfd: {linked_bfd.returncode == 0}")
            print(f"  derived and rehearsed {own:.0f} ms; lld {lld:.0f} ms ({lld / own:.1f} times); bfd {bfd:.0f} ms ({bfd / own:.1f} times)")


if __name__ == "__main__":
    main()
