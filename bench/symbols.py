#!/usr/bin/python3
"""How fast symbols and facts are read, as ratios to other ways of reading the same files in the same run.

usage: symbols.py BUILD [ROUNDS]     BUILD: a release build; it must have bin/walk-symbols

Reads the static libraries of llvm-14-dev and every shared library below /usr/lib, with a warm cache: a bare walk over the
symbol tables (the floor), fibula, the same walk with LLVM's Object library, and nm. Every way runs once a round, in turn;
the figures are medians. LLVM's walk is left out where llvm-14-dev is not installed.
"""
import glob
import os
import statistics
import subprocess
import sys
import tempfile
import time

HERE = os.path.dirname(os.path.abspath(__file__))


def timed(*command):
    start = time.perf_counter()
    done = subprocess.run(command, capture_output=True)
    return time.perf_counter() - start, done.stdout.decode(errors="replace")


def build_llvm_walk(folder):
    target = os.path.join(folder, "walk-llvm")
    command = ["g++", "-O2", "-std=c++17", "-fno-rtti", os.path.join(HERE, "walk_llvm.cpp"), "-I/usr/lib/llvm-14/include",
               "-L/usr/lib/llvm-14/lib", "-lLLVM-14", "-o", target]
    return target if subprocess.run(command, capture_output=True).returncode == 0 else None


def below_usr_lib(wanted):
    paths = (os.path.join(folder, name) for folder, _, files in os.walk("/usr/lib") for name in files if wanted(name))
    return sorted(path for path in paths if os.path.isfile(path) and not os.path.islink(path))


def is_wide_elf(path):
    """The floor reads 64-bit little-endian files only."""
    with open(path, "rb") as stream:
        return stream.read(6) == b"\x7fELF\x02\x01"


def shared_libraries():
    return [path for path in below_usr_lib(lambda name: ".so" in name) if is_wide_elf(path)]


def archive_of(size, archives, folder):
    """One archive of about this size, made of the members of several."""
    target, parts = os.path.join(folder, "large.a"), []
    for archive in sorted(archives, key=os.path.getsize, reverse=True):
        parts.append(archive)
        if sum(map(os.path.getsize, parts)) >= size:
            break
    subprocess.run(["llvm-ar-14", "qcsL", target, *parts], check=True, capture_output=True)
    return target


def measure(ways, rounds):
    """Seconds of each way, medians; and what the walks printed last."""
    times, last = {name: [] for name in ways}, {}
    for _ in range(rounds + 1):
        for name, command in ways.items():
            seconds, output = timed(*command)
            # The walks time themselves, so that starting a program is no part of it.
            times[name].append(float(output.split()[0]) if "walk-" in command[0] else seconds)
            last[name] = output.split() if "walk-" in command[0] else []
    return {name: statistics.median(values[1:]) for name, values in times.items()}, last


def table(title, seconds, last, base, bars):
    print(f"\n{title}\n\n| way | median | against fibula | symbols | peak memory |\n|---|---|---|---|---|")
    for name, value in seconds.items():
        symbols, memory = (last[name][1], f"{int(last[name][3]) // 1024} MB") if len(last[name]) > 4 else ("", "")
        print(f"| {name} | {value * 1000:.1f} ms | {value / seconds[base]:.2f} | {symbols} | {memory} |")
    for text, met in bars:
        print(f"- {text}: {'met' if met else 'NOT met'}")


def main():
    walk = os.path.join(sys.argv[1], "bin", "walk-symbols")
    rounds = int(sys.argv[2]) if len(sys.argv) > 2 else 9
    archives = sorted(glob.glob("/usr/lib/llvm-14/lib/*.a"))
    with tempfile.TemporaryDirectory() as folder:
        llvm = build_llvm_walk(folder)
        with_llvm = {"LLVM Object walk": [llvm]} if llvm else {}
        ways = {"floor": [walk, "floor"], "fibula": [walk, "fibula"], **with_llvm, "nm -A -g": ["nm", "-A", "-g"]}
        s, last = measure({n: [*c, *archives] for n, c in ways.items()}, rounds)
        size = sum(os.path.getsize(a) for a in archives) / 1e6
        bars = [("at least 20 times nm", s["nm -A -g"] / s["fibula"] >= 20), ("at most 2 floors", s["fibula"] / s["floor"] <= 2)]
        if llvm:
            bars.append(("at least 2.5 times LLVM's walk", s["LLVM Object walk"] / s["fibula"] >= 2.5))
        table(f"All global symbols of {len(archives)} archives, {size:.0f} MB", s, last, "fibula", bars)

        ways = {"archive tables": [walk, "index"], "nm -A -g": ["nm", "-A", "-g"]}
        s, last = measure({n: [*c, *archives] for n, c in ways.items()}, rounds)
        table("Symbols from the archives' own tables", s, last, "archive tables", [("at least 60 times nm", s["nm -A -g"] / s["archive tables"] >= 60)])

        large = archive_of(50e6, archives, folder)
        ways = {"fibula": [walk, "fibula", large], "facts": [walk, "facts", large]}
        s, last = measure(ways, rounds)
        table(f"The facts of one archive of {os.path.getsize(large) / 1e6:.0f} MB", s, last, "fibula",
              [("at most 3 symbol walks", s["facts"] / s["fibula"] <= 3)])

        libraries = shared_libraries()
        size = sum(os.path.getsize(a) for a in libraries) / 1e6
        ways = {"floor": [walk, "floor"], "fibula": [walk, "fibula"], **with_llvm, "nm -D -A -g": ["nm", "-D", "-A", "-g"]}
        s, last = measure({n: [*c, *libraries] for n, c in ways.items()}, max(3, rounds // 3))
        table(f"Dynamic symbols of {len(libraries)} shared libraries, {size:.0f} MB", s, last, "fibula", [("at least 15 times nm", s["nm -D -A -g"] / s["fibula"] >= 15)])


if __name__ == "__main__":
    main()
