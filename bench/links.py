#!/usr/bin/python3
"""Rehearsing and deriving the link of one program with many static libraries, beside what linkers take for the same link: the program
refers to a function of each library, the order is the derived one. Times are medians of whole processes in one run.

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


def timed(commands, folder, rounds):
    """Runs all in turn, so that what else the machine does falls on each of them; medians, and what each last said."""
    times = [[] for _ in commands]
    for _ in range(rounds):
        ran = []
        for command, known in zip(commands, times):
            start = time.perf_counter()
            ran.append(subprocess.run(command, cwd=folder, capture_output=True, text=True, errors="replace"))
            known.append((time.perf_counter() - start) * 1000)
    return [statistics.median(known) for known in times], ran


def line_of(derived):
    """The derived inputs with their groups in brackets, as --as-given reads them; and how many names were met."""
    words, group, names = [], "0", 0
    for line in derived.splitlines():
        number, word = line.split("\t")
        if number == "names":
            names = int(word)
            continue
        if number != group:
            words += [")"] * (group != "0") + ["("] * (number != "0")
            group = number
        words.append(word)
    return words + [")"] * (group != "0"), names


def main():
    archives = sorted(glob.glob(os.path.join(options.folder, "*.a")))
    named = [(path, function_of(path)) for path in archives]
    named = [(path, name) for path, name in named if name]
    print(f"{len(named)} static libraries with functions in {options.folder}")
    with tempfile.TemporaryDirectory() as name:
        folder = pathlib.Path(name)
        for count in (10, 100, len(named)):
            measure(folder, archives, named[:: len(named) // count][:count])


def measure(folder, archives, some):
    code = "".join(f'extern void f{i}(void) __asm__("{symbol}");\n' for i, (_, symbol) in enumerate(some))
    code += "void (*volatile all[])(void) = {" + ", ".join(f"f{i}" for i in range(len(some))) + "};\nint main(void) { return 0; }\n"
    (folder / "main.c").write_text(code)
    subprocess.run(["gcc", "-c", "main.c"], cwd=folder, check=True)
    # What the chosen ones need is among all: linkers and derivation are given the same libraries.
    derive = [options.tool, "g++", "main.o", *archives]
    ran = subprocess.run(derive, cwd=folder, capture_output=True, text=True)
    if ran.stderr.split():
        missing = ran.stderr.split()
        print(f"{len(some)} referred to: nothing here defines {', '.join(missing)}; without those that need it:")
        needy = {path for path, _ in some for name in missing
                 if f" U {name}\n" in subprocess.run(["nm", "-g", path], capture_output=True, text=True, errors="replace").stdout}
        return measure(folder, archives, [one for one in some if one[0] not in needy]) if needy else None
    words, names = line_of(ran.stdout)
    spelled = [{"(": "-Wl,--start-group", ")": "-Wl,--end-group"}.get(word, word) for word in words]
    commands = [[options.tool, "--as-given", "g++", "main.o", *words], derive,
                ["g++", "-fuse-ld=lld", "main.o", *spelled, "-o", "out"], ["g++", "-fuse-ld=bfd", "main.o", *spelled, "-o", "out"]]
    (rehearsed, derived, lld, bfd), (said, _, linked, linked_bfd) = timed(commands, folder, options.rounds)
    print(f"{len(some)} referred to, {len(spelled)} words on the line, {names} names; rehearsed well: {said.returncode == 0}; "
          f"links with lld: {linked.returncode == 0}, with bfd: {linked_bfd.returncode == 0}")
    for what, time in (("rehearsed", rehearsed), ("derived and rehearsed", derived)):
        print(f"  {what} {time:.0f} ms; lld {lld:.0f} ms ({lld / time:.1f} times); bfd {bfd:.0f} ms ({bfd / time:.1f} times); {1e6 * time / names:.0f} ns a name")


if __name__ == "__main__":
    main()
